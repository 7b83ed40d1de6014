"""The present, as it is written down."""

import datetime as dt
from collections.abc import Callable

# What tells the present: the system's clock, or one that is set and hurried.
Clock = Callable[[], dt.datetime]


def now() -> dt.datetime:
    """The present in UTC, whole seconds."""
    return dt.datetime.now(dt.UTC).replace(microsecond=0)
