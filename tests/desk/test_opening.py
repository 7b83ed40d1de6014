"""Opening workshops, good and bad, and the thread that predicts."""

import gc
import weakref
from pathlib import Path

import pytest
from PySide6.QtCore import QCoreApplication, QEvent, QTimer
from PySide6.QtWidgets import QApplication, QFileDialog, QWidget
from pytestqt.qtbot import QtBot

from plinth.builds.instruments import Role
from plinth.builds.situation import Situation
from plinth.demo.builds import REHEARSAL_ROOM
from plinth.demo.workshop import make_demo
from plinth.desk import opening, preferences
from plinth.desk.bench_dialog import BenchDialog
from plinth.desk.first_start.first_start import FirstStart
from plinth.desk.look import load_fonts
from plinth.desk.opening import CannotOpen, demo_workshop, open_or_ask
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow, held, hold, let_go
from plinth.judge.state import State
from plinth.record.clock import now
from plinth.record.reading import Reading
from plinth.session import opening as session_opening
from plinth.session.beginning import begin_workshop
from plinth.workshop.store import Workshop, create_workshop, open_workshop
from tests.demo_copy import demo_copy


def answer_with(choice: str, seen: list[str]) -> None:
    def press() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, CannotOpen)
        seen.append(choice)
        dialog.buttons[choice].click()

    QTimer.singleShot(50, press)


