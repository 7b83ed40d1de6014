"""What may be behind a reading outside its window: faults laid on this build, ranked by how well each explains all.

A fault's weight is how usual it is times the likelihood of every reading so far (normal errors with a floor, so that
one odd reading does not rule a fault out; a wide expectation explains less than a narrow one that is met). Where none
explains the readings better than something unknown would, that is said. The next measurement is the one on which the
likely faults disagree most for their spread. Source: Bayes' rule; the priors are those of ``guide.faults``.
"""

import dataclasses
import math
from collections.abc import Mapping, Sequence

from plinth.guide.fault_bench import Bench, Expected, behind_of, connected, healthy
from plinth.guide.faults import FAULTS, Fault
from plinth.guide.precomputed import FaultRails
from plinth.guide.step import Step
from plinth.predict.fault_rails import RAIL_FAULTS

# What is left to any reading however ill it fits; how far meters and hands are off.
FLOOR, READ_SHARE = 2e-3, 0.03
# From this weight on of what burns, off at once.
OFF_FROM = 0.26
SHOWN = 4
# A measurement on which the likely faults differ by less, in their spreads and weights, tells nothing.
LEAST_APART = 0.05
# Something that is not among the faults: how usual, and how likely it makes a reading outside its window, and inside.
UNKNOWN_USUAL, UNKNOWN_OUTSIDE, UNKNOWN_INSIDE = 1.0, 0.02, 0.7
SLIPPED_ABOUT_ZERO = 0.05
# An expectation as wide as this, as a share of what is read or of a logarithm, explains half as well as a sharp one.
WIDE_SHARE, WIDE_LOG = 0.6, 1.0

# Readings that are dangerous whatever is behind them, as multiples of the most that is healthy.
FAR_TOO_MUCH_BIAS, FAR_TOO_HIGH_RAIL, AT_THE_LIMIT = 2.5, 1.3, 0.9
# DC at the output of so much of the rail.
FAR_TOO_MUCH_DC = 0.5
# A sink so much above its window is not waited for, K.
FAR_TOO_HOT_K = 20.0


@dataclasses.dataclass(frozen=True)
class Cause:
    """A fault with its share of the weight, and the readings that speak against it."""

    fault: Fault
    share: float
    against: tuple[str, ...]


@dataclasses.dataclass(frozen=True)
class Causes:
    """``ranked`` the likely ones, empty where none of the faults explains the readings; ``outside`` where these are.

    ``next_step`` what tells most apart, with what each would show; ``off_now`` whether to switch off, ``off_words``
    why.
    """

    ranked: tuple[Cause, ...]
    outside: tuple[Step, ...]
    next_step: Step | None
    tells: tuple[tuple[str, float], ...]
    off_now: bool
    off_words: str = ""


def fault_rails(bench: Bench, steps: Sequence[Step]) -> FaultRails:
    """The rails of every fault at every step that reads one or looks at the lamp, so that ranking solves nothing."""
    behind = {behind_of(step) for step in steps if step.reads in ("rail", "rail_alone", "glow", "glow_alone")}
    under = behind | {dataclasses.replace(state, board=False) for state in behind}
    return {(fault, state): bench.rail_v(fault, state) for state in under for fault in RAIL_FAULTS}


