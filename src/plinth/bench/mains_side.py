"""What a build takes from the wall, the battery or the bench supplies: at rest, at clipping, at switch-on, and stored.

Two of volts, amperes, watts, volt-amperes and power factor give the rest; more must agree, and those that do not are
named with what the others make of them.
"""

import dataclasses
import functools
import math
from collections.abc import Callable

import numpy as np

from plinth.bench import test_conditions, test_settings
from plinth.bench.sheet import (
    Array,
    Graph,
    Measured,
    Outcome,
    Readings,
    Sheet,
    apart,
    bench_request,
    derived,
    jitter_of,
    last,
    measured,
    window_of,
)
from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.builds.parts import Load
from plinth.builds.situation import Situation
from plinth.drawing.series import Series
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.switchers.wall import bulk_state
from plinth.predict.estimates import BULK_ESR_OHM, MAINS_BRIDGE_V
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.record.probe import Point, Probe, Quantity
from plinth.record.reading import Reading
from plinth.record.request import Request
from plinth.record.subject import WHOLE
from plinth.units.shown import shown, shown_with_spread

TEST = "mains"
# What a power meter reads of each row; a crest factor few of them tell.
_READ = {
    "v": Quantity.VOLTS_AC, "a": Quantity.AMPERES, "w": Quantity.WATTS, "va": Quantity.VOLT_AMPERES,
    "pf": Quantity.POWER_FACTOR,
}  # fmt: skip
# How far a marked capacitance may be off before another value is meant.
CAPACITANCE_SHARE = 0.35
# So many times the reservoirs of a build are another build's, or a slip.
MOST_TIMES = 10.0
# How far what is read on one screen after another may have moved meanwhile: mains that wander by 0.3 % move what is
# drawn, which goes with their square, by twice that.
SCREENS_APART = 0.006
# Standard uncertainties within which three of such checks on honest readings stay, 19 times of 20.
HONEST = 2.4
# What the signal costs above rest is predicted to this share, losses of the core and of cold joints included.
MORE_SHARE = 0.15
# A plain mains switcher: bulk capacitance a watt at 230 V, line and filter, as taken where nobody states them of one.
USUAL_BULK_F_PER_W, USUAL_LINE_OHM = 1.2e-6, 0.8
CAUTION = (
    "Mains volts: a plug-in power meter or a made-up lead with covered ends, never bare probes. Work on the mains side "
    "follows your local electrical code; have it done where that asks for a licence."
)


def sheet(build: Build, channel: str, situation: Situation) -> Sheet:
    """The sheet of the whole build. Raises PhysicsError where it cannot run."""
    load = test_conditions.dummy(build)
    whole = build.model_copy(update={"load": load})
    rest, full = (
        solve(whole, situation.model_copy(update={"level": level, "channels_driven": "all", "frequency_hz": 1000.0}))
        for level in (0.0, 1.0)
    )
    asked = (*_drawn(build, rest, "rest", load), *_drawn(build, full, "full", load), *_switching(build, rest))
    asked += _stored(build, channel, rest)
    drive = full["drive_v_rms"]
    wall = build.mains is not None
    return Sheet(
        TEST, "Mains side" if wall else "What the source gives",
        "What it draws, how well it uses it, what it takes at switch-on and keeps after switch-off.",
        settings=(
            ("Generator at clipping", f"{shown_with_spread(drive.value, drive.spread, 'V')} rms"),
            ("Power meter" if wall else "Meter", "W, VA and PF, settled" if wall else "volts and amperes at the "
                "source"),
            ("For switch-on", "clamp meter that holds its peak"),
        ),
        load=f"{load.name}, {load.r_ohm:g} Ω on every channel for the rows at clipping; a few seconds are enough.",
        wired="Power meter between wall and plug." if wall else "Meter in the lead from the source, another across its "
        "terminals.",
        asked=lambda _readings: asked,
        outcomes=lambda readings: _outcomes(build, rest, full, readings),
        # What is drawn does not depend on what was read: solved once, when it is first looked at.
        graph=_drawn_once(full),
        caution=CAUTION if wall else "A battery gives hundreds of amperes into a slip: fuse at its terminal, "
            "rings off.",
    )  # fmt: skip


