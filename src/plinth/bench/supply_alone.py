"""The supply alone, into what a builder hangs on its rails in place of the boards: resistors or a set current.

Volts, ripple, charging peak and the watts drawn are asked for at each load; watts given, efficiency, what stands behind
the rails and the energy in each capacitor follow from the readings.
"""

import dataclasses
import math

import numpy as np

from plinth.bench import test_conditions, test_settings
from plinth.bench.sheet import (
    Measured,
    Outcome,
    Readings,
    apart,
    bench_request,
    beside,
    derived,
    last,
    measured,
    of_figures,
    window_of,
)
from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.builds.rail_load import RailLoad
from plinth.builds.situation import Situation
from plinth.judge.margin import LIMIT_SLACK
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.figure import Figure
from plinth.predict.input import Input
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.record.request import Request
from plinth.units.shown import shown

# Ripple below this is not what a scope at a rail shows.
LEAST_RIPPLE_V = 2e-3
# A resistor is within this of what is typed of it, as such are marked; a set current within this of its setting.
OHM_SHARE, A_SHARE = 0.05, 0.02
# A resistor that takes a steady load is rated for twice its heat.
RATED_TIMES = 2.0
# From here on a resistor is too hot to touch, W.
HOT_W = 2.0
# Beyond so many times its rated current a winding is not loaded for a reading.
MOST_OF_WINDING = 2.0
# Above these volts of direct current a touch is dangerous (extra-low voltage, IEC 61140).
TOUCH_V = 60.0
CAUTION = (
    "Switch off and discharge before the load is hung on or taken off; boards stay unplugged. It gets hot: nothing "
    "that burns near it."
)
TOUCH_CAUTION = (
    f"Between the ends of this supply stand more than {TOUCH_V:g} V of direct current: touch-proof clips, one hand, "
    "and nobody alone."
)


@dataclasses.dataclass(frozen=True)
class Loaded:
    """The supply with one load on each of its rails; ``prediction`` None where it is not to be tried: ``why``."""

    load: RailLoad
    prediction: Prediction | None
    why: str = ""

    @property
    def share(self) -> float:
        """How far the load may be off what was typed of it."""
        return OHM_SHARE if self.load.r_ohm is not None else A_SHARE

    @property
    def u_share(self) -> float:
        """The same as standard uncertainty: a bound (GUM 4.3.7)."""
        return self.share / math.sqrt(3.0)

    def beside_load(self, figure: Figure | None, moved: float | None = None) -> Figure | None:
        """A figure with what the load adds to its spread: ``moved`` (None: all of it) goes with its current."""
        if figure is None:
            return None
        of = figure.value if moved is None else moved
        return dataclasses.replace(figure, u=math.hypot(figure.u, self.u_share * of))

    @property
    def group(self) -> str:
        """Its heading."""
        return f"Supply alone, {self.load.words}"

    def key(self, what: str) -> str:
        """What a reading of it is known by."""
        return f"alone_{self.load.key}_{what}"


def sides(build: Build) -> tuple[tuple[str, str], ...]:
    """The rails of a supply: their key, their sign."""
    return (("plus", "+"),) if build.supply.single_rail else (("plus", "+"), ("minus", "−"))


def loaded(build: Build, situation: Situation) -> tuple[Loaded, ...]:
    """The supply of ``build`` with each of its rail loads, predicted."""
    steps = []
    for load in build.rail_loads:
        changes = {"rail_load_ohm": load.r_ohm} if load.r_ohm is not None else {"rail_load_a": load.i_a}
        try:
            prediction = solve(build, situation.model_copy(update=changes))
        except PhysicsError as error:
            steps.append(Loaded(load, None, str(error)))
            continue
        why = _too_much(build, load, prediction)
        steps.append(Loaded(load, None if why else prediction, why))
    return tuple(steps)


