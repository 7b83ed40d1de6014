"""The whole plan of re-forming old reservoirs: when each step begins and ends, as a page and as appointments."""

import dataclasses
import datetime as dt

from plinth.builds.build import Build
from plinth.guide.judging import wait_words
from plinth.predict.reforming import Reforming
from plinth.report.calendar import Appointment
from plinth.report.html_page import rendered
from plinth.units.shown import shown

CAUTION = (
    "A can under too much voltage bursts: glasses on, cans covered, and somebody near by all the time. Turn up only "
    "with the plug's case bonded to earth; discharged before a hand goes in."
)


@dataclasses.dataclass(frozen=True)
class PlannedHold:
    """One hold: from when to when, at which mains (V), what the rail comes to (V), the most across a resistor (V).

    The last one has no resistors: ``across_v`` None.
    """

    begin: dt.datetime
    end: dt.datetime
    mains_v: float
    rail_v: float
    across_v: float | None

    @property
    def cells(self) -> tuple[str, str, str, str, str]:
        """From, until, mains, rail, across each resistor."""
        across = "resistors out" if self.across_v is None else f"at most {shown(self.across_v, 'V')}"
        return _when(self.begin), _when(self.end), f"{self.mains_v:.0f} V", f"{self.rail_v:.0f} V", across


HEADS = ("From", "Until", "Mains", "Rails", "Across each resistor")


def planned(plan: Reforming, begin: dt.datetime) -> tuple[PlannedHold, ...]:
    """Every hold of a schedule that begins then; as long each, the last one at full mains without the resistors."""
    hold = dt.timedelta(hours=plan.hours_each)
    rows = [
        PlannedHold(begin + k * hold, begin + (k + 1) * hold, step.mains_v, step.rail_v, step.dropped_most_v)
        for k, step in enumerate(plan.steps)
    ]
    last = plan.steps[-1]
    rows.append(PlannedHold(rows[-1].end, rows[-1].end + hold, last.mains_v, last.rail_v, None))
    return tuple(rows)


def summary(plan: Reforming, rows: tuple[PlannedHold, ...]) -> str:
    """How long it takes, when it ends, and what is put in for it."""
    return (
        f"{len(rows)} holds of {wait_words(3600.0 * plan.hours_each)}, {wait_words(3600.0 * plan.hours_in_all)} in "
        f"all: it ends {_when(rows[-1].end)}. Ahead of each reservoir {shown(plan.r_ohm, 'ohm', 2)}, 5 W."
    )


def appointments(build: Build, rows: tuple[PlannedHold, ...]) -> tuple[Appointment, ...]:
    """Each hold as an appointment."""
    made = []
    for row in rows:
        what = "resistors out" if row.across_v is None else f"at most {shown(row.across_v, 'V')} across each resistor"
        words = f"Turn up to {row.mains_v:.0f} V of mains; rails about {row.rail_v:.0f} V, {what}. {CAUTION}"
        made.append(Appointment(row.begin, row.end, f"Re-forming {build.name}: {row.mains_v:.0f} V", words))
    return tuple(made)


def plan_html(build: Build, plan: Reforming, rows: tuple[PlannedHold, ...], at: dt.datetime) -> str:
    """The plan as a page with a box to tick and a line for each reading."""
    return rendered(
        "reforming_plan.html", title=f"Re-forming: {build.name}", summary=summary(plan, rows), heads=HEADS,
        rows=[row.cells for row in rows], caution=CAUTION, made=_when(at),
    )  # fmt: skip


def _when(at: dt.datetime) -> str:
    return at.astimezone().strftime("%Y-%m-%d %H:%M")
