"""Who runs slow work for a session, and how a failure of it is said."""

from collections.abc import Callable
from typing import Any, Protocol

from plinth.physics.numbers.errors import GivenUpError


class Runner(Protocol):
    """Runs jobs by name; ``done`` or ``failed`` are called where the session lives."""

    def ask(
        self,
        name: str,
        work: Callable[[Any], object],
        done: Callable[[object], None],
        failed: Callable[[Exception], None] | None = None,
        *,
        long: bool = False,
        bench: bool = False,
    ) -> object:
        """Ask for a job; one of the same name that has not begun is forgotten.

        ``long`` ones go beside the others, and so does what waits for instruments (``bench``).
        """

    def waits(self, name: str) -> bool:
        """Whether a job of that name has been asked for and not begun."""

    def end(self) -> None:
        """End the current job and stop."""


def words_of(error: Exception) -> str:
    """A failure for people: the reason where it is one of ours, else that Plinth made a mistake."""
    if isinstance(error, GivenUpError):
        return f"Not computed: {error}."
    return f"Plinth made a mistake while computing ({type(error).__name__}: {error}). What was kept is safe."
