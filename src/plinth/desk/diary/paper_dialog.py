"""Which paper of a build is written: the report (with what in it), the power table, the record for the next owner."""

from pathlib import Path

from PySide6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QGridLayout, QHBoxLayout, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.habits import usual_paper
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.pdf import Paper as PageSize
from plinth.report.file_out import proposed_name
from plinth.report.html import PAPERS, SECTIONS, Paper, Section

SAID: dict[Paper, str] = {
    "report": "All that is kept and predicted, what a reader wants first in front. Sections can be left out.",
    "power_table": "Watts into every load from every source, claimed, predicted and read. It takes some seconds.",
    "build_record": "To be kept with the amplifier: cautions, settings, wiring, parts and how each is known, every "
    "last reading, what was never tried, versions and why.",
}  # fmt: skip
FORMATS: tuple[tuple[str, str, PageSize], ...] = (
    ("HTML page, all in one file", ".html", "A4"), ("PDF, A4", ".pdf", "A4"), ("PDF, US letter", ".pdf", "letter"),
)  # fmt: skip


class PaperDialog(Dialog):
    """``chosen`` where it is to be written; the rest as it was ticked."""

    def __init__(self, parent: QWidget, build_name: str) -> None:
        super().__init__(parent)
        self.setWindowTitle("Report and papers")
        look.size(self, 620, 360)
        self._build_name = build_name
        self.chosen: Path | None = None
        self.paper_choice, self.format_choice = QComboBox(), QComboBox()
        self.paper_choice.setAccessibleName("Paper")
        self.paper_choice.addItems(list(PAPERS.values()))
        self.format_choice.setAccessibleName("Format")
        # The page first, then paper as it is usual here.
        self._formats = sorted(FORMATS, key=lambda each: (each[1] == ".pdf", each[2] != usual_paper()))
        self.format_choice.addItems([words for words, _, _ in self._formats])
        self.what = label("", "soft", wrap=True)
        self.paper_choice.currentIndexChanged.connect(lambda _index: self._show())
        self.ticks: dict[Section, QCheckBox] = {}
        self.sections = QWidget()
        grid = QGridLayout(self.sections)
        grid.setContentsMargins(0, 0, 0, 0)
        for place, (section, words) in enumerate(SECTIONS.items()):
            tick = QCheckBox(words)
            tick.setChecked(True)
            self.ticks[section] = tick
            grid.addWidget(tick, place // 3, place % 3)
        write, close = button("Write …  ⏎", "main"), button("Close  Esc")
        write.setDefault(True)
        write.clicked.connect(self.ask_where)
        close.clicked.connect(self.reject)
        foot = QHBoxLayout()
        foot.addWidget(write)
        foot.addStretch()
        foot.addWidget(close)
        box = column(label(build_name, "title"), self.paper_choice, self.what, spacing=10, margins=(18, 14, 18, 14))
        box.addWidget(self.sections)
        box.addStretch()
        box.addWidget(self.format_choice)
        box.addLayout(foot)
        self.setLayout(box)
        self._show()

    @property
    def paper(self) -> Paper:
        """The paper that is chosen."""
        return list(PAPERS)[self.paper_choice.currentIndex()]

    @property
    def size_of_page(self) -> PageSize:
        """Of a PDF."""
        return self._formats[self.format_choice.currentIndex()][2]

    @property
    def leave_out(self) -> tuple[Section, ...]:
        """Sections without a tick, of a report."""
        return tuple(section for section, tick in self.ticks.items() if not tick.isChecked())

    def _show(self) -> None:
        self.what.setText(SAID[self.paper])
        self.sections.setEnabled(self.paper == "report")

    def ask_where(self) -> None:
        """Ask where to, and close where that was said."""
        words, ending, _ = self._formats[self.format_choice.currentIndex()]
        stem = self._build_name if self.paper == "report" else f"{self._build_name} {self.paper.replace('_', ' ')}"
        name, _ = QFileDialog.getSaveFileName(
            self, PAPERS[self.paper], proposed_name(stem, ending), f"{words} (*{ending})"
        )
        if name:
            self.chosen = Path(name)
            self.accept()
