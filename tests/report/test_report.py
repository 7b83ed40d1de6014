"""Report and table as functions of what is kept, without any window."""

import csv
import dataclasses
import datetime as dt
import io
import re
import xml.etree.ElementTree as ET
from pathlib import Path

import numpy as np
import pytest

from plinth.bench import frequency_response
from plinth.bench.clip_cell import clip_cells, further_cells
from plinth.builds.situation import Situation
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.demo.shelf import BENCH
from plinth.guide.inspection.checks import checks_of
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.record.diary import DiaryEntry
from plinth.record.origin import Giver, ReadingOrigin
from plinth.record.reading import Reading
from plinth.report.counting import since_words
from plinth.report.csv_table import COLUMNS, readings_csv
from plinth.report.html import KEY_FIGURES, ReportInput, render_report
from plinth.report.in_short import cautions
from plinth.report.reading_words import reading_words
from plinth.report.stated_parts import stated_parts
from plinth.report.svg import SvgCurve, line_plot, nice_ticks
from plinth.units.shown import shown, shown_with_spread
from tests.bench.clip_readings import kept_as_typed
from tests.bench.typed_bench import TypedBench
from tests.demo_copy import demo_copy
from tests.family import FAMILY
from tests.sample_builds import linear

AT = dt.datetime(2026, 10, 12, 9, 30, tzinfo=dt.UTC)


@pytest.fixture(scope="module")
def prediction() -> Prediction:
    return solve(STAGE_PAIR, Situation())


@pytest.fixture(scope="module")
def diary(tmp_path_factory: pytest.TempPathFactory) -> list[DiaryEntry]:
    workshop = demo_copy(tmp_path_factory.mktemp("demo"))
    found = workshop.diary(1)
    workshop.close()
    return found


def report(prediction: Prediction, diary: list[DiaryEntry], *, demo: bool = True) -> str:
    return render_report(ReportInput(prediction, diary, AT, demo))


def plain(html: str) -> str:
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", html.replace("&#39;", "'")))


def test_the_report_says_every_figure_and_margin_as_the_core_does(
    prediction: Prediction, diary: list[DiaryEntry]
) -> None:
    text = plain(report(prediction, diary))
    for name in KEY_FIGURES:
        figure = prediction.get(name)
        if figure is None:
            continue
        assert shown_with_spread(figure.value, figure.spread, figure.unit) in text
    for margin in judge(prediction):
        assert margin.sentence in text
        assert margin.limit_words in text
    for line in prediction.warnings:
        assert line in text


def test_a_report_asked_for_while_a_slider_moves_is_the_whole_one(
    prediction: Prediction, diary: list[DiaryEntry]
) -> None:
    moving = solve(STAGE_PAIR, Situation(), spreads_of=prediction)
    assert moving.get("clip_worst_power_w") is None
    assert report(moving, diary) == report(prediction, diary)


def test_the_report_holds_every_reading_with_its_verdict(prediction: Prediction, diary: list[DiaryEntry]) -> None:
    text = plain(report(prediction, diary))
    for entry in diary:
        if entry.reading is not None:
            assert f"typed {entry.reading.typed}, {reading_words(entry.reading)}" in text
        elif entry.kind == "note":
            assert entry.words in text
    assert "100 W into 4 Ω" in text
    assert "22 mV across 0.22 Ω" in text


def test_the_report_needs_nothing_from_outside(prediction: Prediction, diary: list[DiaryEntry]) -> None:
    html = report(prediction, diary)
    for word in ("http:", "https:", "src=", "@import", "url(", "<script", "<link"):
        assert word not in html
    assert html.count("<svg") == 2


def test_demo_data_is_said_to_be_invented(prediction: Prediction, diary: list[DiaryEntry]) -> None:
    assert "invented demo data" in report(prediction, diary)
    assert "invented demo data" not in report(prediction, diary, demo=False)


def test_an_empty_diary_is_reported_as_such(prediction: Prediction) -> None:
    text = plain(report(prediction, []))
    assert text.count("No reading yet.") == 4


