"""Instruments in the real window: the bar, the keys, the dialog, the practice workshop; through the real link."""

from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

import pytest
from PySide6.QtCore import QCoreApplication, QEvent, Qt
from pytestqt.qtbot import QtBot

from plinth.desk import window as windows
from plinth.desk.instruments.bar import left_words
from plinth.desk.instruments.dialog import InstrumentsDialog
from plinth.desk.measure.capture_dialog import CaptureDialog
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.record.kept_capture import CaptureSource
from plinth.record.origin import Giver
from plinth.record.probe import Point
from plinth.record.reading import Reading
from plinth.session.runs.subjects import LeftToHand
from tests.demo_copy import demo_copy
from tests.desk.inspected import inspect_all
from tests.instruments.crooked_server import crooked_server
from tests.session.instruments.practice import INTERRUPTED, MOST_TRIES

START_MS = 60_000


def in_front() -> PlinthWindow:
    """The window in front."""
    window = windows.held()
    assert window is not None
    return window


def put_away(window: PlinthWindow) -> None:
    """Close it, and delete it at once: each change of look would dress it once more."""
    window.close()
    windows.let_go()
    window.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture
def at_bench(qtbot: QtBot, tmp_path: Path) -> Iterator[PlinthWindow]:
    """The demo's build at its simulated bench, in the practice workshop beside, all looked at."""
    first = PlinthWindow(BenchSession(demo_copy(tmp_path)))
    windows.hold(first)
    first.show()
    first.instrument_actions.try_simulated()
    window = in_front()
    assert window is not first
    qtbot.waitUntil(lambda: window.session.instruments.connected, timeout=START_MS)
    inspect_all(window.session)
    yield window
    window.session.power.switch_off()
    window.close_anyway = window.close_without_photos = True
    put_away(window)


def run_out(qtbot: QtBot, window: PlinthWindow, press: Callable[[], None]) -> str:
    """Press a key, wait until nothing is under way, and give what the bar says."""
    for _ in range(MOST_TRIES):
        press()
        qtbot.waitUntil(lambda: not window.instruments.run.going, timeout=START_MS)
        # A machine that is busy with other things has everything switched off, by right.
        if window.instruments.run.fault not in INTERRUPTED:
            break
    return window.instruments.words.text()


def readings(window: PlinthWindow) -> list[Reading]:
    session = window.session
    return [record for record in session.workshop.records(session.current) if isinstance(record, Reading)]


def test_one_key_leads_to_a_practice_workshop_whose_bench_is_this_build(at_bench: PlinthWindow) -> None:
    session = at_bench.session
    assert session.practice
    assert session.workshop.path.stem.endswith("practice")
    assert session.instruments.simulated is not None
    assert session.instruments.simulated.build == session.build
    assert at_bench.instruments.isVisibleTo(at_bench)
    assert at_bench.instruments.badge.text() == "Simulated bench"
    assert "counts in it alone" in at_bench.trouble.text()
    assert at_bench.stage == "power_up"


def test_steps_are_read_one_by_one_and_on_alone_and_stop_goes_off(at_bench: PlinthWindow, qtbot: QtBot) -> None:
    bar = at_bench.instruments
    assert "simulated hand" in bar.words.text()
    run_out(qtbot, at_bench, bar.read)
    assert len(readings(at_bench)) == 1
    run_out(qtbot, at_bench, bar.read_on)
    kept = readings(at_bench)
    assert len(kept) >= 5
    assert {reading.origin.giver for reading in kept} == {Giver.SIMULATED}
    assert "hand" in bar.words.text()
    # Two words, of the trimmer and before the first mains, then on to where power is on.
    at_bench.power_up.question.keep()
    run_out(qtbot, at_bench, bar.read_on)
    at_bench.power_up.question.keep()
    bar.read_on()
    qtbot.waitUntil(lambda: at_bench.session.power.live is not None, timeout=START_MS)
    assert bar.stop_button.isVisibleTo(bar)
    at_bench.session.power.switch_off()
    qtbot.waitUntil(lambda: not bar.run.going, timeout=START_MS)
    assert at_bench.session.power.live is None
    assert at_bench.session.instruments.are_on() == ()
    assert len(readings(at_bench)) >= len(kept)


