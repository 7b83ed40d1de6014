"""The power table and the record for the next owner: over the family, against the core, on pages."""

import dataclasses
import datetime as dt
import html as html_module
import re

import pytest

from plinth.bench.clip_cell import clip_cell, clip_places, further_sources
from plinth.builds.situation import Situation
from plinth.demo.builds import STAGE_PAIR
from plinth.judge.state import State
from plinth.predict.solve import solve
from plinth.record.book import RecordBook
from plinth.record.diary import DiaryEntry
from plinth.record.reading import Reading
from plinth.release import VERSION
from plinth.report.html import SECTIONS, Paper, ReportInput, Section, render_report
from plinth.report.power_table import power_table
from plinth.report.setting_rows import NEAR_S, setting_rows
from plinth.units.shown import shown_with_spread
from tests.demo_copy import demo_copy
from tests.family import FAMILY
from tests.turns import in_turn

AT = dt.datetime(2026, 10, 12, 9, 30, tzinfo=dt.UTC)


@pytest.fixture(scope="module")
def diary(tmp_path_factory: pytest.TempPathFactory) -> list[DiaryEntry]:
    workshop = demo_copy(tmp_path_factory.mktemp("demo"))
    found = workshop.diary_by_version(1)
    workshop.close()
    return found


def text_of(html: str) -> str:
    return re.sub(r"\s+", " ", html_module.unescape(re.sub(r"<(?!/?svg)[^>]+>", " ", html)))


def _is_sound(html: str) -> None:
    assert "None" not in html
    assert not re.search(r">[a-z]+_[a-z_]+<", html)
    assert html.count("<table") == html.count("</table>")


@pytest.mark.parametrize("name", in_turn(FAMILY, 20))
def test_each_field_of_the_table_is_the_cell_s_own_prediction(name: str) -> None:
    build = FAMILY[name]
    situation = Situation()
    table = power_table(build, situation, RecordBook())
    _is_sound(render_report(ReportInput(solve(build, situation), [], AT, False), "power_table"))
    assert len(table.rows) == len(clip_places(build))
    assert len(table.sources) == len(set(table.sources))
    assert len(table.sources) <= 1 + len(further_sources(build, situation))
    for row, (who, load) in zip(table.rows, clip_places(build), strict=True):
        cell = clip_cell(build, build.channels[0], situation, who, load)
        here = row.cells[table.sources.index(cell.source)]
        assert here.predicted == shown_with_spread(cell.power.value, cell.power.spread, "W")
        assert all(each.read == () and each.state == "" for each in row.cells)


def test_more_mains_more_watts_and_readings_stand_where_they_were_taken(diary: list[DiaryEntry]) -> None:
    records = [entry.reading for entry in diary if entry.reading is not None]
    table = power_table(STAGE_PAIR, Situation(), RecordBook(records))
    assert table.sources == ("207 V mains", "230 V mains", "253 V mains")
    read = [(row.load, row.who, place) for row in table.rows for place, cell in enumerate(row.cells) if cell.read]
    assert read == [("8.11 Ω", "one channel", 1), ("4.03 Ω", "one channel", 1)]
    assert table.rows[0].cells[1].read == (("left", "46 ±3 W"),)
    (own,) = [record for record in table.readings if record.label.endswith("8.11 Ω")]
    assert own.u is not None
    assert 2.5 < 2.0 * own.u < 3.5
    assert {reading.label for reading in table.readings} == {
        "Clipping power, 230 V mains, left, alone, 8.11 Ω", "Clipping power, 230 V mains, left, alone, 4.03 Ω",
    }  # fmt: skip
    watts = [[float(cell.predicted.split()[0]) for cell in row.cells] for row in table.rows]
    assert all(low < middle < high for low, middle, high in watts)
    # Power goes with the square of the mains, less what the stage needs of it.
    assert 1.15 < watts[0][2] / watts[0][1] < 1.35


def test_a_reading_of_another_definition_stands_below_the_table(diary: list[DiaryEntry]) -> None:
    own = next(e for e in diary if e.reading is not None and e.reading.subject.startswith("clip/left/one/"))
    assert own.reading is not None
    other = dataclasses.replace(
        own.reading, subject=own.reading.subject.replace("clip/", "clip_1/"), label="at 1 % of the eight"
    )
    line = dataclasses.replace(own, subject=other.subject, reading=other)
    html = render_report(ReportInput(solve(STAGE_PAIR, Situation()), [*diary, line], AT, False), "power_table")
    assert "Read otherwise" in html
    assert html.index("Read otherwise") < html.index("at 1 % of the eight")
    without = render_report(ReportInput(solve(STAGE_PAIR, Situation()), diary, AT, False), "power_table")
    assert "Read otherwise" not in without


