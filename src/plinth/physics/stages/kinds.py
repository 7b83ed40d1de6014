"""The kinds of output stage: what each draws from the rails, how far its output may go, which wires move.

A new kind is a function for its currents in ``draws``, one for its needs here, and one ``Stage`` that holds both.
"""

import dataclasses
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from plinth.physics.rails.network_steady import LoadLaw, OutputNeeds
from plinth.physics.stages import draws

Array = NDArray[np.float64]


@dataclasses.dataclass(frozen=True)
class StageNumbers:
    """What a stage's laws are made of; SI.

    ``channels`` powered, each with ``i_idle_a`` from each rail; ``i_bias_a`` of a class A pair; ``r_out`` and
    ``loss_share`` (further losses of a class D stage by output power); ``antiphase``: channels in pairs turned;
    ``v_sat`` and ``own_drop`` what module and its own bridge keep of the rail; ``modulation`` largest output as a share
    of it.
    """

    rails: int
    channels: int
    i_idle_a: float
    i_bias_a: float
    r_out: float
    r_load: float
    v_sat: float
    own_drop: float
    modulation: float
    loss_share: float
    antiphase: bool

    def channels_of(self, driven: int) -> draws.Channels:
        """Channels with so many of them driven."""
        return draws.Channels(self.channels, driven, self.i_idle_a)

    @property
    def switching(self) -> draws.Switching:
        """A class D stage's path and losses."""
        return draws.Switching(self.r_out, self.loss_share)


# Currents for an output wave and so many driven channels; needs for volts and amperes of one period per volt.
DrawLaw = Callable[[StageNumbers, draws.OutputWave, int], LoadLaw]
StageNeeds = Callable[[StageNumbers, Array, Array], OutputNeeds]


@dataclasses.dataclass(frozen=True)
class StageKind:
    """A kind of stage. ``legs`` output wires that move; ``pumps``: it returns energy to the other rail."""

    name: str
    law: DrawLaw
    needs: StageNeeds
    legs: int = 1
    pumps: bool = False

    def __reduce__(self) -> tuple[Callable[[str], "StageKind"], tuple[str]]:
        """A stage is known by its name, in whichever process."""
        return stage_named, (self.name,)

    @property
    def bridge(self) -> bool:
        """Whether both output wires move."""
        return self.legs == 2


def _towards_either(stage: StageNumbers, volts: Array, amperes: Array) -> OutputNeeds:
    inside = volts + stage.r_out * amperes
    needed = np.stack([np.maximum(inside, 0.0), np.maximum(-inside, 0.0)], axis=1)
    return OutputNeeds(np.eye(2), np.full(2, stage.v_sat + stage.own_drop), needed)


def _sinking_no_more(stage: StageNumbers, volts: Array, amperes: Array) -> OutputNeeds:
    # The current source can sink no more than it carries.
    return dataclasses.replace(_towards_either(stage, volts, amperes), most_v=stage.i_idle_a * stage.r_load)


def _half_each(stage: StageNumbers, volts: Array, amperes: Array) -> OutputNeeds:
    needed = np.abs(0.5 * volts + stage.r_out * amperes)[:, None]
    if stage.rails == 1:
        return OutputNeeds(np.full((1, 1), 0.5), np.array([stage.v_sat + 0.5 * stage.own_drop]), needed)
    return OutputNeeds(np.eye(2), np.full(2, stage.v_sat + stage.own_drop), np.repeat(needed, 2, axis=1))


def _within_duty(stage: StageNumbers, volts: Array, amperes: Array) -> OutputNeeds:
    inside = volts + stage.r_out * amperes
    needed = np.stack([np.maximum(inside, 0.0), np.maximum(-inside, 0.0)], axis=1)
    return OutputNeeds(_duty_weights(stage), np.full(2, stage.modulation * stage.own_drop), needed)


def _half_each_within_duty(stage: StageNumbers, volts: Array, amperes: Array) -> OutputNeeds:
    needed = np.abs(0.5 * volts + stage.r_out * amperes)[:, None]
    return OutputNeeds(
        _duty_weights(stage), np.full(2, stage.modulation * stage.own_drop), np.repeat(needed, 2, axis=1)
    )  # fmt: skip


def _across_one_rail(stage: StageNumbers, volts: Array, amperes: Array) -> OutputNeeds:
    m = stage.modulation
    needed = np.abs(volts + stage.r_out * amperes)[:, None]
    return OutputNeeds(np.full((1, 1), m), np.array([m * stage.own_drop]), needed)


def _duty_weights(stage: StageNumbers) -> Array:
    """At the duty limit (1 + m) / 2 the bridge's mean reaches this far towards either rail."""
    far, back = (1.0 + stage.modulation) / 2.0, (1.0 - stage.modulation) / 2.0
    return np.array([[far, -back], [-back, far]])


CLASS_AB = StageKind("class_ab", lambda circuit, wave, n: draws.class_ab(wave, circuit.channels_of(n)), _towards_either)
CLASS_AB_BRIDGED = StageKind(
    "class_ab_bridged", lambda circuit, wave, n: draws.bridged_class_ab(wave, circuit.channels_of(n), circuit.rails),
    _half_each, legs=2,
)  # fmt: skip
CLASS_A = StageKind(
    "class_a",
    lambda circuit, wave, n: draws.class_a_push_pull(wave, circuit.channels_of(n), circuit.i_bias_a),
    _towards_either,
)
SINGLE_ENDED = StageKind(
    "single_ended", lambda circuit, wave, n: draws.class_a_single_ended(wave, circuit.channels_of(n)), _sinking_no_more
)
CLASS_D = StageKind(
    "class_d",
    lambda circuit, wave, n: draws.class_d_half_bridge(
        wave, circuit.channels_of(n), circuit.switching, circuit.antiphase
    ),
    _within_duty,
    pumps=True,
)
CLASS_D_BRIDGED = StageKind(
    "class_d_bridged",
    lambda circuit, wave, n: draws.class_d_bridged_pair(wave, circuit.channels_of(n), circuit.switching),
    _half_each_within_duty, legs=2,
)  # fmt: skip
CLASS_D_BRIDGE = StageKind(
    "class_d_bridge", lambda circuit, wave, n: draws.class_d_bridge(wave, circuit.channels_of(n), circuit.switching),
    _across_one_rail, legs=2,
)  # fmt: skip
STAGES: dict[str, StageKind] = {
    circuit.name: circuit
    for circuit in (CLASS_AB, CLASS_AB_BRIDGED, CLASS_A, SINGLE_ENDED, CLASS_D, CLASS_D_BRIDGED, CLASS_D_BRIDGE)
}


def stage_named(name: str) -> StageKind:
    """The kind of stage of that name. Raises KeyError where there is none."""
    return STAGES[name]
