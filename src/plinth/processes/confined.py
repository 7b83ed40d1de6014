"""Work on what strangers made (pictures, sheets) in a process of its own: whatever they do to it, it can be killed.

It has bounded memory, ends after a while of nothing to do, and goes when whoever asked does not want it any more.
"""

import contextlib
import multiprocessing
import resource
import signal
import threading
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, TypeVar, cast

from plinth.physics.numbers.cancellation import still_wanted
from plinth.processes.worker_pool import end_with_parent

FoundT = TypeVar("FoundT")

# What such a process may take of memory at all, and how long it waits for more to do.
MOST_BYTES, IDLE_S = 3 << 30, 30.0
A_MOMENT_S = 0.05
_LOST = (EOFError, OSError)


class ConfinedError(Exception):
    """The work came to nothing: it died of it, or took too long; in words."""


_taken = threading.Lock()
_running: tuple[Any, Connection] | None = None


def run_confined(work: Callable[..., FoundT], *given: object, most_s: float) -> FoundT:
    """``work(*given)``, a function of a module, in a process of its own; killed after ``most_s`` seconds.

    Raises what it raises, ConfinedError where it dies or takes longer, and GivenUpError where nobody waits any more.
    """
    while not _taken.acquire(timeout=A_MOMENT_S):
        still_wanted()
    try:
        line = _line()
        line.send((work, given))
        return cast("FoundT", _answer(line, most_s))
    except _LOST as error:
        end_confined()
        raise ConfinedError("what is in it made its reader fail") from error
    except BaseException as error:
        if not isinstance(error, _Told):
            end_confined()
            raise
        raise error.told from None
    finally:
        _taken.release()


class _Told(BaseException):
    """What the work itself raised."""

    def __init__(self, told: Exception) -> None:
        super().__init__()
        self.told = told


def _line() -> Connection:
    """The line to a process that waits for work."""
    global _running
    if _running is not None and _running[0].is_alive() and not _running[1].poll():
        return _running[1]
    end_confined()
    context = multiprocessing.get_context("spawn")
    line, there = context.Pipe()
    process = context.Process(target=_serve, args=(there,), daemon=True, name="plinth-apart")
    process.start()
    there.close()
    _running = process, line
    return line


def _answer(line: Connection, most_s: float) -> Any:
    end: float | None = None
    while True:
        still_wanted()
        if line.poll(A_MOMENT_S):
            done, value = line.recv()
            if done is None:
                # It stands; from here on it is the work that takes time.
                end = time.monotonic() + most_s
            elif done:
                return value
            else:
                raise _Told(value)
        if end is not None and time.monotonic() > end:
            raise ConfinedError(f"it took longer than {most_s:.0f} s to read")


def end_confined() -> None:
    """Kill the process, if there is one."""
    global _running
    if _running is not None:
        process, line = _running
        _running = None
        line.close()
        process.kill()
        process.join()


def _serve(line: Connection) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    end_with_parent()
    resource.setrlimit(resource.RLIMIT_AS, (MOST_BYTES, MOST_BYTES))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    with contextlib.suppress(*_LOST):
        while line.poll(IDLE_S):
            work, given = line.recv()
            line.send((None, None))
            try:
                answer: tuple[bool, object] = (True, work(*given))
            except MemoryError:
                answer = (False, ConfinedError("it takes more memory than any such file should"))
            except Exception as error:  # noqa: BLE001  # told to whoever asked
                answer = (False, error)
            line.send(answer)
