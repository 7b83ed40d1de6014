"""Clipping power into dummy loads, by eye at onset."""

import dataclasses
import datetime as dt
import math
from collections.abc import Mapping

from plinth.bench.clip_verdict import (
    ClipVerdict,
    Listed,
    band_kept,
    band_of,
    claim_facts,
    judge_watts,
    listed,
    listed_then,
    unexplained_words,
)
from plinth.builds.build import Build
from plinth.builds.instruments import BenchKit, Instrument
from plinth.builds.parts import Load
from plinth.builds.situation import Situation
from plinth.judge.claims import claim_for
from plinth.judge.margin import LIMIT_SLACK
from plinth.judge.window import ABOUT_SHARE
from plinth.physics.heat import rises
from plinth.physics.stages import levels
from plinth.predict.figure import Figure
from plinth.predict.inputs import from_tolerance
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.record.conditions import Conditions
from plinth.record.reading import Reading
from plinth.record.subject import Kind, Subject
from plinth.units.bounds import Bound
from plinth.units.level import Form, TypedLevel
from plinth.units.shown import shown, shown_with_spread

NEAR_SHARE = 0.15


def conditions_of(prediction: Prediction, load: Load) -> Conditions:
    """Under which conditions a clipping reading holds: boards, supply, rail without load, mains, and the load."""
    build = prediction.build
    found: dict[str, float | str] = {
        "module": build.mark("module"), "supply": build.mark("supply"), "load_ohm": load.r_ohm,
        "rail_v": prediction["rail_no_load_v"].value,
    }  # fmt: skip
    if build.mains is not None:
        found["mains_v"] = prediction.situation.mains_rms(build)
    return found


def clip_subject(build: Build, channel: str, driven: str, load: Load) -> str:
    """The subject of clipping readings of a channel into a load; ``driven`` one or all."""
    return Subject(Kind.CLIP, build.key_of(channel), load.identity, driven).text


@dataclasses.dataclass(frozen=True)
class ClipCell:
    """One cell of the table: which channels play into which load, and what is predicted there."""

    channel: str
    driven: str
    load: Load
    prediction: Prediction

    @property
    def subject(self) -> str:
        """The subject of its readings."""
        return clip_subject(self.prediction.build, self.channel, self.driven, self.load)

    @property
    def conditions(self) -> Conditions:
        """What its readings hold for: these boards on this supply, at this rail and mains, into this load."""
        return conditions_of(self.prediction, self.load)

    @property
    def most_v_peak(self) -> float:
        """The most that the output can swing: its rail without load at high mains, with spread; a bridge, twice."""
        build, rail = self.prediction.build, self.prediction["rail_no_load_high_v"].high
        return 2.0 * rail if build.wiring == "bridged" and not build.supply.single_rail else rail

    @property
    def label(self) -> str:
        """In words."""
        who = "alone" if self.driven == "one" else "all channels"
        return f"{self.channel}, {who}, {self.load.r_ohm:g} Ω"

    @property
    def v_peak(self) -> Figure:
        """Predicted output at onset, volts of peak."""
        return self.prediction["clip_worst_v_peak"]

    @property
    def power(self) -> Figure:
        """Predicted power at onset."""
        return self.prediction["clip_worst_power_w"]


def clip_cells(build: Build, channel: str, situation: Situation) -> tuple[ClipCell, ...]:
    """All cells for ``channel``: alone and all channels driven, each of the build's dummy loads."""
    loads = build.loads or (build.load,)
    driven = ("one",) if len(build.channels) == 1 else ("one", "all")
    cells = []
    for who in driven:
        for load in loads:
            here = build.model_copy(update={"load": load})
            asked = situation.model_copy(
                update={"channels_driven": who, "load_ohm": None, "level": 1.0, "frequency_hz": 1000.0}
            )
            cells.append(ClipCell(channel, who, load, solve(here, asked)))
    return tuple(cells)


@dataclasses.dataclass(frozen=True)
class SetUp:
    """How to run a cell: generator level for onset, where to start, and how long the load may carry it."""

    drive_v_rms: Figure
    start_v_rms: float
    most_v_rms: float
    allowed_s: float
    rating: str


