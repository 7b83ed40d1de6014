"""Start of the window."""

import gc
import os
import sys
import traceback
import types
from pathlib import Path

from PySide6.QtWidgets import QApplication

from plinth.demo.workshop import begin_workshop
from plinth.desk import preferences
from plinth.desk.look import load_fonts, look
from plinth.desk.opening import demo_workshop, open_or_ask
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.workshop.errors import WorkshopError
from plinth.workshop.store import Workshop

NO_SCREEN = BAD_INPUT = 2


def run_desk(*, workshop: Path | None = None, demo: bool = False, begin: bool = False) -> int:
    """Open the window and run until it is closed; the exit status."""
    if not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY") and "QT_QPA_PLATFORM" not in os.environ:
        sys.stderr.write(
            "plinth: found no screen (neither DISPLAY nor WAYLAND_DISPLAY is set), expected a desktop session; "
            "`plinth solve` works without one\n"
        )
        return NO_SCREEN
    if begin and workshop is not None:
        try:
            begin_workshop(workshop).close()
        except (FileExistsError, OSError, WorkshopError) as error:
            sys.stderr.write(f"plinth: {error}\n")
            return BAD_INPUT
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Plinth")
    app.setDesktopFileName("plinth")
    load_fonts()
    remembered = preferences.load()
    look.set(dark=bool(remembered.get("dark", False)), scale=float(remembered.get("scale", 1.0)))
    opened = _choose(workshop, demo, remembered.get("workshop"))
    if opened is None:
        return 0
    preferences.save_workshop(opened.path)
    window = PlinthWindow(BenchSession(opened))
    sys.excepthook = lambda kind, error, trace: _report_fault(window, kind, error, trace)
    window.show()
    # What was loaded so far stays: it need not be looked through again.
    gc.freeze()
    gc.enable()
    return app.exec()


def _report_fault(
    window: PlinthWindow, kind: type[BaseException], error: BaseException, trace: types.TracebackType | None
) -> None:
    """A fault of Plinth itself: said on the screen, written to a file for whoever mends it, and work goes on."""
    text = "".join(traceback.format_exception(kind, error, trace))
    sys.stderr.write(text)
    path = preferences.folder() / "faults.txt"
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with path.open("a", encoding="utf-8") as file:
            file.write(text + "\n")
    except OSError:
        where = "on the terminal"
    else:
        where = f"in {path}"
    current = window.successor or window
    current.say(
        f"Plinth made a mistake ({kind.__name__}). What was kept is safe; what it was is written {where}. "
        "Go on, or close and open again."
    )


def _choose(workshop: Path | None, demo: bool, last: object) -> Workshop | None:
    if workshop is not None:
        return open_or_ask(workshop)
    if not demo and isinstance(last, str) and Path(last).exists():
        return open_or_ask(Path(last))
    return demo_workshop()
