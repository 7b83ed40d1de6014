"""The one runner of slow work: newest wins, queues, failures, cancelling, closing in the middle."""

import threading
from pathlib import Path

import pytest
from PySide6.QtCore import QCoreApplication, QThread
from pytestqt.qtbot import QtBot

from plinth.desk.jobs import Jobs, JobTask
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.physics.numbers.cancellation import still_wanted
from plinth.physics.numbers.errors import GivenUpError
from plinth.session import solver
from tests.demo_copy import demo_copy

LONG = 60_000


class Blocked:
    """A runner whose thread is held by a first job until ``release``."""

    def __init__(self) -> None:
        self.jobs, self._gate = Jobs(), threading.Event()
        self.jobs.ask("gate", lambda _task: self._gate.wait(60), lambda _got: None)

    def release(self) -> None:
        self._gate.set()


def test_the_newest_of_a_name_wins_and_queued_ones_all_run(qtbot: QtBot) -> None:
    held, got = Blocked(), list[object]()
    for number in range(5):
        held.jobs.ask("x", lambda _task, number=number: number, got.append)  # type: ignore[misc]
    for number in range(3):
        held.jobs.ask("q", lambda _task, number=number: f"q{number}", got.append, queue=True)  # type: ignore[misc]
    held.release()
    qtbot.waitUntil(lambda: len(got) == 4, timeout=LONG)
    assert got == [4, "q0", "q1", "q2"]
    held.jobs.end()
    assert held.jobs.at_rest()


def test_results_failures_and_progress_arrive_in_the_window_s_thread(qtbot: QtBot) -> None:
    jobs, here, seen = Jobs(), QThread.currentThread(), list[tuple[str, object, bool]]()

    def note(what: str) -> object:
        return lambda value: seen.append((what, value, QThread.currentThread() is here))

    def works(task: JobTask) -> int:
        assert QThread.currentThread() is not here
        task.progress(0.5)
        return 7

    def fails(_task: JobTask) -> int:
        raise KeyError("rail")

    done, failed, progressed = note("done"), note("failed"), note("progress")
    jobs.ask("a", works, done, failed, progressed=progressed)  # type: ignore[arg-type]
    jobs.ask("b", fails, done, failed)  # type: ignore[arg-type]
    qtbot.waitUntil(lambda: len(seen) == 3, timeout=LONG)
    assert [(what, here) for what, _, here in seen] == [("progress", True), ("done", True), ("failed", True)]
    assert isinstance(seen[2][1], KeyError)
    # Who takes no failures leaves them to the runner's own signal; the next job runs all the same.
    with qtbot.waitSignal(jobs.failed, timeout=LONG) as told:
        jobs.ask("c", fails, done)  # type: ignore[arg-type]
    assert told.args is not None
    assert told.args[0] == "c"
    jobs.ask("d", works, done)  # type: ignore[arg-type]
    qtbot.waitUntil(lambda: seen[-1][:2] == ("done", 7), timeout=LONG)
    jobs.end()


@pytest.mark.parametrize("how", ["cancelled", "ended"])
def test_an_answer_on_its_way_is_called_off_too(qtbot: QtBot, how: str) -> None:
    jobs, worked, got = Jobs(), threading.Event(), list[object]()
    jobs.ask("x", lambda _task: 7, got.append)
    # Once the next one runs, the answer of the first is done and waits for this thread, which has not looked yet.
    jobs.ask("y", lambda _task: worked.set(), got.append)
    assert worked.wait(60)
    if how == "cancelled":
        jobs.cancel("x")
        qtbot.waitUntil(lambda: got == [None], timeout=LONG)
    jobs.end()
    QCoreApplication.processEvents()
    assert 7 not in got


def test_a_cancelled_job_ends_and_says_nothing(qtbot: QtBot) -> None:
    jobs, begun, ended, got = Jobs(), threading.Event(), threading.Event(), list[object]()

    def endless(_task: JobTask) -> None:
        begun.set()
        try:
            while True:
                still_wanted()
        finally:
            ended.set()

    jobs.ask("e", endless, got.append, got.append)
    assert begun.wait(60)
    assert jobs.busy("e")
    jobs.cancel("e")
    assert not jobs.busy("e")
    assert ended.wait(60)
    jobs.ask("f", lambda _task: "after", got.append)
    qtbot.waitUntil(lambda: got == ["after"], timeout=LONG)
    jobs.end()


