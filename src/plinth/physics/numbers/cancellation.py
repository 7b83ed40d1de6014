"""Whether anybody still waits for what is being computed: long marches ask now and then, and end where nobody does."""

import contextlib
import threading
from collections.abc import Callable, Iterator

from plinth.physics.numbers.errors import GivenUpError

_here = threading.local()


@contextlib.contextmanager
def while_wanted(reason_to_end: Callable[[], str]) -> Iterator[None]:
    """Let what is computed inside, in this thread, end as soon as ``reason_to_end`` gives a reason (empty: go on)."""
    before = getattr(_here, "ask", None)
    _here.ask = reason_to_end
    try:
        yield
    finally:
        _here.ask = before


def still_wanted() -> None:
    """Go on, or raise GivenUpError with the reason. Costs a tenth of a microsecond where nobody asks."""
    ask = getattr(_here, "ask", None)
    if ask is not None and (reason := ask()):
        raise GivenUpError(reason)
