"""The whole plan of re-forming: when it begins, every hold, when it ends; written as a page or for a calendar."""

import datetime as dt
from pathlib import Path

from PySide6.QtCore import QDate, QDateTime, QTime
from PySide6.QtWidgets import QDateTimeEdit, QFileDialog, QHBoxLayout, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.habits import usual_paper
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.pdf import pdf_of
from plinth.desk.session import BenchSession
from plinth.desk.tables import fill, reading_table
from plinth.predict.reforming import Reforming
from plinth.report.calendar import calendar_text
from plinth.report.file_out import not_written_words, proposed_name, write_whole
from plinth.report.reforming_plan import CAUTION, HEADS, PlannedHold, appointments, plan_html, planned, summary

KINDS = "Calendar (*.ics);;PDF (*.pdf);;HTML page (*.html)"


class ReformingDialog(Dialog):
    """Start and length are typed in the equipment; the hour at which it begins here."""

    def __init__(self, parent: QWidget, session: BenchSession, plan: Reforming) -> None:
        super().__init__(parent)
        self.setWindowTitle("Re-forming, hour by hour")
        look.size(self, 720, 540)
        self._session, self._plan = session, plan
        now = session.now().astimezone()
        self.begin = QDateTimeEdit(QDateTime(QDate(now.year, now.month, now.day), QTime(now.hour, now.minute)))
        self.begin.setDisplayFormat("yyyy-MM-dd HH:mm")
        self.begin.setAccessibleName("When it begins")
        self.begin.setCalendarPopup(True)
        self.begin.dateTimeChanged.connect(lambda _at: self.refresh())
        self.rows = reading_table(HEADS, "Holds of the re-forming", widest=4)
        self.ends, self.said = label("", "name", wrap=True), label("", "soft", wrap=True)
        self.write_button, close = button("Calendar or paper …", "main"), button("Close  Esc")
        self.write_button.clicked.connect(self.ask_where)
        close.clicked.connect(self.reject)
        head, foot = QHBoxLayout(), QHBoxLayout()
        head.addWidget(label("Begins", "soft"))
        head.addWidget(self.begin)
        head.addStretch()
        foot.addWidget(self.write_button)
        foot.addStretch()
        foot.addWidget(close)
        box = column(label("Re-forming, hour by hour", "title"), spacing=10, margins=(18, 14, 18, 14))
        box.addLayout(head)
        for widget in (self.ends, self.rows):
            box.addWidget(widget)
        box.addWidget(label(CAUTION, "caution", wrap=True))
        hint = "Another start or length: type re-form from 25 % over 24 h into the equipment."
        box.addWidget(label(hint, "small", wrap=True))
        box.addWidget(self.said)
        box.addLayout(foot)
        self.setLayout(box)
        self.refresh()

    @property
    def holds(self) -> tuple[PlannedHold, ...]:
        """Every hold, from the hour chosen on."""
        begin = self.begin.dateTime().toPython()
        assert isinstance(begin, dt.datetime), "a date and time is one"
        return planned(self._plan, begin.astimezone())

    def refresh(self) -> None:
        """Show the plan from the hour chosen on."""
        holds = self.holds
        self.ends.setText(summary(self._plan, holds))
        fill(self.rows, [hold.cells for hold in holds], (2, 3))

    def ask_where(self) -> None:
        """Ask where to, and write it."""
        name, _ = QFileDialog.getSaveFileName(
            self, "Re-forming", proposed_name(f"{self._session.build.name} re-forming", ".ics"), KINDS
        )
        if name:
            self.write(Path(name))

    def write(self, path: Path) -> None:
        """Write the plan, by the file's ending; what came of it is said."""
        build, now = self._session.build, self._session.now()
        page = plan_html(build, self._plan, self.holds, now)
        try:
            if path.suffix.lower() == ".ics":
                write_whole(path, calendar_text(appointments(build, self.holds), f"Re-forming {build.name}", now))
            else:
                write_whole(path, pdf_of(page, paper=usual_paper()) if path.suffix.lower() == ".pdf" else page)
        except OSError as error:
            self.said.setText(not_written_words(path, error))
        else:
            self.said.setText(f"Written: {path}.")
