"""Every shelf part in every station on every page, in an order drawn by lot: no fault, no stray window."""

import random
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from plinth.builds.stations import STATIONS
from plinth.desk.finder import Finder
from plinth.desk.look import load_fonts
from plinth.desk.name_dialog import NameDialog
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow, held
from plinth.session.beginning import begin_workshop
from tests.desk.driver import STAGE_KEYS, take, take_any
from tests.desk.watching import no_stray_windows
from tests.turns import in_turn


def test_a_supply_too_small_for_its_module_on_the_power_up_page(window: PlinthWindow, session: BenchSession) -> None:
    session.switch(next(one.id for one in session.builds if one.build.name == "Foyer"))
    for stage in STAGE_KEYS:
        window.show_stage(stage)
    window.show_stage("plan")
    session.choose_station("transformer")
    take(window, "Trial 10")
    window.show_stage("power_up")
    assert window.power_up.steps.list.count() == 0
    assert window.power_up.problem.isVisible()
    session.plan.undo()
    assert window.power_up.steps.list.count() > 0


def test_a_new_workshop_with_a_trial_and_then_the_large_one(qtbot: QtBot, tmp_path: Path) -> None:
    load_fonts()
    session = BenchSession(begin_workshop(tmp_path / "new.plinth"), threaded=False)
    window = PlinthWindow(session)
    window.show()
    with no_stray_windows():
        for stage in STAGE_KEYS:
            window.show_stage(stage)
        window.show_stage("plan")
        for place, name in (
            ("transformer", "Toroid 2×9 V 30 VA"),
            ("module", "Class AB board, 60 W"),
            ("transformer", "Toroid 2×9 V 30 VA"),
        ):
            session.choose_station(place)
            take(window, name)
        window.show_stage("power_up")
        QApplication.processEvents()
    window.close()
    window.deleteLater()


@pytest.mark.parametrize("seed", in_turn([2, 1], 2))
def test_a_walk_over_parts_stations_builds_and_pages(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, seed: int
) -> None:
    pick = random.Random(seed)
    with no_stray_windows():
        for _ in range(25):
            match pick.choice(("part", "part", "part", "stage", "build", "channel", "undo", "redo", "slider")):
                case "part":
                    window.show_stage("plan")
                    session.choose_station(pick.choice(STATIONS).key)
                    take_any(window, pick, looking=pick.random() < 0.15)
                case "stage":
                    window.show_stage(pick.choice(STAGE_KEYS))
                case "build":
                    session.switch(pick.choice(session.builds).id)
                case "channel":
                    window.power_up.channels.choose(pick.choice(session.build.channels))
                    window.measure.channels.choose(pick.choice(session.build.channels))
                case "undo":
                    session.plan.undo()
                case "redo":
                    session.plan.redo()
                case "slider":
                    session.plan.what_if(live=pick.random() < 0.5, level=pick.random())
            QApplication.processEvents()


def test_keeping_readings_shows_no_window_and_keeps_the_focus(window: PlinthWindow, session: BenchSession) -> None:
    window.power_up.channels.choose("right")
    window.show_stage("power_up")
    page = window.power_up
    with no_stray_windows():
        for text in ("20M", "4k1", "0R33"):
            page.question.field.setText(text)
            page.question.keep()
            QApplication.processEvents()
            focus = QApplication.focusWidget()
            assert focus is not None
            assert focus.window() is window


@pytest.mark.parametrize("where", ["field", "list", "dialog", "finder", "nothing"])
def test_stop_works_whatever_has_the_focus(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, where: str
) -> None:
    window.show_stage("power_up")
    assert session.power.switch_on("left", "on")
    dialog: Finder | NameDialog | None = None
    match where:
        case "field":
            window.power_up.question.field.setFocus()
        case "list":
            window.power_up.steps.list.setFocus()
        case "dialog":
            dialog = NameDialog(window, "x", "", [], lambda _name: True)
        case "finder":
            dialog = Finder(window, window.commands)
        case _:
            focus = QApplication.focusWidget()
            if focus is not None:
                focus.clearFocus()
    if dialog is not None:
        qtbot.addWidget(dialog)
        dialog.open()
        QTest.keyClick(dialog.field, Qt.Key.Key_Escape)
        # The first press is the stop's; the second closes.
        assert dialog.isVisible()
        assert session.power.live is None
        QTest.keyClick(dialog.field, Qt.Key.Key_Escape)
        assert not dialog.isVisible()
    else:
        QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_Escape)
    assert session.power.live is None
    assert session.power.stopped is not None


def test_another_workshop_waits_while_power_is_on(window: PlinthWindow, session: BenchSession, tmp_path: Path) -> None:
    session.power.switch_on("left", "on")
    window.change_workshop(lambda: begin_workshop(tmp_path / "other.plinth"))
    assert held() is None
    assert window.isVisible()
    assert "Power is on" in window.trouble.text()
    session.power.switch_off()
    window.change_workshop(lambda: begin_workshop(tmp_path / "other.plinth"))
    other = held()
    assert other is not None
    other.close()
