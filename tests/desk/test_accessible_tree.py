"""What a screen reader finds: every control with role and name, tables with headers, drawings told in words."""

from collections.abc import Iterator

import numpy as np
import pytest
from PySide6.QtGui import QAccessible, QAccessibleInterface
from PySide6.QtWidgets import QApplication, QWidget

from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.desk.window import Ground, PlinthWindow
from plinth.drawing.series import Series
from plinth.report.series_words import MOST_NAMED, series_words
from tests.desk.driver import STAGE_KEYS
from tests.family import FAMILY
from tests.turns import in_turn

Role = QAccessible.Role
CONTROLS = {
    Role.Button, Role.CheckBox, Role.RadioButton, Role.ComboBox, Role.EditableText, Role.Slider, Role.SpinBox,
    Role.ButtonMenu, Role.PageTab, Role.MenuItem, Role.Table, Role.List, Role.Tree, Role.ColumnHeader,
}  # fmt: skip


def tree(top: QWidget) -> Iterator[QAccessibleInterface]:
    """All that is to be found below a widget and not hidden."""
    waiting = [QAccessible.queryAccessibleInterface(top)]
    while waiting:
        interface = waiting.pop()
        yield interface
        children = [interface.child(place) for place in range(interface.childCount())]
        seen = [child for child in children if child is not None and child.isValid() and not child.state().invisible]
        waiting.extend(reversed(seen))


def name_of(interface: QAccessibleInterface) -> str:
    return interface.text(QAccessible.Text.Name).strip()


def without_name(top: QWidget) -> list[str]:
    found = []
    for interface in tree(top):
        if interface.role() in CONTROLS and not name_of(interface):
            widget = interface.object()
            found.append(f"{interface.role()} {type(widget).__name__} {getattr(widget, 'toolTip', str)()}")
    return found


def paints(widget: QWidget) -> bool:
    return any("paintEvent" in kind.__dict__ for kind in type(widget).__mro__ if kind.__module__.startswith("plinth"))


def drawn_without_words(top: QWidget) -> list[str]:
    """What paints itself and says nothing."""
    found = []
    for widget in top.findChildren(QWidget):
        if not widget.isVisible() or isinstance(widget, Ground) or not (paints(widget) or isinstance(widget, Plot)):
            continue
        interface = QAccessible.queryAccessibleInterface(widget)
        if not (name_of(interface) or interface.text(QAccessible.Text.Description)):
            found.append(f"{type(widget).__module__}.{type(widget).__name__}")
    return found


def headers(top: QWidget) -> list[str]:
    return [name_of(interface) for interface in tree(top) if interface.role() == Role.ColumnHeader]


@pytest.mark.parametrize("name", [None, *in_turn(list(FAMILY), 12)])
def test_every_page_of_every_kind_of_build_can_be_found_out(
    window: PlinthWindow, session: BenchSession, name: str | None
) -> None:
    if name is not None:
        assert session.plan.add_new(FAMILY[name].model_copy(update={"note": "Made for this test."}))
    for stage in STAGE_KEYS:
        window.show_stage(stage)
        for place in range(10 if stage == "measure" else 1):
            if stage == "measure":
                window.measure.show_test(place)
            for plot in window.findChildren(Plot):
                plot.tell()
            QApplication.processEvents()
            assert without_name(window) == [], (stage, place)
            assert drawn_without_words(window) == [], (stage, place)
        if stage in ("measure", "decide", "diary"):
            assert len(headers(window)) >= 4
            assert all(headers(window))


def test_states_and_figures_of_the_path_are_told_with_it(window: PlinthWindow, session: BenchSession) -> None:
    stations = [each for each in tree(window.band) if each.role() == Role.RadioButton]
    assert [name_of(each) for each in stations][:3] == ["Wall", "Entry", "Transformer"]
    states = {each.text(QAccessible.Text.Description).partition(".")[0] for each in stations}
    assert states <= {"clear", "close", "over", "unknown"}
    assert len(states) > 1
    # Chosen is a state of its own, not only a colour.
    session.choose_station("module")
    QApplication.processEvents()
    chosen = [name_of(each) for each in stations if each.state().checked]
    assert chosen == ["Module"]


def curve(name: str, y: list[float], **more: object) -> Series:
    return Series(name, np.linspace(0.0, 0.02, len(y)), np.array(y), "plus", "V", **more)  # type: ignore[arg-type]


def test_a_plot_says_each_curve_with_its_range_and_its_ends() -> None:
    words = series_words([curve("+ rail", [31.0, 33.5, 32.0]), curve("fuse", [2.0, 2.0])], "t", "s")
    assert words == (
        "Over t from 0 s to 20.0 ms. + rail: 31.0 V to 33.5 V, begins at 31.0 V, ends at 32.0 V. "
        "fuse: 2.00 V throughout."
    )
    read = series_words([curve("read", [31.0, 30.0], discs=True)], "t", "s")
    assert read == "Over t from 0 s to 20.0 ms. read, 2 readings: 31.0 V at 0 s; 30.0 V at 20.0 ms."
    assert series_words([], "t", "s") == "Nothing is drawn yet."
    gaps = series_words([curve("gap", [float("nan"), 4.0, float("inf"), 3.0])], "t", "s")
    assert "gap: 3.00 V to 4.00 V, begins at 4.00 V, ends at 3.00 V." in gaps
    assert "none: no values." in series_words([curve("none", [float("nan")])], "t", "s")
    many = series_words([curve(f"c{k}", [1.0, 2.0]) for k in range(MOST_NAMED + 3)], "t", "s")
    assert many.endswith("And 3 more.")


def test_a_plot_tells_what_it_shows_once_nothing_moves(window: PlinthWindow, qtbot: object) -> None:
    plot = window.plan.rails_plot
    plot.set_series([curve("+ rail", [31.0, 33.5, 32.0])])
    plot.tell()
    assert plot.accessibleName() == plot.title.text()
    assert "+ rail: 31.0 V to 33.5 V" in plot.accessibleDescription()