def test_what_people_type_cannot_break_the_page(prediction: Prediction) -> None:
    nasty = "</td><script>alert('x')</script> & \"quoted\""
    html = report(prediction, [DiaryEntry(AT, "note", "note", nasty)])
    assert "<script" not in html
    assert "&lt;script&gt;" in html


def test_measured_response_is_drawn_over_the_predicted_one(prediction: Prediction) -> None:
    readings = [
        frequency_response.reading_for_point(STAGE_PAIR, "left", f, v, 2.0, BENCH, AT)
        for f, v in ((20.0, "1.98"), (1000.0, "2.0"), (20_000.0, "1.97"))
    ]
    entries = [DiaryEntry(AT, "reading", r.subject, r.label, r) for r in readings]
    html = report(prediction, entries)
    assert html.count("<svg") == 3
    assert html.count('class="disc"') == 3
    assert "Within 0.1 dB from 20 Hz to 20 kHz" in plain(html)


def test_simulated_readings_never_look_measured(prediction: Prediction, diary: list[DiaryEntry]) -> None:
    entry = next(e for e in diary if e.reading is not None)
    assert entry.reading is not None
    pretended = dataclasses.replace(
        entry, reading=dataclasses.replace(entry.reading, origin=ReadingOrigin(Giver.SIMULATED))
    )
    assert "simulated" in plain(report(prediction, [pretended]))
    assert "simulated" not in plain(report(prediction, [entry]))


def test_the_report_holds_inspection_words_and_results_and_no_raw_key(
    prediction: Prediction, diary: list[DiaryEntry]
) -> None:
    html = report(prediction, diary)
    text = plain(html)
    for check in checks_of(STAGE_PAIR):
        assert check.title in text
    assert "in doubt. One top looks a little round" in text
    assert "Left: trimmer" in text
    for line in diary:
        assert line.subject not in text or "/" not in line.subject, line.subject
        if line.reading is None and line.kind == "confirmed":
            assert line.at.strftime("%Y-%m-%d %H:%M") in text
    assert "does not count" not in text.lower()


@pytest.mark.parametrize(
    ("slot", "words"),
    [("module", "the module is another one now"), ("supply.transformer", "the supply is another one now")],
)
def test_what_no_longer_counts_is_marked_with_since_when_and_why(
    prediction: Prediction, diary: list[DiaryEntry], slot: str, words: str
) -> None:
    later = STAGE_PAIR.with_mark(slot, "another")
    day = diary[-1].at + dt.timedelta(days=1)
    # What the lines say is not read: that of the day names no part, and another names the part of today.
    lines = [
        *(dataclasses.replace(line, version=1) for line in diary),
        DiaryEntry(day - dt.timedelta(hours=2), "changed", "build", "Stagehand 60 and Ring 225 dusted.", version=1),
        DiaryEntry(day, "changed", "build", "Exchanged.", version=2),
        DiaryEntry(day + dt.timedelta(hours=2), "changed", "build", "Stagehand 60 and Ring 225: a name.", version=3),
    ]
    fitted = {1: STAGE_PAIR.fitted, 2: later.fitted, 3: later.fitted}
    after = dataclasses.replace(prediction, build=later)
    html = render_report(ReportInput(after, lines, AT, True, fitted=fitted))
    text = plain(html)
    assert f"does not count since {day:%Y-%m-%d %H:%M}: " in text.lower()
    assert words in text
    shown_rows = [row for row in html.split("<tr>") if "R17, as it is" in row and "Verdict" not in row]
    assert ("another one now" in shown_rows[0]) == (slot == "module"), "an ohm of the board asks for no supply"
    readings = [line.reading for line in diary if line.reading is not None]
    table = readings_csv(readings, lambda one: since_words(one, later, lines, fitted))
    rows = list(csv.DictReader(io.StringIO(table)))
    for row, reading in zip(rows, readings, strict=True):
        kept = reading.conditions or {}
        gone = ("module" in kept and slot == "module") or ("supply" in kept and slot.startswith("supply"))
        if reading.subject.startswith("bringup/"):
            assert (row["counts"] != "yes") == gone, reading.subject


