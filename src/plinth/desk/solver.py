"""Predictions off the window's thread: the newest request wins, older ones are dropped unseen."""

import dataclasses
import threading
from collections.abc import Callable

from PySide6.QtCore import QObject, QThread, Signal

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.judge.claims import THD_OF, claim_for
from plinth.judge.margin import Margin
from plinth.judge.rules import judge
from plinth.physics.errors import PhysicsError
from plinth.predict.distortion import power_figure_at
from plinth.predict.figure import Figure
from plinth.predict.solve import Prediction, solve


@dataclasses.dataclass(frozen=True)
class Request:
    """``live``: a slider is moving, so only values are computed and spreads kept from ``spreads_of``.

    ``number`` rises with every request, so that an older answer never takes the place of a newer one.
    """

    number: int
    build: Build
    situation: Situation
    live: bool = False
    spreads_of: Prediction | None = None


@dataclasses.dataclass(frozen=True)
class Answer:
    """``prediction`` None means that the build cannot run: ``problem`` says why."""

    request: Request
    prediction: Prediction | None
    margins: tuple[Margin, ...]
    problem: str


@dataclasses.dataclass(frozen=True)
class LoadAnswer:
    """Clip power into each dummy load by its name; ``claimed`` those at the distortion that the listing means."""

    request: Request
    powers: dict[str, Figure]
    claimed: dict[str, Figure]


def answer(request: Request) -> Answer:
    """Compute one request."""
    try:
        prediction = solve(request.build, request.situation, request.spreads_of if request.live else None)
    except PhysicsError as error:
        return Answer(request, None, (), f"This build cannot run: {error}.")
    return Answer(request, prediction, judge(prediction), "")


def answer_loads(request: Request, give_way: Callable[[], bool]) -> LoadAnswer | None:
    """Powers into every dummy load; None where ``give_way`` says in between that something newer is waiting."""
    found: dict[str, Figure] = {}
    claimed: dict[str, Figure] = {}
    for load in request.build.loads:
        if give_way():
            return None
        here = request.build.model_copy(update={"load": load})
        asked = request.situation.model_copy(update={"load_ohm": None, "level": 1.0, "lamp_w": None})
        try:
            prediction = solve(here, asked)
        except PhysicsError:
            # Into this load it cannot run; the others are still worth seeing.
            continue
        found[load.name] = prediction["clip_power_w"]
        claim = claim_for(here.module, load.r_ohm)
        if claim is not None and claim.definition in THD_OF:
            at = power_figure_at(prediction, THD_OF[claim.definition])
            if at is not None:
                claimed[load.name] = at
    return LoadAnswer(request, found, claimed)


Job = Callable[[], object]


class Background(QThread):
    """Runs jobs one at a time; of several asked under one name only the newest runs.

    ``done`` (name, result) is delivered in the window's thread. Not ``threaded`` (tests): runs at once.
    """

    done = Signal(str, object)

    def __init__(self, parent: QObject | None = None, *, threaded: bool = True) -> None:
        super().__init__(parent)
        self._threaded = threaded
        self._waiting: dict[str, Job] = {}
        self._ended = False
        self._bell = threading.Condition()

    def ask(self, name: str, job: Job) -> None:
        """Ask for a job; one of the same name that has not begun is forgotten."""
        if not self._threaded:
            self.done.emit(name, job())
            return
        with self._bell:
            self._waiting[name] = job
            self._bell.notify()
        if not self.isRunning():
            self.start()

    def waits(self, name: str) -> bool:
        """Whether a job of that name has been asked for and not begun."""
        with self._bell:
            return name in self._waiting or self._ended

    def end(self) -> None:
        """Finish the job in hand and stop."""
        with self._bell:
            self._ended = True
            self._bell.notify()
        self.wait()

    def run(self) -> None:
        while True:
            with self._bell:
                self._bell.wait_for(lambda: bool(self._waiting) or self._ended)
                if self._ended:
                    return
                name = next(iter(self._waiting))
                job = self._waiting.pop(name)
            self.done.emit(name, job())
