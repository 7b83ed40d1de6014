"""Taking parts of the shelf as somebody does who looks along it."""

import random

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from plinth.desk.window import PlinthWindow


def take(window: PlinthWindow, name: str) -> None:
    """Look along the shelf of the current station and take the part called so, with the keyboard."""
    window.show_stage("plan")
    window.plan.show_shelf()
    view = window.plan.shelf
    rows = [k for k, item in enumerate(view.rows.items) if item.part.name == name]
    assert len(rows) == 1, f"{len(rows)} parts called {name}"
    view.table.setFocus()
    view._set_row(rows[0])
    QTest.keyClick(view.table, Qt.Key.Key_Return)


def take_any(window: PlinthWindow, pick: random.Random, *, looking: bool) -> str:
    """Any part that stands on the shelf for the current station: ``looking`` along it, or as its row would take it."""
    session, view = window.session, window.plan.shelf
    if looking:
        window.plan.show_shelf()
        if view.rows.items:
            view._set_row(pick.randrange(len(view.rows.items)))
            view._try()
            name = "" if view.item is None else view.item.part.name
            (view.take if pick.random() < 0.7 else view.leave)()
            return name
        return ""
    from plinth.shelf.slots import KINDS, slots_of

    slots = slots_of(session.build, session.station)
    if not slots:
        return ""
    slot = pick.choice(slots)
    part = pick.choice(session.shelf.items(KINDS[slot])).part
    session.plan.swap(slot, part)
    return part.name
