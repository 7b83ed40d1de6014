"""Output stages and what hangs on them: what they draw, how far they go, loads, levels."""
