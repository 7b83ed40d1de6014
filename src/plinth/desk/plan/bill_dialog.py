"""The bill of this build: for one unit or several, what is there, what is to buy, what it waits for."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QSpinBox, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.habits import usual_paper
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.pdf import pdf_of
from plinth.desk.session import BenchSession
from plinth.desk.tables import fill, reading_table
from plinth.report.file_out import not_written_words, proposed_name, write_whole
from plinth.shelf.bill import HEADS, BillLine, calendar, summary, table

MOST_UNITS = 1000


class BillDialog(Dialog):
    """Lines of the bill with their costs, and the files of it."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session = session
        self.lines: tuple[BillLine, ...] = ()
        self.setWindowTitle(f"Bill: {session.build.name}")
        look.size(self, 860, 600)
        self.units = QSpinBox()
        self.units.setRange(1, MOST_UNITS)
        self.units.setAccessibleName("How many such builds")
        self.units.valueChanged.connect(lambda _value: self.refresh())
        self.sum, self.waits = label("", "name", wrap=True), label("", "soft", wrap=True)
        self.left_out: set[str] = set()
        self.rows = reading_table(HEADS, "Lines of the bill", widest=len(HEADS) - 1)
        self.rows.space.connect(self.leave_out)
        self.said = label("", "small", wrap=True)
        self.when = label("", "small", wrap=True)
        self.out_button = button("Leave out, or back  Space", tip="Count the current part without paying for it")
        self.out_button.clicked.connect(self.leave_out)
        csv, html, close = button("Save CSV …"), button("Save HTML …"), button("Close  Esc")
        pdf = button("Save PDF …")
        pdf.clicked.connect(lambda: self._ask(".pdf", "PDF page (*.pdf)"))
        csv.clicked.connect(lambda: self._ask(".csv", "CSV table (*.csv)"))
        html.clicked.connect(lambda: self._ask(".html", "HTML page (*.html)"))
        close.clicked.connect(self.reject)
        head = QHBoxLayout()
        head.addWidget(label("For so many builds", "soft"))
        head.addWidget(self.units)
        head.addWidget(self.sum, 1)
        foot = QHBoxLayout()
        for push in (self.out_button, csv, html, pdf):
            foot.addWidget(push)
        foot.addWidget(self.said, 1)
        foot.addWidget(close)
        box = column(spacing=8, margins=(16, 14, 16, 14))
        box.addLayout(head)
        box.addWidget(self.rows, 1)
        box.addWidget(self.waits)
        box.addWidget(label("What can be done when", "title"))
        box.addWidget(self.when)
        box.addLayout(foot)
        self.setLayout(box)
        self.refresh()

    def refresh(self) -> None:
        """The bill for so many units."""
        bill = self._session.shelf.bill(self.units.value(), self.left_out)
        self.lines = bill.lines
        fill(self.rows, table(bill), range(2, 7))
        self.sum.setText(summary(bill))
        self.waits.setText("\n".join(bill.waits) or "Nothing holds the work up.")
        today = self._session.now().date()
        self.when.setText("\n".join(due.words(today) for due in calendar(bill)))

    def leave_out(self) -> None:
        """Leave the part of the current line out of what is paid, or take it back in."""
        row = self.rows.currentRow()
        if 0 <= row < len(self.lines):
            self.left_out ^= {self.lines[row].identity}
            self.refresh()
            self.rows.setCurrentCell(row, 0)

    def _ask(self, ending: str, kind: str) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Bill", proposed_name(f"{self._session.build.name} bill", ending), kind
        )
        if name:
            self.save(Path(name))

    def save(self, path: Path) -> None:
        """Write the bill, by the file's ending; what came of it is said."""
        units = self.units.value()
        if path.suffix.lower() != ".pdf":
            self.said.setText(self._session.shelf.write_bill(path, units, self.left_out))
            return
        try:
            write_whole(path, pdf_of(self._session.shelf.bill_page(units, self.left_out), paper=usual_paper()))
        except OSError as error:
            self.said.setText(not_written_words(path, error))
        else:
            self.said.setText(f"Written: {path}.")
