"""One instrument: its map over its link. What is told lies within its limits, was taken without error, and holds."""

import math
import struct
import time
from typing import Any

from plinth.instruments.command_map import Command, CommandMap, filled
from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.kinds import Action
from plinth.instruments.link import Link

# What an instrument rounds a setting to, as a share.
HELD_SHARE = 2e-3


class Instrument:
    """``who`` it is in sentences, by its role. ``held`` what it was last told and must still hold."""

    def __init__(self, manager: Any, who: str, address: str, own: CommandMap) -> None:
        self.who, self.map = who, own
        self.link = Link(manager, address, who, own.link)
        self.held: dict[tuple[Action, int | None], float] = {}
        self.dogged = False

    @property
    def gives(self) -> bool:
        """Whether it lets current flow, so that it is made safe."""
        return bool(self.map.safe)

    def identity(self) -> str:
        """What it says that it is. Raises InstrumentError, also where that is no identity, or another family's."""
        words = self.link.ask("*IDN?")
        if words.count(",") < 3 or not words.isprintable():
            raise InstrumentError(
                ErrorKind.WRONG_KIND,
                self.who,
                f"found {words[:60]!r} as its identity, expected maker, model, number and version",
            )
        if self.map.identity and not self.map.fits(words):
            raise InstrumentError(
                ErrorKind.WRONG_KIND, self.who, f"found {words[:80]!r}, expected one of {self.map.name}"
            )
        return words

    def tell(self, action: Action, value: float | None = None, channel: int | None = None, place: str = "") -> None:
        """Set one thing, and see that it was taken. Raises InstrumentError."""
        command = self._command(action)
        if command.send is None:
            raise InstrumentError(ErrorKind.NOT_KNOWN, self.who, f"found no line {action.words} in its map")
        sent = None if value is None else self._within(action, command, value) * command.scale
        self.link.tell(filled(command.send, sent, channel, self.map.places.get(place, place)))
        if self.map.link.error_queue:
            self._see_errors(command.send)
        if value is None:
            return
        if self.map.link.read_back and command.ask is not None:
            self._hold(action, command, value, channel)
            self.held[action, channel] = value
        if command.settles_s:
            time.sleep(command.settles_s)

    def read(self, action: Action, channel: int | None = None) -> float:
        """Read a value in Plinth's unit. Raises InstrumentError."""
        command = self._command(action)
        if command.ask is None:
            raise InstrumentError(ErrorKind.NOT_KNOWN, self.who, f"found no question {action.words} in its map")
        try:
            return self.link.ask_number(filled(command.ask, channel=channel)) / command.scale
        except InstrumentError as error:
            if error.kind is not ErrorKind.NO_NUMBER or not self.map.link.error_queue:
                raise
            own = self.link.ask("SYSTem:ERRor?")
            raise InstrumentError(error.kind, self.who, f"{error.words}; it says {own[:100]}", error.remedy) from error

    def record(self, channel: int) -> list[float] | bytes:
        """Samples of a record that was taken, volts: the bytes of big-endian 32-bit floats. Raises InstrumentError."""
        command = self._command(Action.READ_RECORD)
        data = self.link.ask_block(filled(command.ask or "", channel=channel))
        if len(data) % 4 or not data:
            raise InstrumentError(
                ErrorKind.WRONG_ANSWER, self.who, f"found a record of {len(data)} bytes, expected whole 32-bit numbers"
            )
        if command.scale == 1.0:
            return data
        count = len(data) // 4
        return struct.pack(f">{count}f", *(v / command.scale for v in struct.unpack(f">{count}f", data)))

    def holds(self) -> None:
        """See that what was set still is. Raises InstrumentError where another program, or a hand, has changed it."""
        for (action, channel), value in self.held.items():
            self._hold(action, self._command(action), value, channel)

    def is_on(self) -> bool | None:
        """Whether its output says that it is on; None where it cannot be asked. Raises InstrumentError."""
        command = self.map.commands.get(Action.SET_OUTPUT)
        if command is None or command.ask is None:
            return None
        return self.link.ask_number(command.ask) != 0.0

    def watch_itself(self) -> None:
        """Set its own watchdog, where it has one, before anything is switched on."""
        if self.map.watchdog is not None and not self.dogged:
            self.link.tell(filled(self.map.watchdog.send, self.map.watchdog.seconds))
            self.dogged = True

    def feed(self) -> None:
        """Tell its own watchdog that somebody is there."""
        if self.dogged and self.map.watchdog is not None and self.map.watchdog.feed:
            self.link.tell(self.map.watchdog.feed)

    def make_safe(self) -> str:
        """Switch it off whatever happened; a sentence where that is not certain, else empty. Never raises."""
        self.held.clear()
        said = ""
        for attempt in range(2):
            try:
                for line in self.map.safe:
                    self.link.tell(line)
                if self.is_on() is not True:
                    return ""
                said = f"{self.who} was told to switch off, and says that it is still on: pull its plug."
            except InstrumentError as fault:
                said = f"{self.who} may still be on: {fault.words}. Switch it off by hand."
                self.link.close()
            if attempt:
                break
        return said

    def _command(self, action: Action) -> Command:
        command = self.map.commands.get(action)
        if command is None:
            raise InstrumentError(
                ErrorKind.NOT_KNOWN, self.who, f"found nothing {action.words} in the map {self.map.name!r}",
                "Type this reading, or write the command into the map.",
            )  # fmt: skip
        return command

    def _within(self, action: Action, command: Command, value: float) -> float:
        low = -math.inf if command.low is None else command.low
        high = math.inf if command.high is None else command.high
        slack = 1e-9 * max(abs(value), 1e-12)
        if not (math.isfinite(value) and low - slack <= value <= high + slack):
            unit = action.unit
            raise InstrumentError(
                ErrorKind.BEYOND_LIMITS, self.who,
                f"found {value:g} {unit} asked of it {action.words}, expected {low:g} to {high:g} {unit}",
                "Nothing was sent.",
            )  # fmt: skip
        return value

    def _hold(self, action: Action, command: Command, value: float, channel: int | None) -> None:
        assert command.ask is not None, "only what can be read back is held"
        back = self.link.ask_number(filled(command.ask, channel=channel)) / command.scale
        if abs(back - value) > HELD_SHARE * abs(value) + 1e-9:
            raise InstrumentError(
                ErrorKind.NOT_HELD,
                self.who,
                f"found {back:g} {action.unit} set, expected the {value:g} {action.unit} that it was told".replace(
                    "  ", " "
                ),
            )

    def _see_errors(self, line: str) -> None:
        answer = self.link.ask("SYSTem:ERRor?")
        code = answer.partition(",")[0].strip()
        if code.lstrip("+-").isdigit() and int(code) == 0:
            return
        raise InstrumentError(ErrorKind.ITS_ERROR, self.who, f"found {answer[:100]} after {line!r}, expected no error")
