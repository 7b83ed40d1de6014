"""Instruments in the window: the bar that reads, who is connected, what they read now, the bench view."""
