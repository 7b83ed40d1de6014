"""Who runs a session's jobs in tests without a window."""

from collections.abc import Callable
from typing import Any


class Uncancelled:
    """A job that nobody calls off."""

    def progress(self, share: float) -> None:
        assert 0.0 <= share <= 1.0


class AtOnce:
    """Runs each job as it is asked for, in the caller's own time."""

    def ask(
        self,
        _name: str,
        work: Callable[[Any], object],
        done: Callable[[object], None],
        failed: Callable[[Exception], None] | None = None,
        *,
        long: bool = False,  # there is one lane
        bench: bool = False,
    ) -> None:
        try:
            found = work(Uncancelled())
        except RuntimeError as error:
            assert failed is not None
            failed(error)
        else:
            done(found)

    def waits(self, _name: str) -> bool:
        return False

    def end(self) -> None:
        pass
