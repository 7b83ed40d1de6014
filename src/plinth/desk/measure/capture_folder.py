"""A folder that is watched: whatever file comes into it is told once it has rested."""

from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

# A file that is still being written is read once nothing has moved for so long.
_RESTS_MS = 400


class WatchedFolder(QObject):
    """``came`` the newest of the files that have come since."""

    came = Signal(object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._seen: set[Path] = set()
        self._rested = QTimer(self)
        self._rested.setSingleShot(True)
        self._rested.setInterval(_RESTS_MS)
        self._rested.timeout.connect(self._look)
        self._watcher = QFileSystemWatcher(self)
        self._watcher.directoryChanged.connect(lambda _folder: self._rested.start())

    def watch(self, folder: Path) -> None:
        """Watch this folder in place of another; what is in it already is passed over. Raises OSError."""
        self._seen = set(folder.iterdir())
        self.end()
        self._watcher.addPath(str(folder))

    def end(self) -> None:
        """Watch nothing any more."""
        for watched in self._watcher.directories():
            self._watcher.removePath(watched)

    def _look(self) -> None:
        for folder in map(Path, self._watcher.directories()):
            try:
                new = [path for path in folder.iterdir() if path.is_file() and path not in self._seen]
            except OSError:
                # The stick was taken out: there is nothing to read until it is in again.
                continue
            new = [path for path in new if not path.name.startswith(".")]
            self._seen |= set(new)
            if new:
                self.came.emit(max(new, key=lambda path: path.stat().st_mtime_ns))
