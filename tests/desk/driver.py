"""What a user does on the pages and sees there: the tests' and the walks' only way to press, type and look.

Everything goes through what the pages offer; no test reaches for what they keep to themselves (ruff holds that).
"""

import random

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QLabel, QLineEdit, QWidget

from plinth.desk.stages import STAGES
from plinth.desk.window import PlinthWindow

# The stages of the work, by their keys.
STAGE_KEYS = tuple(stage.key for stage in STAGES)


def press(button: QWidget) -> None:
    """Click a button that may be clicked, and let the window follow."""
    assert isinstance(button, QAbstractButton)
    assert button.isEnabled(), button.text()
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    QApplication.processEvents()


def type_in(field: QWidget, text: str, *, enter: bool = True) -> None:
    """Type into a field in the place of what stands there, letter by letter."""
    assert isinstance(field, QLineEdit)
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text) if text else field.clear()
    # Between two keys of a hand the window lays out what it has to say.
    QApplication.processEvents()
    if enter:
        QTest.keyClick(field, Qt.Key.Key_Return)


def sees(place: QWidget) -> list[str]:
    """The words that stand in sight somewhere."""
    QApplication.processEvents()
    return [one.text() for one in place.findChildren(QLabel) if one.isVisible() and one.text()]


def take(window: PlinthWindow, name: str) -> None:
    """Look along the shelf of the current station and take the part called so, with the keyboard."""
    window.show_stage("plan")
    window.plan.show_shelf()
    view = window.plan.shelf
    rows = [k for k, item in enumerate(view.rows.items) if item.part.name == name]
    assert len(rows) == 1, f"{len(rows)} parts called {name}"
    view.table.setFocus()
    view.look_at_row(rows[0])
    QTest.keyClick(view.table, Qt.Key.Key_Return)


def take_any(window: PlinthWindow, pick: random.Random, *, looking: bool) -> str:
    """Any part that stands on the shelf for the current station: ``looking`` along it, or as its row would take it."""
    session, view = window.session, window.plan.shelf
    if looking:
        window.plan.show_shelf()
        if view.rows.items:
            view.look_at_row(pick.randrange(len(view.rows.items)))
            view.try_current()
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
