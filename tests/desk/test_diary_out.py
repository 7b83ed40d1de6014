"""Report and table of a long diary: read a part at a time, of the build they were asked for, whole or not at all."""

import datetime as dt
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from plinth.desk.diary import page as diary_page
from plinth.desk.diary.paper_dialog import PaperDialog
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.record.diary import DiaryEntry
from plinth.session.opening import WorkshopError
from tests.turns import in_turn

AT = dt.datetime(2026, 10, 12, tzinfo=dt.UTC)


@pytest.fixture
def parts_of_four(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(diary_page, "LINES_AT_A_TIME", 4)


def written(page: diary_page.DiaryPage) -> bool:
    return page.said.text().startswith("Written")


@pytest.mark.usefixtures("parts_of_four")
@pytest.mark.parametrize("notes", in_turn([0, 1, 2, 3], 2))
def test_every_line_is_in_it_wherever_the_parts_end(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, tmp_path: Path, notes: int
) -> None:
    for k in range(notes):
        session.records.note("note", f"Note number {k}")
    page, lines = window.diary, session.records.diary_lines()
    assert len(lines) > 8
    page.save_csv(tmp_path / "r.csv")
    qtbot.waitUntil(lambda: written(page))
    rows = (tmp_path / "r.csv").read_text(encoding="utf-8").splitlines()
    assert len(rows) == 1 + sum(one.reading is not None for one in lines)
    page.save_report(tmp_path / "r.html")
    qtbot.waitUntil(lambda: written(page))
    html = (tmp_path / "r.html").read_text(encoding="utf-8")
    assert all(f"Note number {k}" in html for k in range(notes))


@pytest.mark.usefixtures("parts_of_four")
def test_it_is_of_the_build_that_it_was_asked_for(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, tmp_path: Path
) -> None:
    window.show_stage("diary")
    page, name = window.diary, session.build.name
    readings = [one.reading for one in session.records.diary_lines() if one.reading is not None]
    page.save_report(tmp_path / "r.html")
    page.save_csv(tmp_path / "r.csv")
    session.switch(2)
    assert session.build.name != name
    qtbot.waitUntil(lambda: (tmp_path / "r.html").exists() and (tmp_path / "r.csv").exists())
    rows = (tmp_path / "r.csv").read_text(encoding="utf-8").splitlines()
    assert len(rows) == 1 + len(readings)
    assert name in (tmp_path / "r.html").read_text(encoding="utf-8")


@pytest.mark.usefixtures("parts_of_four")
def test_half_a_diary_is_not_written(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    page = window.diary

    def torn(_most: int) -> Iterator[list[DiaryEntry]]:
        yield session.records.diary_lines()[:4]
        raise WorkshopError(session.workshop.path, "the disk is gone.")

    monkeypatch.setattr(session.records, "diary_in_parts", torn)
    page.save_report(tmp_path / "r.html")
    qtbot.waitUntil(lambda: page.said.text().startswith("No report: ") and "the disk is gone" in page.said.text())
    page.save_csv(tmp_path / "r.csv")
    qtbot.waitUntil(lambda: page.said.text().startswith("No table: ") and "the disk is gone" in page.said.text())
    assert not list(tmp_path.glob("r.*"))


def test_the_report_goes_out_as_pdf_by_its_name(window: PlinthWindow, tmp_path: Path) -> None:
    import pypdf

    window.show_stage("diary")
    window.diary.save_report(tmp_path / "r.pdf")
    text = " ".join(" ".join(sheet.extract_text() for sheet in pypdf.PdfReader(tmp_path / "r.pdf").pages).split())
    assert "In short" in text
    assert "What nobody stated" in text


def test_a_paper_is_chosen_with_its_sections_and_its_page(
    window: PlinthWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.show_stage("diary")
    written: list[tuple[object, ...]] = []
    monkeypatch.setattr(window.diary, "save_report", lambda *given: written.append(given))
    asked: list[tuple[str, ...]] = []

    def where(*given: object, **_more: object) -> tuple[str, str]:
        asked.append(tuple(str(each) for each in given[1:]))
        return str(tmp_path / "paper.pdf"), ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", where)

    def choose(paper: int, form: int, without: str = "") -> Callable[[PaperDialog], int]:
        def answer(dialog: PaperDialog) -> int:
            dialog.paper_choice.setCurrentIndex(paper)
            dialog.format_choice.setCurrentIndex(form)
            assert dialog.sections.isEnabled() == (paper == 0)
            if without:
                dialog.ticks[without].setChecked(False)  # type: ignore[index]
            dialog.ask_where()
            return 1

        return answer

    for paper, form, without in ((0, 0, "diary"), (1, 2, ""), (2, 1, "")):
        monkeypatch.setattr(PaperDialog, "exec", choose(paper, form, without))
        window.diary.ask_report()
    path = tmp_path / "paper.pdf"
    assert written == [
        (path, "report", ("diary",), "A4"), (path, "power_table", (), "letter"), (path, "build_record", (), "A4"),
    ]  # fmt: skip
    assert asked[0][1].endswith(".html")
    assert asked[1][1].endswith("power-table.pdf")
    # Nothing chosen, nothing written.
    monkeypatch.setattr(PaperDialog, "exec", lambda _dialog: 0)
    window.diary.ask_report()
    assert len(written) == 3


def test_the_record_for_the_next_owner_has_its_wiring_on_a_page(window: PlinthWindow, tmp_path: Path) -> None:
    import pypdf

    window.show_stage("diary")
    assert window.diary.save_report(tmp_path / "record.pdf", "build_record")
    pages = pypdf.PdfReader(tmp_path / "record.pdf").pages
    wiring = next(page for page in pages if "Wiring" in page.extract_text())
    resources: Any = wiring["/Resources"]
    pictures = [each.get_object() for each in resources["/XObject"].values()]
    # Turned: higher than wide.
    assert [picture["/Height"] > 1.3 * picture["/Width"] for picture in pictures] == [True]
