"""Files that are dropped on a page."""

from pathlib import Path

from PySide6.QtGui import QDropEvent


def dropped_paths(event: QDropEvent) -> list[Path]:
    """The local files and folders of a drop."""
    return [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
