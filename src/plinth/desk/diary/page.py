"""The Diary page: everything that happened to this build, in order; notes in; report and readings out."""

import datetime as dt
from collections.abc import Callable, Iterator
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import QAbstractItemView, QFileDialog, QHBoxLayout, QHeaderView, QLineEdit, QTableView

from plinth.desk.asking import ask
from plinth.desk.diary.found_lines import FoundLines
from plinth.desk.diary.line_actions import LineActions
from plinth.desk.diary.lines import DiaryLines
from plinth.desk.diary.paper_dialog import PaperDialog
from plinth.desk.diary.time_strip import TimeStrip
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.pdf import Paper as PageSize
from plinth.desk.pdf import pdf_of
from plinth.desk.photos.strip import PhotoStrip
from plinth.desk.session import BenchSession
from plinth.desk.stage_page import StagePage
from plinth.guide.progress import settled_count
from plinth.record.diary import DiaryEntry, Moment, corrected_line
from plinth.record.photo import line_subject
from plinth.report.counting import FittedByVersion, since_words
from plinth.report.csv_table import readings_csv
from plinth.report.file_out import not_written_words, proposed_name, write_whole
from plinth.report.html import PAPERS, Paper, ReportInput, Section, render_report
from plinth.report.time_line import time_line
from plinth.session.opening import WorkshopError

# More rows than any screen has room for.
MOST_IN_SIGHT = 120
# So many lines are read within some tens of milliseconds.
LINES_AT_A_TIME = 500

# What is written, made of the diary and of what had been exchanged in each version of the build.
_Maker = Callable[[list[DiaryEntry], FittedByVersion], str | bytes]


