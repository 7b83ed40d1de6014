"""What flows where in a build: of each rail its source, its bleeder and each channel; of a tap what is left of both.

Means over a period, so that they sum to zero at every point where wires meet; what goes as pulses is told as RMS too.
"""

import dataclasses
import math

import numpy as np

from plinth.builds.build import Build
from plinth.physics.rails.steady_state import RailSteadyState
from plinth.predict.circuits import supplies_in_all
from plinth.predict.prediction import Prediction
from plinth.predict.wall import own_primary_rms_a


@dataclasses.dataclass(frozen=True)
class RailCurrents:
    """Means in A: ``source`` into the reservoir, ``bleeder`` down from it, ``channels`` what each takes."""

    source: float
    bleeder: float
    channels: tuple[float, ...]


@dataclasses.dataclass(frozen=True)
class Currents:
    """By rail (``plus``, ``minus``); ``tap_rms_a``, ``tap_peak_a`` in a centre tap; None where there is none.

    ``own_primary_a`` RMS of the transformer that is drawn, ``supplies`` how many there are like it.
    """

    rails: dict[str, RailCurrents]
    tap_rms_a: float | None
    tap_peak_a: float | None
    own_primary_a: float | None
    supplies: int


def channels_drawn(build: Build) -> tuple[str, ...]:
    """The channels that hang on the supply that is drawn."""
    return build.channels[:1] if build.one_supply_per_channel else build.channels


def currents_of(build: Build, prediction: Prediction) -> Currents:
    """The currents of one supply with the channels on it, at the level of the prediction."""
    points = prediction.solution.points
    here, rest = points.at_level.rails, points.idle.rails
    driven = 1 if build.one_supply_per_channel else prediction.situation.driven(build)
    count = len(channels_drawn(build))
    rails = {
        name: _rail(playing, resting, driven, count)
        for name, playing, resting in zip(("plus", "minus"), here, rest, strict=False)
    }
    tap = _in_tap(build, here)
    rms, peak = (None, None) if tap is None else tap
    if build.supply.transformer is None:
        return Currents(rails, rms, peak, None, 1)
    own = own_primary_rms_a(build.supply.transformer, points.at_level)
    return Currents(rails, rms, peak, own, supplies_in_all(build))


def _rail(playing: RailSteadyState, resting: RailSteadyState, driven: int, count: int) -> RailCurrents:
    """What a rail gives in all, shared out: channels at rest take what they take with all of them at rest."""
    total, idle = float(np.mean(playing.i_load_mean_a)), float(np.mean(resting.i_load_mean_a)) / count
    each = (total - (count - driven) * idle) / driven
    bleeder = float(np.mean(playing.i_bleed_a[:-1]))
    return RailCurrents(total + bleeder, bleeder, (each,) * driven + (idle,) * (count - driven))


def _in_tap(build: Build, rails: tuple[RailSteadyState, ...]) -> tuple[float, float] | None:
    """RMS and peak of what a centre tap carries: the pulses of one rail less those of the other."""
    supply = build.supply
    if supply.transformer is None or supply.rectifier.bridges == "two" or len(rails) < 2:
        return None
    left = rails[0].i_diode_a - rails[1].i_diode_a
    return math.sqrt(float(np.mean(left[:-1] ** 2))), float(np.max(np.abs(left)))
