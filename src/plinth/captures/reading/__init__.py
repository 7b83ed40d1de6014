"""Recorded files, read by what is in them."""
