"""How warm a dummy load is from what it was driven with, how long it may be driven from now, and when it is cold again.

One thermal mass: its rise, as a share of the rise at its rating, follows the power over the rating with the load's time
constant. What nobody timed is taken as driven for a while at each kept reading, and said to be so.
"""

import dataclasses
import datetime as dt
import math
from collections.abc import Sequence

from plinth.builds.parts import Load

# Practice: how long an output is held at clipping for one reading by hand.
ONE_READING_S = 10.0
# A rise of so small a share of the rated one counts as cold.
COLD_SHARE = 0.05
# Where a load's time constant is not stated: of a wire-wound resistor of some ten watts in free air.
USUAL_TAU_S = 120.0


@dataclasses.dataclass(frozen=True)
class LoadUse:
    """From when to when (None: still) a load, by its identity, took ``power_w``; ``timed``: by its clock."""

    load: str
    begun: dt.datetime
    ended: dt.datetime | None
    power_w: float
    timed: bool = True


def tau_of(load: Load) -> float:
    """Time constant of a load, s: as stated, else a usual one."""
    return load.time_constant_s or USUAL_TAU_S


def rise_share(load: Load, history: Sequence[LoadUse], now: dt.datetime) -> float | None:
    """Its rise as a share of that at its rating, at ``now``; None where no rating is stated."""
    rated = load.p_carried_w
    if rated is None:
        return None
    tau, share, at = tau_of(load), 0.0, None
    for use in sorted((use for use in history if use.load == load.identity), key=lambda use: use.begun):
        begun = use.begun if at is None else max(use.begun, at)
        ended = min(use.ended or now, now)
        if ended <= begun:
            continue
        if at is not None:
            share *= math.exp(-(begun - at).total_seconds() / tau)
        to = use.power_w / rated
        share = to + (share - to) * math.exp(-(ended - begun).total_seconds() / tau)
        at = ended
    return share if at is None else share * math.exp(-max((now - at).total_seconds(), 0.0) / tau)


def allowed_s(load: Load, share: float, power_w: float) -> float:
    """How long it may take ``power_w`` from a rise of ``share`` on until it is as warm as at its rating; inf: for good.

    tau ln((P - share P_rated) / (P - P_rated)). 0 above the rating where its time constant is not stated: a usual one
    is good enough to cool it by, not to drive it by.
    """
    rated = load.p_carried_w
    if rated is None:
        return 0.0
    over = power_w / rated
    if over <= 1.0 + 1e-9:
        return math.inf
    return (
        0.0 if share >= 1.0 or load.time_constant_s is None else tau_of(load) * math.log((over - share) / (over - 1.0))
    )


def cold_after_s(load: Load, share: float) -> float:
    """How long until it counts as cold; 0 where it does."""
    return 0.0 if share <= COLD_SHARE else tau_of(load) * math.log(share / COLD_SHARE)


def still_felt(history: Sequence[LoadUse], loads: Sequence[Load], now: dt.datetime) -> tuple[LoadUse, ...]:
    """What of a history still matters: within eight time constants of the load."""
    tau = {load.identity: tau_of(load) for load in loads}
    return tuple(
        use
        for use in history
        if use.ended is None or (now - use.ended).total_seconds() < 8.0 * tau.get(use.load, USUAL_TAU_S)
    )
