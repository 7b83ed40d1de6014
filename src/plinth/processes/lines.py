"""Processes of Plinth's own that are started as modules, and the lines between them.

``multiprocessing`` would start them as children of the one that asks, which end with it: what watches over outputs must
outlive whoever is watched.
"""

import contextlib
import os
import socket
import subprocess
import sys
import time
from collections.abc import Sequence
from multiprocessing.connection import Connection

LOST = (EOFError, BrokenPipeError, ConnectionResetError, OSError)


def line_pair() -> tuple[Connection, Connection]:
    """Both ends of a line. What is sent is told apart into messages; a closed end is an EOFError at the other."""
    one, other = socket.socketpair()
    return Connection(one.detach()), Connection(other.detach())


def start_module(module: str, lines: Sequence[Connection]) -> subprocess.Popen[bytes]:
    """Start ``python -m module`` with one end of each line, which are closed here; it reads them by ``lines_given``."""
    numbers = [line.fileno() for line in lines]
    process = subprocess.Popen(  # noqa: S603  # our own module, our own interpreter
        [sys.executable, "-m", module, *map(str, numbers)], pass_fds=numbers, stdin=subprocess.DEVNULL,
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True,
    )  # fmt: skip
    for line in lines:
        line.close()
    return process


def lines_given() -> list[Connection]:
    """The lines that this process was started with."""
    return [Connection(int(number)) for number in sys.argv[1:]]


def send(line: Connection, message: object) -> bool:
    """Send; False where nobody is there any more."""
    try:
        line.send(message)
    except (*LOST, ValueError):
        return False
    return True


def hang_up(line: Connection) -> None:
    """End a line that another thread may be reading: both ends read an EOFError from here on; ``close`` frees it."""
    with contextlib.suppress(OSError), socket.socket(fileno=os.dup(line.fileno())) as own:
        own.shutdown(socket.SHUT_RDWR)


def awake_s() -> float:
    """Seconds that run on while a laptop sleeps, unlike those of ``time.monotonic``."""
    return time.clock_gettime(time.CLOCK_BOOTTIME)


def end_process(process: subprocess.Popen[bytes], patience_s: float = 2.0) -> None:
    """Wait for it to end by itself, else kill it."""
    try:
        process.wait(patience_s)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()


def quiet_signals() -> None:
    """Ctrl+C in a terminal reaches the window alone, which ends its processes by closing their lines."""
    import signal

    with contextlib.suppress(ValueError, OSError):
        signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.environ.pop("PYTHONINSPECT", None)
