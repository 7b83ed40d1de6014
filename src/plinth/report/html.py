"""The report of a build: a function of what is kept and predicted, giving one HTML text with everything inside."""

import dataclasses
import datetime as dt
from collections.abc import Collection, Sequence
from typing import Any, Literal

import numpy as np
from markupsafe import Markup

from plinth.bench import frequency_response
from plinth.bench.every_sheet import SHEETS, read_by_test, readings_for
from plinth.bench.sheet import Outcome
from plinth.captures.figure import CaptureFigure
from plinth.captures.figure_words import OF_ANY, value_words
from plinth.captures.words import KIND_WORDS, label_of
from plinth.judge.claims import bias_claim, power_claim, sensitivity_claim
from plinth.judge.rules import judge
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.record.book import RecordBook
from plinth.record.conditions import conditions_words
from plinth.record.diary import DiaryEntry, record_of
from plinth.record.kept_capture import KeptCapture
from plinth.record.reading import Finding, Override, Reading, Record
from plinth.record.subject import Kind, read_subject
from plinth.release import VERSION
from plinth.report.counting import FittedByVersion, since_words
from plinth.report.html_page import rendered
from plinth.report.in_short import cautions, open_points, power_rows
from plinth.report.power_table import power_table
from plinth.report.reading_words import reading_words, sentence_of
from plinth.report.setting_rows import setting_rows
from plinth.report.stated_parts import stated_parts
from plinth.report.subject_words import subject_words, tells_of_repair
from plinth.report.svg import SvgCurve, line_plot
from plinth.units.shown import shown, shown_with_spread
from plinth.wiring.regions import region_for
from plinth.wiring.svg import svg_of
from plinth.wiring.wired import wiring_of

# Of the figures of a capture the first ones.
_MOST_FIGURES = 12
_CLIPPING = (Kind.CLIP, Kind.CLIP_1, Kind.CLIP_10, Kind.CLIP_DRAW)
KEY_FIGURES = (
    "clip_worst_power_w", "clip_v_rms", "drive_v_rms", "rail_plus_mean_v", "rail_minus_mean_v", "rail_plus_ripple_v_pp",
    "rail_no_load_high_v", "winding_load_ratio", "winding_programme_ratio", "primary_rms_a", "power_factor",
    "mains_power_w", "supply_load_ratio", "supply_programme_ratio", "battery_i_mean_a", "battery_v",
    "heat_programme_w", "sink_c", "bleed_s", "stored_j",
)  # fmt: skip

Paper = Literal["report", "power_table", "build_record"]
PAPERS: dict[Paper, str] = {
    "report": "Report", "power_table": "Power table, one page", "build_record": "Record for the next owner",
}  # fmt: skip
Section = Literal[
    "in_short", "settings", "predicted", "margins", "listing", "inspect", "power_up", "clipping", "tests", "response",
    "captures", "parts", "versions", "diary", "unstated",
]  # fmt: skip
SECTIONS: dict[Section, str] = {
    "in_short": "In short", "settings": "Settings", "predicted": "Predicted", "margins": "Margins",
    "listing": "The listing", "inspect": "Inspect", "power_up": "Power up", "clipping": "Clipping power",
    "tests": "Other tests", "response": "Frequency response", "captures": "Captures", "parts": "Parts",
    "versions": "Versions, and why", "diary": "Diary", "unstated": "What nobody stated",
}  # fmt: skip


@dataclasses.dataclass(frozen=True)
class ReportInput:
    """All that a report is made of; ``fitted`` what had been exchanged in each version of the build.

    ``brought_up`` of each channel its steps settled and all of them (empty: not known here); ``file`` the name of the
    workshop's.
    """

    prediction: Prediction
    diary: Sequence[DiaryEntry]
    made_at: dt.datetime
    demo: bool
    practice: bool = False
    fitted: FittedByVersion = dataclasses.field(default_factory=dict)
    captures: Sequence[KeptCapture] = ()
    brought_up: Sequence[tuple[str, int, int]] = ()
    file: str = ""
    own_sources_v: Sequence[float] = ()