def test_parts_are_described_with_what_is_not_stated() -> None:
    transformer = next(part for part in stated_parts(STAGE_PAIR) if part.name == linear(STAGE_PAIR).transformer.name)
    stated = {row.words: row.value for row in transformer.rows}
    assert stated["Rating"] == "225 VA"
    assert stated["Secondaries"] == "two"
    assert transformer.missing == (
        "regulation", "leakage inductance of each half", "share of the copper in the primary",
        "core loss, unloaded", "magnetising current, rms",
    )  # fmt: skip
    every = [row.value for build in (STAGE_PAIR, REHEARSAL_ROOM) for part in stated_parts(build) for row in part.rows]
    # No word of the file's own.
    assert not [value for value in every if "_" in value or value in ("ei", "")]


def test_it_leads_with_what_a_reader_wants_first(prediction: Prediction, diary: list[DiaryEntry]) -> None:
    html = render_report(
        ReportInput(prediction, diary, AT, True, brought_up=[("left", 29, 29), ("right", 3, 36)])
    )  # fmt: skip
    heads = re.findall(r"<h2>([^<]+)</h2>", html)
    assert heads[:2] == ["In short", "Settings"]
    assert heads[-4:] == ["Parts", "Versions, and why", "Diary", "What nobody stated"]
    short = plain(html[html.index("In short") : html.index("Settings")])
    assert "Left: 29 of 29 steps of first power, brought up." in short
    assert "Right: 3 of 36 steps of first power." in short
    # Claimed, predicted and read of the very same load, as the cells of the table have them.
    cells = clip_cells(prediction.build, "left", prediction.situation)
    for cell in cells:
        power = shown_with_spread(cell.power.value, cell.power.spread, "W")
        assert power in short
    assert "left 46 ±3 W" in short
    assert "45.0 W" in short
    over = [margin.label.lower() for margin in judge(prediction) if margin.state is State.OVER]
    assert over
    line = short[short.index("Over its limit") :]
    assert all(label in line.lower() for label in over)
    assert "Never tried:" in short
    # What nobody stated stands once, at the end, and nowhere before.
    assert "leakage inductance of each half" in html[html.index("What nobody stated") :]
    assert "leakage inductance of each half" not in html[: html.index("What nobody stated")]


def test_what_can_hurt_stands_before_all_else(prediction: Prediction, diary: list[DiaryEntry]) -> None:
    html = report(prediction, diary)
    first = plain(html[html.index("<h1>") : html.index("In short")])
    assert "Mains inside: pull the plug" in first
    stored, bleeds, sink = (prediction[name] for name in ("stored_j", "bleed_s", "sink_c"))
    assert f"Reservoirs hold {shown(stored.high, 'J')}. Wait {shown(bleeds.high, 's')} after switching off" in first
    assert f"The sink may reach {shown(sink.high, '°C')}" in first
    assert "neither is ground" not in first
    for name, build in list(FAMILY.items())[::4]:
        words = " ".join(cautions(solve(build, Situation(load_ohm=build.load.r_ohm))))
        assert ("Mains inside" in words) == (build.mains is not None), name
        assert ("neither is ground" in words) == (build.wiring == "bridged"), name
        assert ("rings off" in words) == (build.mains is None and build.supply.battery is not None), name


def test_what_counts_no_more_is_counted_first(prediction: Prediction, diary: list[DiaryEntry]) -> None:
    exchanged = prediction.build.with_mark("module", "another")
    html = plain(report(solve(exchanged, prediction.situation), diary))
    assert re.search(r"\d+ readings no longer count; each is marked below", html)


def test_the_table_reads_back_to_the_same_readings(diary: list[DiaryEntry]) -> None:
    readings = [e.reading for e in diary if e.reading is not None]
    rows = list(csv.DictReader(io.StringIO(readings_csv(readings))))
    assert list(rows[0]) == list(COLUMNS)
    for row, reading in zip(rows, readings, strict=True):
        assert float(row["value"]) == reading.value
        assert row["unit"] == reading.unit
        assert row["typed"] == reading.typed
        assert row["state"] == str(reading.state)
        assert dt.datetime.fromisoformat(row["taken_at"]) == reading.taken_at
        assert (row["low"] == "") == (reading.low is None)


