"""What cannot be read as a quantity."""


class QuantityError(ValueError):
    """A typed text is no quantity of the kind asked for; the message says found, expected and how to mend."""