def test_a_reading_can_be_typed_instead_at_any_time(at_bench: PlinthWindow, qtbot: QtBot) -> None:
    question = at_bench.power_up.question
    question.field.setText("12M")
    question.keep()
    run_out(qtbot, at_bench, at_bench.instruments.read)
    kept = readings(at_bench)
    # In a workshop for practice what is typed is simulated as well.
    assert [reading.origin.giver for reading in kept] == [Giver.SIMULATED, Giver.SIMULATED]
    assert [reading.origin.instrument_id for reading in kept] == ["", "simulated hand"]


def test_readings_lie_over_their_prediction_on_measure(at_bench: PlinthWindow, qtbot: QtBot) -> None:
    at_bench.show_stage("measure")
    at_bench.measure.show_named("Gain, match")
    page = at_bench.measure
    qtbot.waitUntil(lambda: page.test.under_way.request is not None, timeout=START_MS)
    # Not brought up: nothing is switched on.
    words = run_out(qtbot, at_bench, at_bench.instruments.read)
    assert "Held" in words
    assert at_bench.session.power.live is None
    assert readings(at_bench) == []
    page.reason.setText("for this test")
    page.pass_over()
    words = run_out(qtbot, at_bench, at_bench.instruments.read_on)
    kept = readings(at_bench)
    assert {reading.origin.giver for reading in kept} == {Giver.SIMULATED}
    assert {reading.state.value for reading in kept} == {"clear"}
    assert "everything is off" in words


def test_another_build_ends_the_bench_of_this_one(at_bench: PlinthWindow) -> None:
    session = at_bench.session
    assert session.plan.add_build("another", copy=True)
    assert session.instruments.simulated is None
    assert not at_bench.instruments.isVisibleTo(at_bench)


def test_a_changed_plan_asks_for_the_bench_anew(at_bench: PlinthWindow, qtbot: QtBot) -> None:
    session = at_bench.session
    session.plan.restate("sink", session.build.sink.model_copy(update={"r_k_per_w": 0.5}))
    words = run_out(qtbot, at_bench, at_bench.instruments.read)
    assert "F7 starts it anew" in words
    assert readings(at_bench) == []
    at_bench.instrument_actions.try_simulated()
    qtbot.waitUntil(lambda: session.instruments.connected, timeout=START_MS)
    inspect_all(session)
    qtbot.waitUntil(lambda: at_bench.power_up.under_way is not None, timeout=START_MS)
    run_out(qtbot, at_bench, at_bench.instruments.read)
    assert len(readings(at_bench)) == 1


def test_the_practice_workshop_is_opened_again_with_the_same_build(qtbot: QtBot, tmp_path: Path) -> None:
    names: list[list[str]] = []
    for _ in range(2):
        first = PlinthWindow(BenchSession(demo_copy(tmp_path)) if not names else _opened(tmp_path))
        windows.hold(first)
        first.show()
        first.instrument_actions.try_simulated()
        window = in_front()
        instruments = window.session.instruments
        qtbot.waitUntil(partial(getattr, instruments, "connected"), timeout=START_MS)
        names.append([build.build.name for build in window.session.builds])
        put_away(window)
    assert names[0] == names[1]
    assert len(names[0]) == 1


def _opened(folder: Path) -> BenchSession:
    from plinth.session.opening import opened

    return BenchSession(opened(next(path for path in folder.glob("*.plinth") if "practice" not in path.name)))


def test_a_real_instrument_is_asked_added_connected_and_tried(qtbot: QtBot, tmp_path: Path) -> None:
    window = PlinthWindow(BenchSession(demo_copy(tmp_path)))
    window.show()
    session = window.session
    with crooked_server() as server:
        dialog = InstrumentsDialog(window, session)
        dialog.identify()
        assert "Found no address" in dialog.said.text()
        dialog.address.setEditText(server.address)
        dialog.identify()
        qtbot.waitUntil(lambda: "Fen,Model" in dialog.identity.text(), timeout=START_MS)
        dialog.map.setCurrentIndex(dialog.map.findText("Any SCPI multimeter"))
        dialog.add()
        assert "Found no name" in dialog.said.text()
        dialog.name.setText("meter")
        dialog.points.setCurrentIndex(dialog.points.findData(str(Point.OUTPUT)))
        dialog.add()
        assert dialog.said.text() == ""
        assert [each.name for each in session.instruments.kept.instruments] == ["meter"]
        # The same once more under another name.
        dialog.name.setText("second")
        dialog.add()
        assert "another address" in dialog.said.text()
        dialog.send()
        dialog.line.setText("*IDN?")
        dialog.send()
        assert "Connect all first" in dialog.said.text()
        dialog.connect_all()
        qtbot.waitUntil(lambda: session.instruments.connected, timeout=START_MS)
        assert window.instruments.badge.text() == "1 instrument"
        dialog.send()
        qtbot.waitUntil(lambda: "Fen,Model" in dialog.log.toPlainText(), timeout=START_MS)
        dialog.forget()
        assert session.instruments.kept.instruments == ()
        assert not session.instruments.connected
        dialog.reject()
    put_away(window)


