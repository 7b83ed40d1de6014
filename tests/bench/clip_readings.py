"""Levels and draws of the clipping table as a test has them: from watts, or kept as typed."""

import datetime as dt

from plinth.bench.clip_cell import ClipCell
from plinth.bench.clip_level import understand
from plinth.bench.clipping import request_for
from plinth.demo.shelf import BENCH
from plinth.judge.state import State
from plinth.record.meaning import Meaning, reading_of
from plinth.record.reading import Reading
from plinth.units.bounds import Bound
from plinth.units.level import Form, read_level


def watts_read(
    cell: ClipCell, watts: float, u: float | None = None, form: Form = Form.RMS, bound: Bound = Bound.NONE
) -> Meaning:
    """A level of so many watts, with their standard uncertainty, not judged."""
    return Meaning(request_for(cell, form), watts, u, bound, State.UNKNOWN, "a meter", form=form)


def kept_as_typed(cell: ClipCell, typed: str, at: dt.datetime) -> Reading:
    """The reading kept of a level; where it is asked about, as it is offered first."""
    meant = understand(read_level(typed), cell, BENCH)
    return reading_of(meant.taken or meant.choices[0], typed, at)
