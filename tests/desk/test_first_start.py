"""The first minutes: four ways to begin, each with a build and its next step; the tour, offered once."""

import shutil
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QLineEdit
from pytestqt.qtbot import QtBot

from plinth.desk import preferences
from plinth.desk.dialog import TITLE_BAR_PX
from plinth.desk.first_start import first_start as first_start_module
from plinth.desk.first_start.found_dialog import FoundDialog
from plinth.desk.first_start.ways_dialog import WAYS, WaysDialog
from plinth.desk.look import load_fonts, look
from plinth.desk.requirement_dialog import RequirementDialog
from plinth.desk.session import BenchSession
from plinth.desk.stage_keys import INSPECT, PLAN
from plinth.desk.window import PlinthWindow, held, hold, let_go
from plinth.session.beginning import begin_in, begin_workshop
from plinth.workshop.store import open_workshop
from tests.desk.driver import STAGE_KEYS, press, sees, type_in
from tests.desk.watching import no_stray_windows
from tests.sample_builds import linear


@pytest.fixture
def own(qtbot: QtBot, tmp_path: Path) -> PlinthWindow:
    """A window on a workshop of one's own that has just been begun."""
    load_fonts()
    window = PlinthWindow(BenchSession(begin_workshop(tmp_path / "mine.plinth"), threaded=False))
    qtbot.addWidget(window)
    window.resize(1280, 764)
    window.show()
    hold(window)
    qtbot.waitExposed(window)
    return window


def answering(monkeypatch: pytest.MonkeyPatch, answer: Callable[[QDialog], None]) -> list[QDialog]:
    """Whatever is asked is answered so; what was asked."""
    asked: list[QDialog] = []

    def ask(dialog: QDialog) -> bool:
        asked.append(dialog)
        dialog.show()
        answer(dialog)
        return dialog.result() == QDialog.DialogCode.Accepted

    monkeypatch.setattr(first_start_module, "ask", ask)
    return asked


def test_a_digit_or_arrows_and_enter_choose_a_way_and_escape_leaves(own: PlinthWindow) -> None:
    for digit, way in enumerate(WAYS, 1):
        dialog = WaysDialog(own)
        dialog.show()
        QTest.keyClicks(dialog, str(digit))
        assert (dialog.way, dialog.result()) == (way, QDialog.DialogCode.Accepted)
    dialog = WaysDialog(own)
    dialog.show()
    dialog.buttons["parts"].setFocus()
    QTest.keyClick(dialog, Qt.Key.Key_Up)
    assert dialog.focusWidget() is dialog.buttons["demo"]
    QTest.keyClick(dialog, Qt.Key.Key_Down)
    QTest.keyClick(dialog, Qt.Key.Key_Down)
    QTest.keyClick(dialog, Qt.Key.Key_Return)
    assert dialog.way == "wish"
    left = WaysDialog(own)
    left.show()
    QTest.keyClick(left, Qt.Key.Key_Escape)
    assert (left.way, left.result()) == (None, QDialog.DialogCode.Rejected)


@pytest.mark.parametrize(("way", "text"), [("parts", "2x18 160VA, 2 chips 50W 8R 25V, 2x10m"), ("wish", "60 W 4R")])
def test_parts_and_a_wish_end_in_a_build_and_its_next_step(
    own: PlinthWindow, monkeypatch: pytest.MonkeyPatch, way: str, text: str
) -> None:
    def answer(dialog: QDialog) -> None:
        if isinstance(dialog, WaysDialog):
            QTest.keyClicks(dialog, "1" if way == "parts" else "2")
            return
        assert isinstance(dialog, RequirementDialog)
        if way == "parts":
            dialog.take()
            assert "expected what you have" in dialog.said.text()
        type_in(dialog.requirement, text)

    answering(monkeypatch, answer)
    before = len(own.session.builds)
    own.first.ask()
    assert len(own.session.builds) == before + 1
    assert own.stage == PLAN
    if way == "parts":
        assert linear(own.session.build).transformer.va == 160.0
    assert own.session.build.taken_in is None
    said = own.first.bar.words.text()
    assert str(own.session.workshop.path) not in said, "it was named when it was begun"
    assert said.startswith(f"Made: {own.session.build.name}. Next: ")
    assert said in sees(own)
    press(own.first.bar.away)
    assert own.first.bar.isHidden()


