"""Colours, text sizes, keyboard and repaints."""

import gc
import itertools
import os
import sys
from pathlib import Path

import numpy as np
import pytest
import shiboken6
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QImage, QTextDocument
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QAbstractSlider, QApplication, QLabel, QLineEdit, QWidget
from pytestqt.qtbot import QtBot
from scripts.sights import SIGHTS, pixels_of, seen, to_linear

from plinth.desk import followers
from plinth.desk.finder import Finder, matches
from plinth.desk.labels import button, plain_tip
from plinth.desk.look import FAMILY, look
from plinth.desk.name_dialog import NameDialog
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.desk.tokens import DARK, GROUNDS, LIGHT, TEXT
from plinth.desk.window import PlinthWindow
from plinth.drawing.series import Series
from tests.desk.driver import STAGE_KEYS
from tests.turns import crossed, in_turn


def srgb(colour: str) -> np.ndarray:
    return np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)]) / 255.0


def linear(colour: str) -> np.ndarray:
    return to_linear(srgb(colour))


def contrast(a: str, b: str, sight: str = "normal") -> float:
    """Contrast ratio after WCAG 2.1, as that sight has it."""
    weights = np.array([0.2126, 0.7152, 0.0722])
    lights = (float(weights @ np.clip(DICHROMACY[sight] @ linear(colour), 0.0, 1.0)) for colour in (a, b))
    high, low = sorted(lights, reverse=True)
    return (high + 0.05) / (low + 0.05)


DICHROMACY = {"normal": np.eye(3), **SIGHTS}


def lab(rgb: np.ndarray) -> np.ndarray:
    to_xyz = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
    xyz = to_xyz @ np.clip(rgb, 0, 1) / np.array([0.9505, 1.0, 1.089])
    f = np.where(xyz > 0.008856, np.cbrt(xyz), 7.787 * xyz + 16 / 116)
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=["light", "dark"])
def test_text_reaches_double_a_on_every_ground(theme: dict[str, str]) -> None:
    for token, ground in itertools.product(TEXT, GROUNDS):
        assert contrast(theme[token], theme[ground]) >= 4.5, (token, ground)
    for token, fill in (("ink", "close_fill"), ("ink", "over_fill"), ("over", "over_fill"), ("paper", "over")):
        assert contrast(theme[token], theme[fill]) >= 4.5, (token, fill)


@pytest.mark.parametrize("sight", DICHROMACY)
@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=["light", "dark"])
def test_meanings_stay_apart_for_every_kind_of_sight(theme: dict[str, str], sight: str) -> None:
    seen = {name: lab(DICHROMACY[sight] @ linear(theme[name])) for name in ("plus", "minus", "pred", "claim", "ink")}
    for a, b in itertools.combinations(seen, 2):
        assert float(np.linalg.norm(seen[a] - seen[b])) > 10.0, (a, b)


@pytest.mark.parametrize("sight", SIGHTS)
@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=["light", "dark"])
def test_text_is_read_and_marks_are_seen_by_every_kind_of_sight(theme: dict[str, str], sight: str) -> None:
    for token, ground in itertools.product(TEXT, GROUNDS):
        assert contrast(theme[token], theme[ground], sight) >= 4.0, (token, ground)
    for mark in ("plus", "minus", "pred", "claim", "close", "over", "ink", "ink2", "zero"):
        assert contrast(theme[mark], theme["sheet"], sight) >= 3.0, mark


@pytest.mark.parametrize("sight", SIGHTS)
def test_a_page_as_that_sight_has_it_loses_no_line_of_text(window: PlinthWindow, sight: str) -> None:
    """Rows of a page that have ink in them have it still, nearly as dark: nothing sinks into the ground."""
    for stage in STAGE_KEYS:
        window.show_stage(stage)
        QApplication.processEvents()
        page = pixels_of(window.grab().toImage())
        weights = np.array([0.2126, 0.7152, 0.0722])
        before, after = (to_linear(pixels) @ weights for pixels in (page, seen(page, sight)))
        inked = before.min(axis=1) < 0.3
        assert inked.sum() > 50, stage
        assert (after.min(axis=1)[inked] < 0.36).all(), stage


def every(window: PlinthWindow, kind: type[QWidget]) -> list[QWidget]:
    found: list[QWidget] = list(window.findChildren(kind))
    return [w for w in found if w.isVisible() and w.isEnabled()]


