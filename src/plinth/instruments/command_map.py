"""A command map: what a family of instruments is sent and answers, as one TOML file.

A map says what is sent, in which unit, within which limits, how exactly it reads, and what this family does otherwise
than the standard. Nothing in code knows a maker's dialect.
"""

import functools
import math
import re
import tomllib
from importlib import resources
from pathlib import Path
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from plinth.instruments.kinds import LIMITED, NEEDS, Action, InstrumentKind

Line = Annotated[str, Field(min_length=1, max_length=500)]
Seconds = Annotated[float, Field(ge=0.0, le=600.0)]
_TOKENS = re.compile(r"\{(\w*)\}")
_KNOWN_TOKENS = ("value", "channel", "place")
MOST_BYTES = 200_000


class MapError(Exception):
    """A map that cannot be used; the sentence names the file, what was found and what was expected."""


class _Frozen(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class LinkManners(_Frozen):
    """How one talks with it: ``ends_with`` of a line, the time an answer may take, the pause it needs in between.

    ``tagged``: each question carries a number of ours, so that a late or doubled answer is never taken for the next
    (needs several commands in a line, and *ESE; both are of IEEE 488.2). ``error_queue``: it is asked for errors after
    every setting, ``read_back`` for what was set. ``baud`` of a serial port, in bits a second.
    """

    ends_with: str = Field(default="\n", min_length=1, max_length=4)
    answers_within_s: Annotated[float, Field(gt=0.0, le=60.0)] = 0.5
    pause_s: Seconds = 0.0
    tagged: bool = True
    error_queue: bool = True
    read_back: bool = True
    baud: Annotated[int, Field(ge=300, le=4_000_000)] = 9600


class Command(_Frozen):
    """``send`` a line with ``{value}``, ``{channel}`` or ``{place}`` in it, ``ask`` what reads it (back).

    ``unit`` of the value as this family has it; ``scale`` times Plinth's value is the family's (1000 where it wants
    millivolts). ``low`` and ``high`` what it takes, in Plinth's unit; ``settles_s`` until it holds.
    """

    send: Line | None = None
    ask: Line | None = None
    unit: str = Field(default="", max_length=8)
    scale: Annotated[float, Field(gt=0.0)] = 1.0
    low: float | None = None
    high: float | None = None
    settles_s: Seconds = 0.0


class AccuracyRow(_Frozen):
    """Bounds (+-) of what it reads: a share of the reading, of the range that holds it, and a fixed part.

    ``f_low_hz``, ``f_high_hz`` where it holds.
    """

    of_reading: Annotated[float, Field(ge=0.0, lt=1.0)] = 0.0
    of_range: Annotated[float, Field(ge=0.0, lt=1.0)] = 0.0
    fixed: Annotated[float, Field(ge=0.0)] = 0.0
    ranges: tuple[float, ...] = ()

    def u(self, value: float) -> float:
        """Standard uncertainty of a reading, its bounds taken as rectangular (GUM 4.3.7)."""
        rising = sorted(self.ranges)
        scale = next((top for top in rising if abs(value) <= 1.2 * top), rising[-1] if rising else 0.0)
        return (self.of_reading * abs(value) + self.of_range * scale + self.fixed) / math.sqrt(3.0)


class Watchdog(_Frozen):
    """Its own: ``set`` with seconds before anything is switched on, ``feed`` at least as often (empty: any talk)."""

    send: Line
    seconds: Annotated[float, Field(gt=0.0, le=60.0)] = 1.0
    feed: str = Field(default="", max_length=200)


class CommandMap(_Frozen):
    """One family of instruments. ``identity`` a pattern of its ``*IDN?`` (empty: any); ``safe`` switches it off."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    kinds: Annotated[tuple[InstrumentKind, ...], Field(min_length=1)]
    identity: str = Field(default="", max_length=200)
    simulated: bool = False
    safe: tuple[Line, ...] = ()
    places: dict[str, Line] = Field(default_factory=dict)
    link: LinkManners = LinkManners()
    watchdog: Watchdog | None = None
    commands: dict[Action, Command]
    accuracy: dict[Action, AccuracyRow] = Field(default_factory=dict)
    note: str = Field(default="", max_length=2000)

    def can(self, action: Action) -> bool:
        """Whether it knows that."""
        return action in self.commands

    def fits(self, identity: str) -> bool:
        """Whether an instrument that answers so to ``*IDN?`` is of this family."""
        return bool(self.identity) and re.search(self.identity, identity) is not None

    @property
    def lacks(self) -> tuple[Action, ...]:
        """What some tests want of its kinds and it has not: those are read otherwise."""
        return tuple(action for kind in self.kinds for action in NEEDS[kind].may if action not in self.commands)


def read_map(text: str, name: str) -> CommandMap:
    """A map from its TOML, checked; ``name`` of the file stands in what is said. Raises MapError."""
    if len(text) > MOST_BYTES:
        raise MapError(f"{name}: found {len(text)} letters, expected a command map of at most {MOST_BYTES}")
    try:
        given: dict[str, Any] = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise MapError(f"{name}: found no TOML ({error}), expected a command map: see docs/INSTRUMENTS.md") from error
    try:
        own = CommandMap.model_validate(given)
    except ValidationError as error:
        raise MapError(f"{name}: {_explained(error)}") from error
    for problem in _problems(own):
        raise MapError(f"{name}: {problem}")
    return own


def read_map_file(path: Path) -> CommandMap:
    """The map in a file. Raises MapError."""
    try:
        return read_map(path.read_text(encoding="utf-8"), path.name)
    except (OSError, UnicodeDecodeError) as error:
        raise MapError(f"{path}: cannot be read ({error}): expected a text file of commands") from error


@functools.cache
def shipped_maps() -> tuple[CommandMap, ...]:
    """The generic maps, one a kind, and those of the simulated bench, which come first: an identity names them."""
    folder = resources.files("plinth.instruments") / "maps"
    maps = [
        read_map(entry.read_text(encoding="utf-8"), entry.name)
        for entry in sorted(folder.iterdir(), key=lambda entry: entry.name)
        if entry.name.endswith(".toml")
    ]
    return tuple(sorted(maps, key=lambda own: not own.identity))


def _explained(error: ValidationError) -> str:
    first = error.errors()[0]
    place = ".".join(str(part) for part in first["loc"])
    if first["type"] == "extra_forbidden":
        return f"found {place!r}, which no map has, expected one of the words in docs/INSTRUMENTS.md"
    if first["type"] == "missing":
        return f"found no {place!r}, expected it: a map names itself, its kinds and its commands"
    if first["type"] == "enum":
        known = [str(each) for each in (Action if place.startswith("commands") else InstrumentKind)]
        return f"found {first['input']!r} at {place!r}, expected one of {', '.join(known)}"
    return f"found {first['input']!r} at {place!r}, {first['msg'][0].lower()}{first['msg'][1:]}"


def _problems(own: CommandMap) -> list[str]:
    problems = []
    for kind in own.kinds:
        problems += [
            f"found no command {action} ({action.words}), expected it of every {kind}"
            for action in NEEDS[kind].must
            if action not in own.commands
        ]
        problems += [
            f"found {action} without low and high, expected the limits of this {kind}: nothing is sent beyond them"
            for action in LIMITED.get(kind, ())
            if action in own.commands and (own.commands[action].low is None or own.commands[action].high is None)
        ]
        if kind in LIMITED and not own.safe:
            problems.append(f"found no lines that make it safe, expected what switches every output of this {kind} off")
    for action, command in own.commands.items():
        problems += _wrong_with(action, command)
    try:
        re.compile(own.identity)
    except re.error as error:
        problems.append(f"found identity {own.identity!r}, expected a pattern ({error})")
    return problems


def _wrong_with(action: Action, command: Command) -> list[str]:
    problems = []
    if command.unit != action.unit:
        problems.append(
            f"found {action} in {command.unit or 'no unit'}, expected {action.unit or 'none'}: where the instrument "
            "wants another, write that one's scale"
        )
    if action.reads and command.ask is None:
        problems.append(f'found no question under {action}, expected ask = "...?"')
    if not action.reads and command.send is None:
        problems.append(f'found no line under {action}, expected send = "..."')
    for line in (command.send, command.ask):
        wrong = [token for token in _TOKENS.findall(line or "") if token not in _KNOWN_TOKENS]
        if wrong:
            problems.append(f"found {{{wrong[0]}}} in {line!r}, expected only {{value}}, {{channel}}, {{place}}")
    if command.low is not None and command.high is not None and not command.low < command.high:
        problems.append(f"found {action} from {command.low:g} to {command.high:g}, expected the lower one first")
    return problems


def filled(line: str, value: float | None = None, channel: int | None = None, place: str = "") -> str:
    """A line with what is sent in it; a number in the form of NR3, which every parser of IEEE 488.2 takes."""
    words = {
        "value": "" if value is None else f"{value:.9G}", "channel": "" if channel is None else str(channel),
        "place": place,
    }  # fmt: skip
    return _TOKENS.sub(lambda token: words.get(token.group(1), token.group(0)), line)