def render_report(given: ReportInput, paper: Paper = "report", leave_out: Collection[Section] = ()) -> str:
    """A paper of a build as one HTML text; nothing in it is fetched from anywhere.

    The report may leave sections out; the power table and the record for the next owner are what they are.
    """
    if paper == "power_table":
        return rendered("power_table.html", **_power_table_context(given))
    context = {**_context(given), "sections": [section for section in SECTIONS if section not in leave_out]}
    if paper == "build_record":
        return rendered("build_record.html", **context, **_record_context(given))
    return rendered("report.html", **context)


def _head(given: ReportInput) -> dict[str, Any]:
    """What stands on every paper, and what its sentences are made with."""
    build = given.prediction.build
    return {
        "version": VERSION,
        "made_at": given.made_at,
        "demo": given.demo,
        "practice": given.practice,
        "build": build,
        "file": given.file,
        "version_number": max((line.version for line in given.diary), default=0),
        "claims": _claims(given.prediction),
        "shown": shown,
        "spread": shown_with_spread,
        "reading_words": reading_words,
        "sentence_of": sentence_of,
        "since_words": lambda record: since_words(
            record, build, given.diary, given.fitted, practice=given.practice
        ),
    }  # fmt: skip


def _claims(prediction: Prediction) -> list[str]:
    """What the listing claims, held against what is predicted."""
    build = prediction.build
    if prediction.get("clip_worst_power_w") is None:
        return []
    power = [power_claim(c, prediction["clip_worst_power_w"], prediction["clip_v_peak"]).sentence
             for c in build.module.claims if abs(c.r_load_ohm - prediction.situation.load(build)) < 0.5]  # fmt: skip
    return [c for c in (*power, sensitivity_claim(build.module, prediction["drive_v_rms"]),
                        bias_claim(build.module)) if c]  # fmt: skip


def _readings(given: ReportInput) -> list[Reading]:
    return [entry.reading for entry in given.diary if entry.reading is not None]


def _book(given: ReportInput) -> RecordBook:
    records = (record for line in given.diary if (record := record_of(line)) is not None)
    return RecordBook(records, practice=given.practice)


def _power_table_context(given: ReportInput) -> dict[str, Any]:
    prediction = given.prediction
    table = power_table(prediction.build, prediction.situation, _book(given), given.own_sources_v)
    held = {(reading.subject, reading.taken_at) for reading in table.readings}
    clipping = [r for r in _readings(given) if read_subject(r.subject).kind in _CLIPPING[:3]]
    elsewhere = [r for r in _latest_of_each_source(clipping) if (r.subject, r.taken_at) not in held]
    return {**_head(given), "table": table, "elsewhere": elsewhere}


def _record_context(given: ReportInput) -> dict[str, Any]:
    """What the next owner needs beside what the report has: the wiring, every last reading, what was never tried."""
    prediction, mains = given.prediction, given.prediction.build.mains
    region = region_for(230.0 if mains is None else mains.v_nominal_rms)
    return {
        # Its words are escaped as it is drawn, all else is numbers.
        "wiring": Markup(svg_of(wiring_of(prediction.build, prediction, region))),  # noqa: S704
        "last_readings": _latest(_readings(given)),
        "never_tried": _never_tried(_book(given)),
        "conditions_words": lambda reading: conditions_words(reading.conditions),
    }


