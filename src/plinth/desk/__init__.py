"""The window. Only this package knows Qt; it shows and asks, and computes nothing itself."""