def test_everything_that_can_be_pressed_has_a_name_and_takes_the_focus(window: PlinthWindow) -> None:
    for stage in STAGE_KEYS:
        window.show_stage(stage)
        for widget in every(window, QAbstractButton):
            assert isinstance(widget, QAbstractButton)
            assert widget.accessibleName() or widget.text(), widget
            # Of an exclusive group only the pressed one is a tab stop; the arrow keys go on from there.
            exclusive = widget.autoExclusive() or (widget.group() is not None and widget.group().exclusive())
            assert widget.focusPolicy() & Qt.FocusPolicy.TabFocus or (exclusive and not widget.isChecked())
        for widget in [*every(window, QLineEdit), *every(window, QAbstractSlider)]:
            if "ScrollBar" not in type(widget).__name__:
                assert widget.accessibleName(), widget


def test_tab_alone_reaches_every_slider_station_and_stage(window: PlinthWindow) -> None:
    # Of an exclusive group only the chosen one is a tab stop; arrows go on from there.
    seen = set()
    window.activateWindow()
    window.band.stations["wall"].setFocus()
    for _ in range(140):
        QTest.keyClick(window.focusWidget() or window, Qt.Key.Key_Tab)
        seen.add(window.focusWidget())
    assert {row.slider for row in window.plan.what_if.rows.values()} <= seen
    assert seen & set(window.band.stations.values())
    assert seen & set(window.head.stages.buttons())


def test_every_command_has_its_own_keys_and_is_found(window: PlinthWindow, qtbot: QtBot) -> None:
    keys = [c.keys for c in window.commands if c.keys]
    assert len(keys) == len(set(keys))
    assert len({c.key for c in window.commands}) == len(window.commands)
    finder = Finder(window, window.commands)
    qtbot.addWidget(finder)
    qtbot.keyClicks(finder.field, "freq resp")
    assert finder.list.count() == 1
    qtbot.keyClick(finder.field, Qt.Key.Key_Return)
    assert finder.chosen is not None
    assert finder.chosen.title == "frequency response"
    window.run_command(finder.chosen)
    assert window.stage == "measure"
    undo = next(c for c in window.commands if c.key == "undo")
    assert matches(undo, "un")
    assert not undo.enabled()


@pytest.mark.parametrize(
    ("keys", "stage"),
    [
        (Qt.Key.Key_2, "inspect"),
        (Qt.Key.Key_3, "power_up"),
        (Qt.Key.Key_4, "measure"),
        (Qt.Key.Key_5, "decide"),
        (Qt.Key.Key_6, "diary"),
        (Qt.Key.Key_1, "plan"),
    ],
)
def test_stages_by_one_keystroke(window: PlinthWindow, keys: Qt.Key, stage: str) -> None:
    window.show_stage("plan" if stage != "plan" else "measure")
    QTest.keyClick(window, keys, Qt.KeyboardModifier.ControlModifier)
    assert window.stage == stage


def test_names_of_builds_are_asked_for_properly(window: PlinthWindow, qtbot: QtBot) -> None:
    dialog = NameDialog(window, "New build", "", ["Stage pair"], lambda name: name == "Foyer")
    qtbot.addWidget(dialog)
    dialog.take()
    assert "Found no name" in dialog.said.text()
    dialog.field.setText("stage pair ")
    dialog.take()
    assert "already" in dialog.said.text()
    assert not dialog.result()
    dialog.field.setText("Foyer")
    dialog.take()
    assert dialog.result()


@pytest.mark.parametrize(("dark", "scale"), crossed((False, True), (0.8, 1.0, 1.5, 2.0), 4))
def test_the_window_keeps_its_size_at_every_text_size(window: PlinthWindow, scale: float, dark: bool) -> None:
    look.set(dark=dark, scale=scale)
    window.resize(1280, 800)
    for stage in STAGE_KEYS:
        window.show_stage(stage)
        QTest.qWait(20)
        # However slow the machine: what waits for its turn to be dressed is dressed before the picture.
        look.settle(window)
        picture = window.grab().toImage()
        assert (window.width(), window.height()) == (1280, 800)
        assert picture.pixelColor(2, 2) == look.token("paper")
    assert window.band.height() < 400


def test_text_steps_between_eighty_and_two_hundred_per_cent(window: PlinthWindow) -> None:
    window.step_text(1)
    assert look.scale == pytest.approx(1.1)
    window.step_text(-1)
    assert look.scale == pytest.approx(1.0)
    for ends, way in ((2.0, 1), (0.8, -1)):
        look.set(scale=ends - 0.1 * way)
        for _ in range(3):
            window.step_text(way)
        assert look.scale == ends
    window.toggle_dark()
    assert look.dark
    look.settle()
    assert "#14171A" in window.head.styleSheet()


