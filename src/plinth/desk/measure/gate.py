"""Which channels may be measured: those brought up, or passed over in writing."""

from plinth.builds.build import Build
from plinth.desk.session import BenchSession
from plinth.record.conditions import Conditions
from plinth.record.reading import Override
from plinth.record.subject import Kind, Subject


def gate_subject(channel: str) -> str:
    """The subject of an override of this gate."""
    return Subject(Kind.MEASURE, channel, "gate").text


def gate_conditions(build: Build) -> Conditions:
    """What such a reason was written for: these boards on this supply."""
    return {"module": build.mark("module"), "supply": build.mark("supply")}


def held_channels(session: BenchSession, channels: tuple[str, ...]) -> tuple[str, ...]:
    """Those of ``channels`` whose loudspeaker permission is neither given nor passed over."""
    return tuple(
        one
        for one in channels
        if not session.brought_up(one)
        and not isinstance(session.records.counting(gate_subject(one), gate_conditions(session.build)), Override)
    )
