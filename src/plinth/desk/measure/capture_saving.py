"""What goes out of a capture: figures as CSV or JSON, samples as WAV or CSV."""

import json
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from plinth.captures.capture import CaptureError
from plinth.captures.writing import table_bytes, wav_bytes
from plinth.report.file_out import not_written_words, proposed_name, write_whole
from plinth.session.capture_view import CaptureView, figures_csv

# What can be saved: words, ending, kind of file, whether it is the samples.
CHOICES = (
    ("Figures as CSV …", ".csv", "CSV table (*.csv)", False),
    ("Figures as JSON …", ".json", "JSON (*.json)", False),
    ("Samples as WAV …", ".wav", "WAV (*.wav)", True),
    ("Samples as CSV …", ".csv", "CSV table (*.csv)", True),
)


def ask_save(parent: QWidget, view: CaptureView, ending: str, kind: str, *, samples: bool) -> str:
    """Ask where to and save; what to say of it, empty where nobody chose a place."""
    stem = Path(view.name).stem
    proposed = proposed_name(f"{stem} samples" if samples else f"{stem} figures", ending)
    name, _ = QFileDialog.getSaveFileName(parent, "Save", proposed, kind)
    return save(view, Path(name), samples=samples) if name else ""


def save(view: CaptureView, path: Path, *, samples: bool = False) -> str:
    """Figures as CSV or JSON, or ``samples`` as WAV or CSV, by the name's ending; what to say of it."""
    try:
        write_whole(path, _content(view, path, samples=samples))
    except CaptureError as error:
        return f"Not saved: {error}."
    except OSError as error:
        return not_written_words(path, error)
    return f"Saved as {path.name}."


def _content(view: CaptureView, path: Path, *, samples: bool) -> str | bytes:
    if samples and view.capture is not None:
        return wav_bytes(view.capture) if path.suffix == ".wav" else table_bytes(view.capture)
    if path.suffix == ".json":
        return json.dumps(view.analysis.as_document(), indent=2, ensure_ascii=False) + "\n"
    return figures_csv(view)
