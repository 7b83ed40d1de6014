"""What goes over the lines between the window, the process that talks with instruments, and its guard."""

from dataclasses import dataclass

from plinth.instruments.command_map import CommandMap
from plinth.instruments.errors import ErrorKind
from plinth.instruments.kinds import Action

# A beat so often; so long without one, and outputs are off.
BEAT_S, SILENCE_S = 0.05, 0.6
# A window whose thread is busy beats on; one whose thread stands still for so long is lost.
FROZEN_S = 3.0
# A process that was stopped and goes on does nothing of what it was asked before.
STALE_S = 1.0


@dataclass(frozen=True)
class Beat:
    """Whoever sends it is there."""


@dataclass(frozen=True)
class Connect:
    """Talk with the instrument ``role`` at an address by its map; answered with what it says that it is."""

    role: str
    address: str
    own: CommandMap


@dataclass(frozen=True)
class Forget:
    """Make safe, and let go of, the instrument of that role."""

    role: str


@dataclass(frozen=True)
class Tell:
    """Set one thing."""

    role: str
    action: Action
    value: float | None = None
    channel: int | None = None
    place: str = ""


@dataclass(frozen=True)
class Read:
    """Read a value."""

    role: str
    action: Action
    channel: int | None = None


@dataclass(frozen=True)
class Record:
    """The samples of a record that was taken; answered with bytes."""

    role: str
    channel: int


@dataclass(frozen=True)
class Holds:
    """See that everything that was set still is, by all instruments."""


@dataclass(frozen=True)
class Line:
    """A line as typed at the prompt; answered with what came, empty where it asks nothing."""

    role: str
    text: str


@dataclass(frozen=True)
class Identify:
    """What is at an address; answered with its identity. Nothing is set there."""

    address: str


@dataclass(frozen=True)
class ListAddresses:
    """The addresses that the backend finds by itself (USB, serial, some on the network)."""


@dataclass(frozen=True)
class AreOn:
    """Whether any output is on; answered with the roles whose output is."""


@dataclass(frozen=True)
class MakeSafe:
    """Everything off; answered with sentences about what may still be on."""


Order = Connect | Forget | Tell | Read | Record | Holds | Line | Identify | ListAddresses | AreOn | MakeSafe


@dataclass(frozen=True)
class Ask:
    """An order with its number and when it was given (``processes.lines.awake_s``); ``late``: heard long after that."""

    number: int
    order: Order
    at_s: float
    late: bool = False


@dataclass(frozen=True)
class Answer:
    """To the order of that number. A fault is told by its kind and words; ``unsafe`` what may still be on after it."""

    number: int
    value: object = None
    fault: tuple[ErrorKind, str, str, str] | None = None
    unsafe: tuple[str, ...] = ()


@dataclass(frozen=True)
class Watch:
    """To the guard: whether outputs may be on from now, and how each is switched off (address, end of line, lines)."""

    armed: bool
    safe: tuple[tuple[str, str, tuple[str, ...]], ...]


@dataclass(frozen=True)
class OffNow:
    """To the guard: off at once, because ``why``; empty where the window asked for it, which then need not be told."""

    why: str = ""


@dataclass(frozen=True)
class WentOff:
    """From the guard, to the window: it has switched off because ``why``; ``unsafe`` what may still be on."""

    why: str
    unsafe: tuple[str, ...]