def causes(bench: Bench, steps: Sequence[Step], readings: Mapping[str, float]) -> Causes | None:
    """Rank the faults by the readings so far (values by step key); None while nothing was read outside its window.

    Only faults of what was connected where a reading lies outside are ranked.
    """
    known = {step.key: step for step in steps}
    read = [(known[key], value) for key, value in readings.items() if key in known and known[key].reads]
    wrong = [(step, value) for step, value in read if outside(step, value)]
    if not wrong:
        return None
    places = frozenset().union(*(connected(step) for step, _ in wrong))
    weights: list[tuple[Fault, float, tuple[str, ...]]] = []
    for fault in FAULTS:
        if not (fault.where & places and fault.fits(bench)):
            continue
        weight, against = fault.usual, []
        for step, value in read:
            here = likelihood(bench, fault, step, value)
            weight *= here
            if here < 0.05:
                against.append(step.title)
        weights.append((fault, weight, tuple(against)))
    unknown = UNKNOWN_USUAL * math.prod(
        UNKNOWN_OUTSIDE if outside(step, value) else UNKNOWN_INSIDE for step, value in read
    )
    whole = sum(weight for _, weight, _ in weights) + unknown
    ranked = sorted((Cause(fault, weight / whole, against) for fault, weight, against in weights),
                    key=lambda cause: -cause.share)  # fmt: skip
    explained = ranked[0].share * whole > unknown
    listed = tuple(cause for cause in ranked[:SHOWN] if cause.share > 0.02) if explained else ()
    off_words = _off_words(wrong, ranked if explained else ())
    left = [step for step in steps if step.key not in readings and _bearable(step, places, bool(off_words))]
    apart, tells = _most_apart(bench, listed, left)
    return Causes(listed, tuple(step for step, _ in wrong), apart, tells, bool(off_words), off_words)


def _off_words(wrong: Sequence[tuple[Step, float]], ranked: Sequence[Cause]) -> str:
    """Why to switch off now; empty where there is no reason, or where nothing of what is outside was under power."""
    powered = [(step, value) for step, value in wrong if step.power]
    if not powered:
        return ""
    for step, value in powered:
        if words := dangerous(step, value):
            return words
    burning = [cause for cause in ranked if cause.fault.burns]
    return "Some of what may be behind it burns." if sum(cause.share for cause in burning) >= OFF_FROM else ""


def dangerous(step: Step, value: float) -> str:
    """Why a reading calls for switching off, whatever is behind it; empty where it does not."""
    high = None if step.window is None else step.window.high
    if high is None:
        return ""
    match step.reads:
        case "bias" | "warm_bias" if value > FAR_TOO_MUCH_BIAS * high:
            return "The bias is far above its window: the devices burn at that."
        case "glow" | "glow_alone" if value > high:
            return "The lamp is brighter than with anything healthy behind it."
        case "sink_c" if value > high + FAR_TOO_HOT_K:
            return "The sink is far hotter than it can be at rest."
        case "rail" | "rail_alone" if value > FAR_TOO_HIGH_RAIL * high:
            return "The rail is far above its window: reservoirs and boards do not bear that."
        case "output_dc" if step.most is not None and abs(value) > FAR_TOO_MUCH_DC * step.most:
            return "The output stands at a rail: no loudspeaker, and something in the stage is at its end."
        case "current" if step.limit_a is not None and value >= AT_THE_LIMIT * step.limit_a:
            return "The supply is in its limit."
    return ""


def _bearable(step: Step, places: frozenset[str], off_now: bool) -> bool:
    """Whether a step may be asked for with a fault about: without power, or behind a lamp or a supply's limit.

    Nothing is connected for it that was not connected where the reading lies outside. What is to be switched off is
    looked at with the ohmmeter first.
    """
    if not connected(step) <= places:
        return False
    held = "lamp_w" in step.conditions or step.limit_a is not None
    return not step.power or (held and not off_now)


def outside(step: Step, value: float) -> bool:
    """Whether a value lies outside a step's window."""
    window = step.window
    if window is None:
        return False
    low = window.low is not None and value < window.low
    return low or (window.high is not None and value > window.high)


def likelihood(bench: Bench, fault: Fault, step: Step, value: float) -> float:
    """How well a fault explains a reading, from ``FLOOR`` to 1."""
    if fault.key == "slip":
        return _slip(step, value)
    touched = step.reads in fault.shows and bool(fault.where & connected(step))
    expected = shown_by(bench, fault, step) if touched else ()
    if not expected:
        # What a fault does not touch is as in a healthy build.
        return FLOOR if outside(step, value) else UNKNOWN_INSIDE
    scale = _scale(step)
    return max(
        FLOOR, *(_sharpness(window, value, scale) * math.exp(-0.5 * _apart(window, value) ** 2) for window in expected)
    )


