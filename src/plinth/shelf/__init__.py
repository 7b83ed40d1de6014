"""The shelf: what is on it, found by words and numbers, and what this build becomes with each part of it."""