def _context(given: ReportInput) -> dict[str, Any]:
    prediction, build = given.prediction, given.prediction.build
    if prediction.get("clip_worst_power_w") is None:
        # As it is while a slider moves: the worst phase is left out then, and the spreads are those of before.
        prediction = solve(build, prediction.situation)
        given = dataclasses.replace(given, prediction=prediction)
    readings, book = _readings(given), _book(given)
    head = _head(given)
    return {
        **head,
        "situation": prediction.situation,
        "cautions": cautions(prediction),
        "versions": [e for e in given.diary if e.kind in ("made", "changed") and e.words],
        "brought_up": given.brought_up,
        "power": power_rows(build, prediction.situation, book),
        "open_points": open_points(judge(prediction), _never_tried(book), _gone(given, readings)),
        "setting_rows": setting_rows(build, readings, head["since_words"]),
        "parts": stated_parts(build),
        # A battery has no winding and a single rail no second one: each kind of build has its own.
        "figures": [prediction[name] for name in KEY_FIGURES if name in prediction.figures],
        "margins": judge(prediction),
        "warnings": prediction.warnings,
        "inspected": _latest_findings(given.diary),
        "bringup": _bring_up(given.diary),
        "clipping": _latest_of_each_source([r for r in readings if read_subject(r.subject).kind in _CLIPPING]),
        "tests": _by_test(readings),
        "outcomes": _outcomes(prediction, given.diary, practice=given.practice),
        "captures": [(kept, capture_words(kept)) for kept in given.captures],
        "diary": given.diary,
        "rails_plot": rails_plot(prediction),
        "mains_plot": mains_plot(prediction),
        "response_plots": _responses(prediction, readings),
        "tells_of_repair": tells_of_repair,
        "subject_words": lambda subject: subject_words(subject, build),
    }  # fmt: skip


def capture_words(kept: KeptCapture) -> tuple[str, list[tuple[str, str]]]:
    """What a capture is (kind, length, rate, what was stated beside it), and its figures with spreads."""
    facts = kept.facts
    words = [KIND_WORDS.get(facts.kind, facts.kind)]
    if facts.seconds:
        words.append(f"{shown(facts.seconds, 's')} at {shown(facts.sample_rate_hz, 'Hz')}")
    words += [f"{name.replace('_', ' ')} {_plain(value)}" for name, value in facts.stated.items() if name != "kind"]
    figures = []
    for channel, named in facts.figures.items():
        many = f", {channel}" if len(facts.figures) > 1 else ""
        for name, (value, spread, unit) in named.items():
            if name not in OF_ANY and not name.endswith("_deg"):
                figure = CaptureFigure(name, float(value), float(spread), unit, "")
                figures.append((f"{label_of(name)}{many}", value_words(figure)))
    return ", ".join(words), figures[:_MOST_FIGURES]


def _plain(value: Any) -> str:
    return " to ".join(f"{each:g}" for each in value) if isinstance(value, list) else f"{value}"


def _latest_findings(diary: Sequence[DiaryEntry]) -> list[Finding | Override]:
    """What was found at each check of the inspection, or why it was passed over: the last of each."""
    last: dict[str, Finding | Override] = {}
    for line in diary:
        record = record_of(line)
        if isinstance(record, Finding | Override) and read_subject(record.subject).kind is Kind.INSPECT:
            last[record.subject] = record
    return list(last.values())


def _bring_up(diary: Sequence[DiaryEntry]) -> list[Record]:
    """The last record of each step of first power: a reading, a word that it is done, or why it was passed over."""
    last: dict[str, Record] = {}
    for line in diary:
        record = record_of(line)
        if record is not None and read_subject(record.subject).kind is Kind.BRINGUP:
            last[record.subject] = record
    return list(last.values())


def _outcomes(
    prediction: Prediction, diary: Sequence[DiaryEntry], *, practice: bool
) -> list[tuple[str, str, tuple[Outcome, ...]]]:
    """What the readings of each test say that count today, by test and channel."""
    book = RecordBook((record for line in diary if (record := record_of(line)) is not None), practice=practice)
    build, by_test = prediction.build, []
    read = read_by_test(book)
    for kind in SHEETS:
        for channel in build.channels if read.get(kind.key) else ():
            try:
                sheet = kind.make(build, channel, prediction.situation)
                outcomes = sheet.outcomes(readings_for(sheet, book))
            except PhysicsError:
                # What cannot be predicted here has nothing to be held against; its readings stand above.
                continue
            if outcomes:
                by_test.append((kind.name, channel, outcomes))
    return by_test


def _latest_of_each_source(readings: Sequence[Reading]) -> list[Reading]:
    """The last of each cell from each source: one of another mains does not take its place."""
    newest = {(r.subject, tuple(sorted((r.conditions or {}).items(), key=str))): r for r in readings}
    return list(newest.values())


