"""Which release this is."""

VERSION = "0.1.0"
