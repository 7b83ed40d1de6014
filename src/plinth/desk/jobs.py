"""All slow work of the window, off its thread: one runner, one thread, results and failures delivered in the window's.

Of several jobs asked under one name the newest wins, unless they are to queue. A job is given its ``Task``: it tells
progress there and is ended through it, by ``cancel``, by a newer one, by its time limit, or by the window's end.
"""

import dataclasses
import threading
import time
from collections.abc import Callable

from PySide6.QtCore import QObject, QThread, Signal

from plinth.physics.numbers.cancellation import while_wanted

MOST_S = 120.0
CANCELLED = "it was stopped"
_TOO_LONG = "it took longer than {:.0f} s and was stopped: such figures are seldom those of a real circuit"


class Task:
    """A job under way: ``progress`` says how far it is (0 to 1), ``reason_to_end`` why it should not go on."""

    def __init__(self, name: str, most_s: float | None, progressed: Callable[[float], None] | None = None) -> None:
        self.name = name
        self.cancelled = False
        self._most_s = most_s
        self._begun = time.monotonic()
        self._progressed = progressed

    def progress(self, share: float) -> bool:
        """Tell how much is done; False where the job should end."""
        if self._progressed is not None:
            self._progressed(share)
        return not self.reason_to_end()

    def reason_to_end(self) -> str:
        """Empty while the job may go on."""
        if self.cancelled:
            return CANCELLED
        if self._most_s is not None and time.monotonic() - self._begun > self._most_s:
            return _TOO_LONG.format(self._most_s)
        return ""

    def begin(self) -> None:
        """The time limit counts from here."""
        self._begun = time.monotonic()


@dataclasses.dataclass(frozen=True)
class _Job:
    task: Task
    work: Callable[[Task], object]
    done: Callable[[object], None]
    failed: Callable[[Exception], None] | None


class Jobs(QThread):
    """``failed`` (name, error) for jobs whose asker takes no failures. Not ``threaded`` (tests): runs at once."""

    failed = Signal(str, object)
    _deliver = Signal(object)

    def __init__(self, parent: QObject | None = None, *, threaded: bool = True) -> None:
        super().__init__(parent)
        self._threaded = threaded
        self._waiting: list[_Job] = []
        self._running: Task | None = None
        # Done, and on the way to the window's thread: until they are there they can still be called off.
        self._arriving: list[Task] = []
        self._ended = False
        self._bell = threading.Condition()
        # The runner lives in the window's thread, so what the worker emits is delivered there.
        self._deliver.connect(self._take)

    def ask(
        self,
        name: str,
        work: Callable[[Task], object],
        done: Callable[[object], None],
        failed: Callable[[Exception], None] | None = None,
        *,
        queue: bool = False,
        progressed: Callable[[float], None] | None = None,
        most_s: float | None = MOST_S,
    ) -> Task:
        """Ask for a job. One of the same name that has not begun is forgotten, unless both are to ``queue``.

        ``done`` or ``failed`` are called in the window's thread, ``progressed`` too; after ``cancel`` none of them.
        """
        task = Task(name, most_s if self._threaded else None)
        if progressed is not None:
            task._progressed = lambda share: self._deliver.emit((task, progressed, share, False))
        job = _Job(task, work, done, failed)
        if not self._threaded:
            self._run(job)
            return task
        with self._bell:
            if self._ended:
                task.cancelled = True
                return task
            if not queue:
                self._waiting = [one for one in self._waiting if one.task.name != name]
            self._waiting.append(job)
            self._bell.notify()
        if not self.isRunning():
            self.start()
        return task

    def waits(self, name: str) -> bool:
        """Whether a job of that name has been asked for and not begun."""
        with self._bell:
            return self._ended or any(one.task.name == name for one in self._waiting)

    def busy(self, name: str) -> bool:
        """Whether a job of that name waits or runs."""
        with self._bell:
            running = self._running is not None and self._running.name == name and not self._running.cancelled
            return running or any(one.task.name == name for one in self._waiting)

    def cancel(self, name: str) -> None:
        """Forget the jobs of that name, and end the one that runs; nothing of them is delivered any more."""
        with self._bell:
            for one in self._waiting:
                one.task.cancelled = one.task.cancelled or one.task.name == name
            self._waiting = [one for one in self._waiting if not one.task.cancelled]
            for task in self._arriving:
                task.cancelled = task.cancelled or task.name == name
            if self._running is not None and self._running.name == name:
                self._running.cancelled = True

    def end(self) -> None:
        """End the job in hand and stop; nothing is delivered any more."""
        with self._bell:
            self._ended = True
            for one in self._waiting:
                one.task.cancelled = True
            for task in self._arriving:
                task.cancelled = True
            self._waiting = []
            if self._running is not None:
                self._running.cancelled = True
            self._bell.notify()
        self.wait()

    def run(self) -> None:
        while True:
            with self._bell:
                self._bell.wait_for(lambda: bool(self._waiting) or self._ended)
                if self._ended:
                    return
                job = self._waiting.pop(0)
                self._running = job.task
            self._run(job)

    def _run(self, job: _Job) -> None:
        job.task.begin()
        call: Callable[[object], None] | Callable[[Exception], None] = job.done
        found: object = None
        try:
            with while_wanted(job.task.reason_to_end):
                found = job.work(job.task)
        except Exception as error:  # noqa: BLE001  # whatever a job dies of is told to whoever asked for it
            call, found = job.failed or (lambda error: self.failed.emit(job.task.name, error)), error
        with self._bell:
            self._running = None
            self._arriving.append(job.task)
        self._deliver.emit((job.task, call, found, True))

    def _take(self, delivery: object) -> None:
        assert isinstance(delivery, tuple)
        task, call, value, is_answer = delivery
        if is_answer:
            with self._bell:
                self._arriving.remove(task)
        if not task.cancelled:
            call(value)