def reading_of(subject: str, label: str, value: float, unit: str, at: dt.datetime) -> Reading:
    return Reading(subject, label, f"{value}", value, unit, None, "a meter", at, State.CLEAR)


def bias(volts: float, minute: int, step: str = "bias") -> Reading:
    return reading_of(f"bringup/left/{step}", f"Left: {step}", volts, "V", AT + dt.timedelta(minutes=minute))


def sink(celsius: float, minute: int, channel: str = "left") -> Reading:
    return reading_of(f"bringup/{channel}/sink", "the sink", celsius, "°C", AT + dt.timedelta(minutes=minute))


def test_a_setting_is_told_across_its_resistor_at_its_temperature() -> None:
    build = STAGE_PAIR
    assert build.module.bias is not None
    readings = [bias(0.030, 0), bias(0.0363, 5), sink(41.0, 20), sink(30.0, -50), sink(99.0, 6, "right")]
    (row,) = setting_rows(build, readings, lambda _reading: "")
    # The last of them: 36.3 mV across 0.33 ohm are 110 mA.
    assert row.current == "110 mA a pair"
    assert "330 mΩ" in row.across
    assert "listed 220 mΩ" in row.across
    assert row.sink.startswith("41")
    (late,) = setting_rows(build, [bias(0.03, 0), sink(41.0, 61)], lambda _reading: "gone")
    assert NEAR_S == 3600.0
    assert (late.sink, late.gone) == ("not read", "gone")


def test_a_bias_trimmed_again_is_a_setting_too(diary: list[DiaryEntry]) -> None:
    readings = [entry.reading for entry in diary if entry.reading is not None]
    rows = setting_rows(STAGE_PAIR, readings, lambda _reading: "")
    assert [row.label for row in rows] == [
        "Left: set the bias across R17", "Left: bias once warm", "Left: bias trimmed again, warm",
    ]  # fmt: skip


def test_the_record_holds_every_last_reading_with_conditions_instrument_and_what_was_never_tried(
    diary: list[DiaryEntry],
) -> None:
    html = render_report(
        ReportInput(solve(STAGE_PAIR, Situation()), diary, AT, False, file="theatre.plinth"), "build_record"
    )
    words = text_of(html)
    assert "from theatre.plinth" in words
    last = {entry.reading.subject: entry.reading for entry in diary if entry.reading is not None}
    assert all(reading.label in words for reading in last.values())
    assert "Two-trace scope" in words
    assert "the mains 230 V" in words
    never = words[words.index("Never tried", words.index("Readings")) :]
    assert "Heat run" in never
    assert "Versions, and why" in never


@pytest.mark.parametrize("section", in_turn(SECTIONS, 3))
def test_each_section_can_be_left_out_alone(section: Section, diary: list[DiaryEntry]) -> None:
    given = ReportInput(solve(STAGE_PAIR, Situation()), diary, AT, False)
    whole, less = render_report(given), render_report(given, "report", [section])
    heads = re.findall(r"<h2>(.*?)</h2>", whole)
    left = re.findall(r"<h2>(.*?)</h2>", less)
    # Captures and what is drawn from them are not in this diary.
    gone = [] if section == "captures" else [head for head in heads if head.startswith(SECTIONS[section])]
    assert [head for head in heads if head not in gone] == left
    assert len(gone) == (section != "captures")


@pytest.mark.parametrize("paper", ["report", "power_table", "build_record"])
def test_every_paper_names_its_file_its_version_and_plinth_s(paper: Paper, diary: list[DiaryEntry]) -> None:
    given = ReportInput(solve(STAGE_PAIR, Situation()), diary, AT, False, file="theatre.plinth")
    words = text_of(render_report(given, paper))
    assert f"Plinth {VERSION}, from theatre.plinth, version 1 of the build" in words
    assert ", from" not in text_of(render_report(dataclasses.replace(given, file="", diary=[]), paper))[:900]
