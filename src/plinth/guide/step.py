"""One step of a bring-up."""

import dataclasses
from typing import Literal

from plinth.builds.instruments import Kind
from plinth.judge.window import Window
from plinth.record.conditions import Conditions
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


@dataclasses.dataclass(frozen=True)
class Step:
    """``ask`` one instruction; ``asks_for`` a figure, or only a word that it is done.

    ``power`` whether the bench supply is on during it; ``wait_s`` how long to wait before reading;
    ``claim`` a listing's figure for the same thing; ``bare_prefix`` the prefix meant when none is typed;
    ``across_ohm`` the resistor that the volts stand across, where the current through it is what matters;
    ``limit_a`` the current limit that the bench supply needs; ``most`` what can be read there at the most, in SI;
    ``conditions`` under which a record of this step counts; ``blocked`` why it may not be done whatever was read;
    ``watch`` where it is watched until it rests; ``rounds`` how many readings in a row must lie inside; ``optional``
    where it may be left out by whoever has no instrument for it; ``due_after`` the step after whose answer it falls
    due, ``due_after_s`` how much later. ``glows`` how the lamp in series looks, when all is well and when not;
    ``reads`` what is read, for whoever asks after causes.
    """

    key: str
    about: Subject
    title: str
    ask: str
    asks_for: Literal["reading", "word"]
    window: Window | None
    unit: str
    bare_prefix: str
    instrument: Kind
    power: bool
    hints: tuple[Hint, ...]
    caution: str = ""
    becomes: str = ""
    wait_s: float = 0.0
    claim: float | None = None
    claim_words: str = ""
    across_ohm: float | None = None
    limit_a: float | None = None
    most: float | None = None
    blocked: str = ""
    glows: tuple[Glow, ...] = ()
    watch: Watch | None = None
    rounds: int = 1
    optional: bool = False
    due_after: str = ""
    due_after_s: float = 0.0
    reads: Reads = ""
    conditions: Conditions = dataclasses.field(default_factory=dict)

    @property
    def subject(self) -> str:
        """What its records are about, as the file keeps it."""
        return self.about.text
