"""Inspection before first power: what is looked at of this very build, and what holds power back."""
