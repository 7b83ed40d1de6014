"""Two clipping readings of one cell with the bias changed between them: whether the bias explains what lies between."""

import dataclasses
import math
from collections.abc import Mapping, Sequence

from plinth.bench.clip_cell import ClipCell
from plinth.builds.build import Build
from plinth.physics.stages import bias
from plinth.record.conditions import differences
from plinth.record.reading import Reading
from plinth.record.subject import Kind, Subject
from plinth.units.bounds import Bound
from plinth.units.shown import shown

# Bias readings nearer to each other than this were not changed in between: they drift.
CHANGED_SHARE = 0.10
# What a linear slope may be off by, twice over: more than this times what the bias does is not the bias.
GENEROUS = 3.0
# How far two looks at the same flattening differ, as a share of the power.
BY_EYE = 0.02


def bias_subjects(build: Build, channel: str) -> tuple[str, str]:
    """The subjects of bias readings of a channel, cold and warm."""
    key = build.key_of(channel)
    return Subject(Kind.BRINGUP, key, "bias").text, Subject(Kind.BRINGUP, key, "warm_bias").text


@dataclasses.dataclass(frozen=True)
class Unexplained:
    """A power that a changed bias does not explain: ``facts`` for the reading, ``what_would`` in words for now."""

    facts: Mapping[str, float | str]
    what_would: str


def unexplained(
    cell: ClipCell, power_w: float, u_power_w: float | None, earlier: Reading, biases: Sequence[Reading]
) -> Unexplained | None:
    """Where a bias changed since an ``earlier`` reading does not explain the power read now; None where it may.

    ``biases`` the channel's bias readings in the order taken. The effect of the bias is the predicted power's own slope
    by quiescent current; with devices in class B it moves little but the rail's idle load.
    """
    module = cell.prediction.build.module
    point = module.bias
    before = [reading for reading in biases if reading.taken_at <= earlier.taken_at]
    since = [reading for reading in biases if reading.taken_at > earlier.taken_at]
    if point is None or not before or not since or earlier.bound is not Bound.NONE:
        return None
    was, now = before[-1].value, since[-1].value
    if abs(now - was) <= CHANGED_SHARE * max(abs(was), abs(now)):
        return None
    apart = power_w - earlier.value
    # By eye the same flattening is not found twice to the last per cent, whatever the meter.
    noise = 2.0 * math.hypot(u_power_w or 0.0, earlier.u or 0.0) + BY_EYE * earlier.value
    change_a = module.pairs * bias.quiescent_a(1000.0 * (now - was), point.r_fitted_ohm)
    by_bias = _slope_w_per_a(cell) * change_a
    if abs(apart) <= noise + GENEROUS * abs(by_bias):
        return None
    facts: dict[str, float | str] = {
        "earlier_w": earlier.value, "bias_was_v": was, "bias_now_v": now, "bias_moves_w": by_bias
    }  # fmt: skip
    return Unexplained(facts, _what_would(cell, power_w, earlier))


def _slope_w_per_a(cell: ClipCell) -> float:
    """Watts of clip power per ampere of quiescent current."""
    for contribution in cell.prediction["clip_power_w"].contributions:
        if contribution.label == cell.prediction.inputs["i_quiescent"].label and contribution.u_input > 0.0:
            return contribution.u_figure / contribution.u_input
    return 0.0


def _what_would(cell: ClipCell, power_w: float, earlier: Reading) -> str:
    changed = differences(earlier.conditions, cell.conditions)
    if earlier.conditions is not None and changed:
        return f"Also different: {'; '.join(changed)}."
    # Power goes with the square of the rail, and about inversely with the load.
    ratio = power_w / earlier.value
    rail, load = math.sqrt(ratio) - 1.0, cell.load.r_ohm / ratio
    return (
        f"It would take a rail {100.0 * abs(rail):.0f} % {'higher' if rail > 0 else 'lower'} (mains, or how many "
        f"channels play), a load of {shown(load, 'ohm', 2)}, another probe factor, or another moment called clipping."
    )
