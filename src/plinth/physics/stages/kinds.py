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


def _towards_either(one: StageNumbers, volts: Array, amperes: Array) -> OutputNeeds:
    inside = volts + one.r_out * amperes
    needed = np.stack([np.maximum(inside, 0.0), np.maximum(-inside, 0.0)], axis=1)
    return OutputNeeds(np.eye(2), np.full(2, one.v_sat + one.own_drop), needed)


def _sinking_no_more(one: StageNumbers, volts: Array, amperes: Array) -> OutputNeeds:
    # The current source can sink no more than it carries.
    return dataclasses.replace(_towards_either(one, volts, amperes), most_v=one.i_idle_a * one.r_load)


def _half_each(one: StageNumbers, volts: Array, amperes: Array) -> OutputNeeds:
    needed = np.abs(0.5 * volts + one.r_out * amperes)[:, None]
    if one.rails == 1:
        return OutputNeeds(np.full((1, 1), 0.5), np.array([one.v_sat + 0.5 * one.own_drop]), needed)
    return OutputNeeds(np.eye(2), np.full(2, one.v_sat + one.own_drop), np.repeat(needed, 2, axis=1))


def _within_duty(one: StageNumbers, volts: Array, amperes: Array) -> OutputNeeds:
    inside = volts + one.r_out * amperes
    needed = np.stack([np.maximum(inside, 0.0), np.maximum(-inside, 0.0)], axis=1)
    return OutputNeeds(_duty_weights(one), np.full(2, one.modulation * one.own_drop), needed)


def _half_each_within_duty(one: StageNumbers, volts: Array, amperes: Array) -> OutputNeeds:
    needed = np.abs(0.5 * volts + one.r_out * amperes)[:, None]
    return OutputNeeds(
        _duty_weights(one), np.full(2, one.modulation * one.own_drop), np.repeat(needed, 2, axis=1)
    )  # fmt: skip


def _across_one_rail(one: StageNumbers, volts: Array, amperes: Array) -> OutputNeeds:
    m = one.modulation
    needed = np.abs(volts + one.r_out * amperes)[:, None]
    return OutputNeeds(np.full((1, 1), m), np.array([m * one.own_drop]), needed)


def _duty_weights(one: StageNumbers) -> Array:
    """At the duty limit (1 + m) / 2 the bridge's mean reaches this far towards either rail."""
    far, back = (1.0 + one.modulation) / 2.0, (1.0 - one.modulation) / 2.0
    return np.array([[far, -back], [-back, far]])


CLASS_AB = StageKind("class_ab", lambda one, wave, n: draws.class_ab(wave, one.channels_of(n)), _towards_either)
CLASS_AB_BRIDGED = StageKind(
    "class_ab_bridged", lambda one, wave, n: draws.bridged_class_ab(wave, one.channels_of(n), one.rails),
    _half_each, legs=2,
)  # fmt: skip
CLASS_A = StageKind(
    "class_a", lambda one, wave, n: draws.class_a_push_pull(wave, one.channels_of(n), one.i_bias_a), _towards_either
)
SINGLE_ENDED = StageKind(
    "single_ended", lambda one, wave, n: draws.class_a_single_ended(wave, one.channels_of(n)), _sinking_no_more
)
CLASS_D = StageKind(
    "class_d",
    lambda one, wave, n: draws.class_d_half_bridge(wave, one.channels_of(n), one.switching, one.antiphase),
    _within_duty, pumps=True,
)  # fmt: skip
CLASS_D_BRIDGED = StageKind(
    "class_d_bridged", lambda one, wave, n: draws.class_d_bridged_pair(wave, one.channels_of(n), one.switching),
    _half_each_within_duty, legs=2,
)  # fmt: skip
CLASS_D_BRIDGE = StageKind(
    "class_d_bridge", lambda one, wave, n: draws.class_d_bridge(wave, one.channels_of(n), one.switching),
    _across_one_rail, legs=2,
)  # fmt: skip
STAGES: dict[str, StageKind] = {
    one.name: one
    for one in (CLASS_AB, CLASS_AB_BRIDGED, CLASS_A, SINGLE_ENDED, CLASS_D, CLASS_D_BRIDGED, CLASS_D_BRIDGE)
}


def stage_named(name: str) -> StageKind:
    """The kind of stage of that name. Raises KeyError where there is none."""
    return STAGES[name]
