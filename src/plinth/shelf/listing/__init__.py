"""Listings read: pasted text of a shop page or manual becomes properties, each with the words it came from."""
