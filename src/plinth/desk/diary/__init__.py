"""Diary: what happened, in order."""
