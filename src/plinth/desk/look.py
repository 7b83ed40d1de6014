"""The look in force: theme, text scale, fonts, style sheet. Widgets that paint listen to ``changed``."""

import importlib.resources
import math
from collections.abc import Callable
from pathlib import Path
from types import MethodType

from PySide6.QtCore import QObject, QSize, Signal
from PySide6.QtGui import QColor, QFont, QFontDatabase
from PySide6.QtWidgets import QWidget

from plinth.desk.followers import Followers
from plinth.desk.tokens import DARK, LIGHT

SCALES = (0.8, 0.9, 1.0, 1.1, 1.25, 1.5, 1.75, 2.0)
# Its figures are all of one width, so that columns of numbers stand in line in it.
FAMILY = "B612"

_ICONS = Path(__file__).parent / "icons"


class Look(QObject):
    """One instance, ``look``, serves the whole window."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.dark = False
        self.scale = 1.0
        self._followers = Followers(self)

    def set(self, *, dark: bool | None = None, scale: float | None = None) -> None:
        """Change theme or text scale (0.8 to 2.0) and tell everybody; those who follow, in sight first."""
        self.dark = self.dark if dark is None else dark
        self.scale = self.scale if scale is None else min(SCALES[-1], max(SCALES[0], scale))
        self.changed.emit()
        self._followers.begin()

    def follow(self, fit: Callable[[], None]) -> None:
        """Call this method of a widget after each change, in its turn."""
        assert isinstance(fit, MethodType)
        assert isinstance(fit.__self__, QWidget)
        self._followers.add(fit.__self__, fit.__func__)

    def dress(self, part: QWidget) -> None:
        """Give a part of the window the style in force, now, and after each change in its turn."""
        part.setStyleSheet(self.style_sheet())
        self._followers.add(part, self._dress, dresses=True)

    def settle(self, within: QWidget | None = None) -> None:
        """Do at once what still waits for its turn, or what of it lies within a widget."""
        self._followers.settle(within)

    def _dress(self, part: QWidget) -> None:
        style = self.style_sheet()
        if part.styleSheet() != style:
            part.setStyleSheet(style)

    def step_scale(self, direction: int) -> None:
        """To the next larger (+1) or smaller (-1) text size."""
        nearest = min(range(len(SCALES)), key=lambda i: abs(SCALES[i] - self.scale))
        self.set(scale=SCALES[min(len(SCALES) - 1, max(0, nearest + direction))])

    def token(self, name: str) -> QColor:
        """The colour of that meaning."""
        return QColor((DARK if self.dark else LIGHT)[name])

    def px(self, size: float) -> int:
        """``size`` pixels at 100 % text, scaled."""
        return max(1, round(size * self.scale))

    def size(self, dialog: QWidget, width: float, height: float) -> None:
        """Give a dialog its size at 100 % text, scaled, but no more than screen and window have room for."""
        parent = dialog.parentWidget()
        window = QSize(0, 0) if parent is None else parent.window().size()
        room = dialog.screen().availableSize().expandedTo(window)
        dialog.resize(min(self.px(width), room.width() - 24), min(self.px(height), room.height() - 60))

    def column(self, size: float) -> int:
        """Width of an outer column: it grows less than the text, so that the middle keeps room at large text."""
        return round(self.px(size) / math.pow(max(1.0, self.scale), 0.75))

    def font(self, size: float, *, bold: bool = False) -> QFont:
        """A font of ``size`` pixels at 100 %."""
        font = QFont(FAMILY)
        font.setPixelSize(self.px(size))
        font.setBold(bold)
        return font

    def style_sheet(self) -> str:
        """The style of ordinary widgets; what is painted by hand asks ``token`` and ``font``."""
        t = DARK if self.dark else LIGHT
        px = self.px
        # Of a package that lies in a folder, as fonts do; style sheets take no other.
        tick = (_ICONS / f"tick-{'dark' if self.dark else 'light'}.svg").as_posix()
        return f"""