def asked(
    build: Build, channel: str, alone: Prediction, steps: tuple[Loaded, ...], most: float | None
) -> tuple[Request, ...]:
    """What is read at each load; ``alone`` nothing on it, ``most`` the highest that any rail of it stands at, V."""
    return tuple(
        request
        for step in steps
        if step.prediction is not None
        for request in _asked_at(build, channel, alone, step, step.prediction, most=most)
    )


def _asked_at(
    build: Build, channel: str, alone: Prediction, step: Loaded, prediction: Prediction, *, most: float | None
) -> tuple[Request, ...]:
    key = test_conditions.supply_key(build, channel)
    conditions = test_conditions.of_supply(build, prediction.situation)
    how = _how(build, step.load, prediction)
    names = {side: f"rail_{side}_mean_v" for side, _ in sides(build)}
    drop = {side: alone[name].value - prediction[name].value for side, name in names.items()}
    limit = "" if most is None else f"this supply gives at most {shown(most, 'V')}"
    requests = [
        bench_request(
            test="rails", key=step.key(side), channel=key, group=step.group, label=f"{sign} rail",
            ask=f"{how} {sign} rail to 0 V, DC.", unit="V",
            window=window_of(step.beside_load(prediction[f"rail_{side}_mean_v"], drop[side]), least=0.0),
            conditions=conditions, form="magnitude", most=most, most_words=limit, needs="nothing", example="34.8",
            caution=_caution(build, prediction) if side == "plus" else "",
        )
        for side, sign in sides(build)
    ]  # fmt: skip
    for side, sign in sides(build):
        ripple = prediction.get(f"rail_{side}_ripple_v_pp")
        if ripple is not None and ripple.known and ripple.value > LEAST_RIPPLE_V:
            requests.append(
                bench_request(
                    test="rails", key=step.key(f"ripple_{side}"), channel=key, group=step.group,
                    label=f"{sign} rail ripple, p-p", ask=f"{how} Scope on AC at the {sign} rail: highest to lowest.",
                    unit="V", window=window_of(step.beside_load(ripple), least=0.0), conditions=conditions,
                    form="ripple", role=Role.SCOPE, most=most, most_words=limit, example="1.8pp", optional=True,
                    needs="nothing",
                )
            )  # fmt: skip
    if not build.supply.set_by_hand:
        drawn = "watts from the wall" if build.mains is not None else build.supply.watts_label
        every = "Every supply loaded alike. " if _supplies(build) > 1 else ""
        requests.append(
            bench_request(
                test="rails", key=step.key("w"), channel=key, group=step.group, label=drawn,
                ask=f"{how} {every}{drawn.capitalize()} as the meter shows.", unit="W",
                window=window_of(step.beside_load(prediction.get(build.supply.drawn_figure)), least=0.0),
                conditions=conditions,
                role=Role.MAINS_METER, optional=True, example="60", needs="nothing",
            )
        )  # fmt: skip
    peak = prediction.get("diode_plus_peak_a")
    if build.supply.transformer is not None and peak is not None and peak.known:
        requests.append(
            bench_request(
                test="rails", key=step.key("peak"), channel=key, group=step.group, label="charging peak, steady",
                ask=f"{how} Clamp around one lead from the rectifier to the + reservoir: highest of a pulse.",
                unit="A", window=window_of(step.beside_load(peak), least=0.0), conditions=conditions, form="magnitude",
                role=Role.CLAMP_METER, optional=True, example="7.6", needs="nothing",
            )
        )  # fmt: skip
    return test_settings.under(requests, test_settings.source(build, prediction.situation))


def _how(build: Build, load: RailLoad, prediction: Prediction) -> str:
    on, each = ("the rail", "") if build.supply.single_rail else ("each rail", " each")
    watts = _hottest_w(build, load, prediction)
    rated = ""
    if load.r_ohm is not None and watts > HOT_W:
        rated = f", rated for {shown(RATED_TIMES * watts, 'W', 2)} or more,"
    ratio = prediction.get("winding_load_ratio")
    beyond = ratio is not None and ratio.known and ratio.value > 1.0 + LIMIT_SLACK
    brief = " A few seconds only: it is more than the winding's rating." if beyond else ""
    return f"Boards unplugged. {load.words}{rated} from {on} to 0 V: {shown(watts, 'W', 2)} of heat{each}.{brief}"


