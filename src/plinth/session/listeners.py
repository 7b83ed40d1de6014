"""What a session announces, to whoever shows it: plain functions, each told when its thing has changed.

Callbacks and no signal library: there is one listener, the window, which has signals of its own.
"""

import dataclasses
import datetime as dt
from collections.abc import Callable


def _nobody(*_told: object) -> None:
    """Nobody listens."""


@dataclasses.dataclass(frozen=True)
class Telling:
    """One function for each kind of change; ``trouble``, ``refused`` take a sentence, ``fault`` a job and its error."""

    build_switched: Callable[[], None] = _nobody
    plan_changed: Callable[[], None] = _nobody
    predicted: Callable[[], None] = _nobody
    loads_predicted: Callable[[], None] = _nobody
    records_changed: Callable[[], None] = _nobody
    kept: Callable[[dt.datetime], None] = _nobody
    trouble: Callable[[str], None] = _nobody
    refused: Callable[[str], None] = _nobody
    station_chosen: Callable[[str], None] = _nobody
    photos_changed: Callable[[], None] = _nobody
    captures_changed: Callable[[], None] = _nobody
    power_changed: Callable[[], None] = _nobody
    fault: Callable[[str, Exception], None] = _nobody