* {{ font-family: "{FAMILY}"; font-size: {px(13)}px; color: {t["ink"]}; }}
QMainWindow, QDialog, QWidget#page, QScrollArea, QScrollArea > QWidget > QWidget {{ background: {t["paper"]}; }}
QScrollArea {{ border: none; }}
QWidget#head {{ background: {t["paper"]}; border-bottom: 1px solid {t["rule"]}; }}
QWidget#band {{ background: {t["sheet"]}; border-bottom: 1px solid {t["rule"]}; }}
QWidget#blank {{ background: {t["sheet"]}; }}
QWidget#sheet {{ background: {t["sheet"]}; border: 1px solid {t["rule"]}; border-radius: {px(5)}px; }}
QLabel[role="title"] {{ font-size: {px(15)}px; font-weight: bold; }}
QLabel[role="name"] {{ font-weight: bold; }}
QLabel[role="question"] {{ font-size: {px(22)}px; font-weight: bold; }}
QLabel[role="ask"] {{ font-size: {px(15)}px; color: {t["ink2"]}; }}
QLabel[role="figure"] {{ font-size: {px(30)}px; font-weight: bold; }}
QLabel[role="pred_figure"] {{ font-size: {px(30)}px; font-weight: bold; color: {t["pred"]}; }}
QLabel[role="bench_title"] {{ font-size: 32px; font-weight: bold; }}
QLabel[role="bench_ask"] {{ font-size: 18px; color: {t["ink2"]}; }}
QLabel[role="bench_small"] {{ font-size: 16px; color: {t["ink2"]}; }}
QLabel[role="bench_figure"] {{ font-size: 150px; font-weight: bold; }}
QLabel[role="bench_unit"] {{ font-size: 56px; color: {t["ink2"]}; padding-bottom: 26px; }}
QLabel[role="bench_window"] {{ font-size: 38px; font-weight: bold; color: {t["pred"]}; }}
QLabel[role="bench_state"] {{ font-size: 28px; font-weight: bold; }}
QLabel[role="bench_over"] {{ font-size: 28px; font-weight: bold; color: {t["over"]}; }}
QLabel[role="bench_close"] {{ font-size: 28px; font-weight: bold; color: {t["close"]}; }}
QLabel[role="soft"] {{ color: {t["ink2"]}; }}
QLabel[role="small"] {{ font-size: {px(12)}px; color: {t["ink2"]}; }}
QLabel[role="claim"] {{ color: {t["claim"]}; }}
QLabel[role="pred"] {{ color: {t["pred"]}; font-weight: bold; }}
QLabel[role="over"] {{ color: {t["over"]}; }}
QLabel[role="stop_words"] {{ color: {t["over"]}; font-weight: bold; font-size: {px(14)}px; }}
QLabel[role="caution"] {{ background: {t["close_fill"]}; border-radius: {px(4)}px; padding: {px(9)}px; }}
QLabel[role="problem"] {{ background: {t["over_fill"]}; border-radius: {px(4)}px; padding: {px(9)}px; }}
QFrame[role="rule"] {{ background: {t["rule"]}; }}
QLineEdit {{ background: {t["sheet"]}; border: 1px solid {t["ink2"]}; border-radius: {px(3)}px;
  padding: {px(2)}px {px(5)}px; selection-background-color: {t["ink"]}; selection-color: {t["sheet"]}; }}
QLineEdit:focus {{ border: 2px solid {t["ink"]}; padding: {px(1)}px {px(4)}px; }}
QLineEdit[role="value"] {{ background: transparent; border: 1px solid transparent; font-weight: bold;
  font-size: {px(14)}px; }}
QLineEdit[role="value"]:hover {{ border: 1px solid {t["rule"]}; }}
QLineEdit[role="value"]:focus {{ background: {t["sheet"]}; border: 2px solid {t["ink"]}; }}
QLineEdit[role="reading"] {{ font-size: {px(30)}px; font-weight: bold; padding: {px(8)}px {px(14)}px;
  border: 2px solid {t["ink2"]}; border-radius: {px(5)}px; }}
