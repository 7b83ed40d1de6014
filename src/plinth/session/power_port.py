"""What switches the power of a build under test: a builder by hand, or an instrument that may refuse."""

import dataclasses
from typing import Protocol


@dataclasses.dataclass(frozen=True)
class Feed:
    """What is to be switched on: a supply's limit and volts, or volts of mains; None of what is not asked for."""

    limit_a: float | None = None
    supply_v: float | None = None
    mains_v: float | None = None


class PowerPort(Protocol):
    """Each answer is why it was not done, in a sentence; empty where it was. Its outputs are asked as well."""

    def switch_on(self, feed: Feed) -> str:
        """Switch on what feeds the build."""

    def switch_off(self) -> str:
        """Switch off."""

    def is_on(self) -> bool | None:
        """Whether its outputs are on; None where it cannot be asked."""

    def make_safe(self) -> None:
        """Off, whatever happened: called on every way out. Never raises."""


class ByHand:
    """A builder switches, and says so: nothing is refused, nothing can be asked, and nothing can be done for him."""

    def switch_on(self, feed: Feed) -> str:  # noqa: ARG002  # the builder has set it, as the step asks
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
