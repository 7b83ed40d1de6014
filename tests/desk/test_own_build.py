"""A build of one's own in the window: every make-up, names, what is still invented, the resistor that was read."""

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QFontMetrics
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu, QWidget
from pytestqt.qtbot import QtBot

from plinth.builds.build import Build
from plinth.builds.makeup import makeup_of, remade
from plinth.demo import shelf
from plinth.desk.plan.makeup_form import MakeupForm
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.predict.solve import solve
from plinth.record.reading import Override, Reading
from plinth.session.beginning import begin_workshop
from tests.desk.driver import STAGE_KEYS
from tests.family import DEMO, FAMILY


@pytest.mark.parametrize("name", [*FAMILY, *DEMO])
def test_every_build_can_be_made_from_every_other_kind(name: str) -> None:
    wanted = (FAMILY | DEMO)[name]
    for start in DEMO.values():
        made = remade(start, makeup_of(wanted))
        assert makeup_of(made) == makeup_of(wanted)
        assert made.supply.single_rail == wanted.supply.single_rail
        assert (made.mains is None) == (wanted.mains is None)
        # All that is not asked for stays.
        assert (made.sink, made.loads, made.protection) == (start.sink, start.loads, start.protection)


def form(window: PlinthWindow, qtbot: QtBot) -> MakeupForm:
    made = MakeupForm(window, window.session, window.session.plan.remake)
    qtbot.addWidget(made)
    return made


def choose(box: object, words: str) -> None:
    from PySide6.QtWidgets import QComboBox

    assert isinstance(box, QComboBox)
    box.setCurrentIndex(next(i for i in range(box.count()) if words in box.itemText(i)))


@pytest.mark.parametrize(
    ("module", "source", "wiring", "single"),
    [
        ("Parade 150", "Shunter 36", "one module", True),
        pytest.param("Greenroom 30", "Ring 225", "in bridge", False, marks=pytest.mark.slow),
        ("Lantern 100", "Carthorse 300", "one module", False),
        pytest.param("Candle 12", "Ring 250", "one module", False, marks=pytest.mark.slow),
        pytest.param("Stagehand 60", "Two bench supplies", "one module", False, marks=pytest.mark.slow),
    ],
)
def test_what_refused_one_change_at_a_time_is_made_at_once(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, module: str, source: str, wiring: str, single: bool
) -> None:
    dialog = form(window, qtbot)
    choose(dialog.module, module)
    choose(dialog.source, source)
    choose(dialog.wiring, wiring)
    dialog.channels.setText("mono")
    dialog.name.setText("Attic")
    dialog.take()
    assert dialog.result(), dialog.said.text()
    assert session.build.name == "Attic"
    assert session.build.channels == ("mono",)
    assert session.build.supply.single_rail == single
    assert session.stored.build.name == "Attic"
    assert session.build.mark("module") or session.build.module.name == "Stagehand 60"
    solve(session.build)
    for stage in STAGE_KEYS:
        window.show_stage(stage)
    session.plan.undo()
    assert session.build.name == "Stage pair"


def test_what_does_not_go_together_is_said_and_nothing_is_lost(window: PlinthWindow, qtbot: QtBot) -> None:
    dialog = form(window, qtbot)
    choose(dialog.module, "Parade 150")
    dialog.name.setText("Attic")
    dialog.take()
    assert not dialog.result()
    assert "full-bridge module on two rails" in dialog.said.text()
    assert dialog.name.text() == "Attic"
    dialog.channels.setText("a/b")
    dialog.take()
    assert "slash" in dialog.said.text()
    dialog.channels.setText("left, left")
    choose(dialog.module, "Stagehand 60")
    dialog.take()
    assert "each name once" in dialog.said.text()
    dialog.channels.setText("left")
    dialog.name.setText("Foyer")
    dialog.take()
    assert "already" in dialog.said.text()


def test_renaming_a_build_loses_no_reading(window: PlinthWindow, session: BenchSession) -> None:
    before = session.bring_up.brought_up("left"), len(session.records.diary_lines())
    made = makeup_of(session.build)
    assert session.plan.remake(type(made)(**{**vars(made), "name": "Attic"})) == ""
    assert (session.bring_up.brought_up("left"), len(session.records.diary_lines())) == (before[0], before[1] + 1)
    assert before[0]