def test_a_job_that_takes_too_long_is_ended_with_a_sentence(qtbot: QtBot) -> None:
    jobs, got = Jobs(), list[Exception]()

    def endless(_task: JobTask) -> None:
        while True:
            still_wanted()

    jobs.ask("e", endless, lambda _got: None, got.append, most_s=0.0)
    qtbot.waitUntil(lambda: len(got) == 1, timeout=LONG)
    assert isinstance(got[0], GivenUpError)
    assert "took longer than" in str(got[0])
    jobs.end()


def test_the_end_in_the_middle_of_a_job_waits_for_nothing(qtbot: QtBot) -> None:
    jobs, begun, got = Jobs(), threading.Event(), list[object]()

    def endless(_task: JobTask) -> None:
        begun.set()
        while True:
            still_wanted()

    jobs.ask("e", endless, got.append, got.append)
    jobs.ask("never", lambda _task: 1, got.append, got.append)
    assert begun.wait(60)
    jobs.end()
    assert jobs.at_rest()
    assert jobs.ask("late", lambda _task: 1, got.append).cancelled
    assert got == []


def test_what_a_slider_waits_for_passes_a_long_job_and_either_is_called_off_alone(qtbot: QtBot) -> None:
    jobs, begun, freed, got = Jobs(), threading.Event(), threading.Event(), list[object]()

    def search(_task: JobTask) -> str:
        begun.set()
        while not freed.is_set():
            still_wanted()
        return "found"

    jobs.ask("find", search, got.append, got.append, long=True)
    assert begun.wait(60)
    jobs.ask("map", lambda _task: "map", got.append, got.append, long=True)
    for number in range(3):
        jobs.ask("plan", lambda _task, number=number: number, got.append)  # type: ignore[misc]
        qtbot.waitUntil(lambda number=number: got[-1:] == [number], timeout=LONG)  # type: ignore[misc]
    assert jobs.busy("find")
    assert jobs.waits("map"), "what is long waits for what is long"
    jobs.cancel("find")
    qtbot.waitUntil(lambda: got[-1:] == ["map"], timeout=LONG)
    assert got == [0, 1, 2, "map"]
    jobs.ask("find", search, got.append, got.append, long=True)
    jobs.end()
    assert jobs.at_rest()
    assert jobs.waits("anything"), "whoever waits after the end waits for ever, and goes"
    assert got == [0, 1, 2, "map"]


def test_no_figure_of_the_old_sliders_stands_under_the_new_ones_after_a_failure(
    window: PlinthWindow, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert session.predictions.prediction is not None

    def broken(*_args: object) -> None:
        raise KeyError("rail_minus_mean_v")

    monkeypatch.setattr("plinth.session.predictions.answer", broken)
    session.plan.what_if(live=False, load_ohm=3.0)
    assert session.predictions.prediction is None
    assert session.predictions.margins == ()
    assert session.predictions.load_powers == {}
    assert "Plinth made a mistake" in session.predictions.problem
    assert "KeyError" in window.trouble.text()
    assert "faults.txt" in window.trouble.text()
    monkeypatch.setattr("plinth.session.predictions.answer", solver.answer)
    session.plan.what_if(live=False, load_ohm=4.0)
    assert session.predictions.prediction is not None
    assert session.predictions.problem == ""


def test_closing_the_window_in_the_middle_of_a_prediction(qtbot: QtBot, tmp_path: Path) -> None:
    session = BenchSession(demo_copy(tmp_path))
    window = PlinthWindow(session)
    window.show()
    for load in (3.0, 4.0, 5.0):
        session.plan.what_if(live=True, load_ohm=load)
    window.close()
    assert session.jobs.at_rest()
    window.deleteLater()
