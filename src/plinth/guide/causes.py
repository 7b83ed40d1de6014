"""What may be behind a reading outside its window: faults laid on this build, ranked by how well each explains all.

Each fault says what a meter would then show at each step (from the engine where it is about rails, else by the
circuit's plain laws), and how far off that may be. A fault's weight is how usual it is times the likelihood of every
reading so far (normal errors with a floor, so that one odd reading does not rule a fault out). The next measurement is
the one on which the likely faults disagree most for their spread. Source: Bayes' rule; the priors are orders of
magnitude from practice, not counts.
"""

import dataclasses
import math
from collections.abc import Callable, Mapping, Sequence

from plinth.builds.build import Build
from plinth.builds.modules import BiasPoint
from plinth.guide.step import Step
from plinth.physics.stages.bias import bias_mv
from plinth.predict.faulty import Behind, RailFault, rail_with

# What is left to any reading however ill it fits; how far meters and hands are off; how far faults vary.
FLOOR, READ_SHARE, OF_A_FAULT = 2e-3, 0.03, 0.15
# From this weight on of what burns, off at once.
OFF_FROM = 0.25
SHOWN = 4
# A measurement on which the likely faults differ by less, in their spreads and weights, tells nothing.
LEAST_APART = 0.05
# How far another emitter resistor may be from the planned one, as a standard deviation of the logarithm.
ANY_RESISTOR = 0.5


@dataclasses.dataclass(frozen=True)
class Expected:
    """What would be read, and its standard uncertainty.

    ``log`` where that is of the logarithm (ohms of a short or an open); ``sized`` where the sign tells nothing.
    """

    value: float
    u: float
    log: bool = False
    sized: bool = False


@dataclasses.dataclass(frozen=True)
class Bench:
    """What faults are laid on: a build, the lamp in series if there is one, its rail on full mains."""

    build: Build
    lamp_w: float | None
    full_v: float

    def rail(self, step: Step, fault: RailFault) -> Expected | None:
        """The lower rail at a step with a fault in the build."""
        v = rail_with(self.build, fault, behind_of(step))
        return None if v is None else Expected(v, OF_A_FAULT * v + 0.5)


def bench_of(build: Build, steps: Sequence[Step], v_idle: float) -> Bench:
    """The bench that these steps are taken on."""
    lamps = (step.conditions["lamp_w"] for step in steps if "lamp_w" in step.conditions)
    lamp = next(lamps, None)
    return Bench(build, None if lamp is None else float(lamp), v_idle)


Expects = Callable[[Bench, Step], Expected | None]


@dataclasses.dataclass(frozen=True)
class Fault:
    """``words`` what it is, ``check`` how to see it, ``usual`` how often it is met (a weight), ``burns`` if left on.

    ``shows`` by what a step reads (``Step.reads``); what it does not name is as in a healthy build.
    """

    key: str
    words: str
    check: str
    usual: float
    burns: bool
    shows: Mapping[str, Expects]


@dataclasses.dataclass(frozen=True)
class Cause:
    """A fault with its share of the weight, and the readings that speak against it."""

    fault: Fault
    share: float
    against: tuple[str, ...]


@dataclasses.dataclass(frozen=True)
class Causes:
    """``ranked`` the likely ones, ``next_step`` what tells most apart (with what each would show), ``off_now``."""

    ranked: tuple[Cause, ...]
    next_step: Step | None
    tells: tuple[tuple[str, float], ...]
    off_now: bool


def foretell(bench: Bench, steps: Sequence[Step]) -> None:
    """Compute the rails of every fault at every step that reads one, so that ranking takes no time later."""
    for step in steps:
        for fault in FAULTS:
            if step.reads in ("rail", "rail_alone") and step.reads in fault.shows:
                fault.shows[step.reads](bench, step)


def behind_of(step: Step) -> Behind:
    """Under what a rail of that step is read."""
    lamp, mains = step.conditions.get("lamp_w"), step.conditions.get("mains_v")
    return Behind(
        float(lamp) if lamp is not None else None, float(mains) if mains is not None else None,
        board=step.reads != "rail_alone",
    )  # fmt: skip


def healthy(step: Step) -> Expected | None:
    """What a healthy build shows: the middle of the window; None where the window has one side only."""
    window = step.window
    if window is None or window.low is None or window.high is None:
        return None
    return Expected((window.low + window.high) / 2.0, max((window.high - window.low) / 4.0, 1e-9))