def test_what_does_not_answer_is_said_and_nothing_is_lost(qtbot: QtBot, tmp_path: Path) -> None:
    window = PlinthWindow(BenchSession(demo_copy(tmp_path)))
    with crooked_server() as server:
        gone = server.address
    dialog = InstrumentsDialog(window, window.session)
    dialog.address.setEditText(gone)
    dialog.identify()
    qtbot.waitUntil(lambda: "nothing that answers" in dialog.said.text(), timeout=START_MS)
    assert dialog.address.currentText() == gone
    wrong = tmp_path / "own.toml"
    wrong.write_text("name = 'Fen'\nkinds = ['lamp']\n[commands]\n")
    dialog.take_map(wrong)
    assert "found 'lamp'" in dialog.said.text()
    right = tmp_path / "right.toml"
    right.write_text(
        "name = 'Fen thermometer'\nkinds = ['thermometer']\nidentity = '^Fen,'\n"
        "[commands.read_degrees]\nask = 'MEASure:TEMPerature?'\nunit = '°C'\n"
    )
    dialog.take_map(right)
    assert dialog.map.currentText() == "Fen thermometer"
    assert window.session.instruments.kept.fitting("Fen,Model one,1,1") is not None
    dialog.reject()
    put_away(window)


def test_what_is_left_is_named_or_its_one_reason_given() -> None:
    one, other = LeftToHand("Rise time", "No instrument reads this."), LeftToHand("Overshoot", "It is held.")
    assert left_words([one]) == "Left to a hand: Rise time."
    assert left_words([one, other]) == "Left to a hand: Rise time; Overshoot."
    assert left_words([one, one, one]) == "3 left. No instrument reads this."
    assert left_words([one, other, one]) == "Left to a hand: Rise time; Overshoot and 1 more."


def test_the_bench_view_is_answered_from_a_keypad(at_bench: PlinthWindow, qtbot: QtBot) -> None:
    at_bench.toggle_bench_view()
    view, procedure = at_bench.bench_view, at_bench.power_up.procedure
    assert view.isVisibleTo(at_bench)
    assert not at_bench.pages.isVisibleTo(at_bench)
    assert view.title.text() == "Left: tab to heat sink, open?"
    first = procedure.row
    for key in "-12":
        qtbot.keyClick(view, key)
    # With nothing typed yet a minus goes back; behind digits it is the sign.
    assert procedure.row == len(procedure.stands) - 1
    assert view.text == "12"
    qtbot.keyClick(view, Qt.Key.Key_Minus)
    assert view.text == "-12"
    qtbot.keyClick(view, Qt.Key.Key_Asterisk)
    assert view.text == ""
    qtbot.keyClick(view, Qt.Key.Key_Plus)
    assert procedure.row == first
    for key in "12000000":
        qtbot.keyClick(view, key)
    assert view.figure.text() == "12000000"
    assert "Inside" in view.state.text() + view.further.text()
    qtbot.keyClick(view, Qt.Key.Key_Enter)
    assert [reading.value for reading in readings(at_bench)] == [12e6]
    assert procedure.row == first + 1
    assert view.text == ""
    # Nothing typed, nothing to read it: the bar's own key has the simulated hand read it.
    qtbot.keyClick(view, Qt.Key.Key_Asterisk)
    qtbot.waitUntil(lambda: len(readings(at_bench)) == 2, timeout=START_MS)
    at_bench.toggle_bench_view()
    assert at_bench.pages.isVisibleTo(at_bench)
    assert not view.isVisibleTo(at_bench)


