"""Parts measured in the window: Enter for the next piece, judged at once, matched, corrected, kept."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from plinth.desk.inspect.parts_panel import PartsPanel
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.judge.state import State
from tests.desk.driver import type_in


def switch(session: BenchSession, name: str) -> None:
    session.switch(next(one.id for one in session.builds if one.build.name == name))


def choose(panel: PartsPanel, key: str) -> None:
    row = next(k for k in range(panel.tests.count()) if panel.tests.itemData(k) == key)
    panel.tests.setCurrentIndex(row)
    panel.tests.activated.emit(row)


@pytest.fixture
def panel(window: PlinthWindow, session: BenchSession) -> PartsPanel:
    switch(session, "Foyer")
    window.show_stage("inspect")
    return window.inspect.parts


def test_pieces_are_typed_one_after_another_and_matched(panel: PartsPanel, session: BenchSession) -> None:
    choose(panel, "output_n")
    assert "Piece 1 of 4" in panel.next.text()
    for text in ("3.912", "3.874", "3.941"):
        type_in(panel.field, text)
    assert "Piece 4 of 4" in panel.next.text()
    assert "Matched once 1 more" in panel.sets.text()
    for text in ("3.868", "3.905"):
        type_in(panel.field, text)
    assert "one to spare" in panel.next.text()
    assert "more than its share at rest" in panel.sets.text()
    assert "as they lay in the bag" in panel.sets.text()
    name = panel.pieces.accessibleName()
    assert name.startswith("piece 1 3.91 V")
    assert any(channel in name for channel in session.build.channels)
    assert "5 of 4" in panel.tests.currentText()
    # What is typed is on disk, and stands in the diary with its piece.
    assert session.records.diary_lines()[-1].reading is not None
    assert session.records.diary_lines()[-1].words.endswith("piece 5")


def test_a_wrong_piece_is_measured_again_and_the_first_reading_stays(panel: PartsPanel, session: BenchSession) -> None:
    choose(panel, "reservoir_c")
    type_in(panel.field, "14m8")
    type_in(panel.field, "1m5")
    (first, second) = panel.procedure.pieces.values()
    assert first.state is State.CLEAR
    assert second.state is State.OVER
    QTest.keyClick(panel.field, Qt.Key.Key_Up)
    assert "Piece 2" in panel.next.text()
    assert "does not go in" in panel.verdict.text()
    type_in(panel.field, "15m1")
    assert panel.procedure.pieces[2].value == pytest.approx(15.1e-3)
    assert [one.typed for one in session.records.readings_of(["part/reservoir_c/2"])] == ["1m5", "15m1"]


def test_nonsense_is_said_and_stays_and_nothing_typed_goes_on(panel: PartsPanel, session: BenchSession) -> None:
    choose(panel, "reservoir_c")
    size = session.records.diary_size
    type_in(panel.field, "seven")
    assert panel.field.text() == "seven"
    assert "expected" in panel.verdict.text()
    assert session.records.diary_size == size
    panel.field.clear()
    before = panel.tests.currentIndex()
    QTest.keyClick(panel.field, Qt.Key.Key_Return)
    assert panel.tests.currentIndex() == before + 1


def test_another_part_asks_for_its_pieces_anew(panel: PartsPanel, session: BenchSession) -> None:
    choose(panel, "reservoir_c")
    type_in(panel.field, "14m8")
    can = session.build.supply.reservoir
    session.plan.restate("supply.reservoir", can.model_copy(update={"c_f": 4.7e-3}))
    assert "3.76 mF" in panel.next.text()
    # The same can with another statement of it: the reading stays, and is judged by what is stated now.
    (kept,) = panel.procedure.pieces.values()
    assert kept.state is State.OVER


@pytest.mark.parametrize("scale", [1.0, 1.5])
def test_the_panel_is_painted_in_both_themes(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, scale: float
) -> None:
    for dark in (False, True):
        look.set(dark=dark, scale=scale)
        window.show_stage("inspect")
        for key in ("nothing_bare", "primary", "polarity", "pads", "spacers", "earth_bond", "bridge"):
            keys = [one.check.key for one in window.inspect.inspected]
            window.inspect.choose(keys.index(key))
            assert window.inspect.sketch.isVisible()
            assert window.inspect.sketch.grab().toImage().pixelColor(3, 3) == look.token("sheet")
        choose(window.inspect.parts, "input_pair")
        assert not window.inspect.parts.pieces.grab().isNull()
        assert "six" not in window.inspect.parts.sets.text()
    window.inspect.choose(next(k for k, one in enumerate(window.inspect.inspected) if one.check.key == "strain_relief"))
    assert not window.inspect.sketch.isVisible()
