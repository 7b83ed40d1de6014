"""Figures and readings against limits and windows: margins, verdicts, sentences."""