def test_the_bench_view_tells_what_a_meter_reads_and_switches_off(at_bench: PlinthWindow, qtbot: QtBot) -> None:
    question = at_bench.power_up.question
    for _ in range(20):
        if question.step is not None and question.step.key == "low_current":
            break
        if question.step is not None and question.step.request is None:
            question.keep()
        else:
            run_out(qtbot, at_bench, at_bench.instruments.read)
    at_bench.toggle_bench_view()
    view = at_bench.bench_view
    assert view.title.text() == "Left: current at low rail"
    assert view.keep_button.text().endswith("it is switched on")
    qtbot.keyClick(view, Qt.Key.Key_Enter)
    assert at_bench.session.power.live is not None
    qtbot.waitUntil(lambda: bool(view.figure.text()), timeout=START_MS)
    assert "Live, supply, simulated" in view.who.text()
    assert view.keep_button.text().endswith("read, keep")
    qtbot.keyClick(view, Qt.Key.Key_Slash)
    assert at_bench.session.power.live is None
    assert at_bench.session.instruments.are_on() == ()
    at_bench.show_stage("measure")
    assert not view.isVisibleTo(at_bench)


def test_the_live_page_shows_what_is_read_and_saves_it(at_bench: PlinthWindow, qtbot: QtBot, tmp_path: Path) -> None:
    at_bench.instrument_actions.show_live()
    page = at_bench.instrument_actions.live
    qtbot.waitUntil(lambda: len(page.reader.course("Sink")) > 2, timeout=START_MS)
    page.refresh()
    assert page.figures["Sink"].text().endswith("°C")
    # Nothing is on: no band holds.
    assert page.marks["+ rail"].accessibleName() == "unknown"
    assert not page.reader.armed
    assert not page.said.isVisibleTo(page)
    page.save_csv(tmp_path / "live.csv")
    lines = (tmp_path / "live.csv").read_text().splitlines()
    assert lines[0] == "seconds,what,value,unit,read by"
    assert all("simulated" in line for line in lines[1:])
    assert len(lines) > 6
    page.off.setChecked(True)
    at_bench.session.tell.power_changed()
    page._alarmed.emit("+ rail: found 12 V, expected 29.6 V to 41.3 V.")  # noqa: SLF001
    assert "Outputs were switched off" in page.said.text()
    page._say("The readings were not written.")  # noqa: SLF001
    page._alarmed.emit("+ rail: found 12 V, expected 29.6 V to 41.3 V.")  # noqa: SLF001
    assert "Outputs were switched off" in page.said.text(), "the same again, after something else was said"
    page.close()


def test_the_live_spectrum_shows_a_tone_and_keeps_it_as_a_capture(
    at_bench: PlinthWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = at_bench.session
    at_bench.instrument_actions.show_live()
    at_bench.instrument_actions.live.spectrum_button.click()
    page = at_bench.instrument_actions.spectrum
    at_bench.instrument_actions.live.close()
    qtbot.waitUntil(lambda: page.frame is not None or bool(page.reader and page.reader.fault), timeout=START_MS)
    assert not page.said.isVisibleTo(page), page.said.text()
    page.refresh()
    # Nothing is on: an output without a tone.
    assert "frequency" not in page.words.text()
    (curve,) = page.plot.series
    assert float(curve.y.max()) < -20.0
    page.hold.setChecked(True)
    assert page.reader is not None
    assert page.reader.held
    shown: list[CaptureDialog] = []

    def look_and_keep(dialog: CaptureDialog) -> int:
        qtbot.waitUntil(lambda: dialog.shown is not None, timeout=START_MS)
        dialog.keep()
        qtbot.waitUntil(lambda: bool(session.captures.of()), timeout=START_MS)
        shown.append(dialog)
        return 0

    monkeypatch.setattr(CaptureDialog, "exec", look_and_keep)
    page.keep_button.click()
    (kept,) = session.captures.of()
    assert kept.facts.source is CaptureSource.SIMULATED
    assert kept.facts.sample_rate_hz == 100_000.0
    # The rail is asked for first, and this is a record of an output: it answers nothing.
    assert "This record is of the output" in shown[0].answers.asked.text()
    page.close()
    assert not page.reader.running
