"""A photo large: click to mark a place, say what is to be seen there."""

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QListWidget, QSizePolicy, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.record.photo import Photo, PhotoMark
from plinth.report.file_out import not_written_words, proposed_name, write_whole
from plinth.session.photos import MOST_MARKS, MOST_WORDS

# How far the arrow keys move the place that is to be marked, as a share of the picture.
_STEP = 0.02


class MarkedPicture(QWidget):
    """The picture with its marks, numbered. ``chosen`` a place in shares of it: a click, or Space after arrow keys."""

    chosen = Signal(float, float)

    def __init__(self, picture: QPixmap) -> None:
        super().__init__()
        self._picture = picture
        self._marks: tuple[PhotoMark, ...] = ()
        self._aim: tuple[float, float] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Picture: arrow keys move the place, Space marks it")

    def sizeHint(self) -> QSize:
        return QSize(look.px(640), look.px(440))

    def show_marks(self, marks: Sequence[PhotoMark]) -> None:
        """Show these."""
        self._marks = tuple(marks)
        self.update()

    def place(self) -> QRectF:
        """Where the picture lies in the widget."""
        size = self._picture.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        return QRectF(
            (self.width() - size.width()) / 2.0, (self.height() - size.height()) / 2.0, size.width(), size.height()
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = self.place()
        if place.contains(event.position()):
            at = event.position() - place.topLeft()
            self.chosen.emit(at.x() / place.width(), at.y() / place.height())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        moves = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        key = Qt.Key(event.key())
        if key in moves:
            x, y = self._aim or (0.5, 0.5)
            dx, dy = moves[key]
            self._aim = (min(max(x + dx * _STEP, 0.0), 1.0), min(max(y + dy * _STEP, 0.0), 1.0))
            self.update()
        elif key == Qt.Key.Key_Space and self._aim is not None:
            self.chosen.emit(*self._aim)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        place = self.place()
        painter.drawPixmap(place, self._picture, QRectF(self._picture.rect()))
        painter.setFont(look.font(13, bold=True))
        for number, mark in enumerate(self._marks, 1):
            self._ring(painter, place, mark.x, mark.y, str(number))
        if self._aim is not None:
            self._ring(painter, place, *self._aim, "")
        painter.end()

    @staticmethod
    def _ring(painter: QPainter, place: QRectF, x: float, y: float, words: str) -> None:
        """A ring with its number, dark on light, so that it is seen on any picture."""
        at, r = place.topLeft() + QPointF(x * place.width(), y * place.height()), look.px(13)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for colour, width in ((Qt.GlobalColor.white, 5), (Qt.GlobalColor.black, 2)):
            painter.setPen(QPen(colour, width))
            painter.drawEllipse(at, r, r)
        box = QRectF(at.x() + r, at.y() - r - look.px(6), look.px(20), look.px(18))
        if words:
            painter.fillRect(box, Qt.GlobalColor.white)
            painter.setPen(Qt.GlobalColor.black)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


class PhotoViewer(Dialog):
    """Words, marks and the way out; everything is kept as it is typed."""

    def __init__(self, parent: QWidget, session: BenchSession, photo: Photo) -> None:
        super().__init__(parent)
        self.setWindowTitle(photo.name)
        self._session, self._photo = session, photo
        # Where a mark is to come whose words are being typed.
        self._at: tuple[float, float] | None = None
        self._marks = list(photo.marks)
        picture = QPixmap()
        content = session.photos.picture(photo, whole=False)
        readable = content is not None and picture.loadFromData(content)
        self.picture = MarkedPicture(picture)
        self.picture.setVisible(readable)
        self.picture.chosen.connect(self.mark_here)
        self.words = QLineEdit(photo.words)
        self.words.setMaxLength(MOST_WORDS)
        self.words.setPlaceholderText("What it shows")
        self.words.setAccessibleName("What it shows")
        self.words.editingFinished.connect(self.keep)
        self.mark_words = QLineEdit()
        self.mark_words.setPlaceholderText("What is to be seen at the new mark? Enter keeps it.")
        self.mark_words.setAccessibleName("What is to be seen at the mark")
        self.mark_words.setMaxLength(120)
        self.mark_words.returnPressed.connect(self.keep_mark)
        self.mark_words.hide()
        self.list = QListWidget()
        self.list.setAccessibleName("Marks")
        self.drop_button = button("Take this mark off", "flat")
        self.drop_button.clicked.connect(self.drop_mark)
        self.save_button = button("Original as a file …", "flat")
        self.save_button.clicked.connect(self.ask_save)
        self.off_button = button("Take the photo off", "flat", tip="It can be put back")
        self.off_button.clicked.connect(self.take_off)
        close = button("Close  Esc", "main")
        close.clicked.connect(self.accept)
        taken = f"{photo.at.astimezone():%Y-%m-%d %H:%M}, {photo.size / 1e6:.1f} MB"
        self.said = label(f"Taken in {taken}. A click on the picture marks a place.", "small", wrap=True)
        side = column(label("Marks", "title"), self.list, self.drop_button, spacing=6)
        row = QHBoxLayout()
        row.addWidget(self.picture, 1)
        row.addLayout(side)
        foot = QHBoxLayout()
        for widget in (close, self.save_button, self.off_button):
            foot.addWidget(widget)
        foot.addStretch()
        box = column(self.words, spacing=8, margins=(16, 14, 16, 14))
        box.addLayout(row, 1)
        box.addWidget(self.mark_words)
        box.addWidget(self.said)
        box.addLayout(foot)
        self.setLayout(box)
        self.list.setFixedWidth(look.column(200))
        self.resize(look.column(940), look.px(620))
        if not readable:
            self.said.setText("This picture cannot be read any more; its words and marks are whole.")
        self._show()

    def _show(self) -> None:
        self.list.clear()
        self.list.addItems([f"{k}  {mark.words}" for k, mark in enumerate(self._marks, 1)])
        self.list.setCurrentRow(len(self._marks) - 1)
        self.drop_button.setEnabled(bool(self._marks))
        pending = [] if self._at is None else [PhotoMark(*self._at, "")]
        self.picture.show_marks([*self._marks, *pending])

    def mark_here(self, x: float, y: float) -> None:
        """A place was chosen: ask what is to be seen there."""
        if len(self._marks) >= MOST_MARKS:
            self.said.setText(f"Found {MOST_MARKS} marks, expected no more on one picture.")
            return
        self._at = (x, y)
        self.mark_words.show()
        self.mark_words.setFocus()
        self._show()

    def keep_mark(self) -> None:
        """Keep the mark with its words; without words nothing happens."""
        words = self.mark_words.text().strip()
        if self._at is None or not words:
            self.mark_words.setPlaceholderText("Found no words, expected some: they stand beside the number.")
            return
        self._marks.append(PhotoMark(*self._at, words))
        if self.keep():
            self._at = None
            self.mark_words.clear()
            self.mark_words.hide()
        else:
            self._marks.pop()
        self._show()

    def drop_mark(self) -> None:
        """Take the chosen mark off."""
        row = self.list.currentRow()
        if 0 <= row < len(self._marks):
            dropped = self._marks.pop(row)
            if not self.keep():
                self._marks.insert(row, dropped)
            self._show()

    def keep(self) -> bool:
        """Keep words and marks."""
        kept = self._session.photos.change_photo(self._photo, self.words.text(), tuple(self._marks))
        if not kept:
            self.said.setText("Not kept: see what the window says. What you typed stays here.")
        return kept

    def take_off(self) -> None:
        """Take the photo off and close."""
        if self._session.photos.remove_photo(self._photo):
            self.accept()

    def ask_save(self) -> None:
        """Ask where to and write the original."""
        ending = Path(self._photo.name).suffix or ".png"
        name, _ = QFileDialog.getSaveFileName(self, "Original", proposed_name(Path(self._photo.name).stem, ending))
        if name:
            self.save(Path(name))

    def save(self, path: Path) -> None:
        """Write the original; what came of it is said."""
        content = self._session.photos.picture(self._photo, whole=True)
        if content is None:
            self.said.setText("The original cannot be read any more.")
            return
        try:
            write_whole(path, content)
        except OSError as error:
            self.said.setText(not_written_words(path, error))
        else:
            self.said.setText(f"Written: {path}.")
