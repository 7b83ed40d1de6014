"""What a prediction asks of a kind of supply."""

import dataclasses
from collections.abc import Callable, Mapping
from typing import Any

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.rails.limited_source import CurrentLimit
from plinth.predict.input import Input

Values = Mapping[str, float]


def _never_higher(_build: Build, _situation: Situation) -> float:
    return 1.0


def _unlimited(_supply: Any) -> CurrentLimit | None:
    return None


def _stiff(_build: Build, _situation: Situation, values: Values) -> dict[str, float]:
    v, r = values["v_set"], values["r_source"]
    return {"v_peak": v, "drop": 0.0, "droop": r, "r_source": 0.0, "high": 1.01, "rectified": 0.0}


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
    """A supply in numbers, each asked of the supply itself.

    ``inputs`` its uncertain numbers, by key; ``source`` the fields of a circuit that they fill: ``steady_v`` behind
    ``steady_r`` (V, ohm), or those of a transformer; ``high_ratio`` its source at its highest over what is in force;
    ``limit`` of its current (None: it has none); ``quick`` what closed forms ask: the rail's crest without load
    ``v_peak``, what diodes keep (``drop``), ``droop`` and ``r_source`` (ohm), ``high`` at its highest, and whether
    it is ``rectified``.
    """

    inputs: Callable[[Any], dict[str, Input]]
    source: Callable[[Build, Situation, Values], dict[str, float]]
    high_ratio: Callable[[Build, Situation], float] = _never_higher
    limit: Callable[[Any], CurrentLimit | None] = _unlimited
    quick: Callable[[Build, Situation, Values], dict[str, float]] = _stiff
