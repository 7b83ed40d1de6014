"""The window's side: starts the process that talks and its guard, asks, and beats for as long as somebody is there."""

import itertools
import subprocess
import threading
import time
from collections.abc import Callable

from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.messages import BEAT_S, FROZEN_S, Answer, Ask, Beat, MakeSafe, Order, WentOff
from plinth.processes.lines import LOST, awake_s, end_process, hang_up, line_pair, send, start_module

ANSWER_S = 90.0


class InstrumentProcess:
    """Talk with instruments from any thread. ``went_off`` is told (from a thread of its own) what was switched off.

    ``alive`` is called by the window's own thread, often: while it is not, no beats go out, and outputs go off.
    """

    def __init__(self, went_off: Callable[[str], None] = lambda _words: None) -> None:
        self._went_off = went_off
        self._numbers = itertools.count(1)
        self._waiting: dict[int, tuple[threading.Event, list[Answer]]] = {}
        self._lock = threading.Lock()
        self._last_alive = time.monotonic()
        self._ended = self._closed = False
        mine, its = line_pair()
        watched, watching = line_pair()
        heard, told = line_pair()
        self._line, self._guard_line = mine, heard
        # The guard first: nothing talks without one.
        self.guard: subprocess.Popen[bytes] = start_module("plinth.instruments.guard", [watching, told])
        self.talker: subprocess.Popen[bytes] = start_module("plinth.instruments.talker", [its, watched])
        self._threads = [
            threading.Thread(target=work, name="instruments", daemon=True)
            for work in (self._hear, self._hear_guard, self._beat)
        ]
        for thread in self._threads:
            thread.start()

    @property
    def is_there(self) -> bool:
        """Whether it can still be asked."""
        return not self._ended and self.talker.poll() is None

    def alive(self) -> None:
        """The window's thread is at work."""
        self._last_alive = time.monotonic()

    def ask(self, order: Order, within_s: float = ANSWER_S) -> object:
        """Have an order carried out, and wait for its answer. Raises InstrumentError."""
        number = next(self._numbers)
        event: threading.Event = threading.Event()
        answers: list[Answer] = []
        with self._lock:
            self._waiting[number] = event, answers
            sent = not self._ended and send(self._line, Ask(number, order, awake_s()))
        if not sent:
            self._waiting.pop(number, None)
            raise _lost()
        if not event.wait(within_s):
            self._waiting.pop(number, None)
            raise InstrumentError(
                ErrorKind.TIME_OUT, "instruments", f"found no answer within {within_s:g} s, expected one"
            )
        if not answers:
            raise _lost()
        answer = answers[0]
        if answer.fault is not None:
            kind, who, words, remedy = answer.fault
            raise InstrumentError(kind, who, words, " ".join([remedy, *answer.unsafe]).strip())
        return answer.value

    def make_safe(self) -> tuple[str, ...]:
        """Everything off; what may still be on, in sentences. Never raises."""
        try:
            unsafe = self.ask(MakeSafe(), 5.0)
        except InstrumentError as fault:
            return () if fault.kind is ErrorKind.PROCESS_LOST and self._ended else (str(fault),)
        assert isinstance(unsafe, tuple), "that is what was asked for"
        return unsafe

    def end(self) -> None:
        """Everything off, and both processes away."""
        if self._closed:
            return
        if not self._ended:
            self.make_safe()
        self._ended = self._closed = True
        lines = self._line, self._guard_line
        for line in lines:
            hang_up(line)
        for thread in self._threads:
            if thread is not threading.current_thread():
                thread.join()
        for line in lines:
            line.close()
        for process in (self.talker, self.guard):
            end_process(process)

    def _hear(self) -> None:
        try:
            while True:
                answer = self._line.recv()
                if isinstance(answer, Answer):
                    event, answers = self._waiting.pop(answer.number, (None, []))
                    if event is not None:
                        answers.append(answer)
                        event.set()
        except LOST:
            pass
        # Whoever still waits is told that nobody answers any more.
        with self._lock:
            lost, self._ended = not self._ended, True
            waiting, self._waiting = self._waiting, {}
        for event, _ in waiting.values():
            event.set()
        if lost:
            self._went_off("The process that talks with the instruments is gone; its guard switches everything off.")

    def _hear_guard(self) -> None:
        try:
            while True:
                message = self._guard_line.recv()
                if isinstance(message, WentOff):
                    unsafe = " ".join(message.unsafe)
                    self._went_off(f"Outputs were switched off: {message.why}. {unsafe}".strip())
        except LOST:
            return

    def _beat(self) -> None:
        while not self._ended:
            if time.monotonic() - self._last_alive < FROZEN_S:
                with self._lock:
                    if not self._ended:
                        send(self._line, Beat())
            time.sleep(BEAT_S)


def _lost() -> InstrumentError:
    return InstrumentError(
        ErrorKind.PROCESS_LOST, "instruments", "found the process that talks with them gone, expected it there",
        "Its guard has switched everything off; connect them anew.",
    )  # fmt: skip
