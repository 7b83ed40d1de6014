"""Work on what strangers made, apart: its answers and refusals come back, and whatever it does, it can be ended."""

import os
import signal
import threading
import time
from collections.abc import Iterator

import pytest

from plinth.physics.numbers import apart
from plinth.physics.numbers.apart import ApartError, end_apart, run_apart
from plinth.physics.numbers.cancellation import while_wanted
from plinth.physics.numbers.errors import GivenUpError


def doubled(value: int) -> tuple[int, int]:
    return 2 * value, os.getpid()


def refusing(words: str) -> None:
    raise ValueError(words)


def endless() -> None:
    while True:
        pass


def greedy() -> int:
    return len(bytearray(apart.MOST_BYTES))


def dying() -> None:
    os.kill(os.getpid(), signal.SIGSEGV)


@pytest.fixture(autouse=True)
def ended() -> Iterator[None]:
    yield
    end_apart()


def test_answers_come_from_one_other_process_and_what_it_raises_is_raised() -> None:
    first, pid = run_apart(doubled, 21, most_s=60.0)
    assert first == 42
    assert pid != os.getpid()
    assert run_apart(doubled, 4, most_s=60.0) == (8, pid)
    with pytest.raises(ValueError, match="no picture"):
        run_apart(refusing, "no picture", most_s=60.0)
    assert run_apart(doubled, 5, most_s=60.0) == (10, pid), "a refusal does not end it"


@pytest.mark.parametrize(("work", "words"), [(endless, "took longer than"), (greedy, "more memory"), (dying, "fail")])
def test_what_hangs_grows_or_dies_is_a_sentence_and_the_next_is_served(work: object, words: str) -> None:
    with pytest.raises(ApartError, match=words):
        run_apart(work, most_s=0.5 if work is endless else 60.0)  # type: ignore[arg-type]
    assert run_apart(doubled, 3, most_s=60.0)[0] == 6


def test_it_ends_when_nobody_wants_it_any_more() -> None:
    """As when the window closes while a picture is decoded."""
    _, pid = run_apart(doubled, 1, most_s=60.0)
    wanted = threading.Event()
    threading.Timer(0.3, wanted.set).start()
    with pytest.raises(GivenUpError), while_wanted(lambda: "it was stopped" if wanted.is_set() else ""):
        run_apart(endless, most_s=600.0)
    for _ in range(200):
        try:
            os.kill(pid, 0)
        except ProcessLookupError:
            return
        time.sleep(0.05)
    pytest.fail("it still runs")
