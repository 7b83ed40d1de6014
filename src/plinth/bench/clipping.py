"""Clipping power into dummy loads, by eye at onset."""

import dataclasses
import datetime as dt
import math
from collections.abc import Mapping
from typing import Literal

from plinth.bench import onset_read, test_settings
from plinth.bench.clip_verdict import (
    Band,
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
from plinth.bench.test_conditions import MAINS_SHARE, source_words
from plinth.builds.build import Build
from plinth.builds.instruments import BenchKit, Instrument, Role
from plinth.builds.modules import PowerClaim
from plinth.builds.parts import Load
from plinth.builds.situation import Situation
from plinth.builds.supplies import DirectSupply
from plinth.judge.claims import THD_OF, claim_for
from plinth.judge.margin import LIMIT_SLACK
from plinth.judge.state import State
from plinth.judge.window import ABOUT_SHARE, Window
from plinth.physics.heat import rises
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.stages import levels
from plinth.predict.distortion import power_figure_at
from plinth.predict.figure import Figure
from plinth.predict.input import from_tolerance
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve, worst_figures
from plinth.record.conditions import Conditions
from plinth.record.meaning import Meaning, reading_of
from plinth.record.reading import Reading
from plinth.record.request import Request, Setting
from plinth.record.subject import Kind, Subject, read_subject
from plinth.units.bounds import Bound
from plinth.units.errors import QuantityError
from plinth.units.level import Form, TypedLevel
from plinth.units.shown import shown, shown_with_spread

NEAR_SHARE = 0.15
OVERDRIVE = 2.0
NOT_PREDICTED = "Not predicted at this distortion: held against nothing."


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


Driven = Literal["one", "all"]
Definition = Literal["onset", "thd_1", "thd_10"]
DEFINITIONS: dict[Definition, str] = {"onset": "Onset, by eye", "thd_1": "1 % distortion", "thd_10": "10 % distortion"}
_KINDS = {"onset": Kind.CLIP, "thd_1": Kind.CLIP_1, "thd_10": Kind.CLIP_10}


@dataclasses.dataclass(frozen=True)
class ClipCell:
    """One cell of the table: which channels play into which load from which source, and what is predicted there.

    ``source`` the mains, battery or bench volts in words; ``definition`` what is called clipping: the onset by eye, or
    a distortion, which is another power and never held against the onset. ``at_thd`` the power predicted there, None
    where it is not computed.
    """

    channel: str
    driven: str
    load: Load
    prediction: Prediction
    source: str = ""
    definition: Definition = "onset"
    at_thd: Figure | None = None

    @property
    def subject(self) -> str:
        """The subject of its readings."""
        key = self.prediction.build.key_of(self.channel)
        return Subject(_KINDS[self.definition], key, self.load.identity, self.driven).text

    @property
    def conditions(self) -> Conditions:
        """What its readings hold for: these boards on this supply, at this rail and mains, into this load."""
        return conditions_of(self.prediction, self.load)

    @property
    def most_v_peak(self) -> float:
        """The most that the output can swing: its rail without load at high mains, with spread; a bridge, twice.

        At a distortion that of a sine of the same RMS, which a square wave of that height has.
        """
        build, rail = self.prediction.build, self.prediction["rail_no_load_high_v"].high
        swing = 2.0 * rail if build.wiring == "bridged" and not build.supply.single_rail else rail
        return swing if self.definition == "onset" else levels.peak_from_rms(swing)

    @property
    def label(self) -> str:
        """In words."""
        who = "alone" if self.driven == "one" else "all channels"
        source = f"{self.source}, " if self.source else ""
        what = "" if self.definition == "onset" else f", at {DEFINITIONS[self.definition]}"
        return f"{source}{self.channel}, {who}, {self.load.r_ohm:g} Ω{what}"

    @property
    def v_peak(self) -> Figure:
        """Predicted output at onset, volts of peak."""
        return self.prediction["clip_worst_v_peak"]

    @property
    def power(self) -> Figure:
        """Predicted power at onset, or at the distortion; of one that is not computed at least that of the onset."""
        return self.at_thd if self.at_thd is not None else self.prediction["clip_worst_power_w"]

    @property
    def is_predicted(self) -> bool:
        """Whether the power is predicted as it is defined here."""
        return self.definition == "onset" or self.at_thd is not None

    def at(self, definition: Definition) -> "ClipCell":
        """The same cell at another definition of clipping; takes as long as a few predictions. Raises PhysicsError."""
        if definition == "onset":
            return dataclasses.replace(self, definition=definition, at_thd=None)
        found = power_figure_at(self.prediction, THD_OF[definition])
        return dataclasses.replace(self, definition=definition, at_thd=found)


def clip_cells(build: Build, channel: str, situation: Situation) -> tuple[ClipCell, ...]:
    """All cells for ``channel`` from the source as it is."""
    return tuple(clip_cell(build, channel, situation, who, load) for who, load in clip_places(build))


def clip_places(build: Build) -> tuple[tuple[Driven, Load], ...]:
    """Who plays into which load: alone and all driven, each of the build's dummy loads."""
    driven: tuple[Driven, ...] = ("one",) if len(build.channels) == 1 else ("one", "all")
    return tuple((who, load) for who in driven for load in build.loads or (build.load,))


def clip_cell(build: Build, channel: str, situation: Situation, who: Driven, load: Load) -> ClipCell:
    """One cell from the source as it is. Raises PhysicsError where it cannot run so."""
    here = build.model_copy(update={"load": load})
    asked = situation.model_copy(
        update={"channels_driven": who, "load_ohm": None, "level": 1.0, "frequency_hz": 1000.0}
    )
    return ClipCell(channel, who, load, solve(here, asked), source_words(build, asked))


def further_sources(build: Build, situation: Situation) -> tuple[tuple[Build, Situation], ...]:
    """The same build from its source as low and as high as it may be: mains 10 % off, a battery empty and full.

    Of bench supplies half and three quarters of their volts, where the module works from them.
    """
    if build.mains is not None:
        mains = situation.mains_rms(build)
        volts = [float(round(mains * factor)) for factor in (1.0 - MAINS_SHARE, 1.0 + MAINS_SHARE)]
        return tuple((build, situation.model_copy(update={"mains_v_rms": one})) for one in volts)
    battery = build.supply.battery
    if battery is not None:
        ends = [one for one in (battery.v_empty, battery.v_full) if abs(one - situation.battery(build)) > 0.01 * one]
        return tuple((build, situation.model_copy(update={"battery_v": one})) for one in ends)
    supply = build.supply
    if not isinstance(supply, DirectSupply):
        return ()
    found = []
    for share in (0.5, 0.75):
        volts_each = float(f"{share * supply.source.v_rail:.2g}")
        if volts_each >= build.module.v_rail_min:
            source = supply.source.model_copy(update={"v_rail": volts_each})
            changed = supply.model_copy(update={"source": source})
            found.append((build.model_copy(update={"supply": changed}), situation))
    return tuple(found)


def _at_source(cell: ClipCell, build: Build, situation: Situation) -> Prediction:
    """A cell's prediction at another source; its worst phase is that of the cell."""
    known, here = cell.prediction, build.model_copy(update={"load": cell.load})
    if build.supply.set_by_hand:
        # Half the volts are another build: what is lost below the rail weighs twice as much there.
        return solve(here, situation)
    found = solve(here, situation, known)
    ratio = known["clip_worst_v_peak"].value / known["clip_v_peak"].value
    return dataclasses.replace(found, figures={**found.figures, **worst_figures(found.figures, ratio)})


def further_cells(cells: tuple[ClipCell, ...], build: Build, situation: Situation) -> tuple[ClipCell, ...]:
    """The same cells from the source as low and as high as it may be; those from which it cannot run are left out.

    Their spreads are those of the cell at the source as it is, relative to the power: the same parts make them.
    """
    found = []
    for here, at in further_sources(build, situation):
        for cell in cells:
            changed = cell.prediction.situation.model_copy(
                update={"mains_v_rms": at.mains_v_rms, "battery_v": at.battery_v}
            )
            try:
                prediction = _at_source(cell, here, changed)
            except PhysicsError:
                continue
            found.append(dataclasses.replace(cell, prediction=prediction, source=source_words(here, changed)))
    return tuple(found)


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
    if cell.definition != "onset":
        # Ten per cent come well before a sine that would be twice as high.
        return SetUp(drive, drive.value, OVERDRIVE * drive.value, allowed, rating)
    return SetUp(drive, 0.5 * drive.value, 1.15 * drive.high, allowed, rating)


@dataclasses.dataclass(frozen=True)
class LevelMeaning:
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
    taken: LevelMeaning | None
    choices: tuple[LevelMeaning, ...]
    sentence: str


def instrument_for(form: Form, kit: BenchKit) -> Instrument:
    """Peak readings come from the scope, RMS from the meter."""
    return kit.of(Role.METER if form is Form.RMS else Role.SCOPE)


def understand(typed: TypedLevel, cell: ClipCell, kit: BenchKit) -> Interpretation:
    """How a typed level is to be taken in this cell, and whether to ask first.

    Asked where no form was typed and more than one is possible, or where the form typed does not fit the
    prediction and another one would.
    """
    if cell.definition != "onset" and typed.form in (Form.PEAK_TO_PEAK, Form.PEAK):
        raise QuantityError(
            f"found {typed.typed!r}, whose height tells no power where the wave is cut, expected what a true rms meter "
            "says: 9.3 rms"
        )
    if cell.definition != "onset" and typed.form is None:
        typed = dataclasses.replace(typed, form=Form.RMS)
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


def _impossible(typed: TypedLevel, taken: LevelMeaning, cell: ClipCell, kit: BenchKit) -> Interpretation:
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


def _understood(typed: TypedLevel, form: Form, cell: ClipCell, kit: BenchKit) -> LevelMeaning:
    v_rms, r = typed.rms(form), cell.load.r_ohm
    power = levels.power_w(v_rms, r)
    u_volts = instrument_for(form, kit).u(typed.volts)
    if typed.bound is Bound.ABOUT:
        u_volts = math.hypot(u_volts or 0.0, from_tolerance(typed.volts, ABOUT_SHARE))
    u_power = None
    if u_volts is not None:
        u_power = power * math.hypot(2.0 * u_volts / typed.volts, from_tolerance(1.0, cell.load.r_tol))
    predicted = cell.v_peak
    u_read = 0.0 if u_power is None else u_power / power / 2.0 * v_rms
    room = max(NEAR_SHARE * predicted.value, 3.0 * math.hypot(predicted.u, u_read)) / math.sqrt(2.0)
    over = v_rms - levels.rms_from_peak(predicted.value) * math.sqrt(
        onset_read.middle_ratio(form) if cell.definition == "onset" else 1.0
    )
    # A bound fits where the level that it leaves open does.
    near = {Bound.ABOVE: over <= room, Bound.BELOW: over >= -room}.get(typed.bound, abs(over) <= room)
    return LevelMeaning(
        form, v_rms, power, u_power,
        possible=typed.bound is Bound.BELOW
        or levels.peak_from_rms(v_rms) - 3.0 * math.sqrt(2.0) * u_read <= cell.most_v_peak * _reads_high(cell, form),
        near=near, bound=typed.bound,
    )  # fmt: skip


def expected_band(cell: ClipCell, form: Form) -> Band:
    """What a reading in this form is expected to say: at a distortion what is predicted, of an onset as it is read."""
    return band_of(cell.power) if cell.definition != "onset" else onset_read.expected(cell.power, form)


def judge_clipping(
    cell: ClipCell, power_w: float, u_power_w: float | None, bound: Bound = Bound.NONE, form: Form = Form.RMS
) -> ClipVerdict:
    """A measured power against this cell's prediction and the listing; unknown where it is not predicted as defined."""
    if not cell.is_predicted:
        return ClipVerdict(State.UNKNOWN, NOT_PREDICTED, "")
    return judge_watts(
        expected_band(cell, form),
        cell.most_v_peak * _reads_high(cell, form),
        cell.load.r_ohm,
        claim=_listed(cell),
        power_w=power_w,
        u_power_w=u_power_w,
        bound=bound,
        definition=cell.definition,
        reads_times=onset_read.middle_ratio(form) if cell.definition == "onset" else 1.0,
    )


def _reads_high(cell: ClipCell, form: Form) -> float:
    """How much more volts a reading may say than there are."""
    return math.sqrt(onset_read.power_ratios(form)[1]) if cell.definition == "onset" else 1.0


def claim_of(cell: ClipCell) -> PowerClaim | None:
    """What the listing claims for a cell: the claim that means its definition, where there is one."""
    module = cell.prediction.build.module
    meant = [one for one in module.claims if one.definition == cell.definition]
    own = claim_for(module.model_copy(update={"claims": tuple(meant)}), cell.load.r_ohm) if meant else None
    return own or claim_for(module, cell.load.r_ohm)


def _listed(cell: ClipCell) -> Listed | None:
    module = cell.prediction.build.module
    return listed(claim_of(cell), module, cell.prediction["rail_no_load_v"].value)


def request_for(cell: ClipCell, form: Form = Form.RMS, read_w: float | None = None) -> Request:
    """What is asked in a cell: a level, kept as the power that it puts into the load, W.

    ``form`` that the level is read in, by which the onset seen lies above the computed one; ``read_w`` what was read
    there before, which the load may get again.
    """
    given, window = set_up(cell, read_w), None
    if cell.is_predicted:
        band = expected_band(cell, form)
        window = Window(band.value - 2.0 * band.u, band.value + 2.0 * band.u, "W", band.how or cell.power.label)
    most_v_rms = levels.rms_from_peak(cell.most_v_peak * _reads_high(cell, form))
    on_s = () if math.isinf(given.allowed_s) else (Setting("time in the load", 0.0, "s", 0.0, given.allowed_s),)
    return Request(
        about=read_subject(cell.subject),
        title=f"{'Clipping power' if cell.definition == 'onset' else 'Power'}, {cell.label}",
        ask="Raise the level until the top of the sine just flattens, and type what scope or meter says."
        if cell.definition == "onset"
        else f"Raise the level until a distortion meter says {DEFINITIONS[cell.definition].lower()}; type true rms.",
        conditions=cell.conditions, unit="W", window=window, form="power", doubts_unit=False,
        role=Role.METER if form is Form.RMS else Role.SCOPE, most=levels.power_w(most_v_rms, cell.load.r_ohm),
        most_words=f"{shown(cell.most_v_peak, 'V')} of peak are all that these rails leave",
        needs="all" if cell.driven == "all" else "channel", example="26.4pp",
        settings=(
            *test_settings.generator(min(given.start_v_rms, given.most_v_rms), 1000.0, given.most_v_rms),
            test_settings.into(cell.load),
            test_settings.source(cell.prediction.build, cell.prediction.situation), *on_s,
        ),
    )  # fmt: skip


def reading_for_cell(
    cell: ClipCell,
    taken: LevelMeaning,
    typed: str,
    kit: BenchKit,
    at: dt.datetime,
    further: Mapping[str, float | str] | None = None,
) -> Reading:
    """The reading to keep: power at onset in W, with the facts that its verdict rests on and those of ``further``."""
    verdict = judge_clipping(cell, taken.power_w, taken.u_power_w, taken.bound, taken.form)
    module, band = cell.prediction.build.module, expected_band(cell, taken.form)
    facts: dict[str, float | str] = {
        "form": str(taken.form),
        "most_v_peak": cell.most_v_peak * _reads_high(cell, taken.form),
        "load_ohm": cell.load.r_ohm,
        "definition": cell.definition,
    }
    if band.how:
        facts |= {"expected_how": band.how, "reads_times": onset_read.middle_ratio(taken.form)}
    instrument = instrument_for(taken.form, kit)
    meaning = Meaning(
        request_for(cell, taken.form),
        taken.power_w,
        taken.u_power_w,
        bound=taken.bound,
        state=verdict.state,
        instrument=instrument.name,
        instrument_id=instrument.identity,
        facts=facts,
    )
    return reading_of(meaning, typed, at, claim_facts(claim_of(cell), module) | dict(further or {}))


def sentence_of(reading: Reading) -> str:
    """What was said of a clipping reading when it was taken, from what was kept of it."""
    most, r_ohm, band = reading.number("most_v_peak"), reading.number("load_ohm"), band_kept(reading)
    if band is None and reading.word("definition") not in ("", "onset"):
        return f"Understood as {Form(reading.word('form')).words}. {NOT_PREDICTED}"
    if most is None or r_ohm is None or band is None:
        return reading.said
    verdict = judge_watts(
        band, most, r_ohm, claim=listed_then(reading), power_w=reading.value, u_power_w=reading.u, bound=reading.bound,
        definition=reading.word("definition") or "onset", reads_times=reading.number("reads_times") or 1.0,
    )  # fmt: skip
    bias = unexplained_words(reading.value, reading.facts)
    return f"Understood as {Form(reading.word('form')).words}. {verdict.sentence} {bias}".strip()
