"""A computed figure: value, unit, uncertainty, and where it comes from."""

import dataclasses
import math


@dataclasses.dataclass(frozen=True)
class Origin:
    """Where a figure comes from: its formula, as text, and the source of that."""

    formula: str
    source: str


@dataclasses.dataclass(frozen=True)
class Contribution:
    """What one uncertain input adds: standard uncertainty of the figure due to it, in the figure's unit.

    ``key`` the input's own, by which it is known; ``label`` is for people.
    """

    label: str
    value: float
    unit: str
    u_input: float
    u_figure: float
    estimated: bool
    key: str = ""


@dataclasses.dataclass(frozen=True)
class Figure:
    """``value`` in SI ``unit`` with standard uncertainty ``u``; shown spreads are 2 u (about 95 %).

    ``estimated`` names inputs that nobody stated and that matter here (at least a tenth of ``u``).
    """

    name: str
    label: str
    value: float
    unit: str
    u: float
    origin: Origin
    contributions: tuple[Contribution, ...] = ()

    @property
    def spread(self) -> float:
        """Half width of the 95 % band."""
        return 2.0 * self.u

    @property
    def low(self) -> float:
        """Lower end of the 95 % band."""
        return self.value - self.spread

    @property
    def high(self) -> float:
        """Upper end of the 95 % band."""
        return self.value + self.spread

    @property
    def known(self) -> bool:
        """Whether the value is a number."""
        return not math.isnan(self.value)

    @property
    def estimated(self) -> tuple[str, ...]:
        """Labels of the estimated inputs that matter to this figure."""
        return tuple(c.label for c in self.contributions if c.estimated and abs(c.u_figure) > 0.1 * self.u > 0.0)
