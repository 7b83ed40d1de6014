"""The captures that are kept of what is current, and of the rest of the build: one press shows one again."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from plinth.desk.labels import button, clear, column, label, plain_tip
from plinth.desk.session import BenchSession
from plinth.session.captures import summary_words

_SHOWN = 4


class CaptureList(QWidget):
    """``chosen`` the kept capture that is to be shown."""

    chosen = Signal(object)

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session, self._subject = session, ""
        self._rows = column(spacing=1)
        self.setLayout(self._rows)
        session.captures_changed.connect(self.refresh)
        session.build_switched.connect(self.refresh)

    def show_subject(self, subject: str) -> None:
        """Those of this subject come first."""
        if subject != self._subject:
            self._subject = subject
            self.refresh()

    def refresh(self) -> None:
        """Take the captures anew."""
        clear(self._rows)
        captures = list(reversed(self._session.captures.of()))
        captures.sort(key=lambda kept: kept.subject != self._subject)
        self.setVisible(bool(captures))
        for kept in captures[:_SHOWN]:
            row = button(kept.title, "row")
            row.setToolTip(plain_tip(f"{kept.name}: {summary_words(kept)}, kept {kept.at:%Y-%m-%d %H:%M}"))
            row.clicked.connect(lambda _checked=False, kept=kept: self.chosen.emit(kept))
            self._rows.addWidget(row)
        more = len(captures) - _SHOWN
        if more > 0:
            self._rows.addWidget(label(f"{more} more under Kept, beside a capture", "small", wrap=True))