class DiaryPage(StagePage):
    """The lines of a build's diary, a field for notes, and the ways out."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self.setObjectName("page")
        self._session = session
        self._stale = self._follows = True
        self._moments: list[Moment] = []
        self._moments_of = 0
        self.title, self.count = label("", "title"), label("", "soft")
        self.lines, self.table = DiaryLines(session), QTableView()
        self.table.setModel(self.lines)
        self.table.setAccessibleName("Diary")
        self.table.verticalHeader().hide()
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setWordWrap(True)
        self.table.setShowGrid(False)
        header = self.table.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        header.setSectionResizeMode(4, QHeaderView.ResizeMode.Stretch)
        self._fitting = QTimer(self)
        self._fitting.setSingleShot(True)
        self._fitting.setInterval(0)
        self._fitting.timeout.connect(self._fit_rows)
        self.table.verticalScrollBar().valueChanged.connect(self._fit_soon)
        self.table.verticalScrollBar().actionTriggered.connect(self._scrolled)
        self.photos = PhotoStrip(session)
        self.photos.hide()
        self.time_strip, self.line_actions = TimeStrip(), LineActions(session)
        self.time_strip.chosen.connect(self._choose)
        self.line_actions.line_wanted.connect(self._to_moment)
        self.table.activated.connect(lambda _index: self.line_actions.go())
        self.table.selectionModel().currentRowChanged.connect(self._show_photos)
        self.note = QLineEdit()
        self.note.setPlaceholderText("A note: what was heard, changed, borrowed, advised")
        self.note.setAccessibleName("Note for the diary")
        self.note.returnPressed.connect(self.keep_note)
        self.note_button = button("Write it down  ⏎")
        self.note_button.clicked.connect(self.keep_note)
        self.report_button = button("Report …", tip="Report, power table or record for the next owner; HTML or PDF")
        self.csv_button = button("Readings as CSV …")
        self.report_button.clicked.connect(self.ask_report)
        self.csv_button.clicked.connect(self.ask_csv)
        self.said = label("", "soft", wrap=True)
        self.found = FoundLines(session)
        self.found.chosen.connect(self.go_to)
        head = QHBoxLayout()
        for widget in (self.title, self.count):
            head.addWidget(widget)
        head.addWidget(self.found.field, 1)
        head.addWidget(self.report_button)
        head.addWidget(self.csv_button)
        foot = QHBoxLayout()
        foot.addWidget(self.note, 1)
        foot.addWidget(self.note_button)
        box = column(spacing=8, margins=(18, 12, 18, 12))
        box.addLayout(head)
        box.addWidget(self.said)
        box.addWidget(self.found)
        box.addWidget(self.time_strip)
        box.addWidget(self.table, 1)
        box.addWidget(self.photos)
        box.addWidget(self.line_actions)
        box.addLayout(foot)
        self.setLayout(box)
        self.said.hide()
        session.records_changed.connect(self.refresh)
        session.build_switched.connect(self.refresh)
        session.predicted.connect(self._show_exports)
        look.follow(self._restyle)
        self.refresh()

    def go_to(self, build_id: int, line: int) -> None:
        """Show a line, of whichever build."""
        if build_id != self._session.stored.id:
            self._session.switch(build_id)
        self._follows = False
        self.table.selectRow(line)
        self.table.scrollTo(self.lines.index(line, 0), QAbstractItemView.ScrollHint.PositionAtCenter)
        self._fit_soon()
        self.table.setFocus()

    def go_to_last(self, subject: str) -> None:
        """Show the last line about a subject; nothing else where there is none."""
        lines = [line for line, moment in enumerate(self._moments) if moment.subject == subject]
        if lines:
            self._choose(lines[-1])

    def come_up(self) -> None:
        """A note can be typed at once."""
        self.note.setFocus()

    def refresh(self) -> None:
        """Show the diary, the latest at the end and in view; out of sight, only remember to."""
        self._stale = not self.isVisible()
        if self._stale:
            return
        lines, readings = self._session.records.diary_size
        self.title.setText(self._session.build.name)
        self.count.setText(f"{lines} lines, {readings} readings")
        self._take_moments()
        self.lines.take()
        self._follows = True
        self.table.scrollToBottom()
        self._fit_soon()
        self._show_exports()

    def _take_moments(self) -> None:
        """The time line, and which lines are corrected; of a diary that has grown only what is new is read."""
        of, count = self._session.stored.id, self._session.records.diary_size[0]
        if of != self._moments_of or count < len(self._moments):
            self._moments_of, self._moments = of, []
        if count > len(self._moments):
            self._moments += self._session.records.moments(len(self._moments))
        corrected = (corrected_line(moment) for moment in self._moments)
        self.lines.corrected = frozenset(at for at in corrected if at is not None)
        self.time_strip.show_line(time_line(self._moments, self._session.now()))

    def _choose(self, line: int) -> None:
        """Show a line of this build."""
        self.go_to(self._session.stored.id, line)

    def _to_moment(self, at: dt.datetime) -> None:
        """Show the line that was written at a moment."""
        lines = [line for line, moment in enumerate(self._moments) if moment.at == at]
        if lines:
            self._choose(lines[0])

    def _show_photos(self, *_rows: object) -> None:
        """The photos of the line that is chosen, and what can be done with it."""
        entry = self.lines.line(self.table.currentIndex().row())
        self.line_actions.show_entry(entry)
        self.photos.setVisible(entry is not None)
        if entry is not None:
            self.photos.show_subject(line_subject(entry))

    def _restyle(self) -> None:
        self.lines.forget()
        # The new font reaches the table only with the style sheet, after this.
        self._fit_soon()

    def _show_exports(self) -> None:
        self.report_button.setEnabled(self._session.predictions.prediction is not None)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_soon()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._stale:
            self.refresh()
        # Heights depend on the widths, which are only known once the page is laid out.
        self._fit_soon()

    def _fit_soon(self) -> None:
        self._fitting.start()

    def _scrolled(self) -> None:
        """Somebody looks elsewhere: the end is followed again once it is in sight, or a line is added."""
        bar = self.table.verticalScrollBar()
        self._follows = bar.sliderPosition() >= bar.maximum()

    def _fit_rows(self) -> None:
        """Fit columns and the rows in sight to their words: of a long diary no others are looked at."""
        at_end = self._follows
        self.table.verticalHeader().setDefaultSectionSize(look.px(34))
        first = max(0, self.table.rowAt(0))
        last = self.table.rowAt(self.table.viewport().height() - 1)
        last = self.lines.rowCount() - 1 if last < 0 else last
        # While the table is laid out anew it may not know yet which rows it shows: never more than a screenful.
        last = min(last, first + MOST_IN_SIGHT) if not at_end else last
        first = max(first, last - MOST_IN_SIGHT)
        metrics = self.table.fontMetrics()
        for column_index in (0, 1, 3):
            texts = [str(self.lines.index(row, column_index).data() or "") for row in range(first, last + 1)]
            width = max([metrics.horizontalAdvance(text) for text in texts], default=0) + look.px(24)
            if width > self.table.columnWidth(column_index) or at_end:
                self.table.setColumnWidth(column_index, max(width, look.px(60)))
        for row in range(first, last + 1):
            self.table.resizeRowToContents(row)
        # The table learns of new heights only with the event loop's next round.
        QTimer.singleShot(0, self, self._to_end)

    def _to_end(self) -> None:
        if self._follows:
            self.table.scrollToBottom()

    def keep_note(self) -> None:
        """Write the note down; it stays in the field unless it was kept."""
        words = self.note.text().strip()
        if words and self._session.records.note("note", words):
            self.note.clear()

    def ask_report(self) -> None:
        """Ask which paper, and where to, and write it."""
        dialog = PaperDialog(self, self._session.build.name)
        if ask(dialog) and dialog.chosen is not None:
            self.save_report(dialog.chosen, dialog.paper, dialog.leave_out, dialog.size_of_page)

    def ask_csv(self) -> None:
        """Ask where to and write the readings."""
        name, _ = QFileDialog.getSaveFileName(
            self, "Readings", proposed_name(self._session.build.name, ".csv"), "CSV table (*.csv)"
        )
        if name:
            self.save_csv(Path(name))

    def save_report(
        self, path: Path, paper: Paper = "report", leave_out: tuple[Section, ...] = (), size: PageSize = "A4"
    ) -> bool:
        """Have a paper made aside and written; False (and a sentence) where there is nothing to report."""
        prediction = self._session.predictions.prediction
        if prediction is None:
            self._say("No report: this build cannot run, so there is nothing predicted to hold readings against.")
            return False
        demo, practice, at = self._session.demo, self._session.practice, self._session.now()
        captures, file = tuple(self._session.captures.of()), self._session.workshop.path.name
        own_sources_v = self._session.own_sources.volts
        stands = [(channel, self._session.bring_up.stands(channel)) for channel in self._session.build.channels]
        brought_up = [(channel, settled_count(each), len(each)) for channel, each in stands if each]

        def make(lines: list[DiaryEntry], fitted: FittedByVersion) -> str | bytes:
            html = render_report(
                ReportInput(
                    prediction,
                    lines,
                    at,
                    demo,
                    practice=practice,
                    fitted=fitted,
                    captures=captures,
                    brought_up=brought_up,
                    file=file,
                    own_sources_v=own_sources_v,
                ),
                paper,
                leave_out,
            )
            return pdf_of(html, paper=size) if path.suffix.lower() == ".pdf" else html

        self._make(PAPERS[paper].partition(",")[0].lower(), path, make)
        return True

    def save_csv(self, path: Path) -> None:
        """Have the table of readings made aside and written; a sentence where it could not be."""
        build, practice = self._session.build, self._session.practice

        def make(lines: list[DiaryEntry], fitted: FittedByVersion) -> str:
            readings = [line.reading for line in lines if line.reading is not None]
            return readings_csv(readings, lambda reading: since_words(reading, build, lines, fitted, practice=practice))

        self._make("table", path, make)

    def _make(self, what: str, path: Path, make: _Maker) -> None:
        """Read the diary a part at a time, then make and write ``what`` off the window's thread."""
        self._say(f"Making the {what} …")
        try:
            fitted = self._session.records.fitted_by_version()
        except WorkshopError as error:
            self._say(_not_made(what, path, error))
            return
        parts = self._session.records.diary_in_parts(LINES_AT_A_TIME)
        self._gather(parts, [], what, path, lambda lines: make(lines, fitted))

    def _gather(
        self, parts: Iterator[list[DiaryEntry]], lines: list[DiaryEntry], what: str, path: Path,
        make: Callable[[list[DiaryEntry]], str | bytes],
    ) -> None:  # fmt: skip
        try:
            part = next(parts, None)
        except WorkshopError as error:
            self._say(_not_made(what, path, error))
            return
        if part is not None:
            lines += part
            if len(part) == LINES_AT_A_TIME:
                QTimer.singleShot(0, self, lambda: self._gather(parts, lines, what, path, make))
                return
        self._session.jobs.ask(
            f"{what} to {path}", lambda _task: write_whole(path, make(lines)),
            lambda _written: self._say(f"Written: {path}"), lambda error: self._say(_not_made(what, path, error)),
            long=True,
        )  # fmt: skip

    def _say(self, words: str) -> None:
        self.said.setText(words)
        self.said.show()


def _not_made(what: str, path: Path, error: Exception) -> str:
    return not_written_words(path, error) if isinstance(error, OSError) else f"No {what}: {str(error).rstrip('.')}."
