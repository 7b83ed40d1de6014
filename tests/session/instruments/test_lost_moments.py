"""At random moments of a test something is killed, stopped or cut: outputs go off, and what was kept stays."""

import os
import random
import signal
import socket
import threading
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from plinth.bench.every_sheet import SHEETS
from plinth.session.runs.subjects import SheetSubject
from plinth.session.session import Session
from plinth.workshop.store import open_workshop
from tests.instruments.crooked_server import until
from tests.session.instruments.practice import Practice, practice
from tests.session.running import AtOnce
from tests.turns import in_turn

RAILS = next(kind for kind in SHEETS if kind.key == "rails")
GIVE = ("mains", "supply", "generator", "load")
LONGEST_S = 1.2
KINDS = ("kill talker", "kill guard", "stop talker", "window gone", "line cut")


def asks(own: Practice, role: str, question: str) -> str:
    """What one of the bench answers over a line of the test's own: at its terminals, past everything of Plinth."""
    simulated = own.session.instruments.simulated
    assert simulated is not None
    address = next(each.address for each in simulated.bench.instruments if each.name == role)
    _, host, port, _ = address.split("::")
    with socket.create_connection((host, int(port)), timeout=5.0) as line:
        line.sendall(f"{question}\n".encode())
        return line.recv(100).decode().strip()


def are_off(own: Practice) -> bool:
    """Whether nothing gives anything any more."""
    questions = {"load": "INPut:STATe?"}
    return all(asks(own, role, questions.get(role, "OUTPut:STATe?")) == "0" for role in GIVE)


def lose(own: Practice, kind: str) -> Callable[[], None]:
    """Lose that; what is given undoes what must be undone."""
    instruments = own.session.instruments
    process = instruments._process  # noqa: SLF001  # nobody else kills it
    assert process is not None
    match kind:
        case "kill talker":
            os.kill(process.talker.pid, signal.SIGKILL)
        case "kill guard":
            os.kill(process.guard.pid, signal.SIGKILL)
        case "stop talker":
            os.kill(process.talker.pid, signal.SIGSTOP)
            return lambda: os.kill(process.talker.pid, signal.SIGCONT)
        case "window gone":
            own.here.clear()
            return own.here.set
        case "line cut":
            # As a cable that is pulled: every connection of the talker is reset.
            simulated = instruments.simulated
            assert simulated is not None
            os.kill(simulated.process.pid, signal.SIGSTOP)
            return lambda: os.kill(simulated.process.pid, signal.SIGCONT)
    return lambda: None


def lost_at_a_random_moment(seed: int, folder: Path) -> tuple[str, float]:
    """What was lost, and seconds until outputs were off."""
    dice = random.Random(seed)  # repeated by its seed
    kind = KINDS[seed % len(KINDS)]
    with practice("market-box", folder) as own:
        run = threading.Thread(target=own.run.begin, args=(SheetSubject(own.session, own.sheet(RAILS)),))
        run.start()
        time.sleep(dice.uniform(0.0, LONGEST_S))
        undo = lose(own, kind)
        lost_at = time.monotonic()
        if kind == "line cut":
            # A bench that hangs can be told nothing: it is held to what it does once it hears again.
            time.sleep(1.5)
            undo()
            undo = _nothing
        assert until(lambda: are_off(own)), kind
        took_s = time.monotonic() - lost_at
        undo()
        run.join(60.0)
        assert not run.is_alive()
        # Nothing of it comes on again by itself.
        assert until(lambda: are_off(own)), kind
        kept = own.readings()
        path = own.session.workshop.path
    again = Session(open_workshop(path), AtOnce())
    assert [r for r in again.workshop.records(again.current) if r in kept] == kept
    again.close()
    return kind, took_s


def _nothing() -> None:
    return None


@pytest.mark.parametrize("seed", in_turn(range(len(KINDS)), 3))
def test_outputs_go_off_and_readings_stay(seed: int, tmp_path: Path) -> None:
    lost_at_a_random_moment(seed, tmp_path)


@pytest.mark.slow
def test_outputs_go_off_and_readings_stay_at_two_hundred_moments(tmp_path: Path) -> None:
    for seed in range(200):
        folder = tmp_path / str(seed)
        folder.mkdir()
        print(*lost_at_a_random_moment(1000 + seed, folder))  # noqa: T201  # read with -s