def causes(bench: Bench, steps: Sequence[Step], readings: Mapping[str, float]) -> Causes | None:
    """Rank the faults by the readings so far (values by step key); None while nothing was read outside its window."""
    known = {step.key: step for step in steps}
    read = [(known[key], value) for key, value in readings.items() if key in known and known[key].reads]
    if not any(outside(step, value) for step, value in read):
        return None
    weights: list[tuple[Fault, float, tuple[str, ...]]] = []
    for fault in FAULTS:
        weight, against = fault.usual, []
        for step, value in read:
            here = likelihood(bench, fault, step, value)
            weight *= here
            if here < 0.05:
                against.append(step.title)
        weights.append((fault, weight, tuple(against)))
    whole = sum(weight for _, weight, _ in weights) or 1.0
    ranked = sorted((Cause(fault, weight / whole, against) for fault, weight, against in weights),
                    key=lambda one: -one.share)  # fmt: skip
    shown = tuple(one for one in ranked[:SHOWN] if one.share > 0.02)
    off_now = sum(one.share for one in ranked if one.fault.burns) >= OFF_FROM
    left = [one for one in steps if one.key not in readings and _bearable(one, off_now)]
    apart, tells = _most_apart(bench, shown, left)
    return Causes(shown, apart, tells, off_now)


def _bearable(step: Step, off_now: bool) -> bool:
    """Whether a step may be asked for with a fault about: without power, or behind a lamp or a supply's limit.

    What is to be switched off is looked at with the ohmmeter first.
    """
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
    expected = shown_by(bench, fault, step)
    if expected is None:
        return 0.5 if not outside(step, value) else FLOOR
    return max(FLOOR, math.exp(-0.5 * _apart(expected, value) ** 2))


def shown_by(bench: Bench, fault: Fault, step: Step) -> Expected | None:
    """What a step shows with a fault; as in a healthy build where the fault does not touch it."""
    expects = fault.shows.get(step.reads)
    return healthy(step) if expects is None else expects(bench, step)


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
        return 0.5
    whole = healthy(step)
    if whole is None:
        return FLOOR
    best = max(math.exp(-0.5 * _apart(whole, value * factor) ** 2) for factor in (10.0, 0.1, 1e3, 1e-3, -1.0))
    return max(FLOOR, best)


def _most_apart(
    bench: Bench, ranked: Sequence[Cause], left: Sequence[Step]
) -> tuple[Step | None, tuple[tuple[str, float], ...]]:
    """Of the steps left, the one on whose reading the ranked faults disagree most, for their spread."""
    best, found = LEAST_APART, None
    told: tuple[tuple[str, float], ...] = ()
    for step in left:
        if not step.reads or step.window is None:
            continue
        seen = [(one, shown_by(bench, one.fault, step)) for one in ranked if one.fault.key != "slip"]
        pairs = [(one, expected) for one, expected in seen if expected is not None]
        score = sum(
            one.share * other.share * _differ(a, b) for k, (one, a) in enumerate(pairs) for other, b in pairs[k + 1 :]
        )
        if score > best:
            best, found = score, step
            told = tuple((one.fault.words, expected.value) for one, expected in pairs)
    return found, told


def _differ(a: Expected, b: Expected) -> float:
    """By how many spreads two expectations differ."""
    if a.log or b.log:
        if min(a.value, b.value) <= 0.0:
            return 0.0
        return abs(math.log(a.value / b.value)) / max(math.hypot(a.u if a.log else 0.1, b.u if b.log else 0.1), 1e-9)
    return abs(a.value - b.value) / math.hypot(a.u, b.u, READ_SHARE * max(abs(a.value), abs(b.value)), 1e-9)


# What each fault shows


def _rail(fault: RailFault) -> Expects:
    return lambda bench, step: bench.rail(step, fault)


def _at(share: float, u_share: float = 0.2) -> Expects:
    """A share of the rail in force; on which side of 0 V nobody knows, so volts are compared by their size."""

    def expects(bench: Bench, step: Step) -> Expected:
        rail = bench.full_v if step.most is None else step.most
        return Expected(share * rail, u_share * abs(rail) + 0.1, sized=True)

    return expects


def _times(factor: float, u_factor: float = 0.4) -> Expects:
    """A multiple of what a healthy build shows."""

    def expects(_bench: Bench, step: Step) -> Expected | None:
        whole = healthy(step)
        return None if whole is None else Expected(factor * whole.value, u_factor * abs(factor * whole.value) + whole.u)

    return expects


def _limit(_bench: Bench, step: Step) -> Expected | None:
    """All that the supply's limit lets through."""
    return None if step.limit_a is None else Expected(step.limit_a, 0.07 * step.limit_a)


def _some_volts(_bench: Bench, step: Step) -> Expected | None:
    """A few times what is stated: more than healthy, far less than a rail."""
    whole = healthy(step)
    return None if whole is None else Expected(4.0 * 2.0 * whole.u, 4.0 * whole.u, sized=True)


def _ohms(value: float, decades: float = 0.7) -> Expects:
    return lambda _bench, _step: Expected(value, decades * math.log(10.0), log=True)


def _other_resistor(bench: Bench, _step: Step) -> Expected | None:
    """The resistor of the listing where another one is planned; else one of any of the usual values about it."""
    bias = bench.build.module.bias
    if bias is None:
        return None
    if _listed_differs(bias):
        return Expected(bias.r_listed_ohm, 0.1, log=True)
    return Expected(bias.r_fitted_ohm, ANY_RESISTOR, log=True)