QLineEdit[role="reading"]:focus {{ border: 3px solid {t["ink"]}; padding: {px(7)}px {px(13)}px; }}
QComboBox {{ background: {t["sheet"]}; border: 1px solid {t["ink2"]}; border-radius: {px(3)}px;
  padding: {px(2)}px {px(6)}px; }}
QComboBox:focus {{ border: 2px solid {t["ink"]}; }}
QComboBox QAbstractItemView {{ background: {t["sheet"]}; selection-background-color: {t["ink"]};
  selection-color: {t["paper"]}; }}
QPushButton {{ background: transparent; border: 1px solid {t["rule"]}; border-radius: {px(4)}px;
  padding: {px(4)}px {px(10)}px; }}
QPushButton:hover {{ background: {t["sunk"]}; }}
QPushButton:focus {{ border: 2px solid {t["ink"]}; padding: {px(3)}px {px(9)}px; }}
QPushButton:disabled {{ color: {t["ink2"]}; border-style: dashed; }}
QPushButton[role="main"] {{ background: {t["ink"]}; color: {t["paper"]}; font-weight: bold; font-size: {px(14)}px;
  padding: {px(11)}px {px(22)}px; border: 2px solid {t["ink"]}; border-radius: {px(5)}px; }}
QPushButton[role="main"]:focus {{ border: 3px solid {t["zero"]}; padding: {px(10)}px {px(21)}px; }}
QPushButton[role="main"]:disabled {{ background: {t["sunk"]}; color: {t["ink2"]}; border: 2px dashed {t["rule"]}; }}
QPushButton[role="stop"] {{ background: {t["over"]}; color: {t["paper"]}; font-weight: bold; font-size: {px(15)}px;
  border: 2px solid {t["over"]}; padding: {px(5)}px {px(40)}px; }}
QPushButton[role="stop"]:focus {{ border: 3px solid {t["ink"]}; padding: {px(4)}px {px(39)}px; }}
QPushButton[role="flat"] {{ border: 1px solid transparent; padding: {px(3)}px {px(6)}px; }}
QPushButton[role="flat"]:hover {{ background: {t["sunk"]}; }}
QPushButton[role="flat"]:focus {{ border: 2px solid {t["ink"]}; padding: {px(2)}px {px(5)}px; }}
QPushButton[role="due"] {{ background: {t["close_fill"]}; color: {t["close"]}; font-weight: bold;
  border: 1px solid transparent; padding: {px(3)}px {px(6)}px; }}
QPushButton[role="due"]:focus {{ border: 2px solid {t["ink"]}; padding: {px(2)}px {px(5)}px; }}
QPushButton[role="row"] {{ text-align: left; border: 1px solid transparent; padding: {px(4)}px {px(6)}px; }}
QPushButton[role="row"]:hover {{ background: {t["sunk"]}; }}
QPushButton[role="row"]:checked {{ background: {t["sheet"]}; border: 2px solid {t["ink"]}; font-weight: bold;
  padding: {px(3)}px {px(5)}px; }}
QPushButton[role="row"]:focus {{ border: 2px solid {t["ink"]}; padding: {px(3)}px {px(5)}px; }}
QPushButton::menu-indicator {{ width: 0px; }}
QCheckBox::indicator, QListView::indicator, QTableView::indicator {{
  width: {px(13)}px; height: {px(13)}px; background: {t["sheet"]};
  border: 1px solid {t["ink2"]}; border-radius: {px(2)}px; }}
QCheckBox::indicator:checked, QListView::indicator:checked, QTableView::indicator:checked {{
  background: {t["ink"]}; border-color: {t["ink"]};
  image: url({tick}); }}
QCheckBox::indicator:disabled {{ border-color: {t["rule"]}; }}
QCheckBox:focus {{ background: {t["sunk"]}; }}
QSlider {{ min-height: {px(17)}px; }}
QSlider::groove:horizontal {{ height: {px(4)}px; background: {t["rule"]}; border-radius: {px(2)}px; }}
QSlider::sub-page:horizontal {{ background: {t["ink2"]}; border-radius: {px(2)}px; }}
QSlider::sub-page:horizontal:disabled {{ background: {t["rule"]}; }}
QSlider::handle:horizontal:disabled {{ border-color: {t["rule"]}; }}
QSlider::handle:horizontal {{ width: {px(8)}px; margin: -{px(6)}px 0; background: {t["sheet"]};
  border: 2px solid {t["ink"]}; border-radius: {px(3)}px; }}