def test_what_is_in_sight_is_dressed_first_and_no_page_is_shown_in_the_look_of_before(window: PlinthWindow) -> None:
    """All at once would stop the window."""
    for stage in STAGE_KEYS:
        window.show_stage(stage)
    pages = [window.page(stage) for stage in STAGE_KEYS]
    window.toggle_dark()
    window.step_text(1)
    # Each piece has a turn of its own: none is dressed yet, and one page no other.
    assert not any(piece.styleSheet() == look.style_sheet() for page in pages for piece in page.pieces())
    look.settle(pages[STAGE_KEYS.index("diary")])
    for stage, page in zip(STAGE_KEYS, pages, strict=True):
        assert all((piece.styleSheet() == look.style_sheet()) == (stage == "diary") for piece in page.pieces()), stage
    ink = {look.token(name).name() for name in DARK}
    for stage, page in zip(STAGE_KEYS, pages, strict=True):
        window.show_stage(stage)
        assert all(piece.styleSheet() == look.style_sheet() for piece in page.pieces())
        shown = [one for one in page.findChildren(QLabel) if one.isVisible() and one.text()]
        assert shown
        # Whatever stands on a page belongs to one of its pieces.
        assert all(one.palette().windowText().color().name() in ink for one in shown)
        assert {one.font().family() for one in [*shown, *page.findChildren(QAbstractButton)]} == {FAMILY}
    window.show_stage("plan")
    window.plan.show_shelf()
    assert window.plan.shelf.styleSheet() == look.style_sheet()
    window.toggle_dark()
    look.settle()
    for part in (window.head, window.band, window.stop_bar, window.plan.shelf):
        assert part.styleSheet() == look.style_sheet()


class Follower(QWidget):
    """Notes when it is called, and how often the event loop went round before."""

    def __init__(self, name: str, calls: list[str]) -> None:
        super().__init__()
        self.setObjectName(name)
        self.calls = calls
        look.follow(self.fit)

    def fit(self) -> None:
        self.calls.append(self.objectName())


def test_those_who_follow_have_turns_those_in_sight_first(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(followers, "LASTS_S", 0.0)
    calls: list[str] = []
    every = {name: Follower(name, calls) for name in ("hidden", "shown", "gone", "forgotten", "late")}
    for one in every.values():
        qtbot.addWidget(one)
    every["shown"].show()
    every["late"].show()
    ticks: list[int] = []
    clock = QTimer()
    clock.timeout.connect(lambda: ticks.append(len(calls)))
    clock.start(0)
    look.set(scale=1.1)
    assert calls == []
    shiboken6.delete(every.pop("gone"))
    del every["forgotten"]
    gc.collect()
    qtbot.waitUntil(lambda: "hidden" in calls)
    mine = [name for name in calls if name != "forgotten"]
    assert mine == ["shown", "late", "hidden"]
    clock.stop()
    # In between the event loop went round.
    assert {calls.index("shown") + 1, calls.index("late") + 1} <= set(ticks)
    # Changed again while some still wait, each is called once more and not twice.
    look.set(scale=1.0)
    look.set(scale=1.1)
    calls.clear()
    look.settle()
    assert [name for name in calls if name != "forgotten"] == ["shown", "late", "hidden"]
    calls.clear()
    QApplication.processEvents()
    assert calls == []


class Faulty(Follower):
    """One that falls."""

    def fit(self) -> None:
        super().fit()
        raise ValueError("made to fall")


def test_a_fault_in_one_of_them_keeps_no_other_from_its_turn(qtbot: QtBot) -> None:
    calls: list[str] = []
    both = [Faulty("falls", calls), Follower("stands", calls)]
    with qtbot.captureExceptions() as faults:
        for scale in (1.1, 1.0):
            calls.clear()
            look.set(scale=scale)
            qtbot.waitUntil(lambda: "stands" in calls, timeout=60_000)
            assert calls == ["falls", "stands"]
    assert [str(fault[1]) for fault in faults] == ["made to fall"] * 2
    # No other test shall meet it.
    for one in both:
        shiboken6.delete(one)


def test_a_dialog_has_the_look_in_force(window: PlinthWindow) -> None:
    window.toggle_dark()
    dialog = Finder(window, list(window.commands))
    assert dialog.styleSheet() == look.style_sheet()
    dialog.show()
    assert dialog.grab().toImage().pixelColor(4, 4) == look.token("paper")
    dialog.close()


def test_typed_text_is_never_taken_for_markup(window: PlinthWindow, session: BenchSession) -> None:
    session.plan.add_build("<b>bold</b>", copy=True)
    for one in window.findChildren(QLabel):
        assert one.textFormat() == Qt.TextFormat.PlainText


def resident_kib() -> int:
    return int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1]) * os.sysconf("SC_PAGE_SIZE") // 1024