@dataclasses.dataclass(frozen=True)
class _Row:
    key: str
    label: str
    unit: str
    figure: Figure | None
    example: str
    window: Window | None = None
    optional: bool = False
    least: float | None = 0.0


def _rows(build: Build, prediction: Prediction) -> tuple[_Row, ...]:
    get = prediction.get
    if build.mains is not None:
        mains = prediction.situation.mains_rms(build)
        day = Window(
            mains * (1.0 - test_conditions.MAINS_SHARE),
            mains * (1.0 + test_conditions.MAINS_SHARE),
            "V",
            "the mains set here, within 10 %",
        )
        return (
            _Row("v", "volts", "V", None, "231", day),
            _Row("a", "amperes", "A", get("primary_rms_a"), "0.41"),
            _Row("w", "watts", "W", get("mains_power_w"), "38"),
            _Row("va", "volt-amperes", "VA", get("mains_apparent_va"), "94", optional=True),
            _Row("pf", "power factor", "", get("power_factor"), "0.62", optional=True),
            _Row("crest", "crest factor", "", get("primary_crest_factor"), "3.1", optional=True),
        )
    if build.supply.converter is not None:
        battery, at = build.supply.battery, prediction["battery_v"]
        charge = Window(
            at.low - (battery.v_nominal - battery.v_empty), at.high + (battery.v_full - battery.v_nominal), "V",
            "from empty to full, as the load draws it down",
        )  # fmt: skip
        return (
            _Row("v", "volts at the battery", "V", None, "25.4", charge),
            _Row("a", "amperes", "A", get("battery_i_mean_a"), "3.2"),
            _Row("w", "watts", "W", get("battery_power_w"), "81", optional=True),
        )
    return (_Row("w", build.supply.watts_label, "W", get("supply_power_w"), "60"),)


def _drawn(build: Build, prediction: Prediction, level: str, load: Load) -> tuple[Request, ...]:
    words = {
        "rest": ("At rest", "All channels on, no signal, warm."),
        "full": ("At clipping", "1 kHz just below onset on every channel."),
    }
    group, how = words[level]
    conditions = dict(test_conditions.of_supply(build, prediction.situation, module=build.mark("module")))
    if level == "full":
        conditions["load_ohm"] = load.r_ohm
    requests = []
    for row in _rows(build, prediction):
        window = row.window or window_of(row.figure, least=0.0)
        requests.append(
            bench_request(
                test=TEST, key=f"{level}_{row.key}", channel=WHOLE, group=group, label=row.label,
                ask=f"{how} {row.label.capitalize()} as the meter shows.", unit=row.unit, window=window,
                conditions=conditions, role=Role.MAINS_METER, most=1.1 if row.key == "pf" else None,
                most_words="a power factor is at most 1", optional=row.optional,
                caution=CAUTION if level == "rest" and row.key == "v" and build.mains is not None else "",
                example=row.example, needs="all",
                probe=Probe(Point.WALL, _READ[row.key]) if build.mains is not None and row.key in _READ else None,
            )
        )  # fmt: skip
    set_at = [test_settings.source(build, prediction.situation)]
    if level == "full":
        drive = prediction["drive_v_rms"]
        set_at += (*test_settings.generator(drive.value, 1000.0, drive.high), test_settings.into(load))
    else:
        set_at.append(test_settings.silent())
    return test_settings.under(requests, *set_at)


def _switching(build: Build, prediction: Prediction) -> tuple[Request, ...]:
    figure = prediction.get("inrush_peak_a")
    if build.mains is None or figure is None or not figure.known:
        return ()
    core = prediction.get("core_inrush_a")
    high = figure.high if core is None or not core.known else max(figure.high, core.high)
    return (
        bench_request(
            test=TEST, key="inrush", channel=WHOLE, group="Switching on", label="highest peak of several",
            ask="Off for a minute each time, ten times on: the highest peak that a clamp meter held.", unit="A",
            window=Window(0.0, high, "A", "at the worst moment of closing; most closings give less",
                figure.estimated),
            conditions=test_conditions.of_supply(build, prediction.situation), role=Role.CLAMP_METER, optional=True,
            example="28",
        ),
    )  # fmt: skip


