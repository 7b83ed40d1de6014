"""The present, as it is written down."""

import datetime as dt


def now() -> dt.datetime:
    """The present in UTC, whole seconds."""
    return dt.datetime.now(dt.UTC).replace(microsecond=0)
