"""A capture (a scope's file, a recording): its figures, its waves over the prediction, kept with its reading."""

import dataclasses
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QDragEnterEvent, QDropEvent, QKeyEvent
from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QMenu, QPushButton, QWidget

from plinth.captures.capture import CaptureError
from plinth.desk.asking import ask
from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label, plain_tip
from plinth.desk.look import look
from plinth.desk.measure.capture_answer import CaptureAnswerRow
from plinth.desk.measure.capture_folder import WatchedFolder
from plinth.desk.measure.capture_plots import CapturePlots
from plinth.desk.measure.capture_saving import CHOICES, ask_save, save
from plinth.desk.measure.capture_stated import FILES, StatedFields, named_as_here
from plinth.desk.measure.dropped import dropped_paths
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.desk.tables import fill, name_heads, reading_table
from plinth.record.kept_capture import CaptureSource, KeptCapture
from plinth.session.capture_against import against_now, laid_over
from plinth.session.capture_beside import HEADS, difference_rows
from plinth.session.capture_prediction import Overlay
from plinth.session.capture_recorder import RECORDER, with_recorder_off
from plinth.session.capture_view import CaptureView, figure_rows, remark_words, view_as_before, view_of, view_of_kept
from plinth.session.captures import CaptureOf, InstrumentRecord
from plinth.session.procedure.taking import Procedure
from plinth.session.runner import words_of

_REMARKS = 5
BEGIN = (
    "Open a file that a scope or a recorder wrote, or drop it here: CSV, WAV, FLAC, AIFF or a NumPy array. The file "
    "itself is never changed. What it tells can be kept in the workshop, with the reading that is drawn from it."
)
SPREADS = "Spreads hold for 95 %: noise, length and steps of the record, not the recorder's calibration."


