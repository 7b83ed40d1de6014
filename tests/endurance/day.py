"""A day of use in hurried time: several builds, every page, readings, photos, papers; what it leaves behind.

An hour is a round over all builds. Looked at after each: how much memory the process has, after garbage was looked for;
how long the event loop stood at most; which processes it has started. Nothing here judges by the clock on the wall.
"""

import dataclasses
import datetime as dt
import gc
import os
import random
import time
from collections.abc import Iterator
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QEvent, QTimer
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication

from plinth.builds.stations import STATIONS
from plinth.desk.look import load_fonts, look
from plinth.desk.photos.scaling import scaled_copy
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow, let_go
from plinth.record.clock import Clock
from tests.demo_copy import demo_copy
from tests.desk.driver import STAGE_KEYS, take_any

# Hours until every page, dialog and plot has been made once; what comes after them is compared.
WARM_HOURS = 3


@dataclasses.dataclass(frozen=True)
class Hour:
    """After an hour: resident memory, MB; the longest that the event loop stood, s; lines of the last build's diary."""

    number: int
    resident_mb: float
    stood_s: float
    lines: int


class HurriedClock:
    """An hour of it passes in each round."""

    def __init__(self) -> None:
        self.at = dt.datetime(2026, 12, 1, 8, tzinfo=dt.UTC)

    def __call__(self) -> dt.datetime:
        self.at += dt.timedelta(seconds=1)
        return self.at


def resident_mb() -> float:
    """What the process holds of memory, MB."""
    pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def children() -> set[int]:
    """Processes that this one has started and that still run."""
    found = set()
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            words = (folder / "stat").read_text(encoding="utf-8").rsplit(")", 1)[1].split()
        except OSError:
            continue
        if int(words[1]) == os.getpid() and words[0] != "Z":
            found.add(int(folder.name))
    return found


class Standing(QTimer):
    """The longest that the event loop stood since it was last asked, s."""

    def __init__(self) -> None:
        super().__init__()
        self._last, self._most = time.monotonic(), 0.0
        self.timeout.connect(self._beat)
        self.start(0)

    def _beat(self) -> None:
        now = time.monotonic()
        self._most, self._last = max(self._most, now - self._last), now

    def longest(self) -> float:
        """And begin anew."""
        most, self._most = self._most, 0.0
        return most


def day(folder: Path, hours: int, seed: int, builds: int) -> Iterator[Hour]:
    """A day of so many hours and builds on a demo of its own below ``folder``, told hour by hour."""
    application = QApplication.instance() or QApplication([])
    assert isinstance(application, QApplication)
    load_fonts()
    look.set(dark=False, scale=1.0)
    clock: Clock = HurriedClock()
    session = BenchSession(demo_copy(folder), threaded=False, clock=clock)
    while len(session.stored_builds) < builds:
        session.plan.add_build(f"Build {len(session.stored_builds) + 1}", copy=True)
    window = PlinthWindow(session)
    window.resize(1280, 800)
    window.show()
    standing, pick = Standing(), random.Random(seed)
    try:
        for number in range(1, hours + 1):
            for build in session.stored_builds[:builds]:
                session.plan.switch(build.id)
                _one_build(window, session, pick, folder)
                application.processEvents()
            QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
            gc.collect()
            yield Hour(number, resident_mb(), standing.longest(), session.records.diary_size[0])
    finally:
        standing.stop()
        session.power.switch_off()
        window.close()
        let_go()
        window.deleteLater()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        session.close()


def _one_build(window: PlinthWindow, session: BenchSession, pick: random.Random, folder: Path) -> None:
    """What somebody does with a build in an hour: look, change and take back, read, keep a picture, write it out."""
    for stage in STAGE_KEYS:
        window.show_stage(stage)
        QApplication.processEvents()
    window.show_stage("plan")
    session.choose_station(pick.choice(STATIONS).key)
    take_any(window, pick, looking=True)
    session.plan.what_if(live=True, level=pick.random())
    session.plan.what_if(live=False, level=1.0)
    for view in range(pick.randrange(1, 4)):
        del view
        window.plan.next_view()
    session.plan.undo()
    window.show_stage("measure")
    window.measure.show_named(pick.choice(("Rails", "Gain, match", "Mains side")))
    test = window.measure.test
    asked = getattr(test, "asked", ())
    if asked:
        place = pick.randrange(len(asked))
        test.choose(place)  # type: ignore[attr-defined]
        expected = asked[place].window
        if expected is not None and None not in (expected.low, expected.high):
            test.field.setText(f"{0.5 * (expected.low + expected.high):.4g}")
            test.keep()  # type: ignore[attr-defined]
    whole = _picture(pick, folder)
    session.photos.add_photo("inspect/vents", "top.png", whole, scaled_copy(whole, "top.png"))
    session.records.note("note", f"Hour of {session.build.name}.", "")
    session.plan.write_out(folder / "build.json")
    session.shelf.write_bill(folder / "bill.html")


def _picture(pick: random.Random, folder: Path) -> bytes:
    image = QImage(320, 240, QImage.Format.Format_RGB32)
    image.fill(pick.randrange(0xFFFFFF))
    path = folder / "top.png"
    image.save(str(path))
    return path.read_bytes()
