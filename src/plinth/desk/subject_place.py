"""Where in the window a record came from: the stage of its subject, the channel, the test."""

from plinth.bench.every_sheet import kind_of
from plinth.desk.stage_keys import INSPECT, MEASURE, POWER_UP
from plinth.record.subject import Kind, Subject

_MEASURED = (Kind.CLIP, Kind.CLIP_1, Kind.CLIP_10, Kind.CLIP_DRAW, Kind.RESPONSE, Kind.TEST)
_STAGES = (
    dict.fromkeys((Kind.BRINGUP, Kind.COURSE, Kind.POWER), POWER_UP)
    | dict.fromkeys((Kind.INSPECT, Kind.PART), INSPECT)
    | dict.fromkeys(_MEASURED, MEASURE)
)


def stage_of(about: Subject) -> str | None:
    """The stage at which something is read, done or looked at; None where no page is about it."""
    return _STAGES.get(about.kind)


def test_of(about: Subject) -> str:
    """The name of the test of Measure in which it is asked for."""
    if about.kind is Kind.RESPONSE:
        return "Response"
    return kind_of(about.what.partition(":")[0]).name if about.kind is Kind.TEST else "Clipping power"
