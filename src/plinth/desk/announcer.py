"""What is said aloud: to whoever hears the window instead of seeing it, as it comes.

The page in front is asked what it asks, what it says of what is typed, and what cannot wait; each is said once, when it
has changed. A screen reader that is not there costs nothing.
"""

import re
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent
from PySide6.QtWidgets import QWidget

from plinth.desk.spoken import Spoken

# How often it is looked at while somebody listens, and how often whether somebody does.
LISTENED_MS, ALONE_MS = 300, 2000
_NUMBER = re.compile(r"\d+(?:[.,]\d+)?")


class Announcer(QObject):
    """``said`` with the words and whether they interrupt what is being read.

    ``spoken`` tells what there is to say, ``kept`` what was kept last; it is asked only once something was.
    """

    said = Signal(str, bool)

    def __init__(self, window: QWidget, spoken: Callable[[], Spoken], kept: Callable[[], str]) -> None:
        super().__init__(window)
        self._window, self._spoken, self._kept = window, spoken, kept
        self._last, self._typed, self._last_kept = Spoken(), "", ""
        self._was_kept = False
        self._clock = QTimer(self)
        self._clock.setInterval(ALONE_MS)
        self._clock.timeout.connect(self._tick)
        self._clock.start()

    def note_kept(self) -> None:
        """Something is on disk: said with what comes next."""
        self._was_kept = True

    def look(self) -> None:
        """Say what has changed since it was last looked at."""
        now = self._spoken()
        if now.alarm and now.alarm != self._last.alarm:
            self.say(now.alarm, at_once=True)
        if self._news(now.power, self._last.power):
            self.say(now.power, at_once=True)
        if now.build != self._last.build:
            # What was kept of it before is no news.
            self._last_kept = self._kept()
        elif self._was_kept:
            kept, before = self._kept(), self._last_kept
            self._last_kept = kept
            if kept != before:
                self.say(f"Kept. {kept}")
        self._was_kept = False
        if now.question and now.question != self._last.question:
            self.say(now.question)
            self._typed = now.answer
        elif now.answer != self._typed and now.answer == self._last.answer:
            # It has stood still for a moment: whoever types is not talked over at every digit.
            self._typed = now.answer
            if now.answer:
                self.say(now.answer)
        if self._news(now.wait, self._last.wait):
            self.say(now.wait)
        self._last = now

    def _news(self, words: str, before: str) -> bool:
        """A count-down is said once, not at every second."""
        return bool(words) and _NUMBER.sub("", words) != _NUMBER.sub("", before)

    def say(self, words: str, *, at_once: bool = False) -> None:
        """Say it now; ``at_once`` interrupts what is being read."""
        if QAccessible.isActive():
            event = QAccessibleAnnouncementEvent(self._window, words)
            politeness = QAccessible.AnnouncementPoliteness
            event.setPoliteness(politeness.Assertive if at_once else politeness.Polite)
            QAccessible.updateAccessibility(event)
        self.said.emit(words, at_once)

    def _tick(self) -> None:
        listened = QAccessible.isActive()
        self._clock.setInterval(LISTENED_MS if listened else ALONE_MS)
        if listened and self._window.isVisible():
            self.look()
