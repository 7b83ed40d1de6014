"""A link to one instrument through PyVISA: lines out, answers in, each answer held to be that of its question."""

import contextlib
import itertools
import math
import socket
import time
import warnings
from typing import Any

from plinth.instruments.command_map import LinkManners
from plinth.instruments.errors import ErrorKind, InstrumentError

OPEN_S = 0.4
_TIME_OUT = -1073807339
MOST_ANSWER = 64_000_000


class Link:
    """One instrument at ``address``, called ``who`` in what is said of it. Opened when it is first used."""

    def __init__(self, manager: Any, address: str, who: str, manners: LinkManners) -> None:
        self._manager, self.address, self.who, self.manners = manager, address, who, manners
        self._resource: Any = None
        self._tags = itertools.cycle(range(1, 255))
        self._last = 0.0

    def close(self) -> None:
        """Let go of it; the next line opens it anew."""
        resource, self._resource = self._resource, None
        if resource is not None:
            with contextlib.suppress(Exception):
                resource.close()

    def _opened(self) -> Any:
        if self._resource is None:
            # What the backend says of optional parts is no news to a builder.
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                try:
                    self._resource = self._manager.open_resource(self.address, open_timeout=int(1e3 * OPEN_S))
                    _at_once(self._resource)
                    if self.address.upper().startswith("ASRL"):
                        self._resource.baud_rate = self.manners.baud
                    self._resource.read_termination = self._resource.write_termination = self.manners.ends_with
                except Exception as error:
                    raise InstrumentError(
                        ErrorKind.REFUSED, self.who, f"found nothing that answers at {self.address} ({_reason(error)})"
                    ) from error
        return self._resource

    def tell(self, line: str) -> None:
        """Send a line that asks nothing. Raises InstrumentError."""
        resource = self._opened()
        self._pause()
        try:
            resource.write(line)
        except Exception as error:
            raise self._lost(error) from error

    def ask(self, line: str, within_s: float | None = None) -> str:
        """The answer to a question. Raises InstrumentError where none comes in time, or it is not that of this one."""
        tag = next(self._tags) if self.manners.tagged and not line.startswith("*") else None
        sent = line if tag is None else f"{line};*ESE {tag};*ESE?"
        resource = self._opened()
        self._pause()
        try:
            resource.timeout = int(1e3 * (within_s or self.manners.answers_within_s))
            answer = str(resource.query(sent)).strip()
        except Exception as error:
            raise self._lost(error) from error
        if tag is None:
            return answer
        value, _, own = answer.rpartition(";")
        if own.strip() != str(tag):
            self.close()
            raise InstrumentError(
                ErrorKind.WRONG_ANSWER,
                self.who,
                f"found {answer[:60]!r} for {line!r}, expected an answer of its own that ends in {tag}",
            )
        return value.strip()

    def ask_as_typed(self, line: str) -> str:
        """The answer to a line of somebody's own, sent as it is. Raises InstrumentError."""
        resource = self._opened()
        self._pause()
        try:
            resource.timeout = int(1e3 * self.manners.answers_within_s)
            return str(resource.query(line)).strip()
        except Exception as error:
            raise self._lost(error) from error

    def ask_number(self, line: str) -> float:
        """A number; infinite where the instrument says overload (9.9E37). Raises InstrumentError where it is none."""
        answer = self.ask(line)
        try:
            value = float(answer)
        except ValueError:
            value = math.nan
        if math.isnan(value):
            self.close()
            raise InstrumentError(
                ErrorKind.NO_NUMBER, self.who, f"found {answer[:60]!r} for {line!r}, expected a number"
            )
        return math.copysign(math.inf, value) if abs(value) >= 9.9e36 else value

    def ask_block(self, line: str) -> bytes:
        """The bytes of a definite-length block (IEEE 488.2, 8.7.9). Raises InstrumentError."""
        resource = self._opened()
        self._pause()
        try:
            resource.timeout = int(1e3 * self.manners.answers_within_s)
            resource.write(line)
            head = bytes(resource.read_bytes(2, break_on_termchar=False))
            if head[:1] != b"#" or not head[1:2].isdigit() or head[1:2] == b"0":
                self.close()
                raise InstrumentError(
                    ErrorKind.WRONG_ANSWER, self.who, f"found {head!r} for {line!r}, expected a block: #..."
                )
            counted = bytes(resource.read_bytes(int(head[1:2]), break_on_termchar=False))
            length = int(counted)
            if length > MOST_ANSWER:
                raise ValueError(f"a block of {length} bytes")
            data = bytes(resource.read_bytes(length, break_on_termchar=False))
            resource.read_bytes(len(self.manners.ends_with), break_on_termchar=False)
        except InstrumentError:
            raise
        except ValueError as error:
            self.close()
            raise InstrumentError(
                ErrorKind.WRONG_ANSWER,
                self.who,
                f"found {str(error)[:60]}, expected a block of up to {MOST_ANSWER} bytes",
            ) from error
        except Exception as error:
            raise self._lost(error) from error
        return data

    def _pause(self) -> None:
        wait = self._last + self.manners.pause_s - time.monotonic()
        if wait > 0.0:
            time.sleep(wait)
        self._last = time.monotonic()

    def _lost(self, error: Exception) -> InstrumentError:
        # What comes late would be taken for the answer to the next question: the line is opened anew.
        self.close()
        # The backend opens a raw socket that nobody listens at without a word, and waits at one that was cut.
        try:
            reachable(self.address)
        except InstrumentError as fault:
            return InstrumentError(fault.kind, self.who, fault.words, fault.remedy)
        if getattr(error, "error_code", None) == _TIME_OUT or isinstance(error, TimeoutError):
            return InstrumentError(
                ErrorKind.TIME_OUT,
                self.who,
                f"found no answer within {self.manners.answers_within_s:g} s, expected one",
            )
        return InstrumentError(ErrorKind.GONE, self.who, f"found the line broken ({_reason(error)})")


def _at_once(resource: Any) -> None:
    """Lines go out as they are sent; else a setting waits 40 ms for the other side to say that it was heard."""
    # The backend refuses the attribute that stands for it (1.16.2, 0.8.1), so its socket is told; only sockets have it.
    with contextlib.suppress(AttributeError, KeyError, OSError):
        own = resource.visalib.sessions[resource.session].interface
        own.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)


def reachable(address: str) -> None:
    """Look whether anything listens at a raw socket's address, which the backend does not tell. InstrumentError if not.

    Other interfaces say so themselves when they are opened.
    """
    place = socket_place(address)
    if place is None:
        return
    try:
        socket.create_connection(place, timeout=OPEN_S).close()
    except OSError as error:
        raise InstrumentError(
            ErrorKind.REFUSED, address, f"found nothing that answers at {place[0]}, port {place[1]} ({_reason(error)})"
        ) from error


def socket_place(address: str) -> tuple[str, int] | None:
    """Host and port of a raw socket's address (``TCPIP::host::port::SOCKET``); None of any other."""
    parts = address.upper().split("::")
    if len(parts) != 4 or not parts[0].startswith("TCPIP") or parts[3] != "SOCKET" or not parts[2].isdigit():
        return None
    return address.split("::")[1], int(parts[2])


def _reason(error: Exception) -> str:
    return f"{error}".replace("\n", " ")[:120] or type(error).__name__
