"""Other processes that take a share of what is computed for many alike: rows of the shelf, points of a map.

Whoever opens a window starts them, once; without them all is computed where it is asked for. What a helper does not do
(it was killed, it is slow, it failed) the asker does: they change how long an answer takes, never which it is.

Pipes of its own instead of ``concurrent.futures.ProcessPoolExecutor``: what all items have in common (0.4 MB for rows
of the shelf) goes over once and not with each, and the asker works along. On two processors 42 rows took 0.39 s so,
0.45 s (in chunks of four) to 0.61 s (one by one) with the executor, 0.65 s without help.
"""

import contextlib
import importlib
import os
import signal
import threading
from collections import deque
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any, TypeVar

from plinth.physics.numbers.cancellation import still_wanted

if TYPE_CHECKING:
    from multiprocessing.connection import Connection

Common = TypeVar("Common")
Item = TypeVar("Item")
FoundT = TypeVar("FoundT")

# Each has so many items at hand, so that it need not wait while the asker is at one of its own.
AHEAD = 2
MOST = 2
A_MOMENT_S = 0.05
# The window's own work comes first.
NICENESS = 5
# So long one that is told to end may take.
PATIENCE_S = 0.3
_LOST = (EOFError, BrokenPipeError, ConnectionResetError)


class Helper:
    """One process: it is told what all items have in common, then given items, and answers each."""

    def __init__(self, modules: Sequence[str]) -> None:
        # Only a window needs it, once it stands.
        import multiprocessing

        context = multiprocessing.get_context("spawn")
        self._line, there = context.Pipe()
        self.process = context.Process(target=_serve, args=(there, tuple(modules)), daemon=True, name="plinth-helper")
        self.process.start()
        there.close()
        self.taken = threading.Lock()
        self.ready = self.lost = False
        self._told: tuple[object, object] | None = None
        self._turn, self._at_hand = 0, set[int]()

    def begin(self, work: Callable[[Any, Any], Any], common: object) -> bool:
        """Tell what items will have in common; False where it cannot help yet: it starts, or is at others' items."""
        self.collect()
        if self.lost or not self.ready or self._at_hand:
            return False
        self._turn += 1
        if self._told is None or self._told[0] is not work or self._told[1] is not common:
            self._send(("common", work, common))
            self._told = work, common
        return not self.lost

    def serve(self, todo: deque[int], items: Sequence[object], found: dict[int, Any]) -> None:
        """Take what it has found, and give it more."""
        for turn, k, answers, value in self.collect():
            if turn == self._turn and answers and k not in found:
                found[k] = value
        # One more than it has is left to the asker.
        while len(todo) > len(self._at_hand) + 1 and len(self._at_hand) < AHEAD and not self.lost:
            k = todo.pop()
            self._at_hand.add(k)
            self._send(("item", self._turn, k, items[k]))

    def awaited(self) -> bool:
        """Whether an answer is on its way, or comes within a moment."""
        try:
            return bool(self._at_hand) and not self.lost and self._line.poll(A_MOMENT_S)
        except _LOST:
            self.lost = True
            return False

    @property
    def gone(self) -> bool:
        """Whether it will not answer any more."""
        return self.lost or not self.process.is_alive()

    def end(self) -> None:
        """Stop it, also where it was stopped and hears nothing."""
        self.lost = True
        self._line.close()
        self.process.terminate()
        self.process.join(PATIENCE_S)
        if self.process.is_alive():
            self.process.kill()
            self.process.join()

    def collect(self) -> list[tuple[int, int, bool, Any]]:
        """Answers that have come, and whose process is gone."""
        got: list[tuple[int, int, bool, Any]] = []
        try:
            while not self.lost and self._line.poll():
                message = self._line.recv()
                if message is None:
                    self.ready = True
                    continue
                self._at_hand.discard(message[1])
                got.append(message)
        except _LOST:
            self.lost = True
        return got

    def _send(self, message: object) -> None:
        try:
            self._line.send(message)
        except _LOST:
            self.lost = True


_helpers: list[Helper] = []


def start(modules: Sequence[str], count: int | None = None) -> None:
    """Start helpers that know these modules: one for each processor but the asker's own. What runs already stays.

    One that was killed meanwhile is replaced. Where the machine has no room for another process there are fewer. From
    the window's own thread: helpers end with the thread that started them.
    """
    for gone in [helper for helper in _helpers if helper.gone and helper.taken.acquire(blocking=False)]:
        _helpers.remove(gone)
        gone.end()
    wanted = min(MOST, len(os.sched_getaffinity(0)) - 1) if count is None else count
    with contextlib.suppress(OSError):
        while len(_helpers) < wanted:
            _helpers.append(Helper(modules))


def running() -> tuple[Helper, ...]:
    """Those that were started."""
    return tuple(_helpers)


def end() -> None:
    """Stop them all."""
    while _helpers:
        _helpers.pop().end()


def share(
    work: Callable[[Common, Item], FoundT],
    common: Common,
    items: Sequence[Item],
    told: Callable[[float], None] = lambda _share: None,
) -> list[FoundT]:
    """``work(common, item)`` of each item, in their order, by the asker and whoever helps; ``told`` the share done.

    ``work`` is a function of a module. Raises what it raises, and GivenUpError where nobody waits any more.
    """
    answers: dict[int, FoundT] = {}
    todo = deque(range(len(items)))
    mine = [helper for helper in _helpers if len(items) > 1 and helper.taken.acquire(blocking=False)]
    helping: list[Helper] = []
    try:
        while len(answers) < len(items):
            still_wanted()
            for piece in mine:
                if piece not in helping and todo and piece.begin(work, common):
                    helping.append(piece)
            for piece in helping:
                piece.serve(todo, items, answers)
            # Who has items at hand may be slow, or lost: once nothing else is left they are done here too.
            if todo or not any(helper.awaited() for helper in helping):
                k = todo.popleft() if todo else next((k for k in range(len(items)) if k not in answers), None)
                if k is not None:
                    answers[k] = work(common, items[k])
            told(len(answers) / len(items))
    finally:
        for piece in mine:
            piece.taken.release()
    return [answers[k] for k in range(len(items))]


# Of Linux, sys/prctl.h.
_PR_SET_PDEATHSIG = 1


def end_with_parent() -> None:
    """The system kills this process when the one that started it is gone, also where this one is stopped just then."""
    import ctypes

    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, int(signal.SIGKILL))


def _serve(line: "Connection", modules: Sequence[str]) -> None:
    """What a helper does: imports, says that it is there, and works until its line is closed."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    end_with_parent()
    os.nice(NICENESS)
    for name in modules:
        importlib.import_module(name)
    work: Callable[[Any, Any], Any] | None = None
    common: object = None
    try:
        line.send(None)
        while True:
            message = line.recv()
            if message[0] == "common":
                _, work, common = message
                continue
            _, turn, k, item = message
            assert work is not None, "told before the first item"
            try:
                answer = (turn, k, True, work(common, item))
            except Exception:  # noqa: BLE001  # the asker meets it too, and tells whoever asked
                answer = (turn, k, False, None)
            line.send(answer)
    except (*_LOST, OSError):
        return