def set_up(cell: ClipCell, read_w: float | None = None) -> SetUp:
    """Generator and load limits for a cell, for the most that it may bring: as predicted, or as was read."""
    drive, load = cell.prediction["drive_v_rms"], cell.load
    most_w = max(cell.power.high, read_w or 0.0)
    if load.p_carried_w is None:
        allowed, rating = 0.0, "No rating is stated for this load: keep it to a few seconds and let it cool."
    elif most_w <= load.p_carried_w * (1.0 + LIMIT_SLACK):
        allowed, rating = math.inf, f"Rated {load.p_carried_w:g} W: it may stay on."
    elif load.time_constant_s:
        allowed = rises.time_to_rated_rise_s(most_w, load.p_carried_w, load.time_constant_s)
        rating = f"Rated {load.p_carried_w:g} W: at most {allowed:.0f} s from cold, then let it cool."
    else:
        allowed, rating = 0.0, f"Above its {load.p_carried_w:g} W: keep it to a few seconds and let it cool."
    return SetUp(drive, 0.5 * drive.value, 1.15 * drive.high, allowed, rating)


@dataclasses.dataclass(frozen=True)
class Understood:
    """A level taken in one form: RMS volts, watts with standard uncertainty, and how it stands to the prediction.

    ``slip`` what else than the form would have been mistaken (``a tenth of it``); empty for the level as typed.
    ``bound``: volts and watts are only a bound.
    """

    form: Form
    v_rms: float
    power_w: float
    u_power_w: float | None
    possible: bool
    near: bool
    slip: str = ""
    bound: Bound = Bound.NONE

    @property
    def words(self) -> str:
        """``42.7 V peak to peak`` and so on are put before this: rms and watts."""
        volts = f"{shown(self.v_rms, 'V')} rms"
        if self.bound.one_sided:
            return f"{volts} = {shown(self.power_w, 'W')}, as a bound"
        if self.u_power_w is None:
            return f"{volts} = {shown(self.power_w, 'W')}, accuracy of the instrument not stated"
        return f"{volts} = {shown_with_spread(self.power_w, 2.0 * self.u_power_w, 'W')}"


@dataclasses.dataclass(frozen=True)
class Interpretation:
    """``taken`` None means that the question must be answered first, by one of ``choices``."""

    typed: TypedLevel
    taken: Understood | None
    choices: tuple[Understood, ...]
    sentence: str


def instrument_for(form: Form, kit: BenchKit) -> Instrument:
    """Peak readings come from the scope, RMS from the meter."""
    return kit.meter if form is Form.RMS else kit.scope


def understand(typed: TypedLevel, cell: ClipCell, kit: BenchKit) -> Interpretation:
    """How a typed level is to be taken in this cell, and whether to ask first.

    Asked where no form was typed and more than one is possible, or where the form typed does not fit the
    prediction and another one would.
    """
    every = {form: _understood(typed, form, cell, kit) for form in Form}
    if typed.form is None:
        possible = [one for one in every.values() if one.possible]
        if len(possible) == 1:
            only = possible[0]
            return Interpretation(typed, only, (), f"Taken as {only.form.words}: anything else is beyond these rails.")
        if not possible:
            return Interpretation(
                typed, None, tuple(every.values()), "Beyond these rails whichever way it is meant. Which was it?"
            )
        ordered = tuple(sorted(possible, key=lambda one: abs(one.power_w - cell.power.value)))
        return Interpretation(typed, None, ordered, "Peak to peak, peak or rms? Each is possible here.")
    taken = every[typed.form]
    if not taken.possible:
        return _impossible(typed, taken, cell, kit)
    if not taken.near:
        others = tuple(one for one in every.values() if one.form is not typed.form and one.near)
        if others:
            how = "is beyond these rails" if not taken.possible else f"is far from {_predicted(cell)}"
            return Interpretation(
                typed, None, (*others, taken),
                f"Taken as {taken.form.words} this is {shown(taken.power_w, 'W')}, which {how}; "
                f"as {others[0].form.words} it would fit. Which did it say?",
            )  # fmt: skip
    other = max((one for one in every.values() if one.form is not taken.form), key=lambda one: one.power_w)
    sentence = (
        "" if other.possible else f"Taken as {other.form.words}: {shown(other.power_w, 'W')}, beyond these rails."
    )
    return Interpretation(typed, taken, (), sentence)


