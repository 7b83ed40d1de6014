"""With the keyboard alone: from an empty workshop by requirement, listing, shelf, find me and a variant to a wiring."""

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TypeVar

import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QWidget
from pytestqt.qtbot import QtBot

from plinth.builds.properties import How, how_known
from plinth.builds.stations import part_in
from plinth.builds.supply_parts import Transformer
from plinth.desk.find_dialog import FindDialog
from plinth.desk.look import load_fonts
from plinth.desk.plan.bill_dialog import BillDialog
from plinth.desk.plan.variants_dialog import VariantsDialog
from plinth.desk.requirement_dialog import RequirementDialog
from plinth.desk.session import BenchSession
from plinth.desk.shelf.listing_dialog import ListingDialog
from plinth.desk.window import PlinthWindow, let_go
from plinth.desk.wiring.dialog import WiringDialog
from plinth.session.beginning import begin_workshop

LISTING = "Toroid 225VA 2*25V\nPrimary 230 V\nRegulation 6,5 %"
DialogT = TypeVar("DialogT", bound=QDialog)


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path) -> Iterator[PlinthWindow]:
    load_fonts()
    session = BenchSession(begin_workshop(tmp_path / "mine.plinth"), threaded=False)
    made = PlinthWindow(session)
    made.resize(1280, 800)
    made.show()
    made.activateWindow()
    qtbot.waitExposed(made)
    yield made
    made.close()
    let_go()
    made.deleteLater()


class Keys:
    """A hand on the keyboard: counts what it presses."""

    def __init__(self, window: PlinthWindow) -> None:
        self.window, self.pressed = window, 0

    def press(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
              at: QWidget | None = None) -> None:  # fmt: skip
        self.pressed += 1
        QTest.keyClick(at or QApplication.focusWidget() or self.window, key, modifier)

    def type(self, text: str, at: QWidget) -> None:
        self.pressed += len(text)
        QTest.keyClicks(at, text)

    def command(self, key: str) -> None:
        """A command by its keys, as it stands in the finder."""
        self.pressed += 1
        command = next(one for one in self.window.commands if one.key == key)
        assert command.keys, f"{key} has no keys"
        self.window.run_command(command)


def inside(kind: type[DialogT], act: Callable[[DialogT], None], ask: Callable[[], None]) -> None:
    """Do something in the dialog that a command opens."""
    seen: list[str] = []

    def now() -> None:
        dialog = QApplication.activeModalWidget()
        if not isinstance(dialog, kind):
            seen.append(f"{type(dialog).__name__} is open")
            if isinstance(dialog, QDialog):
                dialog.reject()
            return
        try:
            act(dialog)
            seen.append("")
        except BaseException as error:
            seen.append(repr(error))
            raise
        finally:
            if dialog.isVisible():
                dialog.reject()

    QTimer.singleShot(0, now)
    ask()
    assert seen == [""]


def test_from_nothing_to_a_wiring(window: PlinthWindow, qtbot: QtBot, tmp_path: Path) -> None:
    session, keys = window.session, Keys(window)
    before = len(session.builds)

    def requirement(dialog: RequirementDialog) -> None:
        keys.type("40W 8R", dialog.requirement)
        keys.press(Qt.Key.Key_Return, at=dialog.requirement)

    inside(RequirementDialog, requirement, lambda: keys.command("new"))
    # Under twelve keys from an empty workshop to first figures.
    assert keys.pressed < 12
    assert len(session.builds) == before + 1
    assert session.predictions.prediction is not None
    assert session.predictions.prediction["clip_worst_power_w"].value == pytest.approx(40.0, rel=0.03)

    # A listing pasted, accepted, on the shelf.
    keys.command("station.transformer")
    keys.command("shelf")
    view = window.plan.shelf

    def listing(dialog: ListingDialog) -> None:
        dialog.text.insertPlainText(LISTING)
        keys.press(Qt.Key.Key_Tab, at=dialog.text)
        assert dialog.focusWidget() is not dialog.text
        dialog.name.setText("Pasted 225")
        dialog.take()

    inside(ListingDialog, listing, view.read_listing)
    # Searched, looked at, taken.
    keys.type("pasted", view.search)
    assert view.rows.rowCount() == 1
    keys.press(Qt.Key.Key_Return, at=view.search)
    keys.press(Qt.Key.Key_Return, at=view.table)
    part = part_in(session.build, "supply.transformer")
    assert part.name == "Pasted 225"
    assert isinstance(part, Transformer)
    assert how_known(part, "regulation") is How.STATED

    # Kept as a variant before anything else is tried.
    def keep(dialog: VariantsDialog) -> None:
        keys.type("As pasted", dialog.name)
        keys.press(Qt.Key.Key_Return, at=dialog.name)
        assert "As pasted" in dialog.found.names

    inside(VariantsDialog, keep, lambda: keys.command("variants"))

    # Found: something that meets a requirement, taken from the list.
    def find(dialog: FindDialog) -> None:
        dialog.places[0].setCurrentText("transformer")
        dialog.places[1].setCurrentText("reservoir")
        dialog.places[2].setCurrentIndex(0)
        keys.type("35W 8R", dialog.requirement)
        keys.press(Qt.Key.Key_Return, at=dialog.requirement)
        assert dialog.outcome.count > 100
        row = next(k for k, one in enumerate(dialog.shown) if any(one.items.values()))
        for _ in range(row):
            keys.press(Qt.Key.Key_Down, at=dialog.rows)
        keys.press(Qt.Key.Key_Return, at=dialog.rows)

    inside(FindDialog, find, lambda: keys.command("find_me"))
    found = session.build

    # And gone back to the variant, with a reason.
    def adopt(dialog: VariantsDialog) -> None:
        dialog.which.setCurrentText("As pasted")
        keys.type("it lies here", dialog.reason)
        keys.press(Qt.Key.Key_Return, at=dialog.reason)

    inside(VariantsDialog, adopt, lambda: keys.command("variants"))
    assert session.build != found
    assert part_in(session.build, "supply.transformer").name == "Pasted 225"
    assert "As pasted adopted: it lies here" in session.records.diary_lines()[-1].words

    inside(BillDialog, lambda dialog: dialog.save(tmp_path / "bill.csv"), lambda: keys.command("bill"))
    assert "Pasted 225" in (tmp_path / "bill.csv").read_text(encoding="utf-8")

    def wiring(dialog: WiringDialog) -> None:
        keys.press(Qt.Key.Key_Right, at=dialog.view)
        dialog.save_as(tmp_path / "wiring.svg", dialog.save_svg)

    inside(WiringDialog, wiring, lambda: keys.command("wiring"))
    assert "Pasted 225" in (tmp_path / "wiring.svg").read_text(encoding="utf-8")
