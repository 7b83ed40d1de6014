"""Very many builds at once by closed forms: clip power, sink, highest rail. To sort out what is hopeless, no more.

A rectifier with a large capacitor conducts from -phi to phi around the crest, with tan-like law
sin(phi) - phi cos(phi) = pi R I / (2 V) (O. H. Schade, 1943, for a capacitor without ripple); ripple is I / (2 f C).
Within about a sixth of the full engine over the family of builds (held by a test), so it sorts out with that slack.
"""

import dataclasses
import math
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from plinth.builds.build import Build
from plinth.builds.modules import ClassAModule, ClassDModule
from plinth.builds.situation import Situation
from plinth.physics.stages.levels import level_fraction_for_crest
from plinth.predict.inputs import inputs_of
from plinth.predict.supply_kinds import supply_numbers

Array = NDArray[np.float64]
ROUNDS = 12
SLACK = 0.20
# By how much of its rise the sink may come out too cool: in class D what it draws at rest counts for much.
SINK_SLACK, SINK_SLACK_D = 0.2, 0.4


@dataclasses.dataclass(frozen=True)
class Quick:
    """One row a build. ``power_w`` per channel into the current load, NaN-free; ``sink_c``; highest rail unloaded."""

    power_w: Array
    sink_c: Array
    rail_high_v: Array
    rail_max_v: Array
    sink_limit_c: Array
    sink_slack: Array
    v_rated: Array
    r_load_ohm: Array


def numbers_of(build: Build, situation: Situation) -> dict[str, float]:
    """The numbers of a build that the closed forms need."""
    values = {key: quantity.value for key, quantity in inputs_of(build, situation).items()}
    module, supply = build.module, build.supply
    numbers = {
        "own_drop": values.get("own_drop", 0.0), "r_load": values.get("r_load", situation.impedance(build)[0]),
        "v_sat": values.get("v_sat", 0.0), "r_out": values["r_out"], "i_limit": values["i_limit"],
        "modulation": values.get("modulation", 1.0), "i_idle": values["i_quiescent"],
        "efficiency": values.get("efficiency_stage", 1.0), "rail_max": module.v_rail_max,
        "v_rated": supply.reservoir.v_rated,
        "class_a": float(isinstance(module, ClassAModule)), "class_d": float(isinstance(module, ClassDModule)),
        "r_sink": values["r_sink"], "sink_limit": build.sink.t_limit_c,
        "c": min(values["c"], values.get("c_minus", values["c"])),
        "one_ended": float(isinstance(module, ClassAModule) and module.topology == "single_ended"),
    }  # fmt: skip
    return numbers | supply_numbers(supply).quick(build, situation, values)


def quick(build: Build, situation: Situation, numbers: Mapping[str, Array]) -> Quick:
    """Closed forms over arrays of ``numbers``, for builds wired like ``build``."""
    n = {key: np.asarray(column, dtype=np.float64) for key, column in numbers.items()}
    channels = 1 if build.one_supply_per_channel else situation.driven(build)
    pair = 2.0 if build.wiring == "bridged" else 1.0
    single = build.supply.single_rail
    empty = np.maximum(n["v_peak"] - n["drop"] - n["own_drop"], 0.1)
    rail, v = empty.copy(), np.zeros_like(empty)
    f_mains = situation.frequency_of_mains(build)
    for _ in range(ROUNDS):
        # What an output can swing, and the current each rail then gives: a half sine's mean, or by duty in class D.
        across = rail * n["modulation"] - n["v_sat"] * (pair if single else 1.0)
        swing = np.maximum(across, 0.0) * (pair if not single else 1.0)
        v = swing * n["r_load"] / (n["r_load"] + pair * n["r_out"])
        v = np.minimum(v, n["i_limit"] * n["r_load"])
        # A current source takes no more than it is set to.
        v = np.where(n["one_ended"] > 0.0, np.minimum(v, n["i_idle"] * n["r_load"]), v)
        by_halves = v / (math.pi * n["r_load"]) * (2.0 if single or pair == 2.0 else 1.0)
        by_power = v**2 / (2.0 * n["r_load"]) / n["efficiency"] / np.maximum(rail * (1.0 if single else 2.0), 0.1)
        i = channels * (np.where(n["class_d"] > 0.0, by_power, by_halves) + pair * n["i_idle"])
        i = np.where(n["class_a"] > 0.0, channels * np.maximum(by_halves, pair * n["i_idle"]), i)
        # Half angle of conduction from sin - phi cos = phi^3 / 3 for small angles.
        angle = np.minimum(np.cbrt(1.5 * math.pi * n["r_source"] * i / np.maximum(n["v_peak"], 0.1)), 1.5)
        loaded = n["v_peak"] * np.cos(angle) - n["drop"] - n["own_drop"] - i / (4.0 * f_mains * n["c"])
        stiff = n["v_peak"] - n["droop"] * i
        rail = 0.5 * rail + 0.5 * np.maximum(np.where(n["rectified"] > 0.0, loaded, stiff), 0.05)
    power = v**2 / (2.0 * n["r_load"])
    heat = _heat(n, situation, power, rail, pair, single=single) * len(build.channels)
    return Quick(
        power, situation.ambient_c + heat * n["r_sink"], np.where(n["rectified"] > 0.0, n["v_peak"] * n["high"]
        - n["drop"] - n["own_drop"], n["v_peak"] * n["high"]), rail_max_v=n["rail_max"], sink_limit_c=n["sink_limit"],
        sink_slack=np.where(n["class_d"] > 0.0, SINK_SLACK_D, SINK_SLACK), v_rated=n["v_rated"], r_load_ohm=n["r_load"],
    )  # fmt: skip


def _heat(
    n: Mapping[str, Array], situation: Situation, power: Array, rail: Array, pair: float, *, single: bool
) -> Array:
    """Heat of one channel on programme, W."""
    level = level_fraction_for_crest(situation.crest_db)
    between = rail * (1.0 if single else 2.0)
    rest = between * pair * n["i_idle"]
    v = level * np.sqrt(2.0 * power * n["r_load"])
    given = v**2 / (2.0 * n["r_load"])
    linear = between * v / (math.pi * n["r_load"]) * (2.0 if single or pair == 2.0 else 1.0) - given + rest
    switched = given * (1.0 / n["efficiency"] - 1.0) + rest
    heat = np.where(n["class_d"] > 0.0, switched, linear)
    heat_w: Array = np.where(n["class_a"] > 0.0, np.maximum(rest - given, linear - rest), heat)
    return np.maximum(heat_w, 0.0)
