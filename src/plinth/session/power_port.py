"""What switches the power of a build under test: a builder by hand, or an instrument that may refuse."""

from typing import Protocol


class PowerPort(Protocol):
    """Each answer is why it was not done, in a sentence; empty where it was. Its outputs are asked as well."""

    def switch_on(self, limit_a: float | None) -> str:
        """Switch on, limited to so many amperes (None: nothing that limits it)."""

    def switch_off(self) -> str:
        """Switch off."""

    def is_on(self) -> bool | None:
        """Whether its outputs are on; None where it cannot be asked."""

    def make_safe(self) -> None:
        """Off, whatever happened: called on every way out. Never raises."""


class ByHand:
    """A builder switches, and says so: nothing is refused, nothing can be asked, and nothing can be done for him."""

    def switch_on(self, limit_a: float | None) -> str:  # noqa: ARG002  # the builder has set it, as the step asks
        """Said to be done."""
        return ""

    def switch_off(self) -> str:
        """Said to be done."""
        return ""

    def is_on(self) -> bool | None:
        """Nobody can tell."""
        return None

    def make_safe(self) -> None:
        """What a builder has switched on stays on until it is switched off by hand: the next start says so."""