def test_a_build_begun_with_plain_parts_says_so_until_every_part_is_one_s_own(qtbot: QtBot, tmp_path: Path) -> None:
    session = BenchSession(begin_workshop(tmp_path / "mine.plinth"), threaded=False)
    window = PlinthWindow(session)
    qtbot.addWidget(window)
    window.show()
    said = window.plan.parts.examples
    assert "Begun with plain parts" in said.text()
    assert said.isVisible()
    count, every = session.plan.examples
    assert count == every
    other = session.build.loads[1].r_ohm
    session.plan.restate("load", shelf.DUMMY_16.model_copy(update={"name": "My 8R2", "r_ohm": 8.2}))
    assert session.plan.examples == (count - 1, every)
    assert f"{count - 1} of {every}" in said.text()
    # His own resistance divides from now on, and the plain one is gone from the table of loads.
    assert [load.r_ohm for load in session.build.loads] == [8.2, other]
    window.close()


def test_the_demo_does_not_call_itself_an_example_to_be_exchanged(window: PlinthWindow) -> None:
    assert not window.plan.parts.examples.isVisible()


def test_the_resistor_that_was_read_is_put_into_the_plan(window: PlinthWindow, session: BenchSession) -> None:
    window.power_up.channels.choose("right")
    window.show_stage("power_up")
    for stand in session.bring_up.stands("right")[:4]:
        first = session.bring_up.stands("left")[0].record
        assert isinstance(first, Reading)
        session.records.keep(Override(stand.step.subject, "for this test", first.taken_at, dict(stand.step.conditions)))
    question = window.power_up.question
    window.power_up.to_due()
    assert question.step is not None
    assert question.step.key == "emitter_resistor"
    question.field.setText("0R22")
    assert question.plan_button.isVisible()
    assert "220 mΩ" in question.plan_button.text()
    question.plan_button.click()
    bias = session.build.module.bias
    assert bias is not None
    assert bias.r_fitted_ohm == pytest.approx(0.22)
    question.keep()
    assert session.bring_up.stands("right")[2].settled


def test_another_board_of_the_same_make_begins_its_bring_up_anew(window: PlinthWindow, session: BenchSession) -> None:
    assert session.bring_up.brought_up("left")
    session.choose_station("module")
    session.plan.fit_another("module")
    assert not session.bring_up.brought_up("left")
    window.show_stage("power_up")
    assert "does not count any more" in window.power_up.question.held.text()
    session.plan.undo()
    assert session.bring_up.brought_up("left"), "undone, the old board is in again"


def test_a_click_on_the_drawing_takes_its_station(window: PlinthWindow, session: BenchSession) -> None:
    session.choose_station("wall")
    x = round(window.band.width() * 5.5 / 8)
    QTest.mouseClick(window.band, Qt.MouseButton.LeftButton, pos=QPoint(x, 40))
    assert session.station == "module"


def test_builds_are_told_apart_from_what_they_were(session: BenchSession) -> None:
    build: Build = session.build
    assert session.plan.remake(makeup_of(build)) == ""
    assert session.build is build


def test_change_stands_above_the_sliders_and_asks_which_part(window: PlinthWindow, session: BenchSession) -> None:
    page = window.plan
    tools = page.tools

    def top(widget: QWidget) -> int:
        return widget.mapTo(page, QPoint(0, 0)).y()

    sliders = top(page.what_if)
    for push in (page.parts.shelf_button, tools.find_me, tools.variants, tools.curve, tools.map, tools.wiring,
                 tools.claims, tools.bill, tools.change, tools.makeup):  # fmt: skip
        assert top(push) < sliders, push.text()
        assert QFontMetrics(push.font()).horizontalAdvance(push.text()) <= push.width(), push.text()
    session.choose_station("rails")
    tools.change.click()
    menu = QApplication.activePopupWidget()
    assert isinstance(menu, QMenu)
    texts = [action.text() for action in menu.actions()]
    assert len(texts) == len(page.parts.change_buttons)
    assert f"Change {session.build.hookup.name} …" in texts
    assert texts[-1] == "What the input stages draw …"
    assert len(menu.actions()) > 1
    menu.close()
