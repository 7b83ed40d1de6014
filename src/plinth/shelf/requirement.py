"""What somebody wants who has no build yet: watts into ohms, or a module by name, on a supply had or wanted."""

import dataclasses
import re
from collections.abc import Sequence
from typing import Literal, NamedTuple

from plinth.builds.build import AnyModule
from plinth.builds.supply_parts import BatteryConverter, BenchPair, MainsSwitcher, Transformer
from plinth.units.errors import QuantityError
from plinth.units.typed import read_quantity

SupplyKind = Literal["transformer", "switcher", "battery", "bench"]
SUPPLY_KINDS: tuple[SupplyKind, ...] = ("transformer", "switcher", "battery", "bench")
SourcePart = Transformer | MainsSwitcher | BatteryConverter | BenchPair
SOURCES: dict[type[SourcePart], SupplyKind] = {
    Transformer: "transformer", MainsSwitcher: "switcher", BatteryConverter: "battery", BenchPair: "bench",
}  # fmt: skip
MAINS: tuple[tuple[float, float], ...] = ((230.0, 50.0), (120.0, 60.0), (240.0, 50.0), (100.0, 50.0))
LEAST_W, MOST_W, LEAST_OHM, MOST_OHM = 1.0, 500.0, 2.0, 32.0
# Into what a module named without a load is taken to play.
USUAL_OHM = 8.0
_WISH = re.compile(
    r"^(?P<w>[\d.,]+ ?[mk]?W?) *(?:into|in|at|/|@|,)? *(?P<ohm>[\d.,]+ ?(?:R|Ω|ohms?)?) *(?:class *)?(?P<cls>AB|D)?$",
    re.IGNORECASE,
)
_INTO = re.compile(r"^ *(?:into|in|at|/|@|,)? *(?P<ohm>[\d.,]+ ?(?:R|Ω|ohms?)?)$", re.IGNORECASE)


@dataclasses.dataclass(frozen=True)
class Requirement:
    """``power_w`` at clip into ``r_ohm``, all ``channels`` playing, by a stage of class ``stage``.

    With a ``module`` or a ``source`` that one has, what these give stands in place of the watts.
    """

    power_w: float
    r_ohm: float
    channels: tuple[str, ...] = ("left", "right")
    supply: SupplyKind = "transformer"
    stage: Literal["AB", "D"] = "AB"
    mains_v: float = 230.0
    module: AnyModule | None = None
    source: SourcePart | None = None

    @property
    def name(self) -> str:
        """What such a build is called at first."""
        own = self.module or self.source
        if own is not None:
            return f"{own.name}, {self.r_ohm:g} Ω"
        return f"{self.power_w:g} W into {self.r_ohm:g} Ω"


class Spoken(NamedTuple):
    """A requirement as typed. ``power_w`` is None where a module is named: the supply decides."""

    power_w: float | None
    r_ohm: float
    stage: Literal["AB", "D"] | None = None
    module: AnyModule | None = None


def read_requirement(text: str, modules: Sequence[AnyModule] = ()) -> Spoken:
    """Watts, ohms and the class, where one is named: ``60 W 4R``, ``60/4``, ``100W into 8 ohm class D``.

    Or the name of one of the ``modules``, and a load: ``Stagehand 60``, ``stagehand 60 into 4R``. Raises QuantityError
    with what was found and expected.
    """
    said = " ".join(text.split())[:80]
    for module in sorted(modules, key=lambda module: -len(module.name)):
        if said.casefold().startswith(module.name.casefold()):
            return _with_module(said, module)
    match = _WISH.match(said)
    if match is None:
        or_name = ", or the name of a module on the shelf" if modules else ""
        raise QuantityError(
            f"found {text.strip()[:40]!r}, expected watts into ohms: 60 W 4R, or 100W 8R class D{or_name}"
        )
    power, ohm = read_quantity(match["w"], "W"), _ohms(match["ohm"])
    if not LEAST_W <= power <= MOST_W:
        raise QuantityError(f"found {power:g} W, expected {LEAST_W:g} to {MOST_W:g} W into each load")
    named = (match["cls"] or "").upper()
    return Spoken(power, ohm, "D" if named == "D" else "AB" if named == "AB" else None)


def _with_module(said: str, module: AnyModule) -> Spoken:
    rest = said[len(module.name) :].strip()
    match = _INTO.match(rest)
    if rest and match is None:
        raise QuantityError(f"found {rest!r} after {module.name}, expected a load such as 4R, or nothing")
    return Spoken(None, _ohms(match["ohm"]) if match is not None else USUAL_OHM, None, module)


def _ohms(text: str) -> float:
    ohm = read_quantity(text, "ohm")
    if not LEAST_OHM <= ohm <= MOST_OHM:
        raise QuantityError(f"found {ohm:g} Ω, expected {LEAST_OHM:g} to {MOST_OHM:g} Ω")
    return ohm
