"""Errors by their standard numbers (SCPI-1999, volume 2, chapter 21) and the queue that keeps them."""

from collections import deque

TEXTS = {
    0: "No error",
    -100: "Command error",
    -101: "Invalid character",
    -102: "Syntax error",
    -104: "Data type error",
    -108: "Parameter not allowed",
    -109: "Missing parameter",
    -113: "Undefined header",
    -114: "Header suffix out of range",
    -131: "Invalid suffix",
    -141: "Invalid character data",
    -200: "Execution error",
    -221: "Settings conflict",
    -222: "Data out of range",
    -224: "Illegal parameter value",
    -230: "Data corrupt or stale",
    -350: "Queue overflow",
    -363: "Input buffer overrun",
    -410: "Query INTERRUPTED",
}
_MOST = 32


class ScpiError(Exception):
    """A command that is not carried out; ``code`` by the standard, ``detail`` what is wrong here."""

    def __init__(self, code: int, detail: str = "") -> None:
        super().__init__(f"{code} {detail}")
        self.code, self.detail = code, detail

    @property
    def entry(self) -> str:
        """As it stands in the queue: ``-222,"Data out of range;..."``."""
        text = TEXTS[self.code] + (f";{self.detail}" if self.detail else "")
        return f'{self.code},"{text.replace(chr(34), chr(39))}"'


def status_bit(code: int) -> int:
    """The bit of the standard event status register that an error sets (IEEE 488.2, 11.5.1)."""
    if -199 <= code <= -100:
        return 32
    if -299 <= code <= -200:
        return 16
    if -499 <= code <= -400:
        return 4
    return 8


class ErrorQueue:
    """First in, first out; what comes when it is full is told once in place of the last."""

    def __init__(self) -> None:
        self._entries: deque[str] = deque()

    def add(self, error: ScpiError) -> None:
        """Keep one more."""
        if len(self._entries) >= _MOST:
            self._entries[-1] = ScpiError(-350).entry
            return
        self._entries.append(error.entry)

    def next(self) -> str:
        """The oldest, taken out; ``0,"No error"`` where there is none."""
        return self._entries.popleft() if self._entries else '0,"No error"'

    def clear(self) -> None:
        """Forget all."""
        self._entries.clear()

    def __len__(self) -> int:
        return len(self._entries)
