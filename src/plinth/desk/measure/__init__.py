"""Measure: clipping power and frequency response."""
