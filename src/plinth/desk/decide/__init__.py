"""Decide: sides under each other, what was changed, what was heard, what was decided."""
