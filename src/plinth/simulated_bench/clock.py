"""The bench's own time, which may run faster than the wall's."""

import time


class BenchClock:
    """Seconds since the bench was set up, ``speed`` times as fast as real ones."""

    def __init__(self, speed: float = 1.0) -> None:
        self.speed = speed
        self._begin = time.monotonic()
        self._passed = 0.0

    def now(self) -> float:
        """Seconds of the bench."""
        return (time.monotonic() - self._begin) * self.speed + self._passed

    def let_pass(self, seconds: float) -> None:
        """So much of its time has passed at once, as if somebody had waited."""
        self._passed += seconds
