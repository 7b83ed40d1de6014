"""Which tests ``make test`` leaves to ``make test-slow``, so that it answers in minutes however many there are."""

from pathlib import Path

LIST = Path(__file__).with_name("later.txt")


def left_for_later() -> tuple[str, ...]:
    """The tests that are left, a line each: a case by its whole name, or a function with all its cases."""
    return tuple(LIST.read_text(encoding="utf-8").splitlines())
