"""Power up: one step at a time."""
