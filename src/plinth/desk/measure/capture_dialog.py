"""A capture (a scope's file, a recording): its figures with spreads, its waveform, its spectrum, what is stated."""

import json
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QComboBox, QFileDialog, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from plinth.captures.capture import CaptureError
from plinth.captures.options import KINDS, Options, Sweep, numbers_of
from plinth.captures.words import KIND_WORDS
from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label, plain_tip
from plinth.desk.look import look
from plinth.desk.measure.dropped import dropped_paths
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.desk.tables import fill, reading_table
from plinth.report.file_out import not_written_words, proposed_name, write_whole
from plinth.session.capture_pictures import Picture
from plinth.session.capture_view import CaptureView, figure_rows, figures_csv, remark_words, view_of
from plinth.session.runner import words_of

_REMARKS = 6
# What can be stated: its name, an example, what it means.
_FIELDS = {
    "volts": (
        "Full scale, V",
        "50 or 50,4",
        "Volts (or amperes) at the recorder's full scale, for all channels or each",
    ),
    "probe": ("Probe", "10 or 10,1", "What each value is multiplied by, for all channels or each"),
    "rate": ("Rate, Hz", "96000", "Samples a second, where the file does not say or says it wrongly"),
    "load": ("Load, ohm", "8.11", "The load that the output drove, for watts"),
    "step": ("A level, s", "0.2", "Seconds of each level, where the record is a sweep of levels"),
    "sweep": ("Sweep, Hz:Hz:s", "10:40000:4", "An exponential sweep: from, to, how long"),
}
FILES = "Captures (*.csv *.txt *.tsv *.wav *.flac *.aif *.aiff *.npy);;All files (*)"
BEGIN = (
    "Open a file that a scope or a recorder wrote, or drop it here: CSV, WAV, FLAC, AIFF or a NumPy array. It is read, "
    "never changed, and not kept in the workshop: what it tells can be saved as a table."
)


