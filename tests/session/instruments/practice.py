"""A practice workshop with one build, its simulated bench, and runs on it, without a window."""

import contextlib
import json
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

from plinth.instruments.errors import ErrorKind
from plinth.record.reading import Reading
from plinth.session.beginning import begin_workshop
from plinth.session.procedure.bring_up import BringUpListener, BringUpProcedure
from plinth.session.procedure.clip_test import ClipListener, ClipProcedure
from plinth.session.procedure.response_test import ResponseListener, ResponseProcedure
from plinth.session.procedure.sheet_test import SheetListener, SheetProcedure
from plinth.session.runs.run import Run
from plinth.session.runs.subjects import BringUpSubject, ClipSubject, ResponseSubject, SheetSubject, Subject
from plinth.session.session import Session
from tests.desk.inspected import inspect_all
from tests.session.running import AtOnce, Uncancelled

EXAMPLES = Path(__file__).parents[3] / "examples"
# A process that gets no turn for a second is as good as gone, and outputs go off: by right, wherever the turn went.
INTERRUPTED = (ErrorKind.STALE, ErrorKind.NOT_HELD, ErrorKind.TIME_OUT)
MOST_TRIES = 6
NAMES = sorted(path.stem for path in EXAMPLES.glob("*.json"))


def _nobody(*_args: object) -> None:
    return None


class InTurn(AtOnce):
    """Jobs at once, but those of instruments after one another: a run asks for the next from within the last.

    ``before`` is called ahead of each of those.
    """

    def __init__(self) -> None:
        super().__init__()
        self._asked: list[
            tuple[Callable[..., object], Callable[[object], None], Callable[[Exception], None] | None]
        ] = []
        self._at_it = False
        self.before: Callable[[], None] = lambda: None

    def ask(
        self, name: str, work: Callable[..., object], done: Callable[[object], None],
        failed: Callable[[Exception], None] | None = None, *, long: bool = False, bench: bool = False,
    ) -> None:  # fmt: skip
        if name != "instruments":
            super().ask(name, work, done, failed, long=long, bench=bench)
            return
        self._asked.append((work, done, failed))
        if self._at_it:
            return
        self._at_it = True
        try:
            while self._asked:
                self.before()
                self._do(*self._asked.pop(0))
        finally:
            self._at_it = False

    @staticmethod
    def _do(
        work: Callable[..., object], done: Callable[[object], None], failed: Callable[[Exception], None] | None
    ) -> None:
        try:
            answer = work(Uncancelled())
        except Exception as error:
            if failed is None:
                raise
            failed(error)
            return
        done(answer)


class Practice:
    """``session`` on a build of examples, ``run`` on its simulated bench; ``trouble`` what was said of it."""

    def __init__(self, name: str, folder: Path, fault: str | None = None, seed: int = 1) -> None:
        self.jobs = InTurn()
        self.session = Session(begin_workshop(folder / f"{name}.plinth", practice=True), self.jobs)
        assert not self.session.plan.take_in(EXAMPLES / f"{name}.json")
        self.trouble: list[str] = []
        self.session.instruments.went_off = self.trouble.append
        said: list[str] = []
        self._truth = folder / "truth.json"
        self.session.instruments.try_simulated(said.append, fault=fault, seed=seed, truth=self._truth)
        assert said == [""]
        self.run = Run(self.session, _nobody)
        self.channel = self.session.build.channels[0]
        self._ended = threading.Event()
        # Cleared, the window's thread stands still.
        self.here = threading.Event()
        self.here.set()
        threading.Thread(target=self._beat, daemon=True).start()

    def _beat(self) -> None:
        while not self._ended.wait(0.05):
            if self.here.is_set():
                self.session.instruments.alive()

    def sheet(self, kind: object) -> SheetProcedure:
        """The procedure of a sheet, at its first row."""
        own = SheetProcedure(self.session, kind, SheetListener(_nobody, _nobody, _nobody))  # type: ignore[arg-type]
        own.channel.take(self.channel)
        own.make()
        return own

    def begin(self, subject: Subject, most: int = 1000) -> None:
        """Run; and begin again where a machine that was busy with other things has had everything switched off."""
        for _ in range(MOST_TRIES):
            self.run.begin(subject, most)
            if self.run.fault not in INTERRUPTED:
                return

    def read_sheet(self, kind: object) -> SheetProcedure:
        """A sheet, read as far as instruments read it."""
        own = self.sheet(kind)
        self.begin(SheetSubject(self.session, own))
        return own

    def clipping(self) -> ClipProcedure:
        """The clipping matrix of the first channel."""
        own = ClipProcedure(self.session, ClipListener(_nobody, _nobody, _nobody, _nobody, lambda: False))
        own.show_channel(self.channel)
        return own

    def read_clipping(self, most: int = 1000) -> ClipProcedure:
        """It, read."""
        own = self.clipping()
        self.begin(ClipSubject(self.session, own), most)
        return own

    def read_response(self) -> ResponseProcedure:
        """A response, read."""
        own = ResponseProcedure(self.session, ResponseListener(_nobody, _nobody))
        own.show_channel(self.channel)
        self.begin(ResponseSubject(self.session, own))
        return own

    def bring_up(self, rounds: int = 40) -> BringUpProcedure:
        """First power, as far as it goes: what wants a word is said to be done."""
        own = BringUpProcedure(self.session, BringUpListener(_nobody, _nobody, _nobody, _nobody))
        own.channel.take(self.channel)
        inspect_all(self.session)
        own.to_due()
        for _ in range(rounds):
            inspect_all(self.session)
            self.begin(BringUpSubject(self.session, own))
            if own.step is None or own.request is not None or own.blocked:
                break
            own.take("done")
        return own

    def readings(self) -> list[Reading]:
        """Everything that was kept."""
        session = self.session
        return [record for record in session.workshop.records(session.current) if isinstance(record, Reading)]

    def truth(self) -> dict[str, float]:
        """What has become of the simulated build; its bench is ended for that."""
        self.session.instruments.disconnect()
        return dict(json.loads(self._truth.read_text()))

    def end(self) -> None:
        self._ended.set()
        self.session.close()


@contextlib.contextmanager
def practice(name: str, folder: Path, fault: str | None = None, seed: int = 1) -> Iterator[Practice]:
    """One for the length of a test."""
    own = Practice(name, folder, fault, seed)
    try:
        yield own
    finally:
        own.end()
