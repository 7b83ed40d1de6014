"""Tests at the bench: what to set up, how a typed reading is understood, what follows from it."""