def _stored(build: Build, channel: str, prediction: Prediction) -> tuple[Request, ...]:
    key, conditions = test_conditions.supply_key(build, channel), {"supply": build.mark("supply")}
    size = _rail_f(prediction)
    low, high = size * (1.0 - CAPACITANCE_SHARE), size * (1.0 + CAPACITANCE_SHARE)
    return (
        bench_request(
            test=TEST, key="c", channel=key, group="Stored", label="capacitance of a rail",
            ask="As marked or measured, all cans of one rail together.", unit="F",
            window=Window(low, high, "F", "the reservoir of this build, within a third"), conditions=conditions,
            role=Role.CAPACITANCE_METER, optional=True, example="10m", most=MOST_TIMES * high,
            most_words=f"this build has {shown(size, 'F')} a rail",
        ),
        bench_request(
            test=TEST, key="c_v", channel=key, group="Stored", label="volts of a rail",
            ask="Meter on DC from a rail to 0 V, at rest.", unit="V",
            window=window_of(prediction.get("rail_idle_v"), least=0.0), conditions=conditions, form="magnitude",
            optional=True, example="35.1", probe=Probe(Point.RAIL_PLUS, Quantity.VOLTS_DC),
        ),
    )  # fmt: skip


def _sizes(prediction: Prediction) -> tuple[tuple[float, float], ...]:
    """Capacitance of each rail with its second stage, and its bleeder."""
    circuit = prediction.points.circuit
    return tuple((c + circuit.c2, g) for c, g in circuit.reservoirs)


def _rail_f(prediction: Prediction) -> float:
    """All capacitance of the + rail."""
    return _sizes(prediction)[0][0]


# What the readings say


def _outcomes(build: Build, rest: Prediction, full: Prediction, readings: Readings) -> tuple[Outcome, ...]:
    outcomes: list[Outcome] = []
    for level, words, prediction in (("rest", "at rest", rest), ("full", "at clipping", full)):
        held = {key: last(readings, f"{level}_{key}") for key in ("v", "a", "w", "va", "pf")}
        have = {key: reading for key, reading in held.items() if reading is not None}
        if build.mains is not None:
            outcomes += disagreements(have, words)
            outcomes += _completed(have, words, prediction)
    watts, rested = last(readings, "full_w"), last(readings, "rest_w")
    if watts is not None and rested is not None:
        more = derived(lambda a, b: a - b, measured(watts), measured(rested))
        expected = _power(build, full) - _power(build, rest)
        outcomes.append(
            Outcome(
                "Full less rest", more.words("W"),
                State.CLEAR if abs(more.value - expected) <= MORE_SHARE * expected else State.CLOSE,
                f"predicted {shown(expected, 'W')}", "What the signal alone costs.",
            )
        )  # fmt: skip
    outcomes += _energy(build, rest, readings)
    inrush = last(readings, "inrush")
    if inrush is not None:
        fuse = build.entry.fuse_a_rms
        outcomes.append(
            Outcome(
                "Switching on", f"{shown(inrush.value, 'A')} of peak", inrush.state, f"{inrush.value / fuse:.0f} "
                "× the fuse",
                "Some closings in ten come near the worst; more tries tell more.",
            )
        )  # fmt: skip
    return tuple(outcomes)


def _power(build: Build, prediction: Prediction) -> float:
    return prediction[build.supply.drawn_figure].value


def rounding(reading: Reading) -> float:
    """Half of the last digit that was typed: a bound, not a standard uncertainty."""
    return jitter_of(reading) * math.sqrt(3.0)


def _of_two_screens(made: Measured) -> Measured:
    """What is made of two readings that a meter shows one after the other, with what moves between them."""
    if made.u is None:
        return made
    return Measured(made.value, math.hypot(made.u, SCREENS_APART * abs(made.value) / math.sqrt(3.0)))


