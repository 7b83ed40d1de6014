"""What stands before a rectifier: the mains, a lamp, the transformer."""
