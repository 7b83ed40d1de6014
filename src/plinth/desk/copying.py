"""Copies and archives of the workshop, asked for in the window."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from plinth.desk.asking import ask
from plinth.desk.session import BenchSession
from plinth.report.file_out import proposed_name
from plinth.session.archives import ArchiveLook

_WORKSHOPS, _ARCHIVES = "Plinth workshop (*.plinth)", "Archive (*.zip)"


class Copying:
    """``over`` the widget that its dialogs stand over, ``say`` where it tells what came of it."""

    def __init__(self, session: BenchSession, over: QWidget, say: Callable[[str], None]) -> None:
        self._session, self._over, self._say = session, over, say

    def _ask_new(self, title: str, proposed: str) -> str:
        """A place where no file stands: what stands there is refused with a sentence, not asked about here."""
        keep = QFileDialog.Option.DontConfirmOverwrite
        name, _ = QFileDialog.getSaveFileName(self._over, title, proposed, _WORKSHOPS, options=keep)
        return name

    def ask_copy(self) -> None:
        """Ask where to and save a copy of the workshop there; this one stays open."""
        place = self._session.workshop.path
        name = self._ask_new("Save a copy as", str(place.with_name(f"{place.stem} copy.plinth")))
        if name:
            self._session.backups.copy(None, Path(name), lambda words, _done: self._say(words))

    def ask_copies(self) -> None:
        """Show the daily copies of this workshop."""
        from plinth.desk.backups_dialog import BackupsDialog

        ask(BackupsDialog(self._over, self._session))

    def ask_archive(self, *, only_current: bool) -> None:
        """Ask where to and write an archive of the workshop, or of the current build."""
        session = self._session
        stem = session.build.name if only_current else session.workshop.path.stem
        name, _ = QFileDialog.getSaveFileName(self._over, "Archive", proposed_name(stem, ".zip"), _ARCHIVES)
        if name:
            self._say("The archive is being written …")
            session.archives.write(Path(name), lambda words, _done: self._say(words), only_current=only_current)

    def ask_archive_in(self) -> None:
        """Ask for an archive, and what is to become of what it holds: into this workshop, or one of its own."""
        name, _ = QFileDialog.getOpenFileName(self._over, "From an archive", "", _ARCHIVES)
        if name:
            self._say("The archive is being read …")
            self._session.archives.look(Path(name), self._show_archive)

    def _show_archive(self, seen: ArchiveLook | None, why_not: str) -> None:
        from plinth.desk.archive_dialog import ArchiveDialog

        if seen is None:
            self._say(why_not)
            return
        self._say(f"{seen.path.name} holds {len(seen.copies)} builds.")
        dialog = ArchiveDialog(self._over, seen)
        ask(dialog)
        if dialog.separate:
            self._begin_from(seen.path)
        elif dialog.taken is not None:
            self._session.archives.add(seen, dialog.taken, lambda words, _done: self._say(words))

    def _begin_from(self, archive: Path) -> None:
        """Begin a workshop of its own with what an archive holds."""
        to = self._ask_new("Begin a workshop", f"{archive.stem}.plinth")
        if not to:
            return

        def show(words: str, done: bool) -> None:
            self._say(f"{words} Open it with Ctrl+Shift+W." if done else words)

        self._say("The archive is being read …")
        self._session.archives.read(archive, Path(to), show)