def disagreements(have: dict[str, Reading], words: str) -> list[Outcome]:
    """Readings of one meter at one time that contradict each other by more than their digits and a wandering mains."""
    outcomes = []
    rules: tuple[tuple[str, tuple[str, str], Callable[..., float]], ...] = (
        ("va", ("v", "a"), lambda v, a: v * a),
        ("pf", ("w", "va"), lambda w, s: w / s),
        ("w", ("va", "pf"), lambda s, pf: s * pf),
    )
    done: set[frozenset[str]] = set()
    for target, given, formula in rules:
        names = frozenset((target, *given))
        if names in done or any(name not in have for name in (target, *given)):
            continue
        done.add(names)
        first, second = have[given[0]], have[given[1]]
        if target == "pf" and second.value == 0.0:
            # Nothing drawn has no power factor.
            continue
        made = formula(first.value, second.value)
        bounds = [
            abs(formula(first.value + rounding(first), second.value) - made),
            abs(formula(first.value, second.value + rounding(second)) - made),
            rounding(have[target]),
        ]
        bounds += 2 * [SCREENS_APART * abs(have[target].value)]
        off = abs(made - have[target].value)
        # All of them seldom go one way: beyond that it is worth a look, beyond their sum it is wrong.
        if off > HONEST * math.hypot(*bounds) / math.sqrt(3.0):
            unit, plain = have[target].unit, _plain(have[target])
            outcomes.append(
                Outcome(
                    f"Disagree, {words}", f"{_plain(first)} and {_plain(second)} are {_four(made, unit)}, not {plain}",
                    State.OVER if off > sum(bounds) * (1.0 + 1e-9) else State.CLOSE, "",
                    "Read all of them again at one time; one was of another moment, range or line.",
                )
            )  # fmt: skip
    watts, apparent = have.get("w"), have.get("va")
    maximum = apparent.value if apparent else have["v"].value * have["a"].value if {"v", "a"} <= set(have) else None
    if watts is not None and maximum is not None and watts.value > 1.02 * maximum:
        outcomes.append(
            Outcome(
                f"Disagree, {words}", f"{_plain(watts)} is more than {_four(maximum, 'VA')}", State.OVER, "",
                "No load takes more watts than volt-amperes: one of the two was misread.",
            )
        )  # fmt: skip
    return outcomes


def _plain(reading: Reading) -> str:
    number = f"{reading.value:.10g}"
    return f"{number} {reading.unit}".strip() if reading.unit else number


def _four(value: float, unit: str) -> str:
    return f"{value:.4g} {unit}".strip()


def _completed(have: dict[str, Reading], words: str, prediction: Prediction) -> list[Outcome]:
    """What two or three of them give of the others."""
    values = {key: measured(reading) for key, reading in have.items()}
    # Again and again, because one that was found gives the next.
    for _ in range(2):
        for target, given, formula in (
            ("va", ("v", "a"), lambda v, a: v * a), ("a", ("va", "v"), lambda s, v: s / v),
            ("pf", ("w", "va"), lambda w, s: w / s), ("w", ("va", "pf"), lambda s, pf: s * pf),
            ("va", ("w", "pf"), lambda w, pf: w / pf), ("v", ("va", "a"), lambda s, a: s / a),
        ):  # fmt: skip
            if target not in values and all(name in values and values[name].value > 0.0 for name in given):
                values[target] = _of_two_screens(derived(formula, *(values[name] for name in given)))
    outcomes = []
    names = {
        "v": ("Volts", "V", None), "a": ("Amperes", "A", "primary_rms_a"), "w": ("Watts", "W", "mains_power_w"),
        "va": ("Volt-amperes", "VA", "mains_apparent_va"), "pf": ("Power factor", "", "power_factor"),
    }  # fmt: skip
    for key, value in values.items():
        if key in have:
            continue
        label, unit, name = names[key]
        figure = None if name is None else prediction.get(name)
        text = shown(value.value, unit) if value.u is None else value.words(unit)
        state = State.UNKNOWN if figure is None or not figure.known else apart(value, figure.value, figure.u)
        against = "" if figure is None else f"predicted {shown_with_spread(figure.value, figure.spread, unit)}"
        say = "No power factor is above 1: one reading is wrong." if key == "pf" and value.value > 1.02 else ""
        outcomes.append(
            Outcome(f"{label}, {words}", text, State.OVER if say else state, against, say or "From the others.")
        )
    return outcomes


