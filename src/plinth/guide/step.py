"""One step of a bring-up."""

import dataclasses
from typing import Literal

from plinth.judge.window import Window
from plinth.record.conditions import Conditions
from plinth.record.probe import Point, Probe, Quantity
from plinth.record.request import Request, Setting, Task
from plinth.record.subject import Subject

Reads = Literal[
    "",
    "rail_alone",
    "rail",
    "current",
    "output_dc",
    "bias",
    "warm_bias",
    "rail_ohm",
    "rail_output_ohm",
    "output_ohm",
    "tab_ohm",
    "bias_ohm",
    "left",
    "sink_c",
    "ripple",
    "wall_a",
    "glow_alone",
    "glow",
]


@dataclasses.dataclass(frozen=True)
class Hint:
    """What to check when a reading is off: ``side`` -1 below, +1 above, 0 whenever something else is seen.

    ``least`` and ``most`` in SI: only a reading of such a size says this (a short draws what the supply lets through).
    """

    side: int
    when: str
    check: str
    least: float | None = None
    most: float | None = None


@dataclasses.dataclass(frozen=True)
class Glow:
    """How a filament looks: at ``t_k`` kelvin, and ``words`` when."""

    words: str
    t_k: float


@dataclasses.dataclass(frozen=True)
class Watch:
    """How a reading comes to rest: ``tau_s`` the time constant expected, off by the factor ``tau_spread`` either way.

    ``within`` this of its end it counts as at rest; ``start`` where it begins (None: nobody knows), in the step's unit.
    ``jitter`` which share of the meter's uncertainty differs from one reading to the next. ``transient``: one that is
    outside while it still settles is no fault yet. ``limit`` that its end must
    keep on a day on which it ends higher by ``hotter_by``; ``hot_words`` that say which.
    """

    tau_s: float
    tau_spread: float
    within: float
    start: float | None = None
    jitter: float = 0.5
    limit: float | None = None
    hotter_by: float | None = None
    hot_words: str = ""
    transient: bool = True


CURRENT_LIMIT = "current limit"
# What an instrument reads of each, and where. What is held against a pair of rails, or over an open board, is a hand's.
_PROBES: dict[Reads, Probe] = {
    "rail_alone": Probe(Point.RAIL_PLUS, Quantity.VOLTS_DC), "rail": Probe(Point.RAIL_PLUS, Quantity.VOLTS_DC),
    "current": Probe(Point.SUPPLY, Quantity.AMPERES), "output_dc": Probe(Point.OUTPUT, Quantity.VOLTS_DC),
    "bias": Probe(Point.BIAS, Quantity.VOLTS_DC), "warm_bias": Probe(Point.BIAS, Quantity.VOLTS_DC),
    "output_ohm": Probe(Point.OUTPUT, Quantity.OHMS), "sink_c": Probe(Point.SINK, Quantity.DEGREES),
    "ripple": Probe(Point.RAIL_PLUS, Quantity.SWING), "wall_a": Probe(Point.WALL, Quantity.AMPERES),
}  # fmt: skip


def limited_to(limit_a: float | None) -> tuple[Setting, ...]:
    """The current limit that a bench supply needs, A; nothing where none is asked for."""
    return () if limit_a is None else (Setting(CURRENT_LIMIT, limit_a, "A"),)


@dataclasses.dataclass(frozen=True, kw_only=True)
class Step:
    """``asks`` one thing: a reading (a Request), or only a word that it is done.

    ``power`` whether the bench supply is on during it; ``wait_s`` how long to wait before reading;
    ``claim`` a listing's figure for the same thing; ``across_ohm`` the resistor that the volts stand across, where the
    current through it is what matters; ``blocked`` why it may not be done whatever was read;
    ``watch`` where it is watched until it rests; ``rounds`` how many readings in a row must lie inside;
    ``due_after`` the step after whose answer it falls due, ``due_after_s`` how much later. ``glows`` how the lamp in
    series looks, when all is well and when not; ``reads`` what is read, for whoever asks after causes;
    ``probed`` where, if not where that is read as a rule.
    """

    asks: Task
    power: bool
    hints: tuple[Hint, ...]
    caution: str = ""
    becomes: str = ""
    wait_s: float = 0.0
    claim: float | None = None
    claim_words: str = ""
    across_ohm: float | None = None
    blocked: str = ""
    glows: tuple[Glow, ...] = ()
    watch: Watch | None = None
    rounds: int = 1
    due_after: str = ""
    due_after_s: float = 0.0
    reads: Reads = ""
    probed: Probe | None = None

    @property
    def request(self) -> Request | None:
        """The reading that it asks for; None where it asks for a word."""
        return self.asks if isinstance(self.asks, Request) else None

    def asking(self, **changes: object) -> "Step":
        """The same step with what it asks for changed."""
        return dataclasses.replace(self, asks=dataclasses.replace(self.asks, **changes))  # type: ignore[arg-type]

    @property
    def probe(self) -> Probe | None:
        """Where an instrument would read it; None where only a hand can."""
        return _PROBES.get(self.reads) if self.probed is None else self.probed

    @property
    def supply_v(self) -> float | None:
        """Volts of each bench supply that it is done on; None where it runs from something else."""
        volts = self.conditions.get("rail_v")
        return float(volts) if self.power and self.limit_a is not None and isinstance(volts, int | float) else None

    @property
    def mains_v(self) -> float | None:
        """Volts of mains that a variable transformer gives for it; None where it takes what there is, or none."""
        volts = self.conditions.get("mains_v")
        return float(volts) if self.power and isinstance(volts, int | float) else None

    @property
    def key(self) -> str:
        """Its name in its school."""
        return self.asks.about.what

    @property
    def about(self) -> Subject:
        """What its records are about."""
        return self.asks.about

    @property
    def subject(self) -> str:
        """The same, as the file keeps it."""
        return self.asks.subject

    @property
    def title(self) -> str:
        """In words."""
        return self.asks.full_title

    @property
    def ask(self) -> str:
        """What to do."""
        return self.asks.ask

    @property
    def conditions(self) -> Conditions:
        """Under which a record of it counts."""
        return self.asks.conditions

    @property
    def limit_a(self) -> float | None:
        """The current limit that the bench supply needs, A."""
        limit = self.asks.setting(CURRENT_LIMIT)
        return None if limit is None else limit.value

    @property
    def window(self) -> Window | None:
        """Where its reading is expected; None where it asks for a word."""
        return None if self.request is None else self.request.window

    @property
    def unit(self) -> str:
        """The unit of its reading; none where it asks for a word."""
        return "" if self.request is None else self.request.unit

    @property
    def most(self) -> float | None:
        """What can be read there at the most, in SI; None where nothing is known to bound it."""
        return None if self.request is None else self.request.most

    @property
    def optional(self) -> bool:
        """Whether it may be left out by whoever has no instrument for it."""
        return self.request is not None and self.request.optional
