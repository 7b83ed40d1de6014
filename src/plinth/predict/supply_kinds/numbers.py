"""What a prediction asks of a kind of supply."""

import dataclasses
from collections.abc import Callable, Mapping
from typing import Any

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.rails.limited_source import CurrentLimit
from plinth.predict.input import Input

Values = Mapping[str, float]


def never_higher(_build: Build, _situation: Situation) -> float:
    """Of a source that stands where it is set."""
    return 1.0


def unlimited(_supply: Any) -> CurrentLimit | None:
    """Of a source that limits no current."""
    return None


def quick_of_stiff(values: Values, highest: float) -> dict[str, float]:
    """What closed forms ask of volts behind a resistance; ``highest`` as a multiple of what they are."""
    v, r = values["v_set"], values["r_source"]
    return {"v_peak": v, "drop": 0.0, "droop": r, "r_source": 0.0, "high": highest, "rectified": 0.0}


def quick_of_rated(build: Build, values: Values, high_ratio: float) -> dict[str, float]:
    """What closed forms ask of a supply that droops towards its continuous power; ``high_ratio`` of its source."""
    part, rails = build.supply.source_part, 1.0 if build.supply.single_rail else 2.0
    full_a = part.p_continuous_w / (rails * values["v_set"])
    return {
        "v_peak": values["v_set"], "drop": 0.0, "droop": values["droop"] * values["v_set"] / full_a, "r_source": 0.0,
        "high": high_ratio * (1.0 + part.v_rail_tol), "rectified": 0.0,
    }  # fmt: skip


@dataclasses.dataclass(frozen=True)
class SupplyNumbers:
    """A supply in numbers, each asked of the supply itself: none has a default, which would pass for an answer.

    ``inputs`` its uncertain numbers, by key; ``source`` the fields of a circuit that they fill: ``steady_v`` behind
    ``steady_r`` (V, ohm), or those of a transformer; ``high_ratio`` its source at its highest over what is in force;
    ``limit`` of its current (None: it has none); ``quick`` what closed forms ask: the rail's crest without load
    ``v_peak``, what diodes keep (``drop``), ``droop`` and ``r_source`` (ohm), ``high`` at its highest, and whether
    it is ``rectified``.
    """

    inputs: Callable[[Any], dict[str, Input]]
    source: Callable[[Build, Situation, Values], dict[str, float]]
    high_ratio: Callable[[Build, Situation], float]
    limit: Callable[[Any], CurrentLimit | None]
    quick: Callable[[Build, Situation, Values], dict[str, float]]
