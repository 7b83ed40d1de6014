"""Along the shelf in the running window: searched, tried in the band, taken, changed, taken back."""

import re
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLineEdit
from pytestqt.qtbot import QtBot

from plinth.builds.stations import STATIONS
from plinth.builds.supply_parts import Transformer
from plinth.demo.builds import BUILDS
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.shelf.view import ShelfView
from plinth.desk.window import PlinthWindow
from plinth.session.shelf_look import COSTS, MARGIN, PART, VALUE
from plinth.shelf.item import ShelfItem
from tests.sample_builds import linear
from tests.turns import in_turn


@pytest.fixture
def view(window: PlinthWindow, session: BenchSession) -> ShelfView:
    session.choose_station("transformer")
    command = next(one for one in window.commands if one.key == "shelf")
    assert command.keys == "Ctrl+Shift+S"
    window.run_command(command)
    assert window.plan.shelf_shown
    return window.plan.shelf


def cells(view: ShelfView, name: str) -> list[str]:
    row = next(k for k, item in enumerate(view.rows.items) if item.part.name == name)
    return [str(view.rows.index(row, k).data()) for k in range(view.rows.columnCount())]


def test_every_row_is_this_build_with_that_part_in_it(view: ShelfView, session: BenchSession) -> None:
    assert view.search.hasFocus()
    assert [head.words for head in view.rows.heads] == [
        "Part", "secondaries", "VA", "costs", "drawer", "rail, none", "8.11 Ω", "4.03 Ω", "tightest margin"
    ]  # fmt: skip
    fitted = cells(view, "Ring 225")
    assert fitted[0] == "Ring 225   fitted"
    assert fitted[1:5] == ["2 × 25", "225", "34.00", "2"]
    powers = session.predictions.load_powers
    assert fitted[6].startswith(f"{powers['Dummy 8'].value:.0f}")
    assert float(cells(view, "Ring 330")[7].split()[0]) > float(fitted[7].split()[0])
    assert "one winding, two wanted" in cells(view, "Lone 150/24")[-1]
    assert cells(view, "Ring 330/33")[4] == "due 9 Dec"


def test_it_is_searched_by_words_and_numbers(view: ShelfView, qtbot: QtBot) -> None:
    every = view.rows.rowCount()
    qtbot.keyClicks(view.search, ">=160VA 2x22..28 <40")
    assert 3 < view.rows.rowCount() < every
    assert "Understood: rating 160 VA or more" in view.said.text()
    assert view.count.text() == f"{view.rows.rowCount()} of {every}"
    qtbot.keyClick(view.search, Qt.Key.Key_Return)
    assert view.window().focusWidget() is view.table
    assert view.item is not None
    view.search.setText("no such thing at all")
    assert view.rows.rowCount() == 0
    assert not view.details.take_button.isEnabled()
    view.take()
    view.search.clear()
    assert view.rows.rowCount() == every


