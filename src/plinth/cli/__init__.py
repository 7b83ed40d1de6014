"""The command ``plinth``."""