def shown_by(bench: Bench, fault: Fault, step: Step) -> tuple[Expected, ...]:
    """The ways a step may look with a fault; as in a healthy build where the fault does not touch it."""
    expects = fault.shows.get(step.reads) if fault.where & connected(step) else None
    expected = healthy(step) if expects is None else expects(bench, step)
    return expected if isinstance(expected, tuple) else () if expected is None else (expected,)


def _scale(step: Step) -> float:
    """How large a reading of a step is in a healthy build, or can be."""
    window = step.window
    edges = [] if window is None else [abs(edge) for edge in (window.low, window.high) if edge is not None]
    # About 0 a window tells nothing of what a fault would show.
    zero = window is not None and window.low is not None and window.high is not None and window.low <= 0 <= window.high
    return step.most if zero and step.most is not None else max(edges, default=0.0)


def _sharpness(expected: Expected, value: float, scale: float) -> float:
    """From 1 for a sharp expectation towards 0 for one that would go with nearly anything.

    ``scale`` the size of what may be read there.
    """
    if expected.log:
        return WIDE_LOG / (WIDE_LOG + expected.u)
    size = max(abs(expected.value), abs(value), scale)
    return 1.0 if size == 0.0 else WIDE_SHARE / (WIDE_SHARE + min(expected.u / size, 1.0))


def _apart(expected: Expected, value: float) -> float:
    if expected.sized:
        value = abs(value)
    if expected.log:
        if value <= 0.0 or expected.value <= 0.0:
            return 10.0 * (value != expected.value)
        return math.log(value / expected.value) / expected.u
    return (value - expected.value) / math.hypot(expected.u, READ_SHARE * expected.value)


def _slip(step: Step, value: float) -> float:
    """A slip of the meter or the hand: a decimal, a prefix, the wrong pair of points gives a healthy value again."""
    if not outside(step, value):
        return UNKNOWN_INSIDE
    whole = healthy(step)
    if whole is None or step.unit == "K":
        return FLOOR
    if step.window is not None and step.window.low is not None and step.window.low < 0.0:
        # About 0 V anything would be healthy by some prefix.
        return SLIPPED_ABOUT_ZERO
    best = max(math.exp(-0.5 * _apart(whole, value * factor) ** 2) for factor in (10.0, 0.1, 1e3, 1e-3, -1.0))
    return max(FLOOR, 0.5 * best)


def _most_apart(
    bench: Bench, ranked: Sequence[Cause], left: Sequence[Step]
) -> tuple[Step | None, tuple[tuple[str, float], ...]]:
    """Of the steps left, the one on whose reading the ranked faults disagree most, for their spread."""
    best, apart = LEAST_APART, None
    tells: tuple[tuple[str, float], ...] = ()
    for step in left:
        if not step.reads or step.window is None:
            continue
        seen = [(cause, shown_by(bench, cause.fault, step)) for cause in ranked if cause.fault.key != "slip"]
        pairs = [(cause, expected[0]) for cause, expected in seen if expected]
        score = sum(
            cause.share * other.share * _differ(a, b)
            for k, (cause, a) in enumerate(pairs)
            for other, b in pairs[k + 1 :]
        )
        if score > best:
            best, apart = score, step
            tells = tuple((cause.fault.words, expected.value) for cause, expected in pairs)
    return apart, tells


def _differ(a: Expected, b: Expected) -> float:
    """By how many spreads two expectations differ."""
    if a.log or b.log:
        if min(a.value, b.value) <= 0.0:
            return 3.0 * (a.value != b.value)
        return abs(math.log(a.value / b.value)) / max(math.hypot(a.u if a.log else 0.1, b.u if b.log else 0.1), 1e-9)
    return abs(a.value - b.value) / math.hypot(a.u, b.u, READ_SHARE * max(abs(a.value), abs(b.value)), 1e-9)