def test_something_broken_is_taken_in_and_its_inspection_comes_first(
    own: PlinthWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    def answer(dialog: QDialog) -> None:
        if isinstance(dialog, WaysDialog):
            QTest.keyClicks(dialog, "3")
            return
        assert isinstance(dialog, FoundDialog)
        type_in(dialog.read, "nothing at all")
        assert "found 'nothing at all'".capitalize() in dialog.said.text()
        type_in(dialog.read, "2x30 225VA, 2x10m 50V, rails 42 V", enter=False)
        assert "rails marked ±42 V" in dialog.understood.text()
        type_in(dialog.complaint, "left is silent, hums", enter=False)
        type_in(dialog.year, "87")
        assert "Found '87' as the year" in dialog.said.text()
        assert dialog.isVisible()
        type_in(dialog.year, "1987")

    answering(monkeypatch, answer)
    own.first.ask()
    session = own.session
    assert session.build.taken_in is not None
    assert own.stage == INSPECT
    assert own.inspect.current.check.key == "taken_in_charge"
    assert "Said of it: left is silent, hums. Made in 1987." in own.inspect.count.text()
    assert session.bring_up.school.key == "reforming"
    assert session.bring_up.school.name in own.first.bar.words.text()
    assert "taken in as somebody else built it" in session.records.diary_lines()[-1].words
    # Another school is one's own choice and stays so; a build of one's own says nothing of a stranger's.
    assert session.bring_up.choose_school("series_lamp")
    assert session.bring_up.school.key == "series_lamp"
    session.switch(session.builds[0].id)
    assert "Said of it" not in own.inspect.count.text()
    assert own.inspect.inspected[0].check.key == "fuse_and_switch"


def test_left_without_an_answer_all_stays(own: PlinthWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    asked = answering(monkeypatch, lambda dialog: dialog.reject())
    before = [stored.build for stored in own.session.builds]
    own.first.ask()
    own.first.take_in()
    own.first.ask_new()
    assert [type(dialog) for dialog in asked] == [WaysDialog, FoundDialog, RequirementDialog]
    assert [stored.build for stored in own.session.builds] == before
    assert own.first.bar.isHidden()


def test_on_the_demo_one_s_own_goes_into_a_workshop_of_its_own(
    demo_file: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    load_fonts()
    shutil.copy(demo_file, tmp_path / "theatre.plinth")
    window = PlinthWindow(BenchSession(open_workshop(tmp_path / "theatre.plinth"), threaded=False))
    hold(window)
    demo = window.session.workshop.path
    names = {stored.build.name for stored in window.session.builds}

    def answer(dialog: QDialog) -> None:
        assert isinstance(dialog, FoundDialog)
        type_in(dialog.read, "rails 42 V")
        # That window computes beside itself.
        qtbot.waitUntil(lambda: not dialog.isVisible(), timeout=60_000)

    answering(monkeypatch, answer)
    window.first.begin("demo")
    assert window.first.bar.words.text().startswith("This is the demo")
    assert {stored.build.name for stored in window.session.builds} == names
    window.first.begin("broken")
    other = held()
    assert other is not None
    qtbot.addWidget(other)
    assert other is not window
    assert other.session.workshop.path.parent == preferences.folder()
    assert other.session.workshop.path != demo
    assert str(other.session.workshop.path) in other.first.bar.words.text()
    assert other.session.build.taken_in is not None
    assert not other.session.demo
    # And back: the demo way leads from one's own workshop to a fresh demo.
    begun = other.session.workshop.path
    other.first.begin("demo")
    assert begun.exists()
    third = held()
    assert third is not None
    qtbot.addWidget(third)
    assert third.session.demo
    assert third.first.bar.words.text().startswith("This is the demo")
    third.close()
    let_go()


def test_new_workshops_never_take_the_place_of_one_that_is_there(tmp_path: Path) -> None:
    made = []
    for _ in range(3):
        workshop = begin_in(tmp_path)
        made.append(workshop.path.name)
        workshop.close()
    assert made == ["workshop.plinth", "workshop-2.plinth", "workshop-3.plinth"]


def test_the_tour_is_offered_once_goes_on_with_enter_and_any_other_key_leaves_it(
    own: PlinthWindow, qtbot: QtBot
) -> None:
    own.first.say_next("Next.")
    assert own.first.bar.tour.isVisible()
    own.first.say_next("Next.")
    assert not own.first.bar.tour.isVisible()
    own.first.show_around()
    tour = own.first.running
    assert tour is not None
    seen = []
    for _ in range(5):
        seen.append(tour.bubble.title.text())
        assert tour.rect().contains(tour.bubble.geometry())
        assert tour.bubble.height() >= tour.bubble.heightForWidth(tour.bubble.width())
        QTest.keyClick(tour, Qt.Key.Key_Return)
    assert [title[:6] for title in seen] == [f"{k} of 5" for k in range(1, 6)]
    assert tour.isHidden()
    build, stage = own.session.build, own.stage
    for key in (Qt.Key.Key_Escape, Qt.Key.Key_X, Qt.Key.Key_2):
        own.first.show_around()
        again = own.first.running
        assert again is not None
        QTest.keyClick(again, Qt.Key.Key_Shift)
        assert again.isVisible()
        own.resize(1100, 700)
        assert again.size() == own.size()
        QTest.keyClick(again, key)
        assert again.isHidden()
    assert (own.session.build, own.stage) == (build, stage)


@pytest.mark.parametrize("scale", [1.0, 1.5, 2.0])
def test_a_form_grows_with_what_is_said_in_it_and_squeezes_no_field(own: PlinthWindow, scale: float) -> None:
    look.set(scale=scale)
    for dialog in (FoundDialog(own, own.session), RequirementDialog(own, own.session, from_parts=True)):
        dialog.show()
        field = dialog.read if isinstance(dialog, FoundDialog) else dialog.requirement
        type_in(field, "2x30 225VA, 2x10m 50V, 8R2 100W, T 3.15A, something that is no part of anything")
        room = dialog.screen().availableGeometry().height()
        assert "expected a part" in dialog.said.text()
        assert dialog.height() <= room
        layout = dialog.layout()
        assert layout is not None
        if layout.totalHeightForWidth(dialog.width()) < room - TITLE_BAR_PX:
            for line in dialog.findChildren(QLineEdit):
                assert line.height() >= line.sizeHint().height(), line.accessibleName()
        dialog.reject()
    look.set(scale=1.0)


def test_a_window_on_a_workshop_of_one_s_own_comes_up_in_one_piece(qtbot: QtBot, tmp_path: Path) -> None:
    load_fonts()
    with no_stray_windows():
        window = PlinthWindow(BenchSession(begin_workshop(tmp_path / "mine.plinth"), threaded=False))
        qtbot.addWidget(window)
        window.show()
        for stage in STAGE_KEYS:
            window.show_stage(stage)
        assert window.plan.parts.examples.isVisibleTo(window.plan)
    window.close()
