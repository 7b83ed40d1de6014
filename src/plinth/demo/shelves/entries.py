"""How a row of a table becomes a part with its stock."""

import datetime as dt

from plinth.builds.fields import part_fields
from plinth.builds.parts import Part
from plinth.builds.properties import How, Told, value_at
from plinth.builds.stock import Price, Stock

Entry = tuple[Part, Stock]
CURRENCY = "crowns"


def priced(
    each: float,
    *breaks: tuple[int, float],
    drawer: int = 0,
    ordered: int = 0,
    due: str = "",
    panel: int = 1,
    **more: str,
) -> Stock:
    """``each`` for one, ``breaks`` for more; ``due`` as an ISO date, ``back order`` where nobody knows one."""
    return Stock(
        prices=(Price(each=each), *(Price(from_count=count, each=less) for count, less in breaks)),
        currency=CURRENCY, panel=panel, in_drawer=drawer, ordered=ordered, back_order=due == "back order",
        due=dt.date.fromisoformat(due) if due and due != "back order" else None, **more,
    )  # fmt: skip


def usual(part: Part, *but: str) -> Entry:
    """A generic entry: every number of it is the usual one and marked as assumed, except those of ``but``."""
    told = tuple(
        Told(field=field.path, how=How.ASSUMED, value=value_at(part, field.path), source="usual for its kind")
        for field in part_fields(part)
        if field.number and field.path not in but and value_at(part, field.path) is not None
    )
    return part.model_copy(update={"told": told}), Stock(note="generic: no maker, usual values")
