"""Fixes, claims, find me, variants, bill and stock in the running window, with the keyboard and with wrong input."""

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from plinth.builds.stations import part_in
from plinth.builds.stock import Stock
from plinth.builds.supply_parts import Transformer
from plinth.desk.find_dialog import FindDialog
from plinth.desk.first_start.first_start import FirstStart
from plinth.desk.pdf import pdf_of
from plinth.desk.plan.bill_dialog import BillDialog
from plinth.desk.plan.claims_dialog import ClaimsDialog
from plinth.desk.plan.curve_dialog import CurveDialog
from plinth.desk.plan.fix_dialog import FixDialog
from plinth.desk.plan.map_dialog import MapDialog
from plinth.desk.plan.variants_dialog import VariantsDialog
from plinth.desk.plot import svg_bytes
from plinth.desk.session import BenchSession
from plinth.desk.shelf.measured_dialog import MeasuredDialog
from plinth.desk.shelf.papers_dialog import PapersDialog
from plinth.desk.shelf.stock_form import StockForm
from plinth.desk.window import PlinthWindow
from plinth.judge.state import State
from plinth.report.file_out import write_whole
from plinth.shelf.item import ShelfItem
from plinth.shelf.papers import MOST_BYTES
from plinth.shelf.query import read_query


def test_a_limit_is_repaired_with_two_keys(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    margin = next(one for one in session.predictions.margins if one.key == "sink_heat")
    assert margin.state is State.OVER
    asked: list[object] = []
    window.plan.ledger.fix_asked.disconnect()
    window.plan.ledger.fix_asked.connect(asked.append)
    row = next(one for one in window.plan.ledger.rows if one.margin.key == "sink_heat")
    assert not row.fix_button.isHidden()
    qtbot.keyClick(row.ruler, Qt.Key.Key_M)
    assert asked == [margin]
    before = session.build
    dialog = FixDialog(window, session, margin)
    qtbot.addWidget(dialog)
    dialog.show()
    assert dialog.found
    assert dialog.rows.rowCount() == len(dialog.found)
    # The first is tried at once; Esc leaves all as it was.
    assert session.plan.trying == dialog.found[0].part.name
    qtbot.keyClick(dialog, Qt.Key.Key_Escape)
    assert session.plan.trying == ""
    assert session.build == before
    dialog = FixDialog(window, session, margin)
    qtbot.addWidget(dialog)
    dialog.show()
    qtbot.keyClick(dialog.rows, Qt.Key.Key_Down)
    chosen = dialog.found[dialog.rows.currentRow()]
    qtbot.keyClick(dialog, Qt.Key.Key_Return)
    assert part_in(session.build, chosen.slot) == chosen.part
    now = next(one for one in session.predictions.margins if one.key == "sink_heat")
    assert now.state is not State.OVER
    session.plan.undo()
    assert session.build == before


def test_a_clear_margin_offers_no_fix(window: PlinthWindow, session: BenchSession) -> None:
    for row in window.plan.ledger.rows:
        assert row.fix_button.isHidden() == (not row.margin.fix)


def test_claims_are_judged_with_their_arithmetic(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    dialog = ClaimsDialog(window, session)
    qtbot.addWidget(dialog)
    assert dialog.rows.rowCount() == len(dialog.found) > 3
    refused = dialog.found[dialog.rows.currentRow()]
    assert refused.consistent.state is State.OVER
    assert "more volts into the heavier load" in dialog.sentences[1].text()
    dialog.rows.setCurrentCell(0, 0)
    assert dialog.found[0].possible.sentence in dialog.sentences[0].text()
    dialog.reject()


def test_a_requirement_is_met_tried_and_taken(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    before = session.build
    dialog = FindDialog(window, session, ("supply.transformer", "sink"))
    qtbot.addWidget(dialog)
    dialog.show()
    qtbot.keyClicks(dialog.requirement, "60 W 4R, sink < 75")
    assert "60 W into 4 Ω" in dialog.understood.text()
    qtbot.keyClick(dialog, Qt.Key.Key_Return)
    assert dialog.outcome.met
    assert "combinations" in dialog.why.text()
    assert dialog.focusWidget() is dialog.rows
    lines = session.records.diary_size[0]
    qtbot.keyClick(dialog, Qt.Key.Key_Return)
    assert dialog.result() == FindDialog.DialogCode.Accepted
    assert session.build != before
    assert session.build.load == before.load
    assert session.records.diary_size[0] == lines + 1
    assert "Found for: 60 W into 4 Ω" in session.records.diary_lines()[-1].words
    session.plan.undo()
    assert session.build == before


@pytest.mark.parametrize("requirement", ["60 W", "make it loud", "sink < 10"])
def test_a_requirement_that_cannot_be_stays_and_is_explained(
    requirement: str, window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    before = session.build
    dialog = FindDialog(window, session, ("sink",), requirement)
    qtbot.addWidget(dialog)
    dialog.search()
    assert "expected" in dialog.said.text()
    assert dialog.requirement.text() == requirement
    assert session.build == before
    dialog.requirement.setText("5 W 8R")
    for one in dialog.places:
        one.setCurrentIndex(0)
    dialog.search()
    assert "stations to choose for" in dialog.said.text()


def test_what_a_part_can_do(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    part = next(item.part for item in session.shelf.items([Transformer]) if item.part.name == "Ring 330")
    dialog = FindDialog(window, session, ("module", "sink"), fixed={"supply.transformer": part})
    qtbot.addWidget(dialog)
    assert "Ring 330" in dialog.windowTitle()
    dialog.search()
    shown = [*dialog.outcome.met, *dialog.outcome.lost]
    assert shown
    assert all(part_in(one.build, "supply.transformer") == part for one in shown)
    dialog.reject()
    assert session.plan.trying == ""
    single = next(item.part for item in session.shelf.items([Transformer]) if item.part.name == "Lone 150/24")
    dialog = FindDialog(window, session, ("sink",), fixed={"supply.transformer": single})
    qtbot.addWidget(dialog)
    dialog.search()
    assert "one winding, two wanted" in dialog.said.text()


def test_variants_beside_each_other(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    dialog = VariantsDialog(window, session)
    qtbot.addWidget(dialog)
    qtbot.keyClick(dialog.name, Qt.Key.Key_Return)
    assert "no name" in dialog.said.text()
    qtbot.keyClicks(dialog.name, "Second thought")
    qtbot.keyClick(dialog.name, Qt.Key.Key_Return)
    assert "Second thought" in dialog.found.names
    dialog.reject()
    part = next(item.part for item in session.shelf.items([Transformer]) if item.part.name == "Ring 330")
    session.plan.swap("supply.transformer", part)
    dialog = VariantsDialog(window, session)
    qtbot.addWidget(dialog)
    assert any(row.words == "transformer" for row in dialog.found.differences)
    count = dialog.rows.rowCount()
    dialog.only.setChecked(False)
    assert dialog.rows.rowCount() > count
    dialog.which.setCurrentText("Second thought")
    dialog.adopt()
    assert "no reason" in dialog.said.text()
    dialog.reason.setText("it was good")
    qtbot.keyClick(dialog.reason, Qt.Key.Key_Return)
    assert part_in(session.build, "supply.transformer").name == "Ring 225"


def test_the_bill_with_a_part_left_out_on_paper(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, tmp_path: Path
) -> None:
    dialog = BillDialog(window, session)
    qtbot.addWidget(dialog)
    dialog.show()
    whole = dialog.sum.text()
    row = next(k for k, line in enumerate(dialog.lines) if line.cost)
    dialog.rows.setFocus()
    dialog.rows.setCurrentCell(row, 0)
    qtbot.keyClick(dialog.rows, Qt.Key.Key_Space)
    assert dialog.left_out
    assert dialog.sum.text() != whole
    assert "Supply alone" in dialog.when.text()
    for name, begins in (("bill.pdf", b"%PDF"), ("bill.html", b"<!doctype"), ("bill.csv", b"For,")):
        dialog.save(tmp_path / name)
        assert (tmp_path / name).read_bytes().startswith(begins)
    dialog.save(tmp_path / "no such folder" / "bill.pdf")
    assert "could not be written" in dialog.said.text()
    qtbot.keyClick(dialog.rows, Qt.Key.Key_Space)
    assert dialog.sum.text() == whole


def test_price_and_drawer_are_typed(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    form = StockForm(window, "Ring 225", Stock())
    qtbot.addWidget(form)
    for key, wrong in (("prices", "dear"), ("in_drawer", "two"), ("due", "Friday"), ("panel", "0")):
        before = form.fields[key].text()
        form.fields[key].setText(wrong)
        form.take()
        assert "expected" in form.said.text() or "greater" in form.said.text()
        assert form.fields[key].text() == wrong
        form.fields[key].setText(before)
    texts = {"prices": "34; 5: 31", "currency": "crowns", "in_drawer": "2", "due": "2026-12-09", "ordered": "1"}
    for key, text in texts.items():
        form.fields[key].setText(text)
    form.take()
    assert form.result() == StockForm.DialogCode.Accepted
    stock = form.stock
    assert (stock.each_at(1), stock.each_at(5), stock.in_drawer, stock.ordered) == (34.0, 31.0, 2, 1)
    assert stock.where == "2 in the drawer; 1 ordered, due 9 Dec"
    again = StockForm(window, "Ring 225", stock)
    qtbot.addWidget(again)
    again.take()
    assert again.stock == stock


def test_any_figure_over_anything(window: PlinthWindow, session: BenchSession, qtbot: QtBot, tmp_path: Path) -> None:
    dialog = CurveDialog(window, session)
    qtbot.addWidget(dialog)
    dialog.show()
    assert dialog.found is not None
    assert dialog.found.figure.name == "clip_worst_power_w"
    dialog.figure.setCurrentText("heat sink, programme")
    dialog.over.setCurrentText("air")
    assert dialog.found.over.key == "ambient_c"
    plot = dialog.plots[False]
    assert "heat sink, programme over air" in plot.title.text()
    # The sink's own limit stands in it.
    assert "at most 75 °C" in [one.label for one in plot.series]
    assert "Here it is" in dialog.said.text()
    plot.save_csv(tmp_path / "curve.csv")
    assert len((tmp_path / "curve.csv").read_text(encoding="utf-8").splitlines()) > 40
    dialog.stop()
    assert "Stopped" in dialog.said.text()
    dialog.reject()


def test_a_map_of_any_figure(window: PlinthWindow, session: BenchSession, qtbot: QtBot, tmp_path: Path) -> None:
    dialog = MapDialog(window, session)
    qtbot.addWidget(dialog)
    dialog.figure.setCurrentText("heat sink, programme")
    assert dialog.found is not None
    assert dialog.found.value.shape == (11, 14)
    assert "bold line its limit" in dialog.said.text()
    assert "heat sink" in dialog.read_at(230.0, 0.6)
    dialog.save_csv(tmp_path / "map.csv")
    assert "sink_c" in (tmp_path / "map.csv").read_text(encoding="utf-8")
    dialog.save_as(lambda: write_whole(tmp_path / "map.svg", svg_bytes(dialog.graph, "map")), "map.svg")
    assert b"<svg" in (tmp_path / "map.svg").read_bytes()
    dialog.figure.setCurrentIndex(0)
    assert dialog.found.value.shape == (80, 100)
    dialog.reject()


def test_a_transformer_without_a_label(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    dialog = MeasuredDialog(window, session)
    qtbot.addWidget(dialog)
    qtbot.keyClick(dialog.fields["name"], Qt.Key.Key_Return)
    assert "no name" in dialog.said.text()
    dialog.fields["name"].setText("Grey one")
    dialog.take()
    assert "expected a number" in dialog.said.text()
    dialog.fields["v_open_rms"].setText("27.4")
    dialog.fields["v_mains_rms"].setText("much")
    dialog.take()
    assert dialog.said.text()
    assert dialog.becomes.text() == ""
    dialog.fields["v_mains_rms"].setText("231 V")
    dialog.fields["weight_kg"].setText("2.1 kg")
    assert "219 VA ±30 %" in dialog.becomes.text()
    dialog.take()
    assert dialog.result() == MeasuredDialog.DialogCode.Accepted
    part = next(item.part for item in session.shelf.items([Transformer]) if item.part.name == "Grey one")
    assert isinstance(part, Transformer)
    assert part.va == 219.0


def test_a_new_workshop_asks_how_to_begin(window: PlinthWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[FirstStart] = []
    monkeypatch.setattr(FirstStart, "ask", lambda self: asked.append(self))
    window.first.ask_soon()
    qtbot.waitUntil(lambda: asked == [window.first])


def test_papers_are_kept_with_a_part_and_found_by_their_words(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, tmp_path: Path
) -> None:
    item = next(one for one in session.shelf.items([Transformer]) if one.part.name == "Ring 225")
    dialog = PapersDialog(window, session, item)
    qtbot.addWidget(dialog)
    sheet, empty, large = tmp_path / "sheet.txt", tmp_path / "empty.txt", tmp_path / "large.bin"
    sheet.write_text("Wound in Little Harbour.", encoding="utf-8")
    empty.write_bytes(b"")
    large.write_bytes(bytes(MOST_BYTES + 1))
    for path, says in ((empty, "empty"), (large, "at most 10 MB"), (tmp_path / "gone.pdf", "could not be read")):
        dialog.add(path)
        assert says in dialog.said.text()
        assert dialog.rows.rowCount() == 0
    dialog.add(sheet)
    assert dialog.rows.rowCount() == 1
    dialog.note.setText("seen at the fair")
    dialog.keep_note()
    for words in ("harbour", "fair", "sheet.txt"):
        found = [one for one in session.shelf.items([Transformer]) if read_query(words, (Transformer,)).met(one)]
        assert [one.part.name for one in found] == ["Ring 225"], words
    dialog.save(tmp_path / "copy.txt")
    assert (tmp_path / "copy.txt").read_bytes() == sheet.read_bytes()
    dialog.save(tmp_path / "none" / "copy.txt")
    assert "could not be written" in dialog.said.text()
    dialog.take_off()
    assert dialog.rows.rowCount() == 0
    assert session.shelf.undo() == "sheet.txt taken off"
    dialog.refresh()
    assert dialog.rows.rowCount() == 1
    # What is changed of the part or its stock leaves its papers.
    session.shelf.change_item(ShelfItem(item.number, item.part, Stock(in_drawer=7)))
    assert [one.note for one in dialog.item.papers] == ["seen at the fair"]


def test_a_sheet_is_found_by_the_words_on_its_pages(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, tmp_path: Path
) -> None:
    item = next(one for one in session.shelf.items([Transformer]) if one.part.name == "Ring 225")
    dialog = PapersDialog(window, session, item)
    qtbot.addWidget(dialog)
    content = pdf_of("<h1>Ring 225</h1><p>Wound in Little Harbour, 0.31 ohm a winding.</p>")
    whole, broken = tmp_path / "ring.pdf", tmp_path / "broken.pdf"
    whole.write_bytes(content)
    broken.write_bytes(content[: len(content) // 2])
    dialog.add(broken)
    dialog.add(whole)
    assert [one.name for one in dialog.item.papers] == ["broken.pdf", "ring.pdf"]

    def words() -> list[str]:
        return [paper.words for one in session.shelf.items([Transformer]) for paper in one.papers]

    qtbot.waitUntil(lambda: "Little Harbour" in words()[1])
    assert words()[0] == ""
    found = [one for one in session.shelf.items([Transformer]) if read_query("harbour", (Transformer,)).met(one)]
    assert [one.part.name for one in found] == ["Ring 225"]
    session.shelf.remove_paper(dialog.item.papers[1])
    session.shelf.undo()
    assert "Little Harbour" in words()[1]
