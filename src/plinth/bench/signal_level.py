"""A level for small-signal tests that keeps the dummy load cool, and how an output may be touched."""

import dataclasses

from plinth.builds.build import Build
from plinth.builds.parts import Load
from plinth.physics.stages import levels

COOL_SHARE = 0.10
MOST_TEST_W = 1.0


@dataclasses.dataclass(frozen=True)
class SignalLevel:
    """Output and generator volts RMS, watts in the load."""

    v_out_rms: float
    v_in_rms: float
    power_w: float


def cool_level(build: Build, load: Load, most_w: float = MOST_TEST_W) -> SignalLevel:
    """``most_w``, or a tenth of the load's rating where that is less."""
    power = most_w if load.p_carried_w is None else min(most_w, COOL_SHARE * load.p_carried_w)
    v_out = levels.rms_for_power(power, load.r_ohm)
    return SignalLevel(v_out, v_out / (build.module.gain * build.modules_per_channel), power)


def scope_words(build: Build, channel: str) -> str:
    """Where the scope's tip and clip go: at a bridge its clip would short an output."""
    if build.both_outputs_live:
        return (
            f"Both {channel} outputs are live: one scope channel on each, the difference of the two read, and no clip "
            "at either; or a meter between them."
        )
    return f"Scope tip to {channel} output, clip to its 0 V: this output is ground referred, so the clip is safe."
