"""What is asked for: one reading, or one thing to be done, as an object that needs no window.

A builder answers it by typing, an instrument or a script by giving a value: what is asked is the same.
"""

import dataclasses
from typing import Literal

from plinth.builds.instruments import Role
from plinth.judge.window import Window
from plinth.record.conditions import Conditions
from plinth.record.probe import Probe
from plinth.record.subject import Kind, Subject

# Whose first power must be done before it is read: nobody's, that of its channel, or that of all.
Needs = Literal["nothing", "channel", "all"]
# plain: a value in its unit. magnitude: its sign is dropped. level: AC volts, kept rms. ripple: AC volts, kept peak to
# peak. swing: volts peak to peak, which may be said. course: one of many over time, ``48.5 at 12 min``. resistance: an
# overload is a reading. glow: a filament as an eye sees it. power: a level, kept as what it puts into a load. draw:
# what a supply gives, as watts, volts and amperes, or an efficiency.
ReadingForm = Literal["plain", "magnitude", "level", "ripple", "swing", "course", "resistance", "glow", "power", "draw"]


@dataclasses.dataclass(frozen=True)
class Setting:
    """What is set before a reading is taken: ``value`` in SI ``unit``, and how far it may be set.

    ``low`` and ``high`` what it must not be set below or above (None: nothing holds it on that side).
    """

    name: str
    value: float
    unit: str
    low: float | None = None
    high: float | None = None

    def __post_init__(self) -> None:
        if (self.low is not None and self.value < self.low) or (self.high is not None and self.value > self.high):
            raise ValueError(
                f"found {self.name} set to {self.value:g} {self.unit}, expected {self.low} to {self.high}: "
                "a setting lies within its own limits"
            )


@dataclasses.dataclass(frozen=True, kw_only=True)
class Task:
    """Something to do, answered by a word that it is done: what its records are ``about``, and what to do.

    ``place`` what of the build it is at (``Left``), where its title says so; ``conditions`` under which a
    record of it counts; ``settings`` what is set before.
    """

    about: Subject
    title: str
    ask: str
    place: str = ""
    conditions: Conditions = dataclasses.field(default_factory=dict)
    settings: tuple[Setting, ...] = ()

    @property
    def full_title(self) -> str:
        """Its title with the place in front."""
        return f"{self.place}: {self.title}" if self.place else self.title

    @property
    def subject(self) -> str:
        """What its records are about, as the file keeps it."""
        return self.about.text

    def setting(self, name: str) -> Setting | None:
        """What is set under that name; None where nothing is."""
        return next((setting for setting in self.settings if setting.name == name), None)


@dataclasses.dataclass(frozen=True, kw_only=True)
class Request(Task):
    """One reading that is asked for, in SI ``unit``.

    ``window`` what is expected (None: nothing is known to hold it against, and ``why_open`` says why), ``wide`` where
    an old one may still lie; ``least`` and ``most`` what can be there, the latter with ``most_words`` why. ``form``
    how it is read; ``doubts_unit``: the unit of a bare number is asked for where another would change the verdict.
    ``role`` who can read it, with the standard uncertainty ``u_own`` where a hand or an eye sets that.
    ``bare_prefix`` the prefix meant when none is typed. ``optional``: may be left out by whoever has no instrument
    for it. ``needs`` whose first power comes before it; ``group`` and ``label`` its place in a list, ``example`` a
    text that answers it. ``probe`` where an instrument would read it (None: only by hand).
    """

    unit: str
    window: Window | None
    wide: Window | None = None
    form: ReadingForm = "plain"
    doubts_unit: bool = True
    role: Role = Role.METER
    u_own: float | None = None
    least: float | None = None
    most: float | None = None
    most_words: str = ""
    bare_prefix: str = ""
    optional: bool = False
    why_open: str = ""
    needs: Needs = "nothing"
    group: str = ""
    label: str = ""
    example: str = ""
    caution: str = ""
    probe: Probe | None = None

    @property
    def key(self) -> str:
        """The place that it holds in its test or school."""
        what = self.about.what
        return what.partition(":")[2] if self.about.kind is Kind.TEST else what

    @property
    def channel(self) -> str:
        """Of which channel it is, as records know it."""
        return self.about.channel
