"""Fork writers that keep readings and are killed at random moments; run as a program by the test.

    python -m tests.workshop.writer FOLDER ROUNDS SEED

Each child says a number on its pipe only after ``keep_reading`` returned. Exits 1 with a sentence on a loss.
"""

import datetime as dt
import os
import random
import signal
import sys
import time
from pathlib import Path

from plinth.builds.situation import Situation
from plinth.demo.builds import STAGE_PAIR
from plinth.judge.reading import Reading
from plinth.judge.state import State
from plinth.workshop.store import create_workshop, open_workshop


def reading(number: int) -> Reading:
    return Reading(
        subject=f"kill/{number}", label="x", typed=str(number), value=float(number), unit="V", u=0.1,
        instrument="meter", taken_at=dt.datetime(2026, 1, 1, tzinfo=dt.UTC), state=State.CLEAR, sentence="y",
    )  # fmt: skip


def write_until_killed(path: Path, first: int, pipe: int) -> None:
    workshop = open_workshop(path)
    build_id = workshop.builds()[0].id
    os.write(pipe, b"open\n")
    number = first
    while True:
        workshop.keep_reading(build_id, reading(number))
        os.write(pipe, f"{number}\n".encode())
        number += 1


def said_by(pipe: int) -> list[str]:
    chunks = []
    while chunk := os.read(pipe, 65536):
        chunks.append(chunk)
    os.close(pipe)
    return b"".join(chunks).decode().split()


def main(folder: Path, rounds: int, seed: int) -> int:
    path = folder / "killed.plinth"
    workshop = create_workshop(path)
    workshop.add_build(STAGE_PAIR, Situation(), "made")
    workshop.close()
    pick, said, number = random.Random(seed), set[int](), 1
    for _ in range(rounds):
        out, into = os.pipe()
        child = os.fork()
        if child == 0:
            os.close(out)
            try:
                write_until_killed(path, number, into)
            finally:
                os._exit(3)
        os.close(into)
        time.sleep(pick.uniform(0.005, 0.12))
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
        said |= {int(word) for word in said_by(out) if word != "open"}
        number = max([number, *said]) + 1_000
    workshop = open_workshop(path)
    kept = {int(r.value) for r in workshop.records(workshop.builds()[0].id) if isinstance(r, Reading)}
    workshop.close()
    lost = said - kept
    sys.stdout.write(f"said {len(said)} kept {len(kept)} lost {len(lost)}\n")
    return 1 if lost or not said else 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])))
