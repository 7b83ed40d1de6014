"""All slow work of the window, off its thread: three lanes, results and failures delivered in the window's.

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


class JobTask:
    """A job under way: ``progress`` says how far it is (0 to 1), ``reason_to_end`` why it should not go on."""

    def __init__(self, name: str, most_s: float | None, progressed: Callable[[float], None] | None = None) -> None:
        self.name = name
        self.cancelled = False
        self._most_s = most_s
        self._begun = time.monotonic()
        self.progressed_share = progressed

    def progress(self, share: float) -> bool:
        """Tell how much is done; False where the job should end."""
        if self.progressed_share is not None:
            self.progressed_share(share)
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
    task: JobTask
    work: Callable[[JobTask], object]
    done: Callable[[object], None]
    failed: Callable[[Exception], None] | None


class _Lane(QThread):
    """A thread that does one job after another."""

    def __init__(self, parent: QObject, run_one: Callable[[_Job], None]) -> None:
        super().__init__(parent)
        self._run_one = run_one
        self.waiting: list[_Job] = []
        self.running: JobTask | None = None
        self.ended = False
        self.bell = threading.Condition()

    def run(self) -> None:
        while True:
            with self.bell:
                self.bell.wait_for(lambda: bool(self.waiting) or self.ended)
                if self.ended:
                    return
                job = self.waiting.pop(0)
                self.running = job.task
            self._run_one(job)
            with self.bell:
                self.running = None

    def put(self, job: _Job, *, queue: bool) -> bool:
        """Have a job done; False where the lane has ended."""
        with self.bell:
            if self.ended:
                return False
            if not queue:
                self.waiting = [queued for queued in self.waiting if queued.task.name != job.task.name]
            self.waiting.append(job)
            self.bell.notify()
        if not self.isRunning():
            self.start()
        return True

    def holds(self, name: str, *, running: bool) -> bool:
        """Whether a job of that name waits here, or (where that is asked as well) runs."""
        with self.bell:
            here = running and self.running is not None and self.running.name == name and not self.running.cancelled
            return here or any(job.task.name == name for job in self.waiting)

    def cancel(self, name: str | None) -> None:
        """Forget the jobs of that name (None: all), and end the one that runs."""
        with self.bell:
            for queued in self.waiting:
                queued.task.cancelled = queued.task.cancelled or name in (None, queued.task.name)
            self.waiting = [job for job in self.waiting if not job.task.cancelled]
            if self.running is not None and name in (None, self.running.name):
                self.running.cancelled = True

    def end(self) -> None:
        """End the current job and take no more."""
        self.cancel(None)
        with self.bell:
            self.ended = True
            self.bell.notify()


class Jobs(QObject):
    """``failed`` (name, error) for jobs whose asker takes no failures. Not ``threaded`` (tests): runs at once.

    Three lanes, so that what a slider or a page waits for never queues behind a search, a map or a report, and those
    never behind an instrument that is waited for.
    """

    failed = Signal(str, object)
    _deliver = Signal(object)

    def __init__(self, parent: QObject | None = None, *, threaded: bool = True) -> None:
        super().__init__(parent)
        self._threaded = threaded
        self._prompt, self._long, self._bench = (_Lane(self, self._run) for _ in range(3))
        # Done, and on the way to the window's thread: until they are there they can still be called off.
        self._arriving: list[JobTask] = []
        self._bell = threading.Lock()
        # The runner lives in the window's thread, so what a lane emits is delivered there.
        self._deliver.connect(self._take)

    @property
    def _lanes(self) -> tuple[_Lane, ...]:
        return self._prompt, self._long, self._bench

    def ask(
        self,
        name: str,
        work: Callable[[JobTask], object],
        done: Callable[[object], None],
        failed: Callable[[Exception], None] | None = None,
        *,
        queue: bool = False,
        progressed: Callable[[float], None] | None = None,
        most_s: float | None = MOST_S,
        long: bool = False,
        bench: bool = False,
    ) -> JobTask:
        """Ask for a job. One of the same name that has not begun is forgotten, unless both are to ``queue``.

        ``done`` or ``failed`` are called in the window's thread, ``progressed`` too; after ``cancel`` none of them.
        ``long`` of what may take more than some seconds; ``bench`` of what waits for instruments, however long.
        """
        task = JobTask(name, most_s if self._threaded and not bench else None)
        if progressed is not None:
            task.progressed_share = lambda share: self._deliver.emit((task, progressed, share, False))
        job = _Job(task, work, done, failed)
        if not self._threaded:
            self._run(job)
        elif not (self._bench if bench else self._long if long else self._prompt).put(job, queue=queue):
            task.cancelled = True
        return task

    def waits(self, name: str) -> bool:
        """Whether a job of that name has been asked for and not begun."""
        return self._prompt.ended or any(lane.holds(name, running=False) for lane in self._lanes)

    def busy(self, name: str) -> bool:
        """Whether a job of that name waits or runs."""
        return any(lane.holds(name, running=True) for lane in self._lanes)

    def at_rest(self) -> bool:
        """Whether no thread of it runs any more."""
        return not any(lane.isRunning() for lane in self._lanes)

    def cancel(self, name: str) -> None:
        """Forget the jobs of that name, and end the one that runs; nothing of them is delivered any more."""
        for lane in self._lanes:
            lane.cancel(name)
        with self._bell:
            for task in self._arriving:
                task.cancelled = task.cancelled or task.name == name

    def end(self) -> None:
        """End the current jobs and stop; nothing is delivered any more."""
        for lane in self._lanes:
            lane.end()
        with self._bell:
            for task in self._arriving:
                task.cancelled = True
        for lane in self._lanes:
            lane.wait()

    def _run(self, job: _Job) -> None:
        job.task.begin()
        call: Callable[[object], None] | Callable[[Exception], None] = job.done
        answer: object = None
        try:
            with while_wanted(job.task.reason_to_end):
                answer = job.work(job.task)
        except Exception as error:  # noqa: BLE001  # whatever a job dies of is told to whoever asked for it
            call, answer = job.failed or (lambda error: self.failed.emit(job.task.name, error)), error
        with self._bell:
            self._arriving.append(job.task)
        self._deliver.emit((job.task, call, answer, True))

    def _take(self, delivery: object) -> None:
        assert isinstance(delivery, tuple)
        task, call, value, is_answer = delivery
        if is_answer:
            with self._bell:
                self._arriving.remove(task)
        if not task.cancelled:
            call(value)