def _energy(build: Build, rest: Prediction, readings: Readings) -> list[Outcome]:
    c, v = last(readings, "c"), last(readings, "c_v")
    if c is None:
        return []
    # A - rail with another reservoir counts as so much of the + rail's.
    rails = sum(c for c, _ in _sizes(rest)) / _rail_f(rest)
    volts = measured(v) if v is not None else Measured(rest["rail_idle_v"].value, rest["rail_idle_v"].u)
    joule = derived(lambda farad, at: 0.5 * rails * farad * at * at, measured(c), volts)
    figure = rest["stored_j"]
    state = State.CLEAR if abs(joule.value - figure.value) <= 0.35 * figure.value else State.OVER
    counted = "one supply" if build.supply.transformer is not None and build.supply.per_channel else "all rails"
    say = (
        f"{counted.capitalize()}. Enough to weld a screwdriver: discharge through a resistor, and meter it."
        if joule.value > 5.0
        else ""
    )
    if v is None:
        say = f"At the rail predicted, {shown(volts.value, 'V')}: read it too. {say}".strip()
    text = shown(joule.value, "J") if joule.u is None else joule.words("J")
    if build.supply.set_by_hand:
        say = f"{say} The bench supplies add their own.".strip()
    return [
        Outcome("Stored energy", text, state, f"predicted {shown_with_spread(figure.value, figure.spread, 'J')}", say)
    ]


def _drawn_once(full: Prediction) -> Callable[[Readings], Graph | None]:
    graph = functools.cache(lambda: _graph(full))
    return lambda _readings: graph()


def _graph(full: Prediction) -> Graph | None:
    """The current from the wall over two mains cycles, predicted at clipping."""
    wall = full.wall
    if wall is None:
        return None
    cycle = 1.0 / full.situation.frequency_of_mains(full.build)
    t = np.linspace(0.0, 2.0 * cycle, 401)
    v, i = wall.at(t)
    watts, rms = wall.flow.p_w, math.sqrt(float(np.mean(wall.v[:-1] ** 2)))
    return Graph(
        "From the wall, clipping",
        "t",
        "ms",
        "A over ms",
        (
            Series(
                "resistor", t, v * watts / rms**2, role="zero", unit="A", label="resistor of the same watts",
                label_at="below",
            ),
            *_as_a_switcher(full, t, watts),
            Series("predicted", t, i, "pred", "A", "predicted"),
        ),
        x_scale=1e3,
    )  # fmt: skip


def _as_a_switcher(full: Prediction, t: Array, watts: float) -> tuple[Series, ...]:
    """What a plain switcher of the same watts would draw, beside a transformer; a usual one, so an estimate."""
    build, situation = full.build, full.situation
    if build.supply.transformer is None or watts <= 0.0:
        return ()
    hz, mains = situation.frequency_of_mains(build), situation.mains_rms(build)
    try:
        bulk = bulk_state(
            watts, mains, hz, USUAL_BULK_F_PER_W * watts * (230.0 / mains) ** 2, USUAL_LINE_OHM,
            situation.third_harmonic,
            v_bridge=MAINS_BRIDGE_V, esr_ohm=BULK_ESR_OHM,
        )  # fmt: skip
    except PhysicsError:
        return ()
    half = np.linspace(0.0, 0.5 / hz, len(bulk.i_mains_a))
    turns = np.floor(t * 2.0 * hz + 1e-9)
    i = np.where(turns % 2 > 0, -1.0, 1.0) * np.interp(t - turns * 0.5 / hz, half, bulk.i_mains_a)
    return (
        Series(
            "plain switcher, estimated", t, i, role="ink2", unit="A", label="plain switcher, estimated",
            label_at="below",
        ),
    )  # fmt: skip
