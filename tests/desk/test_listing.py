"""A listing pasted in the running window: what was found is taken, left or corrected, and put on the shelf."""

from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, Qt, QUrl
from PySide6.QtWidgets import QApplication, QComboBox
from pytestqt.qtbot import QtBot

from plinth.builds.modules import ClassABModule
from plinth.builds.properties import How, how_known
from plinth.builds.supply_parts import Transformer
from plinth.desk.session import BenchSession
from plinth.desk.shelf.listing_dialog import ListingDialog
from plinth.desk.window import PlinthWindow

LISTING = "Toroid 200VA\nPrimary 230 V\nSecondary 2*25V, output 3,5 A each\nRegulation 8,5 %"


@pytest.fixture
def dialog(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> ListingDialog:
    made = ListingDialog(window, session)
    qtbot.addWidget(made)
    made.show()
    return made


def row_of(dialog: ListingDialog, words: str) -> int:
    for row in range(dialog.rows.rowCount()):
        item = dialog.rows.item(row, 2)
        if item is not None and words in item.text():
            return row
    raise AssertionError(f"no row came from {words}")


def shelved(session: BenchSession, name: str) -> Transformer:
    part = next(item.part for item in session.shelf.items([Transformer]) if item.part.name == name)
    assert isinstance(part, Transformer)
    return part


def test_what_is_pasted_stands_with_its_words_and_goes_to_the_shelf(
    dialog: ListingDialog, session: BenchSession
) -> None:
    dialog.text.insertPlainText(LISTING)
    assert dialog.kind.currentText() == "transformer"
    assert dialog.name.text() == "Toroid 200VA"
    assert "3.5 A at 2 × 25 V is 175 VA" in dialog.contradictions.text()
    assert dialog.contradictions.isVisible()
    left = dialog.rows.item(row_of(dialog, "Primary 230 V"), 0)
    assert left is not None
    left.setCheckState(Qt.CheckState.Unchecked)
    corrected = dialog.rows.item(row_of(dialog, "200VA"), 1)
    assert corrected is not None
    corrected.setText("175")
    dialog.take()
    assert dialog.result() == ListingDialog.DialogCode.Accepted
    part = shelved(session, "Toroid 200VA")
    assert (part.va, part.v_secondary_rms) == (175.0, 25.0)
    told = {one.field: one for one in part.told}
    assert told["va"].source == "listing: 200VA, corrected to 175"
    assert how_known(part, "v_primary_rms") is How.ASSUMED


def test_a_line_is_taken_or_left_with_one_key(dialog: ListingDialog, qtbot: QtBot) -> None:
    dialog.text.insertPlainText(LISTING)
    row = row_of(dialog, "200VA")
    dialog.rows.setFocus()
    dialog.rows.setCurrentCell(row, 0)
    assert "va" in {one.path for one in dialog.accepted_lines()}
    qtbot.keyClick(dialog.rows, Qt.Key.Key_Space)
    assert "va" not in {one.path for one in dialog.accepted_lines()}


def test_what_cannot_be_used_is_said_and_stays(dialog: ListingDialog, session: BenchSession) -> None:
    dialog.take()
    assert "nothing pasted" in dialog.said.text()
    dialog.text.insertPlainText("a good book about gardens")
    assert "Nothing found" in dialog.said.text()
    dialog.text.setPlainText(LISTING)
    dialog.name.setText(" ")
    dialog.take()
    assert "no name" in dialog.said.text()
    dialog.name.setText("Mine")
    cell = dialog.rows.item(row_of(dialog, "2*25V"), 1)
    volts = dialog.rows.item(row_of(dialog, "Regulation"), 1)
    assert cell is not None
    assert volts is not None
    for wrong in ("much", "-3", ""):
        volts.setText(wrong)
        dialog.take()
        assert dialog.said.text()
        assert volts.text() == wrong
    assert dialog.text.toPlainText() == LISTING
    assert "Mine" not in {item.part.name for item in session.shelf.items([Transformer])}


def test_a_file_is_dropped_or_refused(dialog: ListingDialog, tmp_path: Path) -> None:
    page, other = tmp_path / "page.txt", tmp_path / "page.pdf"
    page.write_text(LISTING, encoding="utf-8")
    other.write_bytes(b"%PDF-1.4 \x00")
    for path in (page, other, tmp_path / "gone.txt"):
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(path))])
        dialog.text.insertFromMimeData(mime)
        assert dialog.text.toPlainText() == LISTING
        if path is not page:
            assert path.name in dialog.said.text()


def test_a_line_of_a_megabyte_is_bounded_before_the_editor_sees_it(dialog: ListingDialog) -> None:
    pasted = QMimeData()
    pasted.setText(f"Toroid 200VA, secondary 2*25V, {'x1 ' * 350_000}")
    dialog.text.insertFromMimeData(pasted)
    text = dialog.text.toPlainText()
    assert len(text) < 21_000
    assert max(len(line) for line in text.splitlines()) <= 1_000
    assert "expected a listing" in dialog.said.text()
    assert row_of(dialog, "2*25V") >= 0
    dialog.text.clear()
    short = QMimeData()
    short.setText(LISTING)
    dialog.text.insertFromMimeData(short)
    assert dialog.text.toPlainText() == LISTING
    assert "expected a listing" not in dialog.said.text()


def test_no_field_takes_more_than_a_page(window: PlinthWindow, qtbot: QtBot) -> None:
    window.show_stage("power_up")
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    for field in (window.power_up.equipment, window.power_up.question.field):
        # Whatever is typed or pasted needs the focus first.
        application.focusChanged.emit(None, field)
        field.clear()
        field.insert("9" * 1_000_000)
        assert len(field.text()) == 4_000
        field.clear()


def test_what_may_be_meant_in_two_ways_is_chosen_before_it_is_taken(
    dialog: ListingDialog, session: BenchSession
) -> None:
    dialog.text.insertPlainText("Quiet board, class AB. 130 W into 4 ohm on 70 V supply. Gain 24, gain 27 times.")
    assert dialog.kind.currentText() == "class AB module or chip"
    power, gain = (dialog.rows.cellWidget(row_of(dialog, words), 1) for words in ("130 W", "Gain 24"))
    assert isinstance(power, QComboBox)
    assert isinstance(gain, QComboBox)
    assert [power.itemText(place) for place in range(3)] == [
        "which is meant?", "130 W 4 Ω on 35 V each", "130 W 4 Ω on 70 V each",
    ]  # fmt: skip
    dialog.take()
    assert "may mean several; choose one" in dialog.said.text()
    assert dialog.isVisible()
    power.setCurrentIndex(1)
    gain.setCurrentIndex(2)
    dialog.take()
    part = next(item.part for item in session.shelf.items([ClassABModule]) if item.part.name.startswith("Quiet board"))
    assert isinstance(part, ClassABModule)
    assert part.gain == 27.0
    assert [(one.power_w, one.r_load_ohm, one.v_rail_v) for one in part.claims] == [(130.0, 4.0, 35.0)]


def test_the_very_same_is_asked_about_once(dialog: ListingDialog, session: BenchSession) -> None:
    dialog.text.insertPlainText(LISTING)
    dialog.name.setText("First of two")
    dialog.take()
    assert dialog.part is not None
    count = len(session.shelf.items([Transformer]))
    again = ListingDialog(dialog.parentWidget(), session)  # type: ignore[arg-type]
    again.text.insertPlainText(LISTING)
    again.name.setText("Second of two")
    again.take()
    assert "on the shelf already" in again.said.text()
    assert len(session.shelf.items([Transformer])) == count
    again.take()
    assert len(session.shelf.items([Transformer])) == count + 1