def _hottest_w(build: Build, load: RailLoad, prediction: Prediction) -> float:
    """What one load turns into heat at the highest that its rail may stand at, W."""
    return load.watts(max(prediction[f"rail_{side}_mean_v"].high for side, _ in sides(build)))


def _too_much(build: Build, load: RailLoad, prediction: Prediction) -> str:
    """Why this supply is not to be tried with this load; empty where it may be."""
    supply, volts = build.supply, [prediction[f"rail_{side}_mean_v"].value for side, _ in sides(build)]
    ratio = prediction.get("winding_load_ratio")
    if ratio is not None and ratio.known and ratio.value > MOST_OF_WINDING * (1.0 + LIMIT_SLACK):
        return f"the windings would carry {ratio.value:.1f} times their rating"
    if supply.limit_a is not None and max(load.amperes(v) for v in volts) > supply.limit_a * (1.0 + LIMIT_SLACK):
        return f"it would draw more than {supply.limit_a:g} A, at which the supply {supply.at_its_limit}"
    watts = sum(load.watts(v) for v in volts)
    if supply.continuous_w is not None and watts > supply.continuous_w * (1.0 + LIMIT_SLACK):
        return f"it would draw {shown(watts, 'W')} of {supply.continuous_w:g} W that the supply gives for good"
    return ""


def _caution(build: Build, prediction: Prediction) -> str:
    ends = sum(prediction[f"rail_{side}_max_v"].high for side, _ in sides(build))
    return f"{CAUTION} {TOUCH_CAUTION}" if ends > TOUCH_V else CAUTION


def _supplies(build: Build) -> int:
    """How many like supplies hang on the wall."""
    return len(build.channels) if build.one_supply_per_channel else 1


# What the readings say


def outcomes(build: Build, alone: Prediction, steps: tuple[Loaded, ...], readings: Readings) -> tuple[Outcome, ...]:
    """What came of the readings with each load; ``alone`` the supply with nothing on it."""
    outcomes: list[Outcome] = []
    for step in steps:
        if step.prediction is None:
            outcomes.append(
                Outcome(
                    f"Into {step.load.words}", "nothing to read", State.OVER, "",
                    f"Not to be tried: {step.why}. Choose a lighter load.",
                )
            )  # fmt: skip
            continue
        outcomes += _given(build, step, step.prediction, readings)
        for side, sign in sides(build):
            outcomes += _behind(alone, step, step.prediction, side, sign, readings)
    return (*outcomes, *_stored(build, alone, readings))


