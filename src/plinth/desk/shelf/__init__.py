"""The shelf: a table of what this build becomes with each part."""
