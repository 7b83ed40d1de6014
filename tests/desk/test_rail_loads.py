"""Loads of one's own on the rails, typed in the window: lines of the rails' test, kept with the build, undone."""

import pytest
from pytestqt.qtbot import QtBot

from plinth.desk.measure.sheet_test import SheetTest
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from tests.desk.driver import press, type_in


@pytest.fixture
def rails(window: PlinthWindow) -> SheetTest:
    window.show_stage("measure")
    window.measure.show_named("Rails")
    page = window.measure.test
    assert isinstance(page, SheetTest)
    return page


def groups(page: SheetTest) -> list[str]:
    return list(dict.fromkeys(request.group for request in page.asked if request.group.startswith("Supply alone")))


def test_loads_are_added_by_typing_and_their_readings_stay(
    rails: SheetTest, session: BenchSession, window: PlinthWindow
) -> None:
    row = rails.rail_loads
    assert row is not None
    assert groups(rails) == []
    type_in(row.field, "150 ohm; 300 mA")
    press(row.keep_button)
    assert groups(rails) == ["Supply alone, 150 Ω", "Supply alone, 300 mA"]
    assert row.field.text() == "150 ohm; 0.3 A"
    place = next(k for k, request in enumerate(rails.asked) if request.key == "alone_150r_plus")
    rails.choose(place)
    assert "Boards unplugged" in rails.how.text()
    assert "discharge" in rails.caution.text()
    window_of_it = rails.asked[place].window
    assert window_of_it is not None
    assert window_of_it.low is not None
    assert window_of_it.high is not None
    type_in(rails.field, f"{0.5 * (window_of_it.low + window_of_it.high):.4g}")
    rails.keep()
    assert rails.procedure.last(rails.asked[place]) is not None
    type_in(row.field, "150 ohm, 2 pears")
    press(row.keep_button)
    assert "pears" in row.said.text()
    assert row.field.text() == "150 ohm, 2 pears"
    assert groups(rails) == ["Supply alone, 150 Ω", "Supply alone, 300 mA"]
    # What was read at a load that is taken away counts again once it is back.
    type_in(row.field, "300 mA")
    press(row.keep_button)
    assert groups(rails) == ["Supply alone, 300 mA"]
    assert not row.said.isVisibleTo(rails)
    session.plan.undo()
    assert groups(rails) == ["Supply alone, 150 Ω", "Supply alone, 300 mA"]
    assert row.field.text() == "150 ohm; 0.3 A"
    assert "alone_150r_plus" in rails.readings
    session.plan.undo()
    assert groups(rails) == []
    assert row.field.text() == ""


def test_each_build_has_its_own_and_keeps_them(rails: SheetTest, session: BenchSession, qtbot: QtBot) -> None:
    row, first = rails.rail_loads, session.current
    assert row is not None
    session.plan.take_rail_loads("1 kohm")
    other = next(build.id for build in session.builds if build.id != first)
    session.plan.switch(other)
    assert row.field.text() == ""
    session.plan.switch(first)
    assert row.field.text() == "1000 ohm"
    type_in(row.field, "1 kohm, 2")
    session.plan.switch(other)
    assert row.field.text() == ""
    session.plan.switch(first)
    assert row.field.text() == "1 kohm, 2", "typed and not entered, it waits with its build"
    kept = next(build for build in session.workshop.builds() if build.id == first)
    assert [load.words for load in kept.build.rail_loads] == ["1 kΩ"]


def test_the_list_takes_no_focus_while_readings_are_held(rails: SheetTest) -> None:
    row = rails.rail_loads
    assert row is not None
    rails.block("first power is not done")
    rails.field.setFocus()
    assert not row.field.hasFocus()
    assert row.field.focusPolicy().name == "ClickFocus"
    rails.block("")
    assert row.field.focusPolicy().name == "StrongFocus"
