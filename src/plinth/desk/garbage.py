"""Garbage that Python cannot count away is looked for between Qt's events, on the window's own thread, never within.

Left alone, the interpreter looks for it wherever enough objects were made: within a call of Qt's that holds a lock (a
signal that is disconnected), where destroying a widget waits for that very lock for ever; or on a thread that computes,
which may destroy no widget.
"""

import gc

from PySide6.QtCore import QTimer

EVERY_MS = 500


class GarbageBetweenEvents(QTimer):
    """From its making until ``end`` the interpreter looks for none by itself."""

    def __init__(self, every_ms: int = EVERY_MS) -> None:
        super().__init__()
        gc.disable()
        self.setInterval(every_ms)
        self.timeout.connect(collect_due)
        self.start()

    def end(self) -> None:
        """Leave it to the interpreter again."""
        self.stop()
        gc.enable()


def collect_due() -> None:
    """Look through the oldest generation that is due by the interpreter's own thresholds, where one is."""
    counts, thresholds = gc.get_count(), gc.get_threshold()
    for generation in (2, 1, 0):
        if counts[generation] > thresholds[generation]:
            gc.collect(generation)
            return
