"""Start of the window."""

import gc
import os
import sys
import threading
import types
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from plinth.desk import preferences
from plinth.desk.faults import write_fault
from plinth.desk.garbage import GarbageBetweenEvents
from plinth.desk.habits import usual_mains
from plinth.desk.look import load_fonts, look
from plinth.desk.opening import demo_workshop, open_or_ask
from plinth.desk.session import BenchSession
from plinth.desk.signals import EndingSignals
from plinth.desk.system_look import SystemLook, system_is_dark
from plinth.desk.window import PlinthWindow, held, hold, let_go
from plinth.processes import worker_pool
from plinth.processes.confined import end_confined
from plinth.session.opening import Workshop, WorkshopError, WorkshopInUseError, begin_workshop
from plinth.session.opening import opened as opened_workshop

if TYPE_CHECKING:
    from plinth.desk.first_window import FrontCalls

NO_SCREEN = BAD_INPUT = 2
ICON = Path(__file__).parent / "icons" / "plinth.svg"

# Other processes that help with rows and maps begin to load when the window has stood so long; what they need to know.
HELPED_AFTER_MS, HELPERS_KNOW = 3000, ("plinth.shelf.consequence", "plinth.predict.curve")

# How long a computing thread may keep the interpreter while the window wants it.
GIVE_WAY_S = 1e-4


def run_desk(*, workshop: Path | None = None, demo: bool = False, begin: bool = False, practice: bool = False) -> int:
    """Open the window and run until it is closed; the exit status."""
    if not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY") and "QT_QPA_PLATFORM" not in os.environ:
        sys.stderr.write(
            "plinth: found no screen (neither DISPLAY nor WAYLAND_DISPLAY is set), expected a desktop session; "
            "`plinth solve` works without one\n"
        )
        return NO_SCREEN
    # Each call into Qt gives the interpreter away and must wait for it again while a prediction computes: at the usual
    # 5 ms a picture of a hundred calls would stand for half a second.
    sys.setswitchinterval(GIVE_WAY_S)
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Plinth")
    app.setDesktopFileName("plinth")
    app.setWindowIcon(QIcon(str(ICON)))
    load_fonts()
    remembered, set_aside = preferences.load_checked()
    look.set(dark=remembered.get("dark", system_is_dark()), scale=float(remembered.get("scale", 1.0)))
    # Neither a file named nor one remembered: this is the first start, on the demo, and one is asked how to begin.
    nothing_yet = workshop is None and not demo and "workshop" not in remembered
    if begin and workshop is not None:
        try:
            opened: Workshop | None = begin_workshop(workshop, practice=practice, mains_v=usual_mains()[0])
        except (OSError, WorkshopError) as error:
            return _refuse(error)
    else:
        try:
            opened = _choose(workshop, demo, remembered.get("workshop"))
        except _InFrontError as shown:
            sys.stdout.write(f"plinth: {shown} is open already; its window was brought to the front\n")
            return 0
        except (OSError, WorkshopError) as error:
            return _refuse(error)
    window = window_of(opened)
    if window is None:
        return 0
    # Remembered only now that it is known to open: a file that does not would stand in the way of every later start.
    preferences.save_workshop(window.session.workshop.path)
    hold(window)
    system_look, faults = SystemLook(), FaultTeller()
    sys.excepthook = faults.take
    threading.excepthook = lambda told: faults.take(told.exc_type, told.exc_value or Exception(), told.exc_traceback)
    signals = EndingSignals(lambda: _end(app))
    window.show()
    if begin or nothing_yet:
        window.first.ask_soon()
    if set_aside:
        window.say(set_aside)
    # Whoever goes over to another workshop lets this one go: nothing here may keep it.
    del window, opened
    # What was loaded so far stays: it need not be looked through again.
    gc.freeze()
    garbage = GarbageBetweenEvents()
    # The window stands first; then those who help it compute may load.
    helped = QTimer()
    helped.setInterval(HELPED_AFTER_MS)
    helped.timeout.connect(lambda: worker_pool.start(HELPERS_KNOW))
    helped.timeout.connect(_back_up)
    helped.start()
    calls: list[FrontCalls] = []
    QTimer.singleShot(0, app, lambda: calls.append(_front_calls()))
    # Asked to end while the first question of a new workshop stood, there is nothing left to run.
    status = 0 if signals.came else app.exec()
    signals.let_go()
    system_look.deleteLater()
    for each in calls:
        each.end()
    helped.stop()
    garbage.end()
    worker_pool.end()
    end_confined()
    let_go()
    return status


def window_of(opened: Workshop | None) -> PlinthWindow | None:
    """The window on a workshop; where what is in it cannot be understood, that is said, and another chosen."""
    while opened is not None:
        try:
            return PlinthWindow(BenchSession(opened))
        except WorkshopError as error:
            path = opened.path
            opened.close()
            opened = open_or_ask(path, error)
    return None


def _back_up() -> None:
    """The copy of today, of whichever workshop is open; again when the day has changed."""
    window = held()
    if window is not None and window.isVisible():
        window.session.backups.begin(preferences.backup_folder())


def _end(app: QApplication) -> None:
    """Somebody asks the program to end: all is kept already, so the window closes without another question."""
    window = held()
    if window is not None:
        window.close_anyway = window.close_without_photos = True
        window.close()
    app.quit()


class FaultTeller(QObject):
    """A fault of Plinth itself: said on the screen, written to a file, and work goes on. From any thread."""

    told = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        # This object lives in the window's thread, so that is where the sentence is shown.
        self.told.connect(self._say)

    def take(self, kind: type[BaseException], error: BaseException, trace: types.TracebackType | None) -> None:
        """An exception that nobody caught."""
        where = write_fault(error.with_traceback(trace))
        self.told.emit(
            f"Plinth made a mistake ({kind.__name__}). What was kept is safe. {where} Go on, or close and open again."
        )

    def _say(self, sentence: str) -> None:
        window = held()
        if window is not None:
            window.say(sentence)


def _refuse(error: Exception) -> int:
    sys.stderr.write(f"plinth: {error}\n")
    return BAD_INPUT


def _front_calls() -> "FrontCalls":
    """Loaded once the window stands: nobody can ask for it before."""
    from plinth.desk.first_window import FrontCalls

    return FrontCalls(_come_to_front)


def _come_to_front() -> None:
    window = held()
    if window is not None:
        window.setWindowState(window.windowState() & ~Qt.WindowState.WindowMinimized)
        window.raise_()
        window.activateWindow()


class _InFrontError(Exception):
    """The workshop is open in another Plinth, whose window has come to the front."""


def _choose(workshop: Path | None, demo: bool, last: object) -> Workshop | None:
    if workshop is not None:
        return _open(workshop)
    if not demo and isinstance(last, str) and _is_there(Path(last)):
        return _open(Path(last))
    return demo_workshop()


def _open(path: Path) -> Workshop | None:
    """Raises _InFrontError where another Plinth has it open and shows it."""
    try:
        return opened_workshop(path)
    except WorkshopInUseError as error:
        from plinth.desk.first_window import brought_to_front

        if brought_to_front(error.process):
            raise _InFrontError(path) from error
        return open_or_ask(path, error)
    except WorkshopError as error:
        return open_or_ask(path, error)


def _is_there(path: Path) -> bool:
    try:
        return path.exists()
    except OSError:
        return False
