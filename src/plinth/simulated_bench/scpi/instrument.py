"""What all instruments have in common: commands of IEEE 488.2, status, errors, the way from a line to answers."""

import abc
from collections.abc import Callable
from dataclasses import dataclass, field

from plinth.simulated_bench.scpi.errors import ErrorQueue, ScpiError, status_bit
from plinth.simulated_bench.scpi.header import matched
from plinth.simulated_bench.scpi.message import Command, commands_of
from plinth.simulated_bench.scpi.parameters import number

MOST_BYTES = 65_536
Answer = str | bytes | None


@dataclass(frozen=True)
class Handler:
    """What answers a header: ``run`` with its parameters and the numbers of its nodes; how many parameters it takes."""

    pattern: str
    query: bool
    run: Callable[..., Answer]
    least: int = 0
    most: int = 0


@dataclass
class Status:
    """The standard event register with its mask, the mask of service requests, and the errors."""

    events: int = 128
    event_mask: int = 0
    service_mask: int = 0
    errors: ErrorQueue = field(default_factory=ErrorQueue)

    def byte(self, waiting: bool) -> int:
        """The status byte."""
        value = (4 if len(self.errors) else 0) | (16 if waiting else 0)
        value |= 32 if self.events & self.event_mask else 0
        return value | (64 if value & self.service_mask & ~64 else 0)

    def failed(self, error: ScpiError) -> None:
        """Keep an error and set its bit."""
        self.errors.add(error)
        self.events |= status_bit(error.code)


class Instrument(abc.ABC):
    """One instrument: lines in, answers out. Not safe for two threads at once; the server takes turns."""

    def __init__(self, role: str, model: str) -> None:
        self.role, self.model = role, model
        self.status = Status()
        self._handlers = [*self._common(), *self.handlers()]

    @property
    def identity(self) -> str:
        """What ``*IDN?`` answers."""
        return f"Plinth,Simulated {self.model},0,1"

    @abc.abstractmethod
    def handlers(self) -> list[Handler]:
        """Its own commands."""

    @abc.abstractmethod
    def reset(self) -> None:
        """Back to how it comes up: outputs off."""

    def handle(self, line: str) -> bytes:
        """Carry out a line; the answers to its queries, joined by semicolons, without the end of line."""
        answers: list[bytes] = []
        for command in commands_of(line):
            if isinstance(command, ScpiError):
                self.status.failed(command)
                break
            try:
                answer = self._carried_out(command, waiting=bool(answers))
            except ScpiError as error:
                self.status.failed(error)
                if -199 <= error.code <= -100:
                    # After a command that is none, the rest of the line means nothing.
                    break
                continue
            if answer is not None:
                answers.append(answer.encode() if isinstance(answer, str) else answer)
        return b";".join(answers)

    def _carried_out(self, command: Command, *, waiting: bool) -> Answer:
        if command.header == "*STB" and command.query:
            return str(self.status.byte(waiting))
        for handler in self._handlers:
            if handler.query != command.query:
                continue
            numbers = (
                (() if command.header == handler.pattern else None)
                if handler.pattern.startswith("*")
                else matched(command.header, handler.pattern)
            )
            if numbers is None:
                continue
            given = len(command.parameters)
            if given < handler.least:
                raise ScpiError(-109, command.header)
            if given > handler.most:
                raise ScpiError(-108, command.header)
            return handler.run(*numbers, *command.parameters)
        raise ScpiError(-113, command.header + ("?" if command.query else ""))

    def _common(self) -> list[Handler]:
        return [
            Handler("*IDN", True, lambda: self.identity),
            Handler("*RST", False, self.reset),
            Handler("*CLS", False, self._clear),
            Handler("*OPC", False, self._complete),
            Handler("*OPC", True, lambda: "1"),
            Handler("*WAI", False, lambda: None),
            Handler("*TST", True, lambda: "0"),
            Handler("*ESR", True, self._events),
            Handler("*ESE", False, self._set_event_mask, 1, 1),
            Handler("*ESE", True, lambda: str(self.status.event_mask)),
            Handler("*SRE", False, self._set_service_mask, 1, 1),
            Handler("*SRE", True, lambda: str(self.status.service_mask)),
            Handler("SYSTem:ERRor[:NEXT]", True, lambda: self.status.errors.next()),
            Handler("SYSTem:ERRor:COUNt", True, lambda: str(len(self.status.errors))),
            Handler("SYSTem:VERSion", True, lambda: "1999.0"),
        ]

    def _clear(self) -> None:
        self.status.errors.clear()
        self.status.events = 0

    def _complete(self) -> None:
        self.status.events |= 1

    def _events(self) -> str:
        value, self.status.events = self.status.events, 0
        return str(value)

    def _set_event_mask(self, text: str) -> None:
        self.status.event_mask = _byte(text)

    def _set_service_mask(self, text: str) -> None:
        self.status.service_mask = _byte(text) & ~64


def _byte(text: str) -> int:
    return round(number(text, "", 0.0, 255.0, 0.0))


def block(data: bytes) -> bytes:
    """Bytes as a definite-length block (IEEE 488.2, 8.7.9)."""
    length = str(len(data))
    return f"#{len(length)}{length}".encode() + data