def _by_test(readings: Sequence[Reading]) -> list[tuple[str, list[Reading]]]:
    """The last readings of every other test, under its name."""
    by_test: list[tuple[str, list[Reading]]] = []
    for kind in SHEETS:
        held = [
            r
            for r in readings
            if (about := read_subject(r.subject)).kind is Kind.TEST and about.what.startswith(f"{kind.key}:")
        ]
        if held:
            by_test.append((kind.name, _latest(held)))
    return by_test


def _latest(readings: Sequence[Reading]) -> list[Reading]:
    last = {r.subject: r for r in readings}
    return list(last.values())


def _never_tried(book: RecordBook) -> list[str]:
    """Tests without a reading, by name."""
    read = read_by_test(book)
    kinds = {read_subject(subject).kind for subject in book}
    never = [kind.name for kind in SHEETS if not read.get(kind.key)]
    never += [] if kinds & {Kind.CLIP, Kind.CLIP_1, Kind.CLIP_10} else ["Clipping power"]
    return never + ([] if Kind.RESPONSE in kinds else ["Response"])


def _gone(given: ReportInput, readings: Sequence[Reading]) -> int:
    """How many of the last readings of each thing count no more."""
    build = given.prediction.build
    return sum(
        bool(since_words(reading, build, given.diary, given.fitted, practice=given.practice))
        for reading in _latest(readings)
    )


def rails_plot(prediction: Prediction) -> str:
    """The rails and the output over the common period."""
    state = prediction.state
    ms = np.linspace(0.0, 1e3 * state.period.shared.seconds, state.period.steps + 1)
    keep = slice(None, None, max(1, len(ms) // 600))
    curves = [
        SvgCurve(ms[keep].tolist(), state.plus.v_node[keep].tolist(), "plus", "+ rail" if state.minus else "rail")
    ]
    for k, (name, volts) in enumerate(state.output_lines.items()):
        curves.append(SvgCurve(ms[keep].tolist(), volts[keep].tolist(), "ink2" if k else "ink", name))
    if state.minus is not None:
        curves.append(SvgCurve(ms[keep].tolist(), (-state.minus.v_node[keep]).tolist(), "minus", "− rail"))
    return line_plot(curves, x_label="ms", y_label="V, predicted", title="Rails and output, predicted")


def mains_plot(prediction: Prediction) -> str:
    """Current from the wall over its period; empty where nothing comes from there."""
    wall = prediction.wall
    if wall is None:
        return ""
    ms = np.linspace(0.0, 1e3 * wall.seconds, len(wall.i_a))
    keep = slice(None, None, max(1, len(ms) // 600))
    return line_plot(
        [SvgCurve(ms[keep].tolist(), wall.i_a[keep].tolist(), "ink2", "from the wall")],
        x_label="ms", y_label="A, predicted", title="Current from the wall, predicted", size=(640, 180),
    )  # fmt: skip


def _responses(prediction: Prediction, readings: Sequence[Reading]) -> list[tuple[str, str, str]]:
    by_channel = [(channel, _response(channel, prediction, readings)) for channel in prediction.build.channels]
    return [(channel, *response) for channel, response in by_channel if response is not None]


def _response(channel: str, prediction: Prediction, readings: Sequence[Reading]) -> tuple[str, str] | None:
    volts: dict[float, float] = {}
    u_v: dict[float, float] = {}
    key = prediction.build.key_of(channel)
    for r in readings:
        about = read_subject(r.subject)
        if (about.kind, about.channel) == (Kind.RESPONSE, key) and not r.bound.one_sided:
            f_hz, run = frequency_response.read_what(about.what)
            if not run:
                volts[f_hz], u_v[f_hz] = r.value, frequency_response.u_of(r)
    if not volts:
        return None
    measured = frequency_response.evaluate(volts, u_v=u_v)
    grid = np.geomspace(10.0, 50e3, 120).tolist()
    plot = line_plot(
        [
            SvgCurve(grid, [frequency_response.predicted_db(prediction.build, f) for f in grid], "pred", "predicted"),
            SvgCurve([p.f_hz for p in measured.points], [p.db for p in measured.points], "ink", "read", discs=True),
        ],
        x_label="Hz", y_label="dB re 1 kHz", title="Frequency response", log_x=True, y_range=(-7.0, 2.0),
    )  # fmt: skip
    return plot, measured.sentence