def _bias_over_it(bench: Bench, step: Step) -> Expected | None:
    """The bias as read across such a resistor."""
    bias, other = bench.build.module.bias, _other_resistor(bench, step)
    if bias is None or other is None:
        return None
    volts = bias_mv(bias.i_pair_a, other.value) / 1000.0
    return Expected(volts, (0.1 if _listed_differs(bias) else ANY_RESISTOR) * volts)


def _listed_differs(bias: BiasPoint) -> bool:
    return abs(bias.r_listed_ohm / bias.r_fitted_ohm - 1.0) > 0.05


FAULTS: tuple[Fault, ...] = (
    Fault(
        "short", "a shorted output device, or a bridge of solder on a rail",
        "Off. Ohmmeter from each rail to 0 V and to the output, unpowered: near 0 Ω is it.", 1.0, True,
        {"rail": _rail("short"), "current": _limit, "output_dc": _at(0.9), "rail_ohm": _ohms(1.0)},
    ),
    Fault(
        "rail missing", "one rail is not there: fuse, wire, winding or diode",
        "Off. Follow that rail from the winding to the board with the ohmmeter.", 1.0, False,
        {"rail": _rail("rail missing"), "rail_alone": _rail("rail missing"), "output_dc": _at(0.5, 0.3),
         "bias": _times(0.0, 0.0)},
    ),
    Fault(
        "half wave", "half a winding reversed, or one diode of the bridge open",
        "Scope on the ripple: it comes once a period of the mains, not twice, and is twice as large.", 0.5, False,
        {"rail": _rail("half wave"), "ripple": _times(2.1, 0.12)},
    ),
    Fault(
        "bridge diode", "a shorted diode of the bridge",
        "Off. Diode test across each leg of the bridge, winding disconnected.", 0.6, True,
        {"rail": lambda _b, _s: Expected(0.0, 2.0), "rail_alone": lambda _b, _s: Expected(0.0, 2.0)},
    ),
    Fault(
        "primary doubled", "the primary is set for twice these mains",
        "Off. Two primaries of half the volts stand in series where they belong in parallel.", 0.5, False,
        {"rail": _rail("primary doubled"), "rail_alone": _rail("primary doubled")},
    ),
    Fault(
        "primary halved", "the primary is set for half of these mains",
        "Off at once, plug out. Primaries in parallel where they belong in series; look at every reservoir.", 0.4, True,
        {"rail": _rail("primary halved"), "rail_alone": _rail("primary halved")},
    ),
    Fault(
        "leaking", "a reservoir that leaks",
        "Leave the supply alone at this rail for ten minutes: a leak falls as the oxide re-forms, a fault does not.",
        0.5, False,
        {"rail": _rail("leaking"), "rail_alone": _rail("leaking"), "rail_ohm": _ohms(300.0)},
    ),
    Fault(
        "emitter open", "an open emitter resistor, or its joint",
        "Off. Ohmmeter across each emitter resistor.", 0.6, False,
        {"bias": lambda _b, _s: Expected(0.55, 0.25), "warm_bias": lambda _b, _s: Expected(0.55, 0.25),
         "bias_ohm": _ohms(1e5, 1.5), "output_dc": _at(0.3, 0.3), "current": _times(0.7)},
    ),
    Fault(
        "bias open", "the bias trimmer open or turned the wrong way: the bias at its highest",
        "Off. Ohmmeter across the trimmer while it is turned: no jump, and the right end is the least.", 1.0, True,
        {"rail": _rail("bias open"), "current": _limit, "bias": _times(8.0, 0.6), "warm_bias": _times(10.0, 0.6)},
    ),
    Fault(
        "sensor off", "the sensing transistor is not on the sink",
        "Off. Is it screwed down, and with paste? Warm it with a finger: the bias must fall.", 0.7, True,
        {"warm_bias": _times(1.9, 0.3)},
    ),
    Fault(
        "oscillates", "the stage oscillates",
        "Scope at the output, no load: a band instead of a line. Look at the compensation and at long input leads.",
        0.8, True,
        {"rail": _rail("oscillates"), "current": _times(3.0, 0.5), "output_dc": _some_volts,
         "bias": _times(1.7, 0.4), "warm_bias": _times(1.9, 0.5), "ripple": _times(2.0, 0.5)},
    ),
    Fault(
        "other resistor", "another emitter resistor is fitted than planned",
        "Read its stripes, or the ohmmeter with its leads' own resistance taken off.", 0.8, False,
        {"bias_ohm": _other_resistor, "bias": _bias_over_it},
    ),
    Fault(
        "feedback open", "the feedback is open, or the input floats",
        "Is the input shorted? Ohmmeter along the feedback resistor.", 0.6, True, {"output_dc": _at(0.9)},
    ),
    Fault(
        "offset", "an input pair that does not match, or a leaking input capacitor",
        "Short the input behind its capacitor: what is left is the pair's.", 0.8, False, {"output_dc": _some_volts},
    ),
    Fault("slip", "a slip: prefix, decimal, range or points", "Read it once more, aloud, with its unit.", 1.2, False,
          {}),
)  # fmt: skip
