"""Sources that a builder chooses for the clipping table: mains, battery or bench volts, each a column of its own."""

import re
from collections.abc import Sequence

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies import DirectSupply
from plinth.judge.margin import LIMIT_SLACK
from plinth.units.errors import QuantityError
from plinth.units.shown import shown
from plinth.units.typed import read_quantity

# More columns than this nobody reads at a bench; each takes a prediction for every load.
MOST_SOURCES = 8
# Between which shares of its nominal volts a variable transformer is set for a clipping test.
MAINS_RANGE = (0.5, 1.15)
# How far beyond empty and full a battery is still met.
BATTERY_SLACK = 0.05

_PARTING = re.compile(r"\s*;\s*|\s*,\s+|\s+(?=[\d.])")


def at_source(build: Build, situation: Situation, volts: float) -> tuple[Build, Situation]:
    """The build and situation with its source at ``volts``: mains RMS, a battery at rest, each bench rail."""
    if build.mains is not None:
        return build, situation.model_copy(update={"mains_v_rms": volts})
    supply = build.supply
    if isinstance(supply, DirectSupply):
        source = supply.source.model_copy(update={"v_rail": volts})
        return build.model_copy(update={"supply": supply.model_copy(update={"source": source})}), situation
    return build, situation.model_copy(update={"battery_v": volts})


def volts_range(build: Build) -> tuple[float, float]:
    """The lowest and the highest source that a clipping test is tried at, V."""
    if build.mains is not None:
        low, high = MAINS_RANGE
        return low * build.mains.v_nominal_rms, high * build.mains.v_nominal_rms
    battery = build.supply.battery
    if battery is not None:
        return battery.v_empty * (1.0 - BATTERY_SLACK), battery.v_full * (1.0 + BATTERY_SLACK)
    return build.module.v_rail_min, build.module.v_rail_max


def in_range(build: Build, volts: Sequence[float]) -> tuple[float, ...]:
    """Those of the volts at which a test is tried with this build, as it is now."""
    low, high = volts_range(build)
    return tuple(v for v in volts if low * (1.0 - LIMIT_SLACK) <= v <= high * (1.0 + LIMIT_SLACK))


def read_sources(text: str, build: Build) -> tuple[float, ...]:
    """Volts from a typed list (``11, 18, 27, 33 V``; ``11,5 18``), lowest first, each once; none of an empty text.

    Raises QuantityError for what is no list of volts, and for volts outside ``volts_range``.
    """
    parts = [part.strip() for part in _PARTING.split(text.strip()) if part.strip()]
    volts: list[float] = []
    for part in parts:
        if "," in part and len(parts) == 1:
            raise QuantityError(
                f"found {part!r}, expected volts with a blank between them: 11 18 27 33, or 11,5 18 with decimal commas"
            )
        # As exactly as the sources are told apart on the page.
        volts.append(round(read_quantity(part, "V"), 1))
    low, high = volts_range(build)
    of = "mains" if build.mains is not None else "a battery" if build.supply.battery is not None else "each rail"
    for v in volts:
        if not in_range(build, (v,)):
            raise QuantityError(
                f"found {shown(v, 'V')}, expected {shown(low, 'V')} to {shown(high, 'V')} of {of} for this build"
            )
    if len(set(volts)) > MOST_SOURCES:
        raise QuantityError(f"found {len(set(volts))} sources, expected at most {MOST_SOURCES}: leave some out")
    return tuple(sorted(set(volts)))


def sources_text(volts: Sequence[float]) -> str:
    """A list of volts as it is typed."""
    return f"{'; '.join(f'{v:g}' for v in volts)} V" if volts else ""