def _given(build: Build, step: Loaded, prediction: Prediction, readings: Readings) -> list[Outcome]:
    """Watts into the loads, and their share of what is drawn."""
    load, times = step.load, _supplies(build)
    held = [last(readings, step.key(side)) for side, _ in sides(build)]
    volts = [measured(reading) for reading in held if reading is not None]
    if len(volts) < len(held):
        return []
    figures = [prediction[f"rail_{side}_mean_v"] for side, _ in sides(build)]

    def watts(*rails: float) -> float:
        return sum(load.watts(v) for v in rails)

    def given_w(times_load: float, *rails: float) -> float:
        return times_load * watts(*rails)

    # What the load may be off is alike in both: it is counted where the reading is.
    off = Measured(1.0, step.u_share)
    given, expected = derived(given_w, off, *volts), of_figures(watts, *figures)
    within = f"With the load within {100.0 * step.share:g} % of what was typed."
    made = [
        Outcome(
            f"Into {load.words}", given.words("W"), apart(given, expected.value, expected.u or 0.0),
            f"predicted {expected.words('W')}",
            f"On both rails together. {within}" if len(volts) > 1 else within,
        )
    ]  # fmt: skip
    drawn, figure = last(readings, step.key("w")), prediction.get(build.supply.drawn_figure)
    if drawn is None or drawn.value <= 0.0 or figure is None or not figure.known:
        return made

    def share(w: float, times_load: float, *rails: float) -> float:
        return 100.0 * times * times_load * watts(*rails) / w

    efficiency = derived(share, measured(drawn), off, *volts)
    ideal = of_figures(lambda w, *rails: share(w, 1.0, *rails), figure, *figures)
    state = apart(efficiency, ideal.value, ideal.u or 0.0)
    over = efficiency.value - 2.0 * (efficiency.u or 0.0) > 100.0
    say = (
        "No supply gives more than it takes: one reading is wrong, or the load is not what was typed."
        if over
        else "The rest is heat in windings, core and diodes."
        if build.supply.transformer is not None
        else "The rest is heat in the supply."
    )
    made.append(
        Outcome(
            f"Efficiency into {load.words}", efficiency.words("%"), State.OVER if over else state,
            f"predicted {ideal.words('%')}", say,
        )
    )  # fmt: skip
    return made


def _behind(
    alone: Prediction, step: Loaded, prediction: Prediction, side: str, sign: str, readings: Readings
) -> list[Outcome]:
    """Ohms behind a rail, from nothing on it to this load."""
    none, held = last(readings, f"none_{side}"), last(readings, step.key(side))
    name = f"rail_{side}_mean_v"
    if none is None or held is None or held.value <= 0.0:
        return []

    def ohm(a: float, b: float, times_load: float = 1.0) -> float:
        return (a - b) / (times_load * step.load.amperes(b))

    behind = derived(ohm, *beside(none, held), Measured(1.0, step.u_share))
    expected = of_figures(ohm, alone[name], prediction[name])
    return [
        Outcome(
            f"Behind the {sign} rail, {step.load.words}", behind.words("ohm"),
            apart(behind, expected.value, expected.u or 0.0), f"predicted {expected.words('ohm')}",
            f"From nothing on it to {shown(step.load.amperes(held.value), 'A')} of it.",
        )
    ]  # fmt: skip


# The capacitors of a rail: the input that tells how large it is, what it is called.
_OF_RAILS = {
    "plus": (("c", "+ reservoir"), ("c2", "+ second capacitor")),
    "minus": (("c_minus", "− reservoir"), ("c2", "− second capacitor")),
}


def _stored(build: Build, alone: Prediction, readings: Readings) -> list[Outcome]:
    """The energy in each capacitor at the rails read with nothing on them."""
    made = []
    for side, _ in sides(build):
        none = last(readings, f"none_{side}")
        for key, name in _OF_RAILS[side]:
            given = alone.inputs.get(key, alone.inputs.get("c") if key == "c_minus" else None)
            if none is None or given is None:
                continue
            joule = derived(lambda c, v: 0.5 * c * v * v, Measured(given.value, given.u), measured(none))
            made.append(
                Outcome(
                    f"In the {name}", joule.words("J"), State.UNKNOWN, _capacitance(given),
                    f"At {shown(none.value, 'V')}. Discharge it through a resistor, and meter it.",
                )
            )  # fmt: skip
    bulk, wall = alone.inputs.get("c_bulk"), alone.wall
    if made and bulk is not None and wall is not None and wall.bulk is not None:
        v = float(np.max(wall.bulk.v))
        made.append(
            Outcome(
                "In the switcher's own capacitor", f"about {shown(0.5 * bulk.value * v * v, 'J')}", State.UNKNOWN,
                f"{_capacitance(bulk)}, at {v:.0f} V; not read",
                "Several hundred volts, also after switch-off: its cover stays on.",
            )
        )  # fmt: skip
    return made


def _capacitance(given: Input) -> str:
    return f"{shown(given.value, 'F')}, {'estimated' if given.estimated else 'as in the plan'}"
