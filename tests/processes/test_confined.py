"""Work on what strangers made, apart: its answers and refusals come back, and whatever it does, it can be ended."""

import os
import signal
import threading
import time
from collections.abc import Iterator

import pytest

from plinth.physics.numbers.cancellation import while_wanted
from plinth.physics.numbers.errors import GivenUpError
from plinth.processes import confined
from plinth.processes.confined import ConfinedError, end_confined, run_confined


def doubled(value: int) -> tuple[int, int]:
    return 2 * value, os.getpid()


def refusing(words: str) -> None:
    raise ValueError(words)


def endless() -> None:
    while True:
        pass


def greedy() -> int:
    return len(bytearray(confined.MOST_BYTES))


def dying() -> None:
    os.kill(os.getpid(), signal.SIGSEGV)


@pytest.fixture(autouse=True)
def ended() -> Iterator[None]:
    yield
    end_confined()


def test_answers_come_from_one_other_process_and_what_it_raises_is_raised() -> None:
    first, pid = run_confined(doubled, 21, most_s=60.0)
    assert first == 42
    assert pid != os.getpid()
    assert run_confined(doubled, 4, most_s=60.0) == (8, pid)
    with pytest.raises(ValueError, match="no picture"):
        run_confined(refusing, "no picture", most_s=60.0)
    assert run_confined(doubled, 5, most_s=60.0) == (10, pid), "a refusal does not end it"


@pytest.mark.parametrize(("work", "words"), [(endless, "took longer than"), (greedy, "more memory"), (dying, "fail")])
def test_what_hangs_grows_or_dies_is_a_sentence_and_the_next_is_served(work: object, words: str) -> None:
    with pytest.raises(ConfinedError, match=words):
        run_confined(work, most_s=0.5 if work is endless else 60.0)  # type: ignore[arg-type]
    assert run_confined(doubled, 3, most_s=60.0)[0] == 6


def test_it_ends_when_nobody_wants_it_any_more() -> None:
    """As when the window closes while a picture is decoded."""
    _, pid = run_confined(doubled, 1, most_s=60.0)
    wanted = threading.Event()
    threading.Timer(0.3, wanted.set).start()
    with pytest.raises(GivenUpError), while_wanted(lambda: "it was stopped" if wanted.is_set() else ""):
        run_confined(endless, most_s=600.0)
    for _ in range(200):
        try:
            os.kill(pid, 0)
        except ProcessLookupError:
            return
        time.sleep(0.05)
    pytest.fail("it still runs")