def _impossible(typed: TypedLevel, taken: Understood, cell: ClipCell, kit: BenchKit) -> Interpretation:
    """A level beyond what these rails can give: asked about, with what each usual slip would mean."""
    tenth = dataclasses.replace(typed, volts=0.1 * typed.volts)
    slips = [
        *(_understood(typed, form, cell, kit) for form in Form if form is not typed.form),
        dataclasses.replace(_understood(tenth, taken.form, cell, kit), slip="a tenth of it"),
    ]
    fitting = sorted((one for one in slips if one.possible), key=lambda one: abs(one.power_w - cell.power.value))
    others = "; ".join(
        f"into {load.r_ohm:g} Ω it would be {shown(levels.power_w(taken.v_rms, load.r_ohm), 'W')}"
        for load in cell.prediction.build.loads
        if load.name != cell.load.name
    )
    return Interpretation(
        typed, None, (*fitting, taken),
        f"{shown(levels.peak_from_rms(taken.v_rms), 'V')} of peak is beyond these rails, which leave at most "
        f"{shown(cell.most_v_peak, 'V')} on the highest mains. Which did it say?"
        + (f" The load may be another one: {others}." if others else ""),
    )  # fmt: skip


def _predicted(cell: ClipCell) -> str:
    return f"the {shown_with_spread(cell.power.value, cell.power.spread, 'W')} predicted"


def _understood(typed: TypedLevel, form: Form, cell: ClipCell, kit: BenchKit) -> Understood:
    v_rms, r = typed.rms(form), cell.load.r_ohm
    power = levels.power_w(v_rms, r)
    u_volts = instrument_for(form, kit).u(typed.volts)
    if typed.bound is Bound.ABOUT:
        u_volts = math.hypot(u_volts or 0.0, from_tolerance(typed.volts, ABOUT_SHARE))
    u_power = None
    if u_volts is not None:
        u_power = power * math.hypot(2.0 * u_volts / typed.volts, from_tolerance(1.0, cell.load.r_tol))
    predicted = cell.prediction["clip_worst_v_peak"]
    u_read = 0.0 if u_power is None else u_power / power / 2.0 * v_rms
    room = max(NEAR_SHARE * predicted.value, 3.0 * math.hypot(predicted.u, u_read)) / math.sqrt(2.0)
    over = v_rms - levels.rms_from_peak(predicted.value)
    # A bound fits where the level that it leaves open does.
    near = {Bound.ABOVE: over <= room, Bound.BELOW: over >= -room}.get(typed.bound, abs(over) <= room)
    return Understood(
        form, v_rms, power, u_power,
        possible=typed.bound is Bound.BELOW
        or levels.peak_from_rms(v_rms) - 3.0 * math.sqrt(2.0) * u_read <= cell.most_v_peak,
        near=near, bound=typed.bound,
    )  # fmt: skip


def judge_clipping(cell: ClipCell, power_w: float, u_power_w: float | None, bound: Bound = Bound.NONE) -> ClipVerdict:
    """A measured power at onset against this cell's prediction and the listing."""
    return judge_watts(band_of(cell.power), cell.most_v_peak, cell.load.r_ohm, _listed(cell), power_w, u_power_w, bound)


def _listed(cell: ClipCell) -> Listed | None:
    module = cell.prediction.build.module
    return listed(claim_for(module, cell.load.r_ohm), module, cell.prediction["rail_no_load_v"].value)


def reading_for_cell(
    cell: ClipCell,
    taken: Understood,
    typed: str,
    kit: BenchKit,
    at: dt.datetime,
    further: Mapping[str, float | str] | None = None,
) -> Reading:
    """The reading to keep: power at onset in W, with the facts that its verdict rests on and those of ``further``."""
    verdict, module = judge_clipping(cell, taken.power_w, taken.u_power_w, taken.bound), cell.prediction.build.module
    facts: dict[str, float | str] = {
        "form": str(taken.form),
        "most_v_peak": cell.most_v_peak,
        "load_ohm": cell.load.r_ohm,
    }
    return Reading(
        subject=cell.subject, label=f"Clipping power, {cell.label}", typed=typed.strip(), value=taken.power_w,
        unit="W", u=taken.u_power_w, instrument=instrument_for(taken.form, kit).name, taken_at=at,
        state=verdict.state, low=cell.power.low, high=cell.power.high, bound=taken.bound, conditions=cell.conditions,
        facts=facts | claim_facts(claim_for(module, cell.load.r_ohm), module) | dict(further or {}),
    )  # fmt: skip


def sentence_of(reading: Reading) -> str:
    """What was said of a clipping reading when it was taken, from what was kept of it."""
    most, r_ohm, band = reading.number("most_v_peak"), reading.number("load_ohm"), band_kept(reading)
    if most is None or r_ohm is None or band is None:
        return reading.said
    verdict = judge_watts(band, most, r_ohm, listed_then(reading), reading.value, reading.u, reading.bound)
    bias = unexplained_words(reading.value, reading.facts)
    return f"Understood as {Form(reading.word('form')).words}. {verdict.sentence} {bias}".strip()
