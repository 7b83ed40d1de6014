"""The shelf of the open workshop: parts added, changed, copied, hidden, taken in and written out; each step undone."""

import dataclasses
import json
from collections.abc import Callable, Collection, Sequence
from pathlib import Path

from plinth.builds.files import BuildFileError
from plinth.builds.parts import PART_KINDS, Part
from plinth.builds.stock import Stock
from plinth.processes.confined import run_confined
from plinth.report.bill import bill_csv, bill_html
from plinth.report.file_out import not_written_words, write_whole
from plinth.session.core import Core
from plinth.session.records import Records
from plinth.shelf.bill import Bill, arriving, bill_of
from plinth.shelf.files import read_items, written_csv, written_json
from plinth.shelf.item import Paper, ShelfItem, of_paper, paper_digest
from plinth.shelf.papers import MOST_BYTES, MOST_NOTE, is_pdf, pdf_words, readable_words
from plinth.workshop.errors import WorkshopError

# A manual of some hundred pages takes ten seconds.
MOST_READING_S = 60.0


class Shelf:
    """The shelf of the current workshop."""

    def __init__(self, core: Core, records: Records) -> None:
        self._core, self._records = core, records
        self._items: list[ShelfItem] | None = None
        self._shelf_steps: list[tuple[str, Callable[[], None]]] = []

    def items(self, kinds: Sequence[type[Part]]) -> list[ShelfItem]:
        """What is on the shelf of these kinds; read from the file once."""
        if self._items is None:
            try:
                self._items = self._with_papers(self._core.workshop.items())
            except WorkshopError as error:
                self._core.tell.trouble(str(error))
                return []
        return [item for item in self._items if type(item.part) in kinds]

    def _with_papers(self, items: list[ShelfItem]) -> list[ShelfItem]:
        by_part: dict[int, list[Paper]] = {}
        for paper in self._core.workshop.papers():
            by_part.setdefault(paper.part, []).append(paper)
        if not by_part:
            return items
        return [dataclasses.replace(item, papers=tuple(by_part.get(item.number, ()))) for item in items]

    def add_paper(self, item: ShelfItem, path: Path) -> str:
        """Keep a file with a part on the shelf; a sentence where that cannot be, else empty."""
        if path.exists() and not path.is_file():
            return f"{path.name} is not a file, expected a sheet, a picture or a text."
        try:
            size = path.stat().st_size
            content = path.read_bytes() if size <= MOST_BYTES else b""
        except OSError as error:
            return f"{path.name} could not be read ({error.strerror or error})."
        if size > MOST_BYTES:
            maximum = f"{MOST_BYTES / 1e6:.0f} MB"
            return f"Found {path.name} of {size / 1e6:.1f} MB, expected at most {maximum}: make it smaller."
        if not content:
            return f"Found {path.name} empty, expected a sheet, a picture or a text."
        kept: list[Paper] = []
        words = readable_words(content)
        if not self._core.attempt(
            lambda: kept.append(self._core.workshop.add_paper(item.number, path.name, content, words))
        ):
            return "It could not be kept: see the window."
        self._shelf_changed()
        self._write_down(item.part, kept[0])
        if is_pdf(content):
            self._look_for_words(kept[0], content)
        return ""

    def _write_down(self, part: Part, paper: Paper) -> None:
        """A line in the diary of the current build, where it has that part."""
        for line in self.bill().lines:
            if (type(line.part), line.part.identity) == (type(part), part.identity):
                words = f"Paper kept with {part.name} ({line.words}): {paper.name}."
                self._records.note("note", words, of_paper(paper))
                return

    def paper_of(self, subject: str) -> tuple[ShelfItem, Paper] | None:
        """The paper that a line of the diary tells of, and its part; None where it tells of none, or it is gone."""
        digest = paper_digest(subject)
        every = ((item, paper) for item in self.items(tuple(PART_KINDS.values())) for paper in item.papers)
        return next((pair for pair in every if digest and pair[1].digest.startswith(digest)), None)

    def _look_for_words(self, paper: Paper, content: bytes) -> None:
        """Look for the words of a PDF, off the window's thread; the paper itself is kept by now."""

        def take(words: object) -> None:
            if words and self._core.attempt(lambda: self._core.workshop.word_paper(paper.number, str(words))):
                self._shelf_changed()

        name = f"words of paper {paper.number}"
        # Of a sheet that cannot be read in the time there is, the name and the note remain to find it by.
        self._core.jobs.ask(
            name,
            lambda _task: run_confined(pdf_words, content, most_s=MOST_READING_S),
            take,
            lambda _error: None,
            long=True,
        )

    def note_paper(self, paper: Paper, note: str) -> bool:
        """Keep a note with a paper."""
        if not self._core.attempt(lambda: self._core.workshop.note_paper(paper.number, note.strip()[:MOST_NOTE])):
            return False
        self._shelf_changed()
        return True

    def remove_paper(self, paper: Paper) -> bool:
        """Take a paper off; it can be taken back."""
        content = self.paper_content(paper)
        if content is None or not self._core.attempt(lambda: self._core.workshop.remove_paper(paper.number)):
            return False

        def back() -> None:
            self._core.workshop.add_paper(paper.part, paper.name, content, paper.words, paper.note)

        self._shelf_steps.append((f"{paper.name} taken off", back))
        self._shelf_changed()
        return True

    def paper_content(self, paper: Paper) -> bytes | None:
        """What is in a paper; None (and ``trouble``) where it cannot be read as it was written."""
        try:
            content = self._core.workshop.paper_content(paper.number)
        except WorkshopError as error:
            self._core.tell.trouble(str(error))
            return None
        if content is None:
            self._core.tell.trouble(f"{paper.name} is not as it was written, or gone. The other papers are whole.")
        return content

    def parts(self, kind: type[Part]) -> list[Part]:
        """The parts of one kind on the shelf that are not hidden."""
        return [item.part for item in self.items((kind,)) if not item.stock.hidden]

    def put_on_shelf(self, part: Part, stock: Stock | None = None) -> bool:
        """Keep a part for other builds."""
        return self._add_to_shelf([(part, stock or Stock())], f"{part.name} put on the shelf")

    def has(self, part: Part) -> bool:
        """Whether the very same part lies there already, under whichever name."""
        return any(_but_name(item.part) == _but_name(part) for item in self.items((type(part),)))

    def change_item(self, item: ShelfItem, words: str = "") -> bool:
        """What is known of a part on the shelf is this from now on; builds keep what they have of it."""
        before = next((member for member in self.items((type(item.part),)) if member.number == item.number), None)
        if before is None or before == item:
            return before is not None
        if not self._core.attempt(lambda: self._core.workshop.change_item(item)):
            return False
        self._shelf_steps.append(
            (words or f"{item.part.name} changed", lambda: self._core.workshop.change_item(before))
        )
        self._shelf_changed()
        return True

    def hide_item(self, item: ShelfItem, *, hidden: bool) -> bool:
        """Take a part out of sight, or back; it stays in the file."""
        changed = ShelfItem(item.number, item.part, item.stock.model_copy(update={"hidden": hidden}))
        return self.change_item(changed, f"{item.part.name} {'hidden' if hidden else 'shown again'}")

    def copy_item(self, item: ShelfItem) -> bool:
        """A part of one's own like this one, which is then changed."""
        taken = {member.part.name for member in self.items((type(item.part),))}
        name, number = f"{item.part.name}, mine", 1
        while name in taken:
            number += 1
            name = f"{item.part.name}, mine {number}"
        mine = item.part.model_copy(update={"name": name, "key": ""})
        return self._add_to_shelf([(mine, item.stock.model_copy(update={"hidden": False}))], f"{name} put on the shelf")

    def take_in_parts(self, path: Path) -> str:
        """Parts from a file written by Plinth (JSON or CSV); a sentence on what came of it."""
        try:
            items = read_items(path)
        except BuildFileError as error:
            return str(error)
        if not self._add_to_shelf(items, f"{len(items)} parts taken in from {path.name}"):
            return "They could not be kept."
        return f"{len(items)} part{'s' * (len(items) != 1)} taken in from {path.name}."

    def write_parts(self, path: Path, items: Sequence[ShelfItem]) -> str:
        """Write parts as JSON or CSV, by the file's ending; a sentence on what came of it."""
        text = written_csv(items) if path.suffix.lower() == ".csv" else json.dumps(written_json(items), indent=2) + "\n"
        try:
            write_whole(path, text)
        except OSError as error:
            return not_written_words(path, error)
        return f"Written: {len(items)} part{'s' * (len(items) != 1)} to {path}."

    def bill(self, units: int = 1, left_out: Collection[str] = ()) -> Bill:
        """What so many builds like the current one cost, as it is kept, without what is left out."""
        return bill_of(self._core.plan_kept.build, self.items(tuple(PART_KINDS.values())), units, left_out)

    def arriving(self) -> dict[str, str]:
        """By slot, which parts of this build are still on their way, and when they are expected."""
        return arriving(self.bill())

    def bill_page(self, units: int = 1, left_out: Collection[str] = ()) -> str:
        """The bill as a page of HTML."""
        return bill_html(self._core.plan_kept.build, self.bill(units, left_out), self._core.now())

    def write_bill(self, path: Path, units: int = 1, left_out: Collection[str] = ()) -> str:
        """Write the bill as CSV or HTML, by the file's ending; a sentence on what came of it."""
        bill = self.bill(units, left_out)
        text = (
            bill_csv(bill)
            if path.suffix.lower() == ".csv"
            else bill_html(self._core.plan_kept.build, bill, self._core.now())
        )
        try:
            write_whole(path, text)
        except OSError as error:
            return not_written_words(path, error)
        return f"Written: {path}."

    @property
    def can_undo(self) -> bool:
        """Whether there is a step on the shelf to take back."""
        return bool(self._shelf_steps)

    def undo(self) -> str:
        """Take the last step on the shelf back; what it was, empty where there is none or it could not be kept."""
        if not self._shelf_steps:
            return ""
        words, back = self._shelf_steps[-1]
        if not self._core.attempt(back):
            return ""
        self._shelf_steps.pop()
        self._shelf_changed()
        return words

    def _add_to_shelf(self, parts: Sequence[tuple[Part, Stock]], words: str) -> bool:
        made: list[ShelfItem] = []
        if not self._core.attempt(lambda: made.extend(self._core.workshop.add_items(parts))):
            return False
        numbers = [item.number for item in made]
        self._shelf_steps.append((words, lambda: self._core.workshop.remove_items(numbers)))
        self._shelf_changed()
        return True

    def _shelf_changed(self) -> None:
        self._items = None
        self._core.tell.plan_changed()


def _but_name(part: Part) -> Part:
    return part.model_copy(update={"name": "", "key": ""})
