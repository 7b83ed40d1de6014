"""Readings that are only bounds: ``>100``, ``<5``, ``OL``, ``about 30``."""

import enum


class Bound(enum.StrEnum):
    """What a value is: the reading itself, its least, its most, or no more than about it."""

    NONE = ""
    ABOVE = "above"
    BELOW = "below"
    ABOUT = "about"

    @property
    def one_sided(self) -> bool:
        """Whether the value itself is not known: only that it lies above, or below."""
        return self in (Bound.ABOVE, Bound.BELOW)

    @property
    def sign(self) -> str:
        """What stands before a shown value."""
        return {"": "", "above": "> ", "below": "< ", "about": "about "}[self.value]

    @property
    def turned(self) -> "Bound":
        """Of what falls where this rises."""
        return {Bound.ABOVE: Bound.BELOW, Bound.BELOW: Bound.ABOVE}.get(self, self)
