"""Clipping power into dummy loads: what is set up and asked in a cell, and what watts read there say."""

import dataclasses
import math

from plinth.bench import onset_read, test_settings
from plinth.bench.clip_cell import DEFINITIONS, ClipCell, claim_of
from plinth.bench.clip_verdict import (
    Band,
    ClipVerdict,
    Listed,
    band_kept,
    band_of,
    judge_watts,
    listed,
    listed_then,
    unexplained_words,
)
from plinth.builds.instruments import Role
from plinth.judge.margin import LIMIT_SLACK
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.physics.heat import rises
from plinth.physics.stages import levels
from plinth.predict.figure import Figure
from plinth.record.meaning import Meaning
from plinth.record.probe import Point, Probe, Quantity
from plinth.record.reading import Reading
from plinth.record.request import Request, Setting
from plinth.record.subject import read_subject
from plinth.units.level import Form
from plinth.units.shown import shown

OVERDRIVE = 2.0
NOT_PREDICTED = "Not predicted at this distortion: held against nothing."


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


def expected_band(cell: ClipCell, form: Form) -> Band:
    """What a reading in this form is expected to say: at a distortion what is predicted, of an onset as it is read."""
    return band_of(cell.power) if cell.definition != "onset" else onset_read.expected(cell.power, form)


def judge_clipping(cell: ClipCell, level: Meaning) -> ClipVerdict:
    """A measured power against this cell's prediction and the listing; unknown where it is not predicted as defined."""
    form = level.form or Form.RMS
    if not cell.is_predicted:
        return ClipVerdict(State.UNKNOWN, NOT_PREDICTED, "")
    return judge_watts(
        expected_band(cell, form),
        most_v_peak_read(cell, form),
        cell.load.r_ohm,
        claim=_listed(cell),
        power_w=level.value,
        u_power_w=level.u,
        bound=level.bound,
        definition=cell.definition,
        reads_times=onset_read.middle_ratio(form) if cell.definition == "onset" else 1.0,
    )


def most_v_peak_read(cell: ClipCell, form: Form) -> float:
    """The most volts of peak that a reading in this form may say there: at onset more than there are."""
    return cell.most_v_peak * (math.sqrt(onset_read.power_ratios(form)[1]) if cell.definition == "onset" else 1.0)


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
    most_v_rms = levels.rms_from_peak(most_v_peak_read(cell, form))
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
        probe=Probe(Point.OUTPUT, Quantity.ONSET),
        settings=(
            *test_settings.generator(min(given.start_v_rms, given.most_v_rms), 1000.0, given.most_v_rms),
            test_settings.into(cell.load),
            test_settings.source(cell.prediction.build, cell.prediction.situation), *on_s,
        ),
    )  # fmt: skip


def sentence_of(reading: Reading) -> str:
    """What was said of a clipping reading when it was taken, from what was kept of it."""
    maximum, r_ohm, band = reading.number("most_v_peak"), reading.number("load_ohm"), band_kept(reading)
    if band is None and reading.word("definition") not in ("", "onset"):
        return f"Understood as {Form(reading.word('form')).words}. {NOT_PREDICTED}"
    if maximum is None or r_ohm is None or band is None:
        return reading.said
    verdict = judge_watts(
        band,
        maximum,
        r_ohm,
        claim=listed_then(reading),
        power_w=reading.value,
        u_power_w=reading.u,
        bound=reading.bound,
        definition=reading.word("definition") or "onset",
        reads_times=reading.number("reads_times") or 1.0,
    )
    bias = unexplained_words(reading.value, reading.facts)
    return f"Understood as {Form(reading.word('form')).words}. {verdict.sentence} {bias}".strip()