@pytest.mark.parametrize("repaints", in_turn([150, 500, 2_000], 3))
def test_repaints_of_the_band_neither_grow_nor_die(window: PlinthWindow, repaints: int) -> None:
    band = window.band
    band.setMinimumWidth(0)
    band.resize(480, band.height())
    image = QImage(band.size(), QImage.Format.Format_RGB32)
    itself = QWidget.RenderFlag.DrawWindowBackground  # without its stations, which are painted below
    for _ in range(500):
        band.render(image, renderFlags=itself)
    gc.collect()
    # A binding that loses a reference to None in every paint event is seen by its count long before the process dies.
    nones = sys.getrefcount(None)
    before = middle = resident_kib()
    for turn in range(repaints):
        band.render(image, renderFlags=itself)
        if turn % 20 == 0:
            band.stations["rails"].render(image)
        if turn == repaints // 2:
            middle = resident_kib()
    after = resident_kib()
    assert after - before < 2_700, (before, after)
    assert after - middle < 1_100, (middle, after)
    assert abs(sys.getrefcount(None) - nones) < 0.35 * repaints


@pytest.fixture
def plot(qtbot: QtBot) -> Plot:
    plot = Plot("Rails", "t", "s")
    qtbot.addWidget(plot)
    plot.resize(500, 300)
    t = np.linspace(0, 1, 11)
    plot.set_series([Series("a", t, 2 * t, "plus", "V", "a", spread=0.1), Series("b", t, t**2, "ink", "V", discs=True)])
    plot.set_view((0.0, 1.0), (0.0, 2.0))
    plot.show()
    return plot


def test_plots_read_out_under_the_cursor(plot: Plot, qtbot: QtBot) -> None:
    text = plot.read_at(0.5)
    assert "t 500 ms" in text
    assert "a 1.00 V" in text
    assert "b 250 mV" in text
    plot.graph.setFocus()
    qtbot.keyClick(plot.graph, Qt.Key.Key_Right)
    assert plot.graph.cursor.value() == pytest.approx(0.5 + 1 / 60, abs=1e-6)
    qtbot.keyClick(plot.graph, Qt.Key.Key_Plus)
    (x0, x1), _ = plot.graph.viewRange()
    assert x1 - x0 < 0.9
    qtbot.keyClick(plot.graph, Qt.Key.Key_Home)
    assert plot.graph.viewRange()[0] == pytest.approx([0.0, 1.0])


def test_plots_are_exported_as_picture_and_numbers(plot: Plot, tmp_path: Path) -> None:
    plot.save_png(tmp_path / "p.png")
    assert QImage(str(tmp_path / "p.png")).width() > 300
    plot.save_svg(tmp_path / "p.svg")
    assert "<svg" in (tmp_path / "p.svg").read_text(encoding="utf-8")
    plot.save_csv(tmp_path / "p.csv")
    rows = (tmp_path / "p.csv").read_text(encoding="utf-8").splitlines()
    assert rows[0] == "t_s (a),a_V,t_s (b),b_V"
    assert rows[6].split(",")[1] == "1.0"
    assert len(rows) == 12
    plot.copy_picture()
    with pytest.raises(OSError, match="No such file"):
        plot.save_png(tmp_path / "none" / "p.png")


def test_the_finder_moves_by_arrows_and_passes_over_what_cannot_be_done(window: PlinthWindow, qtbot: QtBot) -> None:
    finder = Finder(window, window.commands)
    qtbot.addWidget(finder)
    qtbot.keyClicks(finder.field, "plan")
    texts = [finder.list.item(row).text() for row in range(finder.list.count())]
    undo = next(row for row, text in enumerate(texts) if text.startswith("Plan: undo"))
    assert "nothing to do" in texts[undo]
    assert not finder.list.item(undo).flags()
    first = finder.list.currentRow()
    qtbot.keyClick(finder.field, Qt.Key.Key_Down)
    assert finder.list.currentRow() == first + 1
    qtbot.keyClick(finder.field, Qt.Key.Key_Up)
    assert finder.list.currentRow() == first
    finder.list.setCurrentRow(undo)
    qtbot.keyClick(finder.field, Qt.Key.Key_Return)
    assert finder.chosen is None
    qtbot.keyClicks(finder.field, " no such thing")
    assert finder.list.count() == 0
    qtbot.keyClick(finder.field, Qt.Key.Key_Return)
    assert finder.chosen is None


def test_a_tip_shows_what_was_typed_and_runs_no_markup() -> None:
    typed = "<b>loud</b><img src='file:///etc/hostname'> 5 < 6"
    tip = plain_tip(typed)
    assert "<b>" not in tip
    assert "<img" not in tip
    document = QTextDocument()
    document.setHtml(tip)
    assert document.toPlainText() == typed
    assert plain_tip("rails at 34 V") == "rails at 34 V"
    assert "<img" not in button("photo", tip=typed).toolTip()
