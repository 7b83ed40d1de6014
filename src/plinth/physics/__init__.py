"""Formulas on plain numbers and arrays, in SI units, with their sources. Nothing here knows a part."""