class CaptureDialog(Dialog):
    """One capture at a time. Closing ends what is under way."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self.setWindowTitle("Figures of a capture")
        look.size(self, 1180, 700)
        self.setAcceptDrops(True)
        self._jobs = session.jobs
        self._path: Path | None = None
        self.shown: CaptureView | None = None
        self.open_button, self.read_button = button("Open …"), button("Read again  Enter")
        self.open_button.clicked.connect(self.ask_file)
        self.read_button.clicked.connect(self.read)
        self.kind = QComboBox()
        self.kind.setAccessibleName("What it is a capture of")
        self.kind.addItems(["by its looks", *(KIND_WORDS[kind] for kind in KINDS)])
        self.kind.activated.connect(lambda _index: self.read())
        self.fields = {key: self._field(*words) for key, words in _FIELDS.items()}
        self.name, self.summary = label("No file yet", "title"), label("", "soft", wrap=True)
        self.begin, self.said = label(BEGIN, wrap=True), label("", wrap=True)
        self.figures = reading_table(["", "Figure", "Value"], "Figures of the capture", widest=1)
        self.remarks = label("", "soft", wrap=True)
        self.plots: list[Plot] = []
        self.csv_button, self.json_button = button("Figures as CSV …"), button("Figures as JSON …")
        self.csv_button.clicked.connect(lambda: self._ask_save(".csv", "CSV table (*.csv)"))
        self.json_button.clicked.connect(lambda: self._ask_save(".json", "JSON (*.json)"))
        self._lay_out()
        self._may()

    def _field(self, name: str, example: str, tip: str) -> QLineEdit:
        field = QLineEdit()
        field.setToolTip(tip)
        field.setAccessibleName(name)
        field.setPlaceholderText(example)
        field.returnPressed.connect(self.read)
        return field

    def _lay_out(self) -> None:
        stated = QGridLayout()
        stated.setVerticalSpacing(2)
        names = [("It shows", self.kind), *((field.accessibleName(), field) for field in self.fields.values())]
        for index, (name, widget) in enumerate(names):
            stated.addWidget(label(name, "soft"), 0, index)
            stated.addWidget(widget, 1, index)
            stated.setColumnStretch(index, 2 if index == 0 else 1)
        self._plot_box = QVBoxLayout()
        self._plot_box.setSpacing(6)
        self._plot_box.addWidget(self.begin, 0, Qt.AlignmentFlag.AlignTop)
        plots = QWidget()
        plots.setLayout(self._plot_box)
        right = column(self.figures, self.remarks, spacing=6)
        head = QHBoxLayout()
        head.addWidget(self.name)
        head.addSpacing(look.px(12))
        head.addWidget(self.summary, 1)
        head.addWidget(self.open_button)
        head.addWidget(self.read_button)
        middle = QHBoxLayout()
        middle.setSpacing(16)
        middle.addWidget(plots, 3)
        middle.addLayout(right, 2)
        close = button("Close  Esc")
        close.clicked.connect(self.reject)
        foot = QHBoxLayout()
        foot.addWidget(self.said, 1)
        for push in (self.csv_button, self.json_button, close):
            foot.addWidget(push)
        box = column(spacing=8, margins=(16, 14, 16, 14))
        box.addLayout(head)
        box.addLayout(stated)
        box.addLayout(middle, 1)
        box.addLayout(foot)
        self.setLayout(box)

    def _may(self) -> None:
        self.read_button.setEnabled(self._path is not None)
        for push in (self.csv_button, self.json_button):
            push.setEnabled(self.shown is not None)

    # What is read

    def ask_file(self) -> None:
        """Ask for a file and read it."""
        name, _ = QFileDialog.getOpenFileName(self, "Open a capture", "", FILES)
        if name:
            self.show_file(Path(name))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dropped_paths(event):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = dropped_paths(event)
        if paths:
            event.acceptProposedAction()
            self.show_file(paths[0])
            if len(paths) > 1:
                self.said.setText(f"Of {len(paths)} files the first is read: drop them one after another.")

    def show_file(self, path: Path) -> None:
        """Read another file; what is stated stays."""
        self._path = path
        self.name.setText(path.name)
        self.read()

    def read(self) -> None:
        """Read the file with what is stated, off the window's thread; a reading under way is ended first."""
        if self._path is None:
            return
        self._jobs.cancel("capture")
        path = self._path
        try:
            options = self._stated()
        except CaptureError as error:
            self.said.setText(f"{_named(str(error))}.")
            return
        self.said.setText(f"{path.name} is being read …")
        self._jobs.ask(
            "capture", lambda _task: view_of(path, options), self._take, self._failed, most_s=None, long=True
        )

    def _stated(self) -> Options:
        typed = {key: field.text().strip() for key, field in self.fields.items()}

        def single(key: str, option: str) -> float | None:
            return numbers_of(option, typed[key], count=1)[0] if typed[key] else None

        def several(key: str, option: str) -> tuple[float, ...]:
            return numbers_of(option, typed[key]) if typed[key] else ()

        kind = self.kind.currentIndex()
        sweep = numbers_of("--sweep", typed["sweep"], separator=":", count=3) if typed["sweep"] else None
        return Options(
            kind=None if kind <= 0 else KINDS[kind - 1],
            volts_per_full_scale=several("volts", "--volts-per-full-scale"), probe=several("probe", "--probe"),
            rate_hz=single("rate", "--rate"), load_ohm=single("load", "--load"), step_s=single("step", "--step-s"),
            sweep=None if sweep is None else Sweep(*sweep),
        )  # fmt: skip

    def _failed(self, error: Exception) -> None:
        self.said.setText(f"{_named(str(error))}." if isinstance(error, CaptureError) else words_of(error))

    def _take(self, answer: object) -> None:
        assert isinstance(answer, CaptureView)
        self.shown = answer
        self.summary.setText(answer.summary)
        self.said.setText(
            "Spreads hold for 95 %: noise, length and steps of the record, not the recorder's calibration."
        )
        rows = figure_rows(answer.analysis)
        fill(self.figures, [row[:3] for row in rows], right=(2,))
        for index, row in enumerate(rows):
            for place in range(3):
                cell = self.figures.item(index, place)
                if cell is not None:
                    cell.setToolTip(plain_tip(f"{row[1]}: {row[3]}"))
        self.figures.setColumnHidden(0, not any(row[0] for row in rows))
        remarks = remark_words(answer.analysis)
        more = [f"{len(remarks) - _REMARKS} more: save the figures to read them."] if len(remarks) > _REMARKS else []
        self.remarks.setText("\n".join([*remarks[:_REMARKS], *more]))
        self._draw(answer.pictures)
        self._may()

    def _draw(self, pictures: tuple[Picture, ...]) -> None:
        self.begin.setVisible(not pictures)
        for plot in self.plots:
            self._plot_box.removeWidget(plot)
            plot.hide()
            plot.deleteLater()
        self.plots = []
        for picture in pictures:
            span = picture.x[1] - picture.x[0]
            scale, unit = (1e3, "ms") if picture.x_unit == "s" and span < 1.0 else (1.0, picture.x_unit)
            plot = Plot(picture.title, picture.x_name, unit, log_x=picture.log_x, x_scale=scale)
            plot.set_series(picture.series)
            plot.set_view(picture.x, picture.y)
            plot.aside.setText(picture.aside)
            self.plots.append(plot)
            self._plot_box.addWidget(plot, 1)

    # What goes out

    def _ask_save(self, ending: str, kind: str) -> None:
        assert self.shown is not None
        name, _ = QFileDialog.getSaveFileName(self, "Save", proposed_name(f"{self.shown.name} figures", ending), kind)
        if name:
            self.said.setText(self.save(Path(name)))

    def save(self, path: Path) -> str:
        """The figures as CSV or JSON, by the name's ending; what to say of it."""
        assert self.shown is not None
        text = (
            json.dumps(self.shown.analysis.as_document(), indent=2, ensure_ascii=False) + "\n"
            if path.suffix == ".json"
            else figures_csv(self.shown)
        )
        try:
            write_whole(path, text)
        except OSError as error:
            return not_written_words(path, error)
        return f"Saved as {path.name}."

    def done(self, answer: int) -> None:
        """Close, in whichever way; what is under way ends."""
        self._jobs.cancel("capture")
        self.shown = None
        super().done(answer)


def _named(sentence: str) -> str:
    """The names of the command's options as the fields here are called."""
    for option, key in (
        ("--volts-per-full-scale", "volts"), ("--probe", "probe"), ("--rate", "rate"), ("--load", "load"),
        ("--step-s", "step"), ("--sweep", "sweep"),
    ):  # fmt: skip
        name = _FIELDS[key][0].partition(",")[0]
        sentence = sentence.replace(f"give {option}", f"type it under {name}").replace(option, name)
    return sentence
