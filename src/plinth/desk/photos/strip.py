"""The photos of a check, step, reading or note: as small pictures, with what is said of them; a way to add one."""

import functools
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMimeData, Qt
from PySide6.QtGui import (
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
    QImage,
    QKeyEvent,
    QKeySequence,
    QPixmap,
    QShowEvent,
)
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QWidget

from plinth.desk.asking import ask
from plinth.desk.labels import button, clear, column, label
from plinth.desk.look import look
from plinth.desk.photos.scaling import PictureError, image_content, scaled_copy
from plinth.desk.photos.viewer import PhotoViewer
from plinth.desk.session import BenchSession
from plinth.processes.confined import ConfinedError, run_confined
from plinth.record.photo import Photo
from plinth.session.photos import MOST_BYTES

_KINDS = "Pictures (*.jpg *.jpeg *.png *.webp *.bmp *.gif *.tif *.tiff)"
_SHOWN = 4
# A file larger than this is no photo.
_MOST_FILE = 200_000_000


# The largest picture of a camera takes two seconds on a slow machine.
MOST_SCALING_S = 20.0


class PhotoStrip(QWidget):
    """``show_subject`` says whose; a file can be dropped on it, a picture pasted (Ctrl+V)."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session, self._subject, self._stale = session, "", True
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Photos")
        self.add_button = button("Add a photo …", "flat", tip="From a file; or drop one here, or paste it (Ctrl+V)")
        self.add_button.clicked.connect(self.ask_file)
        self.back_button = button("Put back", "flat", tip="The photo that was taken off last")
        self.back_button.clicked.connect(session.photos.put_back_photo)
        self.said = label("", "small", wrap=True)
        self._row = QHBoxLayout()
        self._row.setSpacing(8)
        foot = QHBoxLayout()
        for widget in (self.add_button, self.back_button):
            foot.addWidget(widget)
        foot.addWidget(self.said, 1)
        box = column(spacing=4)
        box.addLayout(self._row)
        box.addLayout(foot)
        self.setLayout(box)
        session.photos_changed.connect(self.refresh)
        session.build_switched.connect(self.refresh)

    def show_subject(self, subject: str) -> None:
        """Show the photos of another subject; none can be added to an empty one."""
        if subject != self._subject:
            self._subject = subject
            self.said.setText("")
            self.refresh()

    def refresh(self) -> None:
        """Take the photos anew; out of sight, once it comes into it."""
        self._stale = not self.isVisible()
        if self._stale:
            return
        clear(self._row)
        photos = self._session.photos.of(self._subject) if self._subject else []
        for photo in photos[-_SHOWN:]:
            self._row.addWidget(self._thumb(photo))
        if len(photos) > _SHOWN:
            self._row.addWidget(label(f"and {len(photos) - _SHOWN} before", "small"))
        self._row.addStretch()
        self.add_button.setEnabled(bool(self._subject))
        self.back_button.setVisible(self._session.photos.photo_taken_off is not None)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._stale:
            self.refresh()

    def _thumb(self, photo: Photo) -> QPushButton:
        push = button("", "flat", tip=photo.words or photo.name)
        side = look.px(64)
        content = self._session.photos.picture(photo, whole=False)
        picture = QPixmap()
        if content is not None and picture.loadFromData(content):
            size = picture.size().scaled(side * 2, side, Qt.AspectRatioMode.KeepAspectRatio)
            push.setIcon(
                picture.scaled(size, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation)
            )
            push.setIconSize(size)
        else:
            push.setText("not readable")
        marks = f", {len(photo.marks)} marked" if photo.marks else ""
        push.setAccessibleName(f"Photo {photo.words or photo.name}{marks}")
        push.clicked.connect(functools.partial(self.open_photo, photo))
        return push

    def open_photo(self, photo: Photo, _checked: bool = False) -> None:  # Qt hands it over
        """Show a photo large, to be marked."""
        ask(PhotoViewer(self, self._session, photo))

    # Taking one in

    def ask_file(self) -> None:
        """Ask for a picture file."""
        name, _ = QFileDialog.getOpenFileName(self, "Photo", "", _KINDS)
        if name:
            self.add_file(Path(name))

    def add_file(self, path: Path) -> None:
        """Take in a picture file; what is wrong with it is said."""
        self.add(path.name, lambda: _content_of(path))

    def add(self, name: str, content_of: Callable[[], bytes]) -> None:
        """Read and scale a picture off the window's thread, then keep both."""
        subject, build_id = self._subject, self._session.stored.id
        if not subject:
            return
        waiting = self._session.photos.photo_begun(name)
        self.said.setText(f"Taking in {name} …")

        def work(_task: object) -> tuple[bytes, bytes]:
            content = content_of()
            try:
                scaled = run_confined(scaled_copy, content, name, most_s=MOST_SCALING_S)
            except ConfinedError as error:
                raise PictureError(f"{name}: {error}. It was not kept") from error
            # The original goes into the file here: 30 MB would hold the window for half a second.
            self._session.photos.put_aside(content)
            return content, scaled

        def done(answer: object) -> None:
            assert isinstance(answer, tuple), "that is what was asked for"
            content, scaled = answer
            self._session.photos.photo_ended(waiting)
            kept = self._session.photos.add_photo(subject, name, content, scaled, build_id)
            if kept is None:
                self.said.setText(f"{name} was not kept.")
            else:
                small = f"{name} is larger than {MOST_BYTES // 1_000_000} MB: only its scaled copy is kept."
                self.said.setText("" if kept.size == len(content) else small)

        def failed(error: Exception) -> None:
            self._session.photos.photo_ended(waiting)
            words = f"{error}." if isinstance(error, PictureError) else f"{name} could not be taken in: {error}."
            self.said.setText(words)

        # Each is taken in, also of several that are called alike.
        self._session.jobs.ask(f"photo {waiting}", work, done, failed, queue=True, long=True)

    def take(self, data: QMimeData) -> bool:
        """Take in what was pasted or dropped; whether there was a picture in it."""
        files = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
        for path in files:
            self.add_file(path)
        if files:
            return True
        if data.hasImage():
            picture = data.imageData()
            if isinstance(picture, QImage) and not picture.isNull():
                self.add("pasted picture", functools.partial(image_content, picture))
                return True
        return False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.matches(QKeySequence.StandardKey.Paste):
            if not self.take(QGuiApplication.clipboard().mimeData()):
                self.said.setText("Found no picture in the clipboard, expected one: copy it first.")
        else:
            super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if self._subject and (event.mimeData().hasUrls() or event.mimeData().hasImage()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        if self.take(event.mimeData()):
            event.acceptProposedAction()


def _content_of(path: Path) -> bytes:
    """What is in a file. Raises PictureError in words."""
    try:
        if not path.is_file() or path.stat().st_size > _MOST_FILE:
            raise PictureError(f"{path.name}: found no file of less than {_MOST_FILE // 1_000_000} MB, expected one")
        return path.read_bytes()
    except OSError as error:
        raise PictureError(f"{path.name} could not be read ({error.strerror or error})") from error
