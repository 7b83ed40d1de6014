"""A small instrument on the loopback interface that answers as a test wants: well, late, half, twice, or nothing."""

import contextlib
import socket
import threading
import time
from collections.abc import Callable, Iterator

IDENTITY = "Fen,Model one,0001,1.0"
# What is done with a good answer; what comes out is sent as it is.
Crooked = Callable[[str, str], str | None]


def well(_line: str, answer: str) -> str | None:
    """As it should be."""
    return f"{answer}\n"


class CrookedServer:
    """``output`` whether it is on, ``heard`` every line in turn, ``crooked`` how it answers, ``delay_s`` how late.

    ``stuck``: it stays as it is, whatever it is told. ``values`` what it has been told, by the
    header of the command that told it.
    """

    def __init__(self, crooked: Crooked = well) -> None:
        self.crooked, self.delay_s = crooked, 0.0
        self.output = self.stuck = False
        self.heard: list[str] = []
        self.errors: list[str] = []
        self.values: dict[str, str] = {"SOURce:VOLTage": "0", "SOURce:FREQuency": "1000"}
        self.readings: dict[str, str] = {"MEASure:VOLTage:AC?": "2.5", "MEASure:VOLTage:DC?": "0.0125"}
        self.blocks: dict[str, bytes] = {}
        self._tag = "0"
        self._socket = socket.create_server(("127.0.0.1", 0))
        self._lines: list[socket.socket] = []
        self._threads: list[threading.Thread] = []
        threading.Thread(target=self._serve, daemon=True).start()

    @property
    def address(self) -> str:
        """As PyVISA has it."""
        return f"TCPIP::127.0.0.1::{self._socket.getsockname()[1]}::SOCKET"

    def close(self) -> None:
        """Gone, with every line to it."""
        with contextlib.suppress(OSError):
            self._socket.shutdown(socket.SHUT_RDWR)
        self._socket.close()
        self.cut()
        for thread in self._threads:
            thread.join(2.0)

    def cut(self) -> None:
        """Every line to it is cut."""
        for line in self._lines:
            with contextlib.suppress(OSError):
                line.shutdown(socket.SHUT_RDWR)

    def _serve(self) -> None:
        with contextlib.suppress(OSError):
            while True:
                line, _ = self._socket.accept()
                self._lines.append(line)
                thread = threading.Thread(target=self._talk, args=(line,), daemon=True)
                thread.start()
                self._threads.append(thread)

    def _talk(self, line: socket.socket) -> None:
        with (
            line,
            line.makefile("r", encoding="utf-8", newline="\n") as words,
            contextlib.suppress(OSError, ValueError),
        ):
            for each in words:
                self._hear(line, each.strip())

    def _hear(self, line: socket.socket, words: str) -> None:
        self.heard.append(words)
        if words in self.blocks:
            line.sendall(self.blocks[words])
            return
        answers = [answer for part in words.split(";") if (answer := self._part(part.strip())) is not None]
        if not answers:
            return
        time.sleep(self.delay_s)
        out = self.crooked(words, ";".join(answers))
        if out is not None:
            line.sendall(out.encode())

    def _part(self, part: str) -> str | None:
        header, _, value = part.partition(" ")
        if header == "*IDN?":
            return IDENTITY
        if header == "*OPC?":
            return "1"
        if header == "*ESE":
            self._tag = value
            return None
        if header == "*ESE?":
            return self._tag
        if header == "SYSTem:ERRor?":
            return self.errors.pop(0) if self.errors else '0,"No error"'
        if header == "OUTPut:STATe":
            self.output = self.output if self.stuck else value in ("1", "ON")
            return None
        if header == "OUTPut:STATe?":
            return str(int(self.output))
        if header in self.readings:
            return self.readings[header]
        if header.endswith("?"):
            return self.values.get(header[:-1], "0")
        self.values[header] = value
        return None


@contextlib.contextmanager
def crooked_server(crooked: Crooked = well) -> Iterator[CrookedServer]:
    """One for the length of a test."""
    server = CrookedServer(crooked)
    try:
        yield server
    finally:
        server.close()


def until(holds: Callable[[], bool], within_s: float = 20.0) -> bool:
    """Whether it comes to hold; the bound is no claim, only where a test gives up."""
    end = time.monotonic() + within_s
    while time.monotonic() < end:
        if holds():
            return True
        time.sleep(0.005)
    return holds()
