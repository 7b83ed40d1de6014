"""Readings that are only bounds: ``>100``, ``<5``, ``OL``, ``about 30``."""

import enum


class Bound(enum.StrEnum):
    """What a value is: the reading itself, its least, its most, or no more than about it."""

    NONE = ""
    ABOVE = "above"
    BELOW = "below"
    ABOUT = "about"
