"""A capture that is kept: what it is of, where it came from, what was stated beside it, what it told."""

import dataclasses
import datetime as dt
import enum
import json
from collections.abc import Mapping
from typing import Any

from plinth.record.conditions import Conditions


class CaptureSource(enum.StrEnum):
    """Where a capture came from. The values are what files hold."""

    FILE = "file"
    INSTRUMENT = "instrument"
    SIMULATED = "simulated"


@dataclasses.dataclass(frozen=True)
class CaptureFacts:
    """What is known of a capture without its samples; documents of plain values.

    ``stated`` what somebody said beside the file (``captures.options``), ``figures`` what was drawn from it
    (``captures.figure``), ``conditions`` those it was taken under, ``version`` which of the build it is of
    (0: not kept).
    """

    kind: str
    source: CaptureSource
    seconds: float
    sample_rate_hz: float
    channels: tuple[str, ...]
    stated: Mapping[str, Any] = dataclasses.field(default_factory=dict)
    figures: Mapping[str, Any] = dataclasses.field(default_factory=dict)
    conditions: Conditions = dataclasses.field(default_factory=dict)
    version: int = 0


@dataclasses.dataclass(frozen=True)
class KeptCapture:
    """``subject`` what it is of, as records have it; ``digest`` what its content is known by; ``size`` in bytes."""

    number: int
    build_id: int
    subject: str
    at: dt.datetime
    name: str
    words: str
    facts: CaptureFacts
    digest: str
    size: int

    @property
    def title(self) -> str:
        """What it is called: its words where somebody gave it some, else its name."""
        return self.words or self.name


# Lines about a capture have this before what its content is known by: numbers are other ones in another workshop.
_OF_CAPTURE, _DIGITS = "capture/", 24


def of_capture(kept: KeptCapture) -> str:
    """The subject of a line of the diary that tells of a capture."""
    return f"{_OF_CAPTURE}{kept.digest[:_DIGITS]}"


def captured_digest(subject: str) -> str:
    """What the capture that a line tells of is known by, as far as the line says; empty where it tells of none."""
    return subject.removeprefix(_OF_CAPTURE) if subject.startswith(_OF_CAPTURE) else ""


def facts_text(facts: CaptureFacts) -> str:
    """Facts as the file keeps them."""
    return json.dumps(dataclasses.asdict(facts), ensure_ascii=False, allow_nan=False)


def read_facts(text: str) -> CaptureFacts:
    """Facts from the file. Raises ValueError, TypeError or KeyError where they are none."""
    document = json.loads(text)
    if not isinstance(document, dict):
        raise ValueError("found no object")
    return CaptureFacts(
        kind=str(document["kind"]), source=CaptureSource(document["source"]), seconds=float(document["seconds"]),
        sample_rate_hz=float(document["sample_rate_hz"]),
        channels=tuple(str(name) for name in document["channels"]), stated=dict(document["stated"]),
        figures=dict(document["figures"]), conditions=dict(document["conditions"]),
        version=int(document.get("version", 0)),
    )  # fmt: skip
