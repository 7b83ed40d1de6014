"""The power path: eight stations, always in view."""
