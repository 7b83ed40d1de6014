"""Tests under way, without a window: what is current, what a typed reading means, what comes next."""
