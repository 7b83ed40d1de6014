"""Temperatures at rest and over time."""
