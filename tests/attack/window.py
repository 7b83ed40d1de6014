"""Random actions in the real window over all builds: no exception, stray window or freeze; no lost power or file."""

import gc
import random
import time
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QEvent, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QLineEdit, QPushButton, QWidget

from plinth.builds.stations import STATIONS
from plinth.desk.finder import Finder
from plinth.desk.look import load_fonts, look
from plinth.desk.name_dialog import NameDialog
from plinth.desk.part_form import PartForm
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow, held, let_go
from tests.attack.asked_files import AskedFiles, answered
from tests.demo_copy import demo_copy
from tests.desk.driver import STAGE_KEYS, take_any
from tests.desk.watching import StrayWindows, no_faults

ACTIONS = 60
# Counted, not judged to the millisecond: a machine may stop for a while, a window that stands for so long does not.
FROZEN_S = 20.0
# Longer the window should not stand, by what its thread takes of the processor: told, as machines differ, not judged.
# Only where slow work has threads of its own.
NOTICED_S = 0.3
STOOD: list[tuple[float, str]] = []
# Windows after which every page, dialog and kind of build has been seen once, and what may come on top of that.
WARM, GROWN_MB = 8, 120.0
_RESIDENT: list[float] = []
_TYPED = ("26.4pp", "4k7", "20M", "OL", ">100", "12", "-7", "0R33", "14-0-14", "x" * 300, "", "1e200", "26,4", "\0")
# Puts another window in the place of this one.
_LEAVING = {"open", "begin", "practice", "quit"}


def attack(folder: Path, seed: int) -> str:
    application = QApplication.instance() or QApplication([])
    assert isinstance(application, QApplication)
    load_fonts()
    look.set(dark=False, scale=1.0)
    pick, fell = random.Random(seed), ""
    workshop = demo_copy(folder)
    files = AskedFiles(folder / "asked", workshop.path, pick)
    threaded = pick.random() < 0.5
    session = BenchSession(workshop, threaded=threaded)
    window = PlinthWindow(session)
    window.resize(1280, 800)
    window.show()
    closer = QTimer()
    closer.timeout.connect(_close_what_asks)
    closer.start(40)
    pulse = Pulse()
    stray = StrayWindows()
    application.installEventFilter(stray)
    with no_faults() as faults, answered(files):
        for number in range(ACTIONS):
            begun = time.monotonic()
            name = _act(window, session, pick)
            application.processEvents()
            took = time.monotonic() - begun
            successor = held()
            if successor is not None and successor is not window:
                # Over to another workshop: what comes next is done there, and it is closed in the end.
                window, session = successor, successor.session
            if threaded:
                STOOD.extend((gap, name) for gap in pulse.gaps if gap > NOTICED_S)
            pulse.gaps.clear()
            if faults:
                fell = f"{name} (action {number}): {type(faults[0]).__name__}: {faults[0]}"
            elif stray.found:
                fell = f"{name} (action {number}): stray window {stray.found[0]}"
            elif took > FROZEN_S:
                fell = f"{name} (action {number}): stood for {took:.0f} s"
            elif window.trouble.text().startswith("Plinth made a mistake"):
                fell = f"{name} (action {number}): {window.trouble.text()}"
            if fell:
                break
        application.removeEventFilter(stray)
        closer.stop()
        pulse.stop()
        session.power.switch_off()
        window.close()
        let_go()
        window.deleteLater()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    gc.collect()
    return fell or files.lost() or grown(_RESIDENT, _resident_mb())


class Pulse(QTimer):
    """Beats whenever the event loop comes round; ``gaps`` is what the thread took of the processor in between."""

    def __init__(self) -> None:
        super().__init__()
        self.gaps: list[float] = []
        self._last = time.thread_time()
        self.timeout.connect(self._beat)
        self.start(0)

    def _beat(self) -> None:
        now = time.thread_time()
        self.gaps.append(now - self._last)
        self._last = now


def grown(before: list[float], now_mb: float) -> str:
    """Whether the process has grown beyond what its first windows came to; what each window came to is noted."""
    before.append(now_mb)
    most = max(before[:WARM])
    return f"memory has grown from {most:.0f} to {now_mb:.0f} MB" if now_mb > most + GROWN_MB else ""


def _resident_mb() -> float:
    for line in Path("/proc/self/status").read_text(encoding="ascii").splitlines():
        if line.startswith("VmRSS:"):
            return int(line.split()[1]) / 1024.0
    return 0.0


def _act(window: PlinthWindow, session: BenchSession, pick: random.Random) -> str:
    kind = pick.choice(("part", "part", "command", "command", "type", "type", "press", "slider", "dialog", "channel"))
    match kind:
        case "part":
            window.show_stage("plan")
            session.choose_station(pick.choice(STATIONS).key)
            kind = f"part {take_any(window, pick, looking=pick.random() < 0.2)}"
        case "command":
            command = pick.choice([one for one in window.commands if one.key not in _LEAVING])
            kind = f"command {command.key}"
            window.run_command(command)
        case "type":
            window.show_stage(pick.choice(STAGE_KEYS))
            fields = [one for one in window.findChildren(QLineEdit) if one.isVisible() and one.isEnabled()]
            if fields:
                field, text = pick.choice(fields), pick.choice(_TYPED)
                kind = f"typing {text[:20]!r} into {field.accessibleName()}"
                field.setText(text)
                QTest.keyClick(field, Qt.Key.Key_Return)
        case "press":
            buttons = [one for one in _pressable(window) if one.isVisible() and one.isEnabled()]
            if buttons:
                button = pick.choice(buttons)
                kind = f"pressing {button.text()}"
                button.click()
        case "slider":
            changes = {"level": pick.random(), "crest_db": pick.uniform(3.1, 20.0)}
            session.plan.what_if(live=pick.random() < 0.7, **changes)
        case "dialog":
            dialog = _dialog(window, session, pick)
            kind = f"dialog {type(dialog).__name__}"
            dialog.open()
            for field in dialog.findChildren(QLineEdit)[:4]:
                field.setText(pick.choice(_TYPED))
            QTest.keyClick(dialog, pick.choice((Qt.Key.Key_Return, Qt.Key.Key_Escape)))
            dialog.reject()
            dialog.deleteLater()
        case _:
            window.power_up.channels.choose(pick.choice(session.build.channels))
    return kind


def _close_what_asks() -> None:
    """Nobody answers here: a menu or a dialog that waits is closed again."""
    popup, modal = QApplication.activePopupWidget(), QApplication.activeModalWidget()
    if popup is not None:
        popup.close()
    if isinstance(modal, QDialog):
        modal.reject()


def _pressable(window: QWidget) -> list[QPushButton]:
    """Buttons that go on by themselves once what they ask is answered or closed."""
    return [one for one in window.findChildren(QPushButton) if one.menu() is None and not one.text().startswith("Find")]


def _dialog(window: PlinthWindow, session: BenchSession, pick: random.Random) -> QDialog:
    match pick.randrange(3):
        case 0:
            return Finder(window, window.commands)
        case 1:
            return NameDialog(window, "New build", "", [], lambda name: session.plan.add_build(name, copy=True))
        case _:
            return PartForm(window, session.build.module)
