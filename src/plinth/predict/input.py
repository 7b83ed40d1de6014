"""One number that a prediction runs on, and how it is taken from what a part states.

Where a part leaves a value out, the estimate is made where the number is asked for, and marked.
"""

import dataclasses
import math

from plinth.builds.modules import ClassDModule
from plinth.builds.properties import How, PartModel, known_of, value_at
from plinth.builds.supply_parts import BatteryConverter, MainsSwitcher, Reservoir, Smoothing

SQRT3 = math.sqrt(3.0)


@dataclasses.dataclass(frozen=True)
class Input:
    """One number: value, unit, standard uncertainty, whether it is an estimate, and the words for it.

    ``key`` what it is known by among the inputs of a build.
    """

    label: str
    value: float
    unit: str
    u: float
    estimated: bool = False
    why: str = ""
    key: str = ""


def from_tolerance(value: float, tolerance: float) -> float:
    """Standard uncertainty of a value within +-``tolerance`` (relative), rectangular: a / sqrt 3 (GUM 4.3.7)."""
    return abs(value) * tolerance / SQRT3


def known_input(part: PartModel, path: str, label: str, unit: str, tolerance: float) -> Input:
    """A property as the part has it: by its own tolerance or what was told of it; an estimate stays one."""
    value = value_at(part, path)
    known = known_of(part, path)
    if not known:
        return stated_input(label, value, unit, tolerance)
    best = known[0]
    how = How(best.how)
    source = f"{how}: {best.source}" if best.source else str(how)
    u = from_tolerance(value, tolerance if best.tol is None else best.tol)
    return Input(label, value, unit, u, not how.trusted, source)


def stated_input(label: str, value: float, unit: str, tolerance: float) -> Input:
    """A value that somebody stated, within a tolerance (a relative bound)."""
    return Input(label, value, unit, from_tolerance(value, tolerance))


def efficiency_input(part: MainsSwitcher | BatteryConverter | ClassDModule, label: str) -> Input:
    """A stated efficiency; without a tolerance of its own off by some sixth of what is lost."""
    known = known_input(part, "efficiency", label, "", 0.0)
    usual = 0.15 * (1.0 - known.value) / SQRT3 + 0.002
    return dataclasses.replace(known, u=known.u if known.u > 0.0 else usual)


def esr_input(part: Reservoir | Smoothing, label: str) -> Input:
    """What stands in series with a capacitor: as stated, else by its loss factor."""
    if part.esr_ohm is not None:
        return known_input(part, "esr_ohm", label, "ohm", 0.30)
    # Loss factor about 0.15 at 100 Hz for aluminium electrolytics of this voltage class: ESR = tan d / (2 pi f C).
    value = 0.15 / (2.0 * math.pi * 100.0 * part.c_f)
    return Input(label, value, "ohm", 0.25 * value, True, "not stated; from a loss factor of 0.15 at 100 Hz")


def output_capacitors(reservoir: Reservoir) -> dict[str, Input]:
    """The capacitors that hang on the rails."""
    return {
        "c": known_input(reservoir, "c_f", "output capacitors per rail", "F", reservoir.c_tol),
        "esr": esr_input(reservoir, "output capacitors' ESR"),
    }
