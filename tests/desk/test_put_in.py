"""What is put into a build as a whole and taken out again, by what the station offers, and what follows of it."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog
from pytestqt.qtbot import QtBot

from plinth.builds.stations import is_there
from plinth.desk.plan import station_parts
from plinth.desk.plan.small_parts_dialog import SmallPartsDialog
from plinth.desk.session import BenchSession
from plinth.desk.value_dialog import ValueDialog
from plinth.desk.window import PlinthWindow
from tests.desk.driver import press, sees, type_in
from tests.sample_builds import linear


def margins(session: BenchSession) -> dict[str, str]:
    return {margin.key: str(margin.state) for margin in session.predictions.margins}


def test_a_second_stage_and_an_input_supply_go_in_and_out(window: PlinthWindow, session: BenchSession) -> None:
    parts, before = window.plan.parts, session.build
    session.choose_station("reservoir")
    press(parts.put_buttons["supply.smoothing"])
    stage = linear(session.build).smoothing
    assert stage is not None
    assert "supply.smoothing" in parts.change_buttons
    assert "supply.smoothing" not in parts.put_buttons
    assert session.predictions.prediction is not None
    assert "smoothing_plus_rms_a" in session.predictions.prediction.figures
    press(parts.out_buttons["supply.smoothing"])
    assert linear(session.build).smoothing is None
    said = [line.words for line in session.records.diary_lines()]
    assert any("second filter stage, with assumed values" in words for words in said)
    assert any(words.startswith(f"Taken out: {stage.name}") for words in said)
    session.plan.undo()
    assert linear(session.build).smoothing == stage
    session.plan.undo()
    assert session.build == before
    session.choose_station("rails")
    press(parts.out_buttons["supply.input_supply.transformer"])
    assert linear(session.build).input_supply is None
    assert "regulator_dropout" not in margins(session)
    press(parts.put_buttons["supply.input_supply"])
    assert linear(session.build).input_supply is not None
    assert margins(session)["regulator_dropout"] != "over"
    QApplication.processEvents()
    assert "Input stages draw 20.0 mA from each rail (assumed)" in sees(parts)
    assert session.plan.take_input_stages("20 mA") == ""
    QApplication.processEvents()
    assert "Input stages draw 20.0 mA from each rail" in sees(parts)


def test_what_the_input_stages_draw_is_typed_with_its_unit(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked: list[QDialog] = []

    def ask(dialog: QDialog) -> bool:
        qtbot.addWidget(dialog)
        asked.append(dialog)
        return False

    monkeypatch.setattr(station_parts, "ask", ask)
    session.choose_station("rails")
    press(window.plan.parts.change_buttons["supply.input_supply.i_load_a"])
    (dialog,) = asked
    assert isinstance(dialog, ValueDialog)
    for wrong, words in (("plenty", "found 'plenty'"), ("20 V", "expected"), ("90 A", "Not kept")):
        type_in(dialog.field, wrong)
        assert words.lower() in dialog.said.text().lower(), wrong
        assert dialog.field.text() == wrong
    type_in(dialog.field, "31 mA")
    assert dialog.result() == QDialog.DialogCode.Accepted
    supply = linear(session.build).input_supply
    assert supply is not None
    assert supply.i_load_a == 0.031
    QApplication.processEvents()
    assert "Input stages draw 31.0 mA from each rail" in sees(window.plan.parts)


def test_a_relay_supply_and_a_trigger_come_along_the_shelf_with_limits_checks_and_steps(
    window: PlinthWindow, session: BenchSession
) -> None:
    for station, slot, name in (
        ("protection", "relay_supply", "Wicket 12"), ("entry", "trigger", "Gatehouse 12, no sheet"),
    ):  # fmt: skip
        session.choose_station(station)
        press(window.plan.parts.put_buttons[slot])
        view = window.plan.shelf
        assert view.isVisible()
        number = next(k for k, item in enumerate(view.look.rows) if item.part.name == name)
        session.plan.swap(slot, view.look.rows[number].part)
        assert is_there(session.build, slot)
    found = margins(session)
    # The rails of this build stand above what a regulator of 35 V bears.
    assert found["relay_supply_input"] == "over"
    assert found["trigger_current"] == found["trigger_contact"] == "unknown"
    keys = [found.check.key for found in session.bring_up.inspection()]
    assert {"trigger_apart", "trigger_diode"} <= set(keys)
    session.bring_up.choose_school("variable_transformer")
    window.show_stage("power_up")
    channel = session.build.channels[0]
    assert "the relays' own supply" in [stand.step.asks.title for stand in session.bring_up.stands(channel)]
    session.choose_station("entry")
    window.show_stage("plan")
    press(window.plan.parts.out_buttons["trigger"])
    assert not is_there(session.build, "trigger")
    assert "trigger_current" not in margins(session)


def test_what_is_only_tried_is_not_kept_by_what_is_put_in(window: PlinthWindow, session: BenchSession) -> None:
    before = linear(session.build)
    session.choose_station("transformer")
    window.plan.show_shelf()
    view = window.plan.shelf
    view.look_at_row(next(k for k, item in enumerate(view.rows.items) if item.part.name == "Ring 330"))
    view.try_current()
    assert linear(session.build).transformer.name == "Ring 330"
    session.plan.put_in("supply.smoothing", "second filter stage")
    assert linear(session.build).transformer == before.transformer
    assert linear(session.build).smoothing is not None
    view.try_current()
    assert session.plan.take_small_part(None, "2 x Op-amp instead of the plain one") == ""
    assert linear(session.build).transformer == before.transformer
    assert session.build.mark("supply.transformer") == ""


def cell(dialog: SmallPartsDialog, row: int, column: int) -> str:
    item = dialog.rows.item(row, column)
    return "" if item is None else item.text().strip()


def test_small_parts_are_typed_changed_left_and_taken_off(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    dialog = SmallPartsDialog(window, session)
    qtbot.addWidget(dialog)
    dialog.show()
    mark = session.build.mark("module")
    type_in(dialog.line, "2 x Resistor 4k7 per channel; 0.35")
    type_in(dialog.line, "1 x Quiet op-amp per module instead of the plain one; 3.20")
    assert [part.name for part in session.build.small_parts] == ["Resistor 4k7", "Quiet op-amp"]
    # Another op-amp makes another module of it.
    exchanged = session.build.mark("module")
    assert exchanged != mark
    type_in(dialog.line, "1 x quiet OP-AMP")
    assert "twice" in dialog.said.text()
    assert dialog.line.text() == "1 x quiet OP-AMP"
    dialog.rows.selectRow(0)
    assert dialog.line.text() == "2 x Resistor 4k7 per channel; 0.35"
    type_in(dialog.line, "3 x Resistor 4k7 per channel; 0.35")
    assert session.build.small_parts[0].count == 3
    assert session.build.mark("module") == exchanged
    assert cell(dialog, 0, 3) == "6"
    assert cell(dialog, 0, 5) == "2.10"
    dialog.rows.selectRow(1)
    press(dialog.option)
    assert not session.build.small_parts[1].fitted
    assert cell(dialog, 1, 6) == "option, not taken"
    assert session.build.mark("module") not in (mark, exchanged)
    dialog.rows.selectRow(0)
    dialog.rows.setFocus()
    QTest.keyClick(dialog, Qt.Key.Key_Delete)
    assert [part.name for part in session.build.small_parts] == ["Quiet op-amp"]
    session.plan.undo()
    assert len(session.build.small_parts) == 2
    assert any("Small parts: Resistor 4k7 off the list." in line.words for line in session.records.diary_lines())
    session.choose_station("module")
    QApplication.processEvents()
    assert "3 × Resistor 4k7 for each channel" in sees(window.plan.parts)
    assert session.workshop.builds()[0].build.small_parts == session.build.small_parts
