"""Every page and dialog at every text size in a window with a title bar: no text wider or higher than its place.

What is shortened must be readable in full where the pointer rests, on the widget itself or on what it stands in.
"""

from collections.abc import Iterator

import pytest
from PySide6.QtCore import QTimer
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QApplication, QComboBox, QDialog, QFileDialog, QLabel, QLineEdit, QPushButton, QWidget

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from tests.desk.driver import STAGE_KEYS
from tests.family import FAMILY
from tests.turns import crossed, in_turn

# A framed window on a screen of 1280x800.
WIDE, HIGH = 1280, 764
SIZES = (0.8, 1.0, 1.5, 2.0)
# They open nothing, or what is not ours.
OPENS_NO_DIALOG = {
    # In a window, or a workshop, of their own.
    "simulated", "bench_view",
    "quit", "builds", "dark", "larger", "smaller", "undo", "redo", "reset", "load", "due", "reminder", "stop",
    "next_build", "sliders", "view", "channels", "path", "pass", "note",
}  # fmt: skip


def cut_in(root: QWidget) -> Iterator[str]:
    """What is wider or higher than its place, in words."""
    for widget in root.findChildren(QWidget):
        if widget.isVisible() and not _said_in_full(widget):
            text, need, room = _room_of(widget)
            if need > room:
                yield f"{type(widget.parentWidget()).__name__}: {text[:60]!r} wants {need} px of {room}"


def _said_in_full(widget: QWidget) -> bool:
    beyond: QWidget | None = widget
    for _ in range(3):
        if beyond is None or beyond.toolTip():
            break
        beyond = beyond.parentWidget()
    return beyond is not None and bool(beyond.toolTip())


def _room_of(widget: QWidget) -> tuple[str, int, int]:
    metrics = QFontMetrics(widget.font())
    match widget:
        case QLabel() if widget.text() and widget.wordWrap():
            longest = max(metrics.horizontalAdvance(word) for word in widget.text().split())
            if longest > widget.contentsRect().width() + 1:
                return widget.text(), longest, widget.contentsRect().width() + 1
            return widget.text(), widget.heightForWidth(widget.width()), widget.height() + 2
        case QLabel() if widget.text():
            widest = max(metrics.horizontalAdvance(line) for line in widget.text().splitlines())
            return widget.text(), widest, widget.contentsRect().width() + 1
        case QPushButton():
            return widget.text(), metrics.horizontalAdvance(widget.text().replace("&", "")), widget.width() - 2
        case QComboBox():
            return widget.currentText(), metrics.horizontalAdvance(widget.currentText()), widget.width() - 10
        case QLineEdit() if not widget.text():
            return widget.placeholderText(), metrics.horizontalAdvance(widget.placeholderText()), widget.width() - 8
    return "", 0, 0


def settled() -> None:
    look.settle()
    for _ in range(4):
        QApplication.processEvents()


def pages_cut(window: PlinthWindow) -> list[str]:
    cut = []
    for stage in STAGE_KEYS:
        window.show_stage(stage)
        tests = range(len(window.measure.every_test)) if stage == "measure" else (0,)
        for test in tests:
            if stage == "measure":
                window.measure.show_test(test)
            settled()
            # What is shortened as it is painted says the whole only then.
            window.grab()
            cut += [f"{stage} {test}: {words}" for words in cut_in(window)]
    return cut


@pytest.mark.parametrize("scale", in_turn(SIZES, 2, offset=1))
def test_no_page_cuts_a_word(window: PlinthWindow, scale: float) -> None:
    window.resize(WIDE, HIGH)
    look.set(scale=scale)
    assert pages_cut(window) == []


@pytest.mark.parametrize(
    ("build", "scale"), crossed(list(FAMILY.values())[::8], (1.0, 1.5), 20, row_name=lambda build: build.name)
)
def test_no_page_of_any_kind_of_build_cuts_a_word(
    window: PlinthWindow, session: BenchSession, build: Build, scale: float
) -> None:
    assert session.plan.add_new(build.model_copy(update={"note": "Made for this test."}))
    session.plan.what_if(live=False, level=Situation().level)
    window.resize(WIDE, HIGH)
    look.set(scale=scale)
    assert pages_cut(window) == []


@pytest.mark.parametrize("scale", in_turn(SIZES[1:], 3, offset=1))
def test_no_dialog_cuts_a_word(window: PlinthWindow, scale: float) -> None:
    window.resize(WIDE, HIGH)
    look.set(scale=scale)
    settled()
    cut: list[str] = []
    opened: set[str] = set()
    asked = [""]

    def look_at() -> None:
        dialog = QApplication.activeModalWidget()
        if not isinstance(dialog, QDialog):
            return
        if not isinstance(dialog, QFileDialog):
            opened.add(type(dialog).__name__)
            cut.extend(f"{asked[0]}: {words}" for words in cut_in(dialog))
        dialog.reject()

    # Again and again: what is asked first may be followed by another question.
    looking = QTimer(window)
    looking.timeout.connect(look_at)
    looking.start(40)
    for command in window.commands:
        if command.key in OPENS_NO_DIALOG or command.key.startswith(("stage.", "station.", "test.")):
            continue
        asked[0] = command.key
        window.run_command(command)
        settled()
    looking.stop()
    assert cut == []
    assert len(opened) >= 12, opened