def test_a_foreign_file_is_named_and_the_demo_is_a_way_on(qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "x.plinth"
    path.write_text("not a workshop" * 20, encoding="utf-8")
    seen: list[str] = []
    answer_with("demo", seen)
    opened = open_or_ask(path)
    assert opened is not None
    assert opened.path.parent == preferences.folder()
    opened.close()
    answer_with("quit", seen)
    assert open_or_ask(path) is None
    assert seen == ["demo", "quit"]


def test_a_workshop_open_elsewhere_can_be_tried_again(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    first = make_demo(tmp_path)
    real = open_workshop
    calls: list[Path] = []

    def once_more(path: Path) -> object:
        calls.append(path)
        if len(calls) == 2:
            first.close()
        return real(path)

    monkeypatch.setattr(session_opening, "open_workshop", once_more)
    answer_with("again", [])
    opened = open_or_ask(first.path)
    assert opened is not None
    assert len(calls) == 2
    opened.close()


def test_what_is_remembered_survives_and_rubbish_does_no_harm() -> None:
    preferences.save_dark(True)
    preferences.save_scale(1.5)
    preferences.save_workshop(Path("/tmp/a.plinth"))
    assert preferences.load() == {"dark": True, "scale": 1.5, "workshop": "/tmp/a.plinth"}
    preferences.settings_file().write_text("{", encoding="utf-8")
    assert preferences.load() == {}
    preferences.settings_file().write_text("[1]", encoding="utf-8")
    assert preferences.load() == {}


def test_the_demo_opens_in_the_user_s_own_folder() -> None:
    workshop = demo_workshop()
    assert workshop.path.parent == preferences.folder()
    workshop.close()


def test_predictions_come_from_another_thread_and_the_newest_wins(qtbot: QtBot, tmp_path: Path) -> None:
    load_fonts()
    session = BenchSession(demo_copy(tmp_path))
    window = PlinthWindow(session)
    qtbot.addWidget(window)
    with qtbot.waitSignal(session.predicted, timeout=10_000):
        window.show()
    for load in (3.0, 5.0, 7.0, 8.0):
        session.plan.what_if(live=True, load_ohm=load)
    session.plan.what_if(live=False, load_ohm=8.0)

    def settled() -> None:
        assert session.predictions.prediction is not None
        assert session.predictions.prediction.situation.load_ohm == 8.0
        assert session.predictions.load_powers

    qtbot.waitUntil(settled, timeout=10_000)
    window.close()


def test_another_build_never_shows_the_figures_of_the_last_one(qtbot: QtBot, tmp_path: Path) -> None:
    session = BenchSession(demo_copy(tmp_path))
    with qtbot.waitSignal(session.predicted, timeout=10_000):
        pass
    session.switch(2)
    assert session.predictions.prediction is None
    assert session.predictions.margins == ()
    with qtbot.waitSignal(session.predicted, timeout=10_000):
        pass
    assert session.predictions.prediction is not None
    assert session.predictions.prediction.build.name == "Rehearsal room"
    session.close()


def test_build_files_are_taken_in_and_written_out(window: PlinthWindow, session: BenchSession, tmp_path: Path) -> None:
    path = tmp_path / "out.json"
    assert session.plan.write_out(path) == ""
    assert session.plan.take_in(path) == ""
    assert session.build.name == "Stage pair, 2"
    assert session.build.model_copy(update={"name": "Stage pair"}) == session.builds[0].build
    path.write_text("{", encoding="utf-8")
    assert "broken JSON" in session.plan.take_in(path)
    assert "could not be written" in session.plan.write_out(tmp_path / "none" / "x.json")
    assert len(session.builds) == 7


def test_another_workshop_takes_the_place_of_the_window(window: PlinthWindow, tmp_path: Path) -> None:
    bad = tmp_path / "bad.plinth"
    bad.write_bytes(b"x" * 200)
    window.change_workshop(lambda: open_workshop(bad))
    assert held() is None
    assert "not a Plinth workshop" in window.trouble.text()
    window.change_workshop(lambda: begin_workshop(bad))
    assert "choose another name" in window.trouble.text()
    window.change_workshop(lambda: begin_workshop(tmp_path / "mine.plinth"))
    other = held()
    assert other is not None
    assert other.session.build.name == "First build"
    assert other.session.kit.of(Role.METER).accuracy is None
    assert not other.session.demo
    assert not window.isVisible()
    other.close()


@pytest.mark.parametrize("kind", ["begin", "practice"])
def test_a_workshop_is_begun_for_real_or_for_practice_from_its_command(
    window: PlinthWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, kind: str
) -> None:
    proposed: list[tuple[str, str]] = []

    def chosen(_parent: QWidget, title: str, name: str, _files: str) -> tuple[str, str]:
        proposed.append((title, name))
        return str(tmp_path / name), ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", chosen)
    monkeypatch.setattr(FirstStart, "ask_soon", lambda _first: None)
    window.run_command(next(one for one in window.commands if one.key == kind))
    other = held()
    assert other is not None
    try:
        for_practice = kind == "practice"
        assert other.session.practice == for_practice
        assert ("for practice" in other.head.place.text()) == for_practice
        assert proposed == [
            ("Begin a workshop for practice", "practice.plinth") if for_practice
            else ("Begin a workshop", "workshop.plinth")
        ]  # fmt: skip
        # What is typed there was read off a stand-in: it counts as simulated.
        load = other.session.build.load
        assert other.session.records.keep(reading_of_a_load(load.identity))
        (kept,) = [line.reading for line in other.session.records.diary_lines() if line.reading is not None]
        assert kept.simulated == for_practice
    finally:
        other.close()


def reading_of_a_load(identity: str) -> Reading:
    return Reading(
        f"part/load/{identity}", "as it is", "8.1", 8.1, "ohm", 0.05, "meter", now(), State.CLEAR
    )  # fmt: skip


def test_instruments_are_described_in_the_window(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    dialog = BenchDialog(window, session.kit, session.set_kit)
    qtbot.addWidget(dialog)
    meter = dialog.row(Role.METER)
    name, accuracy, floor = meter.name, meter.accuracy, meter.fixed
    accuracy.setText("lots")
    dialog.take()
    assert "expected a number" in dialog.said.text()
    assert not dialog.result()
    accuracy.setText("120")
    dialog.take()
    assert "0 to 90" in dialog.said.text()
    name.setText("Blue meter")
    accuracy.setText("0,5 %")
    floor.setText("2 mV")
    dialog.row(Role.SCOPE).accuracy.setText("")
    dialog.take()
    assert dialog.result()
    assert session.kit == dialog.kit
    assert session.kit.of(Role.METER).accuracy == pytest.approx(0.005)
    assert session.kit.of(Role.METER).floor == pytest.approx(0.002)
    assert session.kit.of(Role.SCOPE).accuracy is None
    assert session.workshop.bench() == session.kit


def test_a_fault_of_plinth_itself_is_said_and_written_down(window: PlinthWindow) -> None:
    from plinth.desk.app import FaultTeller

    try:
        raise ZeroDivisionError("for this test")
    except ZeroDivisionError as error:
        hold(window)
        FaultTeller().take(type(error), error, error.__traceback__)
    assert "What was kept is safe" in window.trouble.text()
    assert window.trouble.isVisible()
    text = (preferences.folder() / "faults.txt").read_text(encoding="utf-8")
    assert "for this test" in text
    assert "Traceback" in text


def test_answers_of_a_moment_ago_keep_the_picture_moving_and_never_overtake(
    qtbot: QtBot, tmp_path: Path, demo_file: Path
) -> None:
    from plinth.builds.situation import Situation
    from plinth.session.solver import SolveRequest, answer

    session = BenchSession(demo_copy(tmp_path), threaded=False)
    first = SolveRequest(100, session.build, Situation(load_ohm=5.0), True, session.predictions.prediction)
    second = SolveRequest(101, session.build, Situation(load_ohm=6.0), True, session.predictions.prediction)
    session.predictions.take(answer(first))
    assert session.predictions.prediction is not None
    assert session.predictions.prediction.situation.load_ohm == 5.0
    session.predictions.take(answer(second))
    session.predictions.take(answer(first))
    assert session.predictions.prediction.situation.load_ohm == 6.0
    session.close()


def test_a_locked_build_is_named_and_the_others_open(qtbot: QtBot, tmp_path: Path) -> None:
    workshop = demo_copy(tmp_path)
    path = workshop.path
    with workshop.engine.begin() as connection:
        connection.exec_driver_sql("UPDATE builds SET document = replace(document, '225', '226') WHERE id = 1")
    workshop.close()
    session = BenchSession(session_opening.opened(path), threaded=False)
    window = PlinthWindow(session)
    qtbot.addWidget(window)
    window.show()
    assert session.build.name != "Stage pair"
    assert "Build 1 (Stage pair): its text is not as it was written" in window.trouble.text()
    assert "the others are not" in window.trouble.text()
    window.head.fill_builds()
    texts = {action.text(): action.isEnabled() for action in window.head.builds.menu().actions()}
    assert texts["Stage pair: cannot be read"] is False
    assert texts["Foyer"] is True
    window.close()


def test_a_damaged_workshop_is_saved_as_far_as_it_is_whole(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    workshop = demo_copy(tmp_path)
    path = workshop.path
    with workshop.engine.begin() as connection:
        connection.exec_driver_sql("UPDATE readings SET value = value + 1 WHERE id = 2")
    workshop.close()
    saved = tmp_path / "saved.plinth"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_args: (str(saved), ""))

    def go_on() -> None:
        dialog = QApplication.activeModalWidget()
        if isinstance(dialog, opening.OpeningQuestion):
            assert "1 more" not in dialog.sentence
            assert "line" in dialog.sentence
            dialog.accept()
        elif isinstance(dialog, CannotOpen):
            dialog.buttons["save"].click()
            QTimer.singleShot(20, go_on)
        else:
            QTimer.singleShot(20, go_on)

    before = path.read_bytes()
    QTimer.singleShot(20, go_on)
    found = open_or_ask(path)
    assert found is not None
    assert found.path == saved
    assert len(found.builds()) == 6
    assert path.read_bytes() == before
    found.close()


def test_windows_of_other_workshops_are_let_go(tmp_path: Path, qtbot: QtBot) -> None:
    """Only the window in front is held; those before it go with their pages, their session and its predictions."""
    load_fonts()
    hold(PlinthWindow(BenchSession(demo_copy(tmp_path))))
    gone = list[weakref.ref[PlinthWindow]]()
    for number in range(3):
        front = held()
        assert front is not None
        gone.append(weakref.ref(front))
        path = tmp_path / f"{number}.plinth"
        front.change_workshop(lambda path=path: create_workshop(path, _one_build))  # type: ignore[misc]
    del front

    def all_gone() -> bool:
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        gc.collect()
        return all(one() is None for one in gone)

    qtbot.waitUntil(all_gone, timeout=60_000)
    last = held()
    assert last is not None
    assert last.session.workshop.path.name == "2.plinth"
    last.close()
    let_go()


def _one_build(workshop: Workshop) -> None:
    workshop.add_build(REHEARSAL_ROOM, Situation(), "begun")
