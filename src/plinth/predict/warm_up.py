"""Warming up at rest, from cold: the sink, the devices, the bias that drifts with them."""

import dataclasses

import numpy as np
from numpy.typing import NDArray

from plinth.physics.heat import thermal
from plinth.predict.circuits import supplies_in_all
from plinth.predict.estimates import DEVICE_J_PER_K
from plinth.predict.solution import Solution

Array = NDArray[np.float64]


@dataclasses.dataclass(frozen=True)
class HeatCourse:
    """Degrees over ``t_s``: the sink, and the inside of one output device; ``bias_a`` of a pair where it drifts."""

    t_s: Array
    sink_c: Array
    device_c: Array
    bias_a: Array | None


def warm_up(solution: Solution) -> HeatCourse | None:
    """From cold at rest; None where the sink's heat capacity is not stated. The bias drifts as it warms."""
    build, rest = solution.build, solution.points.idle
    capacity, r_sink = build.sink.heat_capacity_j_per_k, solution.values["r_sink"]
    if capacity is None:
        return None
    heat_w = supplies_in_all(build) * rest.p_rails_w
    bias = build.module.bias
    drift = 0.0 if bias is None or bias.tempco_per_k is None else bias.tempco_per_k
    module = build.module
    quiescent_w = heat_w * module.i_quiescent_a / (module.i_quiescent_a + module.driver_a)
    ambient = solution.situation.ambient_c
    # All output devices together, then the sink.
    modules = len(build.channels) * build.modules_per_channel
    r_device = (solution.values["r_junction"] + build.under_device_k_per_w) / modules
    network = thermal.chain((r_device, r_sink), (modules * DEVICE_J_PER_K, capacity))
    # The bias follows the sink, on which its sensor sits.
    feedback = np.array([[0.0, quiescent_w * drift], [0.0, 0.0]])
    # A bias that feeds itself takes longer; one that runs away is shown for a while.
    t = np.linspace(0.0, min(5.5 * network.slowest_s(feedback), 27.5 * r_sink * capacity), 600)
    course_c = network.course_c(np.array([heat_w, 0.0]), ambient, np.full(2, ambient), t, feedback)
    device, sink = course_c[:, 0], course_c[:, 1]
    amperes = None if bias is None or drift == 0.0 else bias.i_pair_a * (1.0 + drift * (sink - ambient))
    return HeatCourse(t, sink, device, amperes)
