"""Small servers on the loopback interface, one an instrument, all turned by one thread.

A client sets one instrument and then asks another. What it sent is here before what it asks, so all that waits is read
before anything is answered, and settings are carried out before queries.
"""

import selectors
import socket
import threading
from dataclasses import dataclass, field
from types import TracebackType
from typing import Self

from plinth.simulated_bench.bench import Bench
from plinth.simulated_bench.instruments.digitiser import Digitiser
from plinth.simulated_bench.instruments.meters import Thermometer, output_meter, rail_meter
from plinth.simulated_bench.instruments.on_bench import OnBench
from plinth.simulated_bench.instruments.sources import Generator, Load, MainsSource, Supply
from plinth.simulated_bench.scpi.errors import ScpiError
from plinth.simulated_bench.scpi.instrument import MOST_BYTES

LOOPBACK = "127.0.0.1"
_READ = 65_536


def instruments_of(bench: Bench) -> list[OnBench]:
    """Every instrument of the bench, wired to it."""
    return [
        MainsSource(bench), Generator(bench), Digitiser(bench), output_meter(bench), rail_meter(bench), Supply(bench),
        Load(bench), Thermometer(bench),
    ]  # fmt: skip


@dataclass
class _Link:
    """One client of an instrument: what came and is no whole line yet, what is still to be sent."""

    instrument: OnBench
    socket: socket.socket
    came: bytearray = field(default_factory=bytearray)
    going: bytearray = field(default_factory=bytearray)
    too_long: bool = False

    def lines(self) -> list[bytes]:
        """The whole lines that came. A line that is too long is told once and left out."""
        *whole, rest = bytes(self.came).split(b"\n")
        self.came = bytearray(rest)
        if self.too_long and whole:
            whole, self.too_long = whole[1:], False
        if len(self.came) > MOST_BYTES:
            if not self.too_long:
                self.instrument.status.failed(ScpiError(-363))
            self.came, self.too_long = bytearray(), True
        return whole


class BenchServers:
    """All servers of a bench, running from entering the context to leaving it."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self._selector = selectors.DefaultSelector()
        self._listening: list[tuple[OnBench, socket.socket]] = []
        for instrument in instruments_of(bench):
            own = socket.create_server((LOOPBACK, 0))
            own.setblocking(False)
            self._listening.append((instrument, own))
            self._selector.register(own, selectors.EVENT_READ, instrument)
        self._wake, self._woken = socket.socketpair()
        self._selector.register(self._woken, selectors.EVENT_READ, None)
        self._thread = threading.Thread(target=self._turn, name="simulated bench", daemon=True)
        self._ends = False

    def __enter__(self) -> Self:
        self._thread.start()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._ends = True
        self._wake.send(b".")
        self._thread.join(timeout=10.0)
        for key in list(self._selector.get_map().values()):
            own = key.fileobj
            assert isinstance(own, socket.socket)
            own.close()
        self._selector.close()
        self._wake.close()

    def listing(self) -> list[dict[str, str]]:
        """Role, address (as VISA writes it) and identity of each."""
        return [
            {
                "role": instrument.role,
                "address": f"TCPIP::{LOOPBACK}::{own.getsockname()[1]}::SOCKET",
                "idn": instrument.identity,
            }
            for instrument, own in self._listening
        ]

    def _turn(self) -> None:
        while not self._ends:
            waiting: list[tuple[_Link, bytes]] = []
            for key, mask in self._selector.select():
                if isinstance(key.data, OnBench):
                    self._welcome(key.fileobj, key.data)
                elif isinstance(key.data, _Link):
                    if mask & selectors.EVENT_READ:
                        waiting += self._read(key.data)
                    if mask & selectors.EVENT_WRITE:
                        self._send(key.data)
            # Each link's own lines stay in their order; of several links those that only set come first.
            for link, line in sorted(waiting, key=lambda each: b"?" in each[1] or _asks_before(each, waiting)):
                self._answer(link, line)

    def _welcome(self, listening: object, instrument: OnBench) -> None:
        assert isinstance(listening, socket.socket)
        try:
            own, _ = listening.accept()
        except OSError:
            # Whoever knocked is gone again.
            return
        own.setblocking(False)
        own.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        self._selector.register(own, selectors.EVENT_READ, _Link(instrument, own))

    def _read(self, link: _Link) -> list[tuple[_Link, bytes]]:
        try:
            data = link.socket.recv(_READ)
        except BlockingIOError:
            return []
        except ConnectionError:
            data = b""
        if not data:
            self._selector.unregister(link.socket)
            link.socket.close()
            return []
        link.came += data
        return [(link, line) for line in link.lines()]

    def _answer(self, link: _Link, line: bytes) -> None:
        if link.socket.fileno() < 0:
            return
        with self.bench.lock:
            answer = link.instrument.handle(line.decode("latin-1").rstrip("\r"))
        if answer:
            link.going += answer + b"\n"
            self._send(link)

    def _send(self, link: _Link) -> None:
        try:
            while link.going:
                sent = link.socket.send(link.going)
                del link.going[:sent]
        except BlockingIOError:
            pass
        except ConnectionError:
            self._selector.unregister(link.socket)
            link.socket.close()
            return
        wanted = selectors.EVENT_READ | (selectors.EVENT_WRITE if link.going else 0)
        self._selector.modify(link.socket, wanted, link)


def _asks_before(each: tuple[_Link, bytes], waiting: list[tuple[_Link, bytes]]) -> bool:
    """Whether the same link asked before this line: then it waits its turn."""
    link = each[0]
    for other, line in waiting:
        if other is link:
            if line is each[1]:
                return False
            if b"?" in line:
                return True
    return False