def test_arrows_try_a_part_in_the_band_and_esc_leaves_all_as_it_was(
    view: ShelfView, window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    before, lines = session.build, session.records.diary_size
    view.table.setFocus()
    row = next(k for k, item in enumerate(view.rows.items) if item.part.name == "Ring 500/40")
    view.look_at_row(row - 1)
    qtbot.keyClick(view.table, Qt.Key.Key_Down)
    qtbot.waitUntil(lambda: session.plan.trying == "Ring 500/40")
    content = window.band.stations["transformer"].content
    assert content is not None
    assert "40" in content.main
    assert session.plan_kept.build == before
    # Rows are of the build as it is kept, not of the one that is tried.
    assert cells(view, "Ring 225")[0].endswith("fitted")
    qtbot.keyClick(view.table, Qt.Key.Key_Escape)
    assert not window.plan.shelf_shown
    assert session.build == before
    assert session.records.diary_size == lines
    assert not session.plan.can_undo
    # Going to another page leaves a trial too.
    window.plan.show_shelf()
    session.plan.try_part("supply.transformer", view.rows.items[0].part)
    window.show_stage("diary")
    assert session.build == before


def test_no_reading_counts_for_a_part_that_is_only_tried(view: ShelfView, session: BenchSession) -> None:
    assert session.bring_up.brought_up("left")
    board = next(
        one.part for one in session.shelf.items((type(session.build.module),)) if one.part != session.build.module
    )
    assert session.plan.try_part("module", board) == ""
    assert not session.bring_up.brought_up("left")
    session.plan.leave_trial()
    assert session.bring_up.brought_up("left")
    full = next(one for one in session.shelf.items((type(board),)) if one.part.name == "Greenroom 20").part
    assert session.plan.try_part("module", full) == ""
    assert session.plan.try_part("supply.transformer", _named(session, "Lone 150/24").part) == "one winding, two wanted"
    assert session.plan.trying == ""


def _named(session: BenchSession, name: str) -> ShelfItem:
    return next(one for one in session.shelf.items((Transformer,)) if one.part.name == name)


def test_enter_takes_it_and_undo_gives_it_back(
    view: ShelfView, window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    qtbot.keyClicks(view.search, "330/33")
    qtbot.keyClick(view.search, Qt.Key.Key_Return)
    qtbot.keyClick(view.table, Qt.Key.Key_Return)
    assert linear(session.build).transformer.name == "Ring 330/33"
    assert not window.plan.shelf_shown
    assert session.records.diary_lines()[-1].words == "Ring 225 exchanged for Ring 330/33."
    session.plan.undo()
    assert linear(session.build).transformer.name == "Ring 225"


def test_what_cannot_join_cannot_be_taken(view: ShelfView, session: BenchSession, qtbot: QtBot) -> None:
    view.search.setText("lone")
    qtbot.keyClick(view.search, Qt.Key.Key_Return)
    assert "one winding, two wanted" in view.details.why_not.text()
    assert not view.details.take_button.isEnabled()
    qtbot.keyClick(view.table, Qt.Key.Key_Return)
    assert linear(session.build).transformer.name == "Ring 225"
    view.search.clear()
    view.fits.click()
    assert all("Lone" not in item.part.name for item in view.rows.items)


@pytest.mark.parametrize("key", in_turn([COSTS, MARGIN, VALUE, "VA", "Dummy 4"], 2))
def test_it_is_sorted_by_any_consequence(view: ShelfView, key: str) -> None:
    view.order_by(key, falling=True)
    values = [view.look.sort_value(item)[1] for item in view.rows.items]
    known = [value for value in values if isinstance(value, float) and value == value]
    assert known == sorted(known, reverse=True)
    assert len(known) > 20
    # What is not known stands last, whichever way.
    assert values[: len(known)] == known
    view.order_by(key, falling=False)
    again = [view.look.sort_value(item)[1] for item in view.rows.items]
    assert [v for v in again if isinstance(v, float) and v == v] == sorted(known)
    view.order_by(PART, falling=False)
    names = [item.part.name.lower() for item in view.rows.items]
    # Numbers in names count as such: 80 VA before 160 VA.
    assert names == sorted(names, key=lambda name: [int(x) if x.isdigit() else x for x in re.split(r"(\d+)", name)])


def test_most_for_the_money_is_watts_over_price(view: ShelfView) -> None:
    view.most.click()
    first = view.rows.items[0]
    found = view.look.consequence_of(first)
    assert found is not None
    best = max(
        c.watts / price
        for item in view.rows.items
        if (price := item.stock.each_at(1)) and (c := view.look.consequence_of(item)) is not None and c.watts == c.watts
    )
    price = first.stock.each_at(1)
    assert price
    assert found.watts / price == pytest.approx(best)


def test_one_s_own_parts_are_copied_changed_hidden_and_taken_back(view: ShelfView, session: BenchSession) -> None:
    count = len(session.shelf.items((Transformer,)))
    view.search.setText("Ring 225")
    view.look_at_row(0)
    assert view.item is not None
    view.details.copy_button.click()
    assert len(session.shelf.items((Transformer,))) == count + 1
    mine = _named(session, f"{view.item.part.name}, mine")
    changed = mine.part.model_copy(update={"va": 240.0})
    assert session.shelf.change_item(ShelfItem(mine.number, changed, mine.stock.model_copy(update={"in_drawer": 3})))
    assert session.shelf.hide_item(_named(session, mine.part.name), hidden=True)
    assert changed not in session.shelf.parts(Transformer)
    assert session.workshop.items((Transformer,))[-1].stock.hidden
    assert session.shelf.undo() == f"{mine.part.name} hidden"
    assert changed in session.shelf.parts(Transformer)
    assert session.shelf.undo() == f"{mine.part.name} changed"
    view.undo()
    assert "Taken back" in view.said.text()
    assert len(session.shelf.items((Transformer,))) == count
    assert session.shelf.undo() == ""


def test_parts_are_written_and_taken_in_with_a_sentence_for_what_is_wrong(
    view: ShelfView, session: BenchSession, tmp_path: Path
) -> None:
    for ending in ("json", "csv"):
        path = tmp_path / f"parts.{ending}"
        items = [item for item in view.rows.items if not item.part.told]
        assert session.shelf.write_parts(path, items).startswith(f"Written: {len(items)} parts")
        before = len(session.shelf.items((Transformer,)))
        assert session.shelf.take_in_parts(path) == f"{len(items)} parts taken in from parts.{ending}."
        more = sum(type(item.part) is Transformer for item in items)
        assert len(session.shelf.items((Transformer,))) == before + more
        session.shelf.undo()
        assert len(session.shelf.items((Transformer,))) == before
    (tmp_path / "bad.json").write_text("{}", encoding="utf-8")
    assert "no parts in it" in session.shelf.take_in_parts(tmp_path / "bad.json")
    assert "could not be written" in session.shelf.write_parts(tmp_path / "no" / "x.json", view.rows.items)


@pytest.mark.parametrize("name", in_turn([build.name for build in BUILDS], 4, 1))
def test_every_station_of_every_build_has_its_shelf_or_leads_to_the_module(
    window: PlinthWindow, session: BenchSession, name: str
) -> None:
    every = ("wall", "entry", "transformer", "reservoir", "rails", "module", "protection", "load")
    first = session.build.name
    session.switch(next(one.id for one in session.builds if one.build.name == name))
    # All of them in the first; in the others those at which builds differ.
    for station in every if name == first else ("transformer", "reservoir", "module"):
        session.choose_station(station)
        window.plan.show_shelf()
        assert window.plan.shelf.rows.rowCount() > 0
        assert window.plan.shelf.look.fitted is not None
        window.plan.shelf.leave()


def test_the_shelf_of_no_station_is_wider_than_the_window(view: ShelfView, window: PlinthWindow) -> None:
    """At the rails of a build with supplies for its input stages the names of the slots alone would be."""
    for one in STATIONS:
        window.session.choose_station(one.key)
        if one.key in ("wall", "entry", "transformer", "reservoir", "rails", "module", "protection", "load"):
            window.plan.show_shelf()
            assert window.plan.shelf_shown
            assert window.plan.minimumSizeHint().width() <= 1262, one.key
    window.session.choose_station("rails")
    window.plan.show_shelf()
    assert view.slots.list.isVisible()
    view.slots.list.setCurrentIndex(1)
    view.slots.list.activated.emit(1)
    assert {type(item.part).__name__ for item in view.rows.items} == {"Rectifier"}


def test_large_text_keeps_what_the_build_becomes_in_sight(view: ShelfView, window: PlinthWindow) -> None:
    look.set(scale=1.5)
    window.resize(1280, 800)
    view.fit_columns()
    shown = [head.words for k, head in enumerate(view.rows.heads) if not view.table.isColumnHidden(k)]
    assert shown[0] == "Part"
    assert shown[-1] == "tightest margin"
    assert "4.03 Ω" in shown
    look.set(scale=1.0)


def test_what_is_known_is_typed_beside_the_row_and_shows_what_it_does(
    view: ShelfView, window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    row = next(k for k, item in enumerate(view.rows.items) if item.part.name == "Ring 225")
    view.look_at_row(row)
    details = view.details
    assert list(details.fields) == ["v_secondary_rms", "regulation"], "what moves this build stands first"
    field = details.fields["regulation"]
    details.how.setCurrentText("measured")
    details.source.setText("own meter")
    qtbot.keyClicks(field, "12 %")
    # The band shows the build with it, a line says what it does, and nothing is kept yet.
    assert session.plan.trying == "Ring 225"
    assert "8.11 Ω: 49" in details.effect.text()
    assert "→" in details.effect.text()
    assert _named(session, "Ring 225").part.told == ()
    qtbot.keyClick(field, Qt.Key.Key_Return)
    kept = _named(session, "Ring 225").part
    assert isinstance(kept, Transformer)
    assert kept.regulation == pytest.approx(0.12)
    assert [(one.how, one.source) for one in kept.told] == [("measured", "own meter")]
    assert session.workshop.items((Transformer,))[0].part == kept
    # The build keeps what it has of it until the part is taken.
    assert linear(session.plan_kept.build).transformer.regulation is None
    view.take()
    assert linear(session.build).transformer.regulation == pytest.approx(0.12)


def test_nonsense_typed_beside_the_row_is_named_and_esc_puts_back(
    view: ShelfView, session: BenchSession, qtbot: QtBot
) -> None:
    row = next(k for k, item in enumerate(view.rows.items) if item.part.name == "Ring 330")
    view.look_at_row(row)
    field = view.details.fields["regulation"]
    assert isinstance(field, QLineEdit)
    field.selectAll()
    qtbot.keyClicks(field, "400 %")
    assert "expected a number at most 0.6" in view.details.effect.text()
    field.selectAll()
    qtbot.keyClicks(field, "soft")
    assert "found 'soft'" in view.details.effect.text()
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert _named(session, "Ring 330").part.told == ()
    qtbot.keyClick(field, Qt.Key.Key_Escape)
    assert field.text() == "6 %"
    assert session.plan_kept.build == session.stored.build
    # A second one leaves the shelf.
    view.details.more_button.click()
    assert "va" in view.details.fields


def test_the_bill_is_for_one_or_many_and_is_written(
    window: PlinthWindow, session: BenchSession, tmp_path: Path
) -> None:
    from plinth.desk.plan.bill_dialog import BillDialog

    dialog = BillDialog(window, session)
    cells = [dialog.rows.item(row, 1) for row in range(dialog.rows.rowCount())]
    assert any(cell is not None and cell.text().startswith("Ring 225") for cell in cells)
    once = dialog.sum.text()
    assert once.startswith("Still to pay: ")
    dialog.units.setValue(5)
    assert " each" in dialog.sum.text()
    assert dialog.sum.text() != once
    assert dialog.waits.text().startswith("To be ordered: ")
    for ending in ("csv", "html"):
        path = tmp_path / f"bill.{ending}"
        assert session.shelf.write_bill(path, 5) == f"Written: {path}."
        assert "Ring 225" in path.read_text(encoding="utf-8")
    assert "could not be written" in session.shelf.write_bill(tmp_path / "no" / "bill.csv")
    dialog.reject()


def test_a_build_from_a_requirement_in_under_twelve_keystrokes(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    from plinth.desk.requirement_dialog import RequirementDialog

    dialog = RequirementDialog(window, session)
    dialog.show()
    # Ctrl+N before it; then the requirement and Enter.
    typed = "60W 4R"
    qtbot.keyClicks(dialog.requirement, typed)
    qtbot.keyClick(dialog.requirement, Qt.Key.Key_Return)
    assert 1 + len(typed) + 1 < 12
    assert session.build.name == "60 W into 4 Ω"
    assert session.predictions.prediction is not None
    assert session.predictions.prediction["clip_worst_power_w"].value == pytest.approx(60.0, rel=0.03)
    assert window.plan.parts.assumed.text().startswith("Still assumed: ")
    assert "every value in it is assumed" in session.records.diary_lines()[-1].words
    # The same again is another build, and nonsense stays typed.
    again = RequirementDialog(window, session)
    again.requirement.setText("60W 4R")
    again.take()
    assert session.build.name == "60 W into 4 Ω, 2"
    wrong = RequirementDialog(window, session)
    wrong.requirement.setText("as loud as it goes")
    wrong.take()
    assert "watts into ohms" in wrong.said.text()
    assert wrong.requirement.text() == "as loud as it goes"
    wrong.requirement.setText("60W 4R")
    wrong.channels.setText(",,")
    wrong.take()
    assert "channels" in wrong.said.text()
    wrong.reject()


def test_a_build_around_what_one_has(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    from plinth.desk.requirement_dialog import RequirementDialog

    dialog = RequirementDialog(window, session)
    qtbot.addWidget(dialog)
    dialog.requirement.setText("greenroom 30 into 4R")
    dialog.supply.setCurrentIndex(dialog.supply.findText("Stack 120"))
    dialog.take()
    assert session.build.name == "Greenroom 30, 4 Ω"
    assert session.build.module.name == "Greenroom 30"
    assert "Stack 120" in session.build.model_dump_json()
    assert "begun around Greenroom 30 and Stack 120" in session.records.diary_lines()[-1].words
    assert session.predictions.prediction is not None
    assert session.predictions.prediction["clip_worst_power_w"].value > 1.0
    # What cannot go together is said, and nothing is made.
    before = len(session.builds)
    again = RequirementDialog(window, session)
    qtbot.addWidget(again)
    for words, says in (("Parade 150", "cannot join the rest"), ("Greenroom 30 loud", "expected a load such as 4R")):
        again.requirement.setText(words)
        again.supply.setCurrentIndex(again.supply.findText("Stack 120"))
        again.take()
        assert says in again.said.text()
    assert len(session.builds) == before


def test_what_is_typed_is_a_row_and_enter_puts_it_on_the_shelf_and_into_the_build(
    view: ShelfView, session: BenchSession, qtbot: QtBot
) -> None:
    every = view.look.every
    qtbot.keyClicks(view.search, "2x21 210VA")
    first = view.rows.items[0]
    assert not first.is_kept
    assert view.item == first
    assert cells(view, "2x21 210VA")[4] == "typed"
    assert "not on the shelf yet" in view.said.text()
    assert float(cells(view, "2x21 210VA")[6].split()[0]) > 10.0, "its consequences stand beside it"
    # What is on the shelf is counted without it, and nothing of it is changed here.
    assert view.count.text() == f"{len(view.rows.items) - 1} of {every}"
    assert not view.details.copy_button.isEnabled()
    assert not any(editor.isEnabled() for editor in view.details.fields.values())
    assert view.look.every == every
    qtbot.keyClick(view.search, Qt.Key.Key_Return)
    qtbot.keyClick(view.table, Qt.Key.Key_Return)
    part = linear(session.build).transformer
    assert (part.name, part.v_secondary_rms, part.va, part.secondaries) == ("2x21 210VA", 21.0, 210.0, "two")
    assert part in [item.part for item in session.shelf.items((Transformer,))]
    # Typed again it lies there already.
    command = next(each for each in view.window().commands if each.key == "shelf")  # type: ignore[attr-defined]
    view.window().run_command(command)  # type: ignore[attr-defined]
    qtbot.keyClicks(view.search, "2x21 210VA")
    assert all(item.is_kept for item in view.rows.items)
    session.plan.undo()
    assert linear(session.build).transformer.name == "Ring 225"


def test_asking_makes_no_row(view: ShelfView, qtbot: QtBot) -> None:
    for text in (">=160VA 2x22..28", "toroid", "2x25 225VA"):
        view.search.clear()
        qtbot.keyClicks(view.search, text)
        assert all(item.is_kept for item in view.rows.items), text
    view.search.clear()
    assert view.look.typed == ()