QSlider:focus {{ background: {t["sunk"]}; border-radius: {px(3)}px; }}
QSlider::handle:horizontal:focus {{ background: {t["ink"]}; }}
QProgressBar {{ background: {t["sunk"]}; border: 1px solid {t["rule"]}; border-radius: {px(3)}px;
  max-height: {px(8)}px; }}
QProgressBar::chunk {{ background: {t["ink2"]}; border-radius: {px(2)}px; }}
QDialog {{ border: 1px solid {t["ink2"]}; }}
QMenu {{ background: {t["sheet"]}; border: 1px solid {t["rule"]}; padding: {px(4)}px; }}
QMenu::item {{ padding: {px(5)}px {px(24)}px {px(5)}px {px(12)}px; }}
QMenu::item:selected {{ background: {t["ink"]}; color: {t["paper"]}; }}
QMenu::item:disabled {{ color: {t["ink2"]}; }}
QMenu::separator {{ height: 1px; background: {t["rule"]}; margin: {px(4)}px; }}
QListWidget, QTableWidget, QTableView {{ background: {t["sheet"]}; border: 1px solid {t["rule"]}; outline: none;
  gridline-color: {t["rule"]}; }}
QListWidget:focus, QTableWidget:focus, QTableView:focus {{ border: 2px solid {t["ink"]}; }}
QTableView[role="shelf"] {{ background: {t["paper"]}; border: 1px solid transparent; }}
QTableView[role="shelf"]:focus {{ border: 2px solid {t["ink"]}; }}
QTableView[role="shelf"] QHeaderView::section {{ background: {t["paper"]}; }}
QListWidget[role="steps"] {{ background: transparent; border: 1px solid transparent; }}
QListWidget[role="steps"]:focus {{ border: 2px solid {t["ink"]}; }}
QListWidget::item {{ padding: {px(5)}px {px(8)}px; }}
QListWidget::item:selected, QTableView::item:selected {{ background: {t["ink"]}; color: {t["paper"]}; }}
QHeaderView::section {{ background: {t["sheet"]}; color: {t["ink2"]}; border: none; padding: {px(4)}px;
  border-bottom: 1px solid {t["rule"]}; }}
QTableCornerButton::section {{ background: {t["sheet"]}; border: none; }}
QPlainTextEdit {{ background: {t["sheet"]}; border: 1px solid {t["ink2"]}; border-radius: {px(3)}px; }}
QPlainTextEdit:focus {{ border: 2px solid {t["ink"]}; }}
QToolTip {{ background: {t["sheet"]}; color: {t["ink"]}; border: 1px solid {t["ink2"]}; padding: {px(4)}px; }}
QScrollBar:vertical {{ background: transparent; width: {px(10)}px; }}
QScrollBar::handle:vertical {{ background: {t["rule"]}; border-radius: {px(4)}px; min-height: {px(30)}px; }}
QScrollBar:horizontal {{ background: transparent; height: {px(10)}px; }}
QScrollBar::handle:horizontal {{ background: {t["rule"]}; border-radius: {px(4)}px; min-width: {px(30)}px; }}
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{ height: 0; width: 0;
  background: transparent; }}
"""


look = Look()


def load_fonts() -> None:
    """Make the shipped fonts known to Qt. Raises RuntimeError where a font file is missing or broken."""
    folder = importlib.resources.files("plinth.desk") / "fonts"
    for name in ("B612-Regular.otf", "B612-Bold.otf"):
        with importlib.resources.as_file(folder / name) as path:
            if QFontDatabase.addApplicationFont(str(path)) < 0:
                raise RuntimeError(f"found no usable font at {path}, expected one that ships with Plinth: reinstall it")