class CaptureDialog(Dialog):
    """One capture at a time, others beside it. Closing ends what is being read, not what is being kept."""

    def __init__(
        self, parent: QWidget, session: BenchSession, procedure: Procedure | None = None, channel: str = ""
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("A capture")
        look.size(self, 1240, 724)
        self.setAcceptDrops(True)
        self._session, self._jobs, self._channel = session, session.jobs, channel
        self._path: Path | None = None
        self._kept: KeptCapture | None = None
        self._record: InstrumentRecord | None = None
        self._new = False
        self.shown: CaptureView | None = None
        self.beside: list[CaptureView] = []
        self.open_button, self.read_button = button("Open …"), button("Read again")
        self.open_button.clicked.connect(self.ask_file)
        self.read_button.clicked.connect(self.read)
        self.kept_button = button("Kept", tip="Captures kept of this build: shown again, taken off, put back")
        self.more_button = button("More", tip="Another beside it, the recorder's own share, a folder watched, a sweep")
        self.save_button = button("Save …", tip="Figures as CSV or JSON, samples as WAV or CSV")
        for push, fill_menu in (
            (self.kept_button, self._fill_kept), (self.more_button, self._fill_more),
            (self.save_button, self._fill_save),
        ):  # fmt: skip
            push.setMenu(self._menu(push, fill_menu))
        self.stated = StatedFields()
        self.stated.entered.connect(self.read)
        self.kind, self.fields = self.stated.kind, self.stated.fields
        self.name, self.summary = label("No file yet", "title"), label("", "soft", wrap=True)
        self.begin, self.said = label(BEGIN, wrap=True), label("", wrap=True)
        self.over_prediction = QCheckBox("Over the prediction")
        self.over_prediction.setChecked(True)
        self.over_prediction.toggled.connect(lambda _on: self._draw())
        self.earlier_button = button("", "flat", tip="What was captured of it before the build was changed")
        self.earlier_button.clicked.connect(self.show_earlier)
        self.earlier_button.hide()
        self._earlier: KeptCapture | None = None
        self.overlay_words = label("", "soft", wrap=True)
        self.figures = reading_table(HEADS, "Figures of the capture", widest=1)
        self.remarks = label("", "soft", wrap=True)
        self.pictures = CapturePlots(session.jobs)
        self.pictures.span_wanted.connect(self._take_span)
        self.answers = CaptureAnswerRow(session, procedure)
        self.answers.keep_wanted.connect(lambda: self.keep())
        self._folder = WatchedFolder(self)
        self._folder.came.connect(self.show_file)
        self._lay_out()
        session.captures_changed.connect(self._may)
        self._may()

    def _menu(self, push: QPushButton, fill_menu: Callable[[QMenu], None]) -> QMenu:
        menu = QMenu(push)

        def fill_anew() -> None:
            menu.clear()
            fill_menu(menu)

        menu.aboutToShow.connect(fill_anew)
        return menu

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.addWidget(self.name)
        head.addSpacing(look.px(12))
        head.addWidget(self.summary, 1)
        for push in (self.open_button, self.kept_button, self.more_button, self.save_button, self.read_button):
            head.addWidget(push)
        left = column(self.begin, spacing=4)
        self.pictures.head.insertWidget(1, self.over_prediction)
        self.pictures.head.insertWidget(2, self.earlier_button)
        left.addWidget(self.pictures, 1)
        left.addWidget(self.overlay_words)
        right = column(self.figures, self.remarks, spacing=6)
        middle = QHBoxLayout()
        middle.setSpacing(16)
        middle.addLayout(left, 3)
        middle.addLayout(right, 2)
        self.figures.setMinimumWidth(look.column(440))
        close = button("Close  Esc")
        close.clicked.connect(self.reject)
        foot = QHBoxLayout()
        foot.addWidget(self.said, 1)
        foot.addWidget(close)
        box = column(spacing=8, margins=(16, 12, 16, 12))
        box.addLayout(head)
        box.addWidget(self.stated)
        box.addLayout(middle, 1)
        box.addWidget(self.answers)
        box.addLayout(foot)
        self.setLayout(box)

    @property
    def plots(self) -> list[Plot]:
        """The plots that are shown."""
        return self.pictures.plots

    def _may(self) -> None:
        self.read_button.setEnabled(any(of is not None for of in (self._path, self._kept, self._record)))
        self.save_button.setEnabled(self.shown is not None)
        kept = self._session.captures.of()
        self.kept_button.setText(f"Kept ({len(kept)})" if kept else "Kept")
        self.over_prediction.setVisible(self.shown is not None and self.shown.capture is not None)
        self._propose_earlier()

    def _propose_earlier(self) -> None:
        """The button for the same of an earlier version, while there is one that is not shown yet."""
        self._earlier = None
        if self.shown is not None and not self.beside:
            subject = self._of().subject if self._kept is None else self._kept.subject
            self._earlier = self._session.captures.earlier(self.shown.analysis.kind, subject, self._kept)
        if self._earlier is not None:
            self.earlier_button.setText(f"Over version {self._earlier.facts.version}'s")
        self.earlier_button.setVisible(self._earlier is not None)

    # Menus

    def _add(self, menu: QMenu, words: str, call: Callable[[], object], *, on: bool = True) -> None:
        action = QAction(words, menu)
        action.setEnabled(on)
        action.triggered.connect(lambda _checked=False: call())
        menu.addAction(action)

    def _fill_kept(self, menu: QMenu) -> None:
        captures = self._session.captures
        for kept in reversed(captures.of()):
            version = f", version {kept.facts.version}" if kept.facts.version else ""
            self._add(menu, f"{kept.title}, {kept.at:%Y-%m-%d %H:%M}{version}", partial(self.show_kept, kept))
        if not captures.of():
            self._add(menu, "None of this build yet", lambda: None, on=False)
        menu.addSeparator()
        self._add(menu, "Take this one off", self.take_off, on=self._kept is not None)
        gone = captures.taken_off
        self._add(menu, f"Put {gone.title} back" if gone else "Put back", self._put_back, on=gone is not None)

    def _fill_more(self, menu: QMenu) -> None:
        on = self.shown is not None
        self._add(menu, "A file beside it …", self.ask_beside, on=on)
        for kept in reversed(self._session.captures.of()):
            if self._kept is None or kept.number != self._kept.number:
                self._add(menu, f"Beside it: {kept.title}", partial(self.show_beside_kept, kept), on=on)
        self._add(menu, "Nothing beside it", self.nothing_beside, on=bool(self.beside))
        menu.addSeparator()
        self._add(menu, "Keep as the recorder's own (loop-back)", self.keep_as_recorder, on=on)
        menu.addSeparator()
        self._add(menu, "Watch a folder …", self.ask_folder)
        self._add(menu, "Make a sweep to play …", self.make_sweep)

    def _fill_save(self, menu: QMenu) -> None:
        whole = self.shown is not None and self.shown.capture is not None
        for words, ending, kind, samples in CHOICES:
            call = partial(self._ask_save, ending, kind, samples=samples)
            self._add(menu, words, call, on=whole or not samples)

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
            self.show_files(paths)

    def show_files(self, paths: list[Path]) -> None:
        """Read the first file, and show the others beside it."""
        self.show_file(paths[0])
        for path in paths[1:]:
            self.show_beside(path)

    def show_file(self, path: Path) -> None:
        """Read another file; what is stated stays."""
        self._path, self._kept, self._record, self.beside, self._new = path, None, None, [], True
        self.answers.taken_at = None
        self.name.setText(path.name)
        self.read()

    def show_record(self, record: InstrumentRecord) -> None:
        """Show a record that an instrument took, as a file of it."""
        self._path, self._kept, self._record, self.beside = None, None, record, []
        self.answers.taken_at = record.taken_at
        self.name.setText(record.content.name)
        self.read()

    def show_kept(self, kept: KeptCapture) -> None:
        """Show a capture that was kept, as it was stated then."""
        self._path, self._kept, self._record, self.beside = None, kept, None, []
        self.answers.taken_at = None
        self._jobs.cancel("capture")
        self.name.setText(kept.title)
        self.said.setText(f"{kept.title} is being read …")
        self._session.captures.look(kept, self._take_kept, self._failed)

    def _take_kept(self, answer: object) -> None:
        assert isinstance(answer, CaptureView)
        self.stated.show_options(answer.options)
        self._take(answer)

    def read(self) -> None:
        """Read anew with what is stated, off the window's thread; a reading under way is ended first."""
        self._jobs.cancel("capture")
        try:
            options = self.stated.stated()
        except CaptureError as error:
            self.said.setText(f"{named_as_here(str(error))}.")
            return
        if self._kept is not None:
            self._session.captures.look(self._kept, self._take, self._failed, options)
            return
        if self._record is not None:
            content = self._record.content
            self._jobs.ask("capture", lambda _task: view_of_kept(content, options), self._take, self._failed, long=True)
            return
        if self._path is None:
            return
        path, session = self._path, self._session
        self.said.setText(f"{path.name} is being read …")
        # Only when a file is first looked at: what is taken out of a field afterwards stays out.
        remembered = session.captures.stated_of_last(path.suffix) if self._new else None
        self._new = False
        self._jobs.ask(
            "capture", lambda _task: view_as_before(path, options, remembered), self._take, self._failed,
            most_s=None, long=True,
        )  # fmt: skip

    def _failed(self, error: Exception) -> None:
        self.said.setText(f"{named_as_here(str(error))}." if isinstance(error, CaptureError) else words_of(error))

    def _take(self, answer: object) -> None:
        assert isinstance(answer, CaptureView)
        off = with_recorder_off(self._session.captures, answer)
        self.shown = off.view
        self.summary.setText(answer.summary)
        if self._path is not None:
            self.stated.show_options(dataclasses.replace(answer.options, kind=self.stated.stated().kind))
        self.said.setText(f"{off.words} {SPREADS}".strip())
        self._show_figures()
        remarks = remark_words(self.shown.analysis)
        # At large text the table needs the room.
        count = _REMARKS if look.scale < 1.3 else 1
        more = [f"{len(remarks) - count} more: save the figures to read them."] if len(remarks) > count else []
        self.remarks.setText(named_as_here("\n".join([*remarks[:count], *more])))
        self.remarks.setToolTip(plain_tip(named_as_here("\n".join(remarks))))
        self._draw()
        self.answers.show_analysis(self.shown.analysis)
        self._may()
        self.answers.keep_button.setFocus()

    def _show_figures(self) -> None:
        assert self.shown is not None
        if self.beside:
            try:
                self._show_differences(self.beside[-1])
            except CaptureError as error:
                self.said.setText(f"Not held beside {self.beside[-1].name}: {error}.")
            else:
                return
        rows = figure_rows(self.shown.analysis)
        fill(self.figures, [(*row[:3], "", "", "") for row in rows], right=(2,))
        for index, row in enumerate(rows):
            for place in range(3):
                cell = self.figures.item(index, place)
                if cell is not None:
                    cell.setToolTip(plain_tip(f"{row[1]}: {row[3]}"))
        for place in (3, 4, 5):
            self.figures.setColumnHidden(place, True)
        self.figures.setHorizontalHeaderLabels(["", "Figure", "Value", "", "", ""])
        name_heads(self.figures, {0: "Channel"})
        self.figures.setColumnHidden(0, not any(row[0] for row in rows))

    def _show_differences(self, other: CaptureView) -> None:
        from plinth.captures.comparison import compared

        assert self.shown is not None
        rows = difference_rows(compared(self.shown.analysis, other.analysis))
        self.figures.setHorizontalHeaderLabels(list(HEADS))
        name_heads(self.figures, {0: "Channel", 3: "Word"})
        fill(self.figures, rows, right=(2, 4, 5))
        for place in (3, 4, 5):
            self.figures.setColumnHidden(place, False)
        self.figures.setColumnHidden(0, not any(row[0] for row in rows))

    def _draw(self) -> None:
        if self.shown is None:
            return
        view, beside = self.shown, tuple(self.beside)
        self.begin.setVisible(not view.pictures)
        self.overlay_words.setText("")
        self.pictures.show_pictures(view.pictures, view.capture)
        wanted = self.over_prediction.isChecked()
        if not beside and not (wanted and view.capture is not None):
            return
        against = against_now(self._session, self.answers.procedure, self._channel, view.options) if wanted else None

        def show(answer: object) -> None:
            assert isinstance(answer, Overlay), "that is what was asked for"
            if self.shown is view:
                self.overlay_words.setText(answer.words)
                self.pictures.show_pictures(answer.pictures, view.capture)

        self._jobs.ask(
            "capture overlay", lambda _task: laid_over(view, beside, against), show,
            lambda error: self.overlay_words.setText(words_of(error)), long=True,
        )  # fmt: skip

    def _take_span(self, span: str) -> None:
        self.fields["span"].setText(span)
        self.read()

    # Beside it

    def ask_beside(self) -> None:
        """Ask for another file and show it beside."""
        name, _ = QFileDialog.getOpenFileName(self, "Another beside it", "", FILES)
        if name:
            self.show_beside(Path(name))

    def show_beside(self, path: Path) -> None:
        """Show another file over the same axes, and what differs; read with what is stated here."""
        try:
            options = self.stated.stated()
        except CaptureError as error:
            self.said.setText(f"{named_as_here(str(error))}.")
            return
        self._jobs.ask(
            f"capture beside {path}", lambda _task: view_of(path, options), self._take_beside, self._failed,
            most_s=None, long=True,
        )  # fmt: skip

    def show_beside_kept(self, kept: KeptCapture) -> None:
        """Show a kept capture beside this one."""
        self._session.captures.look(
            kept, self._take_beside, self._failed, job=f"capture beside {kept.number}"
        )  # fmt: skip

    def _take_beside(self, answer: object) -> None:
        assert isinstance(answer, CaptureView)
        self.beside.append(answer)
        if self.shown is not None:
            self.said.setText(f"Beside it: {', '.join(view.name for view in self.beside)}, in the pale line.")
            self._show_figures()
            self._draw()
            self._propose_earlier()

    def show_earlier(self) -> None:
        """Show what was captured of it in an earlier version, in the pale line."""
        if self._earlier is not None:
            self.show_beside_kept(self._earlier)

    def nothing_beside(self) -> None:
        """Show this one alone again."""
        self.beside = []
        self._show_figures()
        self._draw()
        self._propose_earlier()

    # Kept

    def _of(self) -> CaptureOf:
        """What the shown capture is of: what the current test asks for, where a figure answers it."""
        procedure = self.answers.procedure
        request = None if procedure is None or not self.answers.answers else procedure.request
        return CaptureOf("note") if request is None else CaptureOf(request.subject, dict(request.conditions))

    def keep(self) -> None:
        """Keep the capture, and the reading that is drawn from it."""
        self._keep_as(self._of(), lambda kept: self.answers.take(kept, self.said.setText))

    def keep_as_recorder(self) -> None:
        """Keep it as what the recorder itself adds."""
        self._keep_as(
            CaptureOf(RECORDER),
            lambda kept: self.said.setText(f"{kept.title} is kept as the recorder's own: its share is taken off."),
        )

    def _keep_as(self, of: CaptureOf, then: Callable[[KeptCapture], None]) -> None:
        if self.shown is None:
            return
        if self._kept is not None and of.subject != RECORDER:
            then(self._kept)
            return
        self.answers.keep_button.setEnabled(False)
        self.said.setText(f"{self.shown.name} is being kept …")

        def done(kept: KeptCapture | None) -> None:
            self.answers.keep_button.setEnabled(True)
            if kept is None:
                self.said.setText("It could not be kept: the sentence at the top of the window says why.")
                return
            self._kept = kept
            then(kept)
            self.answers.keep_button.setFocus()
            self._may()

        source = CaptureSource.FILE if self._record is None else self._record.source
        self._session.captures.keep(self.shown, of, done, source)

    def take_off(self) -> None:
        """Take the kept capture that is shown out of the workshop; readings drawn from it stay."""
        if self._kept is not None and self._session.captures.remove(self._kept):
            self.said.setText(f"{self._kept.title} is taken off; its readings stay. It can be put back.")
            self._kept = None

    def _put_back(self) -> None:
        if self._session.captures.put_back():
            self.said.setText("It is back.")

    # Folders and sweeps

    def ask_folder(self) -> None:
        """Ask for a folder and read whatever comes into it."""
        name = QFileDialog.getExistingDirectory(self, "Watch a folder")
        if name:
            self.watch(Path(name))

    def watch(self, folder: Path) -> None:
        """Read whatever file comes into this folder from now on."""
        try:
            self._folder.watch(folder)
        except OSError as error:
            self.said.setText(f"{folder} cannot be watched ({error.strerror or error}). Choose another folder.")
            return
        self.said.setText(f"{folder} is watched: the next file that comes into it is read.")

    def make_sweep(self) -> None:
        """Make a sweep to be played."""
        from plinth.desk.measure.sweep_dialog import SweepDialog

        ask(SweepDialog(self))

    # What goes out

    def _ask_save(self, ending: str, kind: str, *, samples: bool) -> None:
        assert self.shown is not None, "the menu is shut before"
        self.said.setText(ask_save(self, self.shown, ending, kind, samples=samples) or self.said.text())

    def save(self, path: Path, *, samples: bool = False) -> str:
        """Figures as CSV or JSON, or ``samples`` as WAV or CSV, by the name's ending; what to say of it."""
        assert self.shown is not None, "there is something to be saved"
        return save(self.shown, path, samples=samples)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        # Enter keeps at the button that says so, which takes it itself: in a field it reads anew.
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.accept()
            return
        super().keyPressEvent(event)

    def done(self, answer: int) -> None:
        """Close, in whichever way; what is being read ends."""
        for job in ("capture", "capture overlay", "capture spectrogram"):
            self._jobs.cancel(job)
        self._folder.end()
        self.shown = None
        super().done(answer)
