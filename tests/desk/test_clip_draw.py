"""The clipping table in the window: the draw beside the level, bounds, and a bias changed in between."""

import datetime as dt

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from plinth.bench import supply_draw
from plinth.bench.bias_change import bias_subjects
from plinth.desk.measure.clipping_table import ClipTest
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.judge.state import State
from plinth.record.reading import Reading
from plinth.report.reading_words import sentence_of
from plinth.units.bounds import Bound


@pytest.fixture
def clip(window: PlinthWindow, session: BenchSession) -> ClipTest:
    window.show_stage("measure")
    window.measure.show_named("Clipping power")
    found = window.measure.clip
    found.block("")
    return found


def draw_of(session: BenchSession, clip: ClipTest, index: int) -> Reading | None:
    cell = clip.procedure.cells[index]
    return session.records.reading(supply_draw.subject(cell), cell.conditions)


def test_level_and_draw_are_kept_with_one_enter(qtbot: QtBot, clip: ClipTest, session: BenchSession) -> None:
    clip.choose(1)
    assert "Expect" in clip.draw.words.text()
    qtbot.keyClicks(clip.field, "50.0pp")
    qtbot.keyClicks(clip.draw.field, "170 W")
    assert "Efficiency" in clip.draw.words.text()
    qtbot.keyClick(clip.draw.field, Qt.Key.Key_Return)
    cell = clip.procedure.cells[1]
    power, draw = session.records.reading(cell.subject, cell.conditions), draw_of(session, clip, 1)
    assert power is not None
    assert draw is not None
    assert (draw.value, draw.unit, draw.typed) == (170.0, "W", "170 W")
    assert f"Efficiency {100.0 * power.value / 170.0:.0f} %" in sentence_of(draw)
    assert (clip.field.text(), clip.draw.field.text()) == ("", "")
    assert "draws 170 W" in clip.matrix.views[1].toolTip()


def test_a_draw_alone_is_kept_beside_the_level_read_before(qtbot: QtBot, clip: ClipTest, session: BenchSession) -> None:
    clip.choose(1)
    kept = session.records.reading(clip.procedure.cells[1].subject, clip.procedure.cells[1].conditions)
    assert kept is not None
    qtbot.keyClicks(clip.draw.field, ">100")
    qtbot.keyClick(clip.draw.field, Qt.Key.Key_Return)
    draw = draw_of(session, clip, 1)
    assert draw is not None
    assert (draw.value, draw.bound, draw.state) == (100.0, Bound.ABOVE, State.UNKNOWN)
    assert session.records.reading(clip.procedure.cells[1].subject) == kept
    assert f"< {kept.value:.0f} % out" in clip.matrix.views[1].toolTip()


def test_a_draw_that_is_not_understood_holds_both_back_and_loses_nothing(
    qtbot: QtBot, clip: ClipTest, session: BenchSession
) -> None:
    clip.choose(0)
    before = session.records.reading(clip.procedure.cells[0].subject)
    qtbot.keyClicks(clip.field, "54.0pp")
    qtbot.keyClicks(clip.draw.field, "230 V 0.7 A")
    assert "power meter" in clip.draw.words.text()
    qtbot.keyClick(clip.field, Qt.Key.Key_Return)
    assert session.records.reading(clip.procedure.cells[0].subject) == before
    assert (clip.field.text(), clip.draw.field.text()) == ("54.0pp", "230 V 0.7 A")


def test_a_bound_is_shown_as_one_in_its_cell(qtbot: QtBot, clip: ClipTest, session: BenchSession) -> None:
    clip.choose(1)
    qtbot.keyClicks(clip.field, ">49pp")
    qtbot.keyClick(clip.field, Qt.Key.Key_Return)
    cell = clip.procedure.cells[1]
    kept = session.records.reading(cell.subject, cell.conditions)
    assert kept is not None
    assert kept.bound is Bound.ABOVE
    assert clip.matrix.views[1].figure.text().startswith("> ")
    content = clip.matrix.views[1].ruler.content
    assert content is not None
    assert content.reading is None


def test_a_changed_bias_is_looked_at_before_the_reading_is_kept(
    qtbot: QtBot, clip: ClipTest, session: BenchSession
) -> None:
    clip.choose(1)
    cell = clip.procedure.cells[1]
    earlier = session.records.reading(cell.subject)
    assert earlier is not None
    for hours, volts in ((-1, 0.010), (1, 0.024)):
        reading = Reading(
            subject=bias_subjects(session.build, "left")[0], label="bias", typed=f"{1000 * volts:g}", value=volts,
            unit="V", u=1e-4, instrument="meter", taken_at=earlier.taken_at + dt.timedelta(hours=hours),
            state=State.CLEAR,
        )  # fmt: skip
        assert session.records.keep(reading)
    clip.choose(1)
    qtbot.keyClicks(clip.field, "54.5pp")
    assert "does not explain" in clip.against.text()
    qtbot.keyClick(clip.field, Qt.Key.Key_Return)
    kept = session.records.reading(cell.subject)
    assert kept is not None
    assert "does not explain" in sentence_of(kept)


def test_an_efficiency_of_a_level_taken_back_is_not_kept_in_silence(
    qtbot: QtBot, clip: ClipTest, session: BenchSession
) -> None:
    clip.choose(3)
    clip.block("")
    qtbot.keyClicks(clip.field, "50.0pp")
    qtbot.keyClicks(clip.draw.field, "50 %")
    assert "Efficiency" in clip.draw.words.text()
    clip.field.clear()
    assert "type the level" in clip.draw.words.text()
    qtbot.keyClick(clip.draw.field, Qt.Key.Key_Return)
    assert draw_of(session, clip, 3) is None
    assert clip.draw.field.text() == "50 %"


def test_an_efficiency_of_a_mere_bound_holds_both_back(qtbot: QtBot, clip: ClipTest, session: BenchSession) -> None:
    clip.choose(3)
    clip.block("")
    qtbot.keyClicks(clip.field, ">49pp")
    qtbot.keyClicks(clip.draw.field, "50 %")
    qtbot.keyClick(clip.field, Qt.Key.Key_Return)
    assert session.records.reading(clip.procedure.cells[3].subject) is None
    assert "type the level" in clip.draw.words.text()
    assert clip.procedure.row == 3


def test_a_draw_that_the_disk_refuses_stays_in_its_cell(
    qtbot: QtBot, clip: ClipTest, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    clip.choose(3)
    clip.block("")
    keep = session.records.keep
    monkeypatch.setattr(session.records, "keep", lambda one: "clip_draw" not in one.subject and keep(one))
    qtbot.keyClicks(clip.field, "50.0pp")
    qtbot.keyClicks(clip.draw.field, "300 W")
    qtbot.keyClick(clip.field, Qt.Key.Key_Return)
    assert session.records.reading(clip.procedure.cells[3].subject) is not None
    assert (clip.procedure.row, clip.draw.field.text()) == (3, "300 W")
