"""What nobody states of the mains and of a transformer's leakage: a flat top, the house's wires, some microhenries.

Each makes charging pulses lower and longer, a flat top lowers rails as well. They are taken as ideal in the figures,
and counted in the spread of what they move: what flows from the wall, for how long, the rails, and what clips at them.
(A stated or typed one is in the figures themselves.)
"""

import math
from collections.abc import Callable, Iterator, Mapping

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.common_period import COARSE, Grid
from plinth.predict.circuits import supplies_in_all
from plinth.predict.figure import Figure
from plinth.predict.figure_values import figure_values
from plinth.predict.input import Input
from plinth.predict.solution import Solution

Solve = Callable[[Build, Situation, Mapping[str, float], Grid], Solution]
# The figures whose spread it is counted in: the wall's, the rails', and what clips at them. None that is held against
# a highest voltage: a flat top only lowers a rail.
MOVED = frozenset({
    "primary_rms_a", "primary_peak_a", "primary_crest_factor", "mains_power_w", "mains_apparent_va", "power_factor",
    *(f"rail_{side}_{what}" for side in ("plus", "minus") for what in ("conduction_deg", "mean_v", "min_v", "max_v")),
    "rail_no_load_v", "rail_idle_v", "clip_v_peak", "clip_v_rms", "clip_power_w", "drive_v_rms", "output_v_peak",
    "output_power_w",
})  # fmt: skip
FLAT_TOP, HOUSE_WIRES, LEAKY = "flat top of the mains", "wires of the house", "leakage of the transformer"
# What they are known by among the contributions to a figure's spread.
UNSTATED = frozenset({"flat_top", "house_wires", "leakage"})
# Practice: tops of public mains are flattened by up to so much, which a third harmonic of that share does.
FLATTENED = 0.05
# Of a house's wires from meter to socket and back, at 230 V and at 120 V; IEC 60725 allows more.
HOUSE_OHM_230, HOUSE_OHM_120 = 0.5, 0.25
# Leakage reactance of a secondary half, as a share of its rated volts over its rated current.
LEAKAGE = {"toroid": 0.02, "ei": 0.04}


def mains_changes(rough: Solution, nominal: Mapping[str, float], solved: Solve) -> dict[str, list[tuple[Input, float]]]:
    """For each figure that they move, the standard uncertainty by each.

    Each lies between nothing and its whole, and where one is large the others mostly are. So the 95 % band, twice the
    root of the sum of squares, reaches what those that move a figure the same way move it together.
    """
    changes: dict[str, list[tuple[Input, float]]] = {}
    if rough.build.supply.transformer is None or rough.situation.lamp_w is not None:
        return changes
    before = figure_values(rough, surge=False)
    for given, after in _with_each(rough, nominal, solved):
        for name in MOVED:
            if name in before and name in after and math.isfinite(after[name] - before[name]):
                changes.setdefault(name, []).append((given, after[name] - before[name]))
    return {name: _reaching(rows) for name, rows in changes.items()}


def _reaching(rows: list[tuple[Input, float]]) -> list[tuple[Input, float]]:
    """Whole changes as standard uncertainties, of which twice the root of the sum of squares is the furthest sum."""
    whole = [change for _, change in rows]
    furthest = max(sum(reach for reach in whole if reach > 0.0), -sum(reach for reach in whole if reach < 0.0))
    squares = math.hypot(*whole)
    scale = 0.5 * furthest / squares if squares else 0.0
    return [(given, scale * change) for given, change in rows]


def _with_each(
    rough: Solution, nominal: Mapping[str, float], solved: Solve
) -> Iterator[tuple[Input, dict[str, float]]]:
    for given, build, situation, values in _each(rough.build, rough.situation, nominal):
        try:
            changed = solved(build, situation, values, COARSE)
        except PhysicsError:
            # At the edge of what can run nothing more is told by it.
            continue
        yield given, figure_values(changed, surge=False)


def _each(
    build: Build, situation: Situation, nominal: Mapping[str, float]
) -> Iterator[tuple[Input, Build, Situation, dict[str, float]]]:
    """Each unstated thing with the build, situation and values that have the whole of it."""
    supply = build.supply
    assert supply.transformer is not None, "asked for before"
    part = supply.transformer
    if situation.third_harmonic == 0.0:
        flat = situation.model_copy(update={"third_harmonic": FLATTENED})
        words = f"not stated; tops are flattened by 0 to {100.0 * FLATTENED:g} %"
        yield (
            Input(FLAT_TOP, 0.0, "", u=0.5 * FLATTENED, estimated=True, why=words, key="flat_top"),
            build,
            flat,
            dict(nominal),
        )
    mains = situation.mains_rms(build)
    house = HOUSE_OHM_230 if mains > 160.0 else HOUSE_OHM_120
    # In series with all primaries: as more regulation of each.
    more = house * supplies_in_all(build) * part.va / part.v_primary_rms**2
    wired = {**nominal, "regulation": nominal["regulation"] + more}
    words = f"not stated; 0 to {house:g} Ω from the meter to the socket"
    yield (
        Input(HOUSE_WIRES, 0.0, "ohm", u=0.5 * house, estimated=True, why=words, key="house_wires"),
        build,
        situation,
        wired,
    )
    if part.leakage_h is None:
        halves = 1.0 if part.secondaries == "one" else 2.0
        reactance = LEAKAGE[part.core] * part.v_secondary_rms**2 / (part.va / halves)
        henries = reactance / (2.0 * math.pi * situation.frequency_of_mains(build))
        leaky = build.model_copy(
            update={"supply": supply.model_copy(
                update={"transformer": part.model_copy(update={"leakage_h": henries})}
            )}
        )  # fmt: skip
        words = f"not stated; 0 to {1e6 * henries:.0f} µH for {part.va:g} VA"
        yield (
            Input(LEAKY, 0.0, "H", u=0.5 * henries, estimated=True, why=words, key="leakage"),
            leaky,
            situation,
            dict(nominal),
        )


def with_mains(
    changes: Mapping[str, list[tuple[Input, float]]], of_mains: Mapping[str, list[tuple[Input, float]]]
) -> dict[str, list[tuple[Input, float]]]:
    """Both together."""
    return {name: [*rows, *of_mains.get(name, [])] for name, rows in changes.items()}


def u_without_mains(figure: Figure) -> float:
    """A figure's standard uncertainty by its inputs alone, in its own unit: without what nobody states of the mains."""
    return math.hypot(*(row.u_figure for row in figure.contributions if row.key not in UNSTATED))