def test_the_table_quotes_what_would_break_it() -> None:
    odd = Reading("s", 'a "b", c', "1,5", 1.5, "V", None, "m", AT, State.CLEAR, said="line\nbreak")
    (row,) = csv.DictReader(io.StringIO(readings_csv([odd])))
    assert row["label"] == 'a "b", c'
    assert row["typed"] == "1,5"
    assert row["u"] == ""
    assert row["sentence"] == "line\nbreak"


def test_plots_are_sound_svg_with_units_and_labels(tmp_path: Path) -> None:
    x = np.linspace(0.0, 10.0, 50).tolist()
    text = line_plot(
        [SvgCurve(x, np.sin(x).tolist(), "plus", "+ <rail>"),
         SvgCurve(x, np.cos(x).tolist(), "ink", "output", discs=True)],
        x_label="ms", y_label="V", title="A & B",
    )  # fmt: skip
    tree = ET.fromstring(str(text))
    labels = [node.text for node in tree.iter("text")]
    assert "ms" in labels
    assert "V" in labels
    assert "+ <rail>" in labels
    assert len(list(tree.iter("circle"))) == 50
    box = [float(v) for v in tree.attrib["viewBox"].split()]
    for node in tree.iter("circle"):
        assert 0 <= float(node.attrib["cx"]) <= box[2]
        assert 0 <= float(node.attrib["cy"]) <= box[3]


def test_a_plot_without_data_is_still_a_plot() -> None:
    ET.fromstring(str(line_plot([], x_label="Hz", y_label="dB", title="none", log_x=True)))
    flat = line_plot([SvgCurve([1.0, 2.0], [3.0, 3.0], "ink", "flat")], x_label="s", y_label="V", title="flat")
    assert "nan" not in str(flat)


@pytest.mark.parametrize(("low", "high"), [(0.0, 1.0), (-37.2, 41.0), (0.001, 0.0042), (5.0, 5.0), (-3e5, 2e6)])
def test_ticks_are_round_few_and_inside(low: float, high: float) -> None:
    ticks = nice_ticks(low, high)
    assert 1 <= len(ticks) <= 12
    assert all(low - 1e-9 <= t <= high + 1e-9 * abs(high) for t in ticks)
    if len(ticks) > 2:
        steps = np.diff(ticks)
        assert np.allclose(steps, steps[0])
        mantissa = steps[0] / 10 ** np.floor(np.log10(steps[0]) + 1e-12)
        assert min(abs(mantissa - m) for m in (1, 2, 2.5, 5, 10)) < 1e-6


def test_every_test_s_last_readings_stand_in_the_report_and_each_source_keeps_its_own(prediction: Prediction) -> None:
    bench = TypedBench("rails", STAGE_PAIR)
    kept = [bench.type_in("none_plus", typed) for typed in ("36.1", "36.4")]
    kept += [bench.type_in("none_minus", "36.2"), bench.type_in("full_plus", "31.4")]
    outcomes = bench.outcomes()
    first = clip_cells(STAGE_PAIR, "left", Situation())[:1]
    cells = (*first, *further_cells(first, STAGE_PAIR, Situation()))
    kept += [kept_as_typed(cell, f"{2 * cell.v_peak.value:.4g}pp", AT) for cell in cells]
    blind = dataclasses.replace(cells[0], definition="thd_1")
    kept.append(kept_as_typed(blind, "21 rms", AT))
    lines = [DiaryEntry(AT, "reading", one.subject, one.label, one) for one in kept if one is not None]
    text = plain(report(prediction, lines))
    assert "Other tests Rails" in text
    assert "36.4" in text
    # What they say, as the page of the test says it.
    assert "Rails, left: what the readings say" in text
    assert outcomes
    for name, outcome in outcomes.items():
        assert name in text
        assert plain(outcome.words).strip() in text
    tests = text.partition("Other tests")[2].partition("Frequency response")[0]
    assert tests.count("No load, + rail") == 1, "the last of two"
    assert "not predicted" in text
    for mains in ("207 V mains", "230 V mains", "253 V mains"):
        assert f"Clipping power, {mains}" in text
