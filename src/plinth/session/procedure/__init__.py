"""Tests under way, without a window: what is in hand, what a typed reading means, what comes next."""
