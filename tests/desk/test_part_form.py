"""What is stated of a part, typed in the window."""

import pytest
from PySide6.QtWidgets import QLineEdit
from pytestqt.qtbot import QtBot

from plinth.builds.field_entry import field_text, field_value
from plinth.builds.fields import part_fields, with_values
from plinth.builds.parts import Part
from plinth.builds.properties import value_at
from plinth.builds.supply_parts import Reservoir
from plinth.demo import shelf
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.desk.part_form import PartForm
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.judge.state import State
from tests.sample_builds import linear
from tests.turns import in_turn

PARTS: tuple[Part, ...] = (
    *shelf.SHELF, *([STAGE_PAIR.mains] if STAGE_PAIR.mains else []),
    STAGE_PAIR.entry, linear(STAGE_PAIR).rectifier, linear(REHEARSAL_ROOM).rectifier,
    STAGE_PAIR.sink, STAGE_PAIR.protection, REHEARSAL_ROOM.protection,
)  # fmt: skip


@pytest.mark.parametrize("part", PARTS, ids=lambda p: p.name)
def test_every_field_is_named_and_reads_back_what_it_shows(part: Part) -> None:
    for field in part_fields(part):
        value = value_at(part, field.path)
        again = field_value(field, field_text(field, value))
        if isinstance(value, float | int):
            assert again == pytest.approx(value, rel=1e-5)
        else:
            assert str(again) == str(value)


def test_values_go_where_they_belong() -> None:
    changed = with_values(shelf.STAGEHAND_60, {"bias.r_fitted_ohm": 0.22, "gain": 20.0})
    assert value_at(changed, "bias.r_fitted_ohm") == 0.22
    assert value_at(changed, "gain") == 20.0
    assert changed.name == shelf.STAGEHAND_60.name


def form(window: PlinthWindow, qtbot: QtBot, part: Part) -> PartForm:
    made = PartForm(window, part)
    qtbot.addWidget(made)
    return made


def put(dialog: PartForm, path: str, text: str) -> None:
    field = dialog.fields[path]
    assert isinstance(field, QLineEdit)
    field.setText(text)


def test_a_missing_rating_is_typed_and_the_margin_becomes_known(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    dialog = form(window, qtbot, linear(STAGE_PAIR).reservoir)
    put(dialog, "i_ripple_rated_a", "7,4")
    put(dialog, "c_f", "12000u")
    dialog.take()
    assert dialog.result()
    session.plan.restate("supply.reservoir", dialog.part)
    assert linear(session.build).reservoir.i_ripple_rated_a == pytest.approx(7.4)
    assert linear(session.build).reservoir.c_f == pytest.approx(0.012)
    assert {m.key: m.state for m in session.predictions.margins}["reservoir_ripple"] is not State.UNKNOWN
    assert (
        session.records.diary_lines()[-1].words
        == "Can 10m/50: capacitance per rail, rated ripple current, rms changed."
    )
    session.choose_station("reservoir")
    # The can with its new rating is fitted, and not yet on the shelf.
    assert linear(session.build).reservoir not in session.shelf.parts(Reservoir)
    session.shelf.put_on_shelf(linear(session.build).reservoir)
    assert linear(session.build).reservoir in session.workshop.shelf(type(linear(session.build).reservoir))
    session.plan.undo()
    assert session.build == STAGE_PAIR


@pytest.mark.parametrize(
    ("path", "text", "says"),
    [
        ("c_f", "-5", "expected 0 F"),
        ("c_f", "", "found nothing"),
        ("c_f", "12 V", "in V"),
        ("v_rated", "high", "expected a number"),
        ("c_tol", "400 %", "at most 0.9"),
    ],
)
def test_nonsense_is_named_with_its_field_and_nothing_is_lost(
    window: PlinthWindow, qtbot: QtBot, path: str, text: str, says: str
) -> None:
    dialog = form(window, qtbot, linear(STAGE_PAIR).reservoir)
    put(dialog, "name", "My can")
    put(dialog, path, text)
    dialog.take()
    assert not dialog.result()
    assert says in dialog.said.text()
    field = dialog.fields["name"]
    assert isinstance(field, QLineEdit)
    assert field.text() == "My can"


def test_a_secondary_is_typed_as_it_is_spoken(window: PlinthWindow, qtbot: QtBot) -> None:
    dialog = form(window, qtbot, linear(STAGE_PAIR).transformer)
    put(dialog, "v_secondary_rms", "30-0-30")
    dialog.take()
    assert value_at(dialog.part, "v_secondary_rms") == 30.0


def test_parts_that_do_not_go_together_are_refused_with_the_reason(window: PlinthWindow, session: BenchSession) -> None:
    session.switch(2)
    session.plan.restate("supply.rectifier", with_values(linear(session.build).rectifier, {"bridges": "two"}))
    assert session.build == REHEARSAL_ROOM
    assert "two bridges on a centre tap" in window.trouble.text()


def test_every_station_with_a_part_offers_to_change_it(window: PlinthWindow, session: BenchSession) -> None:
    for key, slots in (("wall", 1), ("reservoir", 2), ("rails", 6), ("module", 2), ("protection", 1), ("load", 1)):
        session.choose_station(key)
        assert len(window.plan.parts.change_buttons) == slots


@pytest.mark.parametrize("part", in_turn(PARTS, 5, name=lambda part: part.name))
def test_what_is_needed_says_so_and_all_else_may_stay_empty(window: PlinthWindow, qtbot: QtBot, part: Part) -> None:
    dialog = form(window, qtbot, part)
    for field in part_fields(part):
        editor = dialog.fields.get(field.path)
        if isinstance(editor, QLineEdit):
            assert editor.placeholderText() == ("not stated" if field.optional else "needed")
            if field.optional:
                editor.clear()
    dialog.take()
    if dialog.said.text():
        # Some go together: then it is said which one is missing.
        assert "expected" in dialog.said.text()
    else:
        assert all(
            value_at(dialog.part, field.path) is None
            for field in part_fields(dialog.part)
            if field.optional and isinstance(dialog.fields.get(field.path), QLineEdit)
        )


def test_a_bias_is_taken_off_a_board_that_has_none_to_set(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    board = shelf.STAGEHAND_60
    assert board.bias is not None
    dialog = form(window, qtbot, board)
    put(dialog, "bias.listed_mv", "")
    dialog.take()
    assert "found nothing" in dialog.said.text().lower() or "expected" in dialog.said.text()
    assert dialog.part.bias is not None  # type: ignore[union-attr]
    for path in ("bias.r_listed_ohm", "bias.r_fitted_ohm"):
        put(dialog, path, "")
    # What it draws at rest is then what is to be said of it.
    dialog.take()
    assert "quiescent current" in dialog.said.text()
    put(dialog, "i_quiescent_stated_a", "45 mA")
    dialog.take()
    part = dialog.part
    assert value_at(part, "bias") is None
    assert not [fact for fact in part.told if fact.field.startswith("bias.")]
    # The build runs with it, and its first power no longer asks for a bias to be set.
    session.plan.restate("module", part)
    assert session.predictions.prediction is not None
    keys = {stand.step.key for stand in session.bring_up.stands("left")}
    assert "bias" not in keys
    session.plan.undo()
    assert session.build.module.bias is not None
