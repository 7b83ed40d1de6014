"""A full disk, made by a limit on the size of files: what fails says so, and what was kept is still there."""

import os
import random
import resource
import signal
from collections.abc import Callable
from pathlib import Path

from plinth.demo.workshop import make_demo
from plinth.report.file_out import write_whole
from plinth.session.beginning import begin_workshop
from plinth.workshop.errors import WorkshopError
from plinth.workshop.store import create_workshop, open_workshop
from tests.workshop.writer import add_stage_pair, lost_in, reading


def attack(folder: Path, seed: int) -> str:
    pick = random.Random(seed)
    path = folder / "full.plinth"
    what = pick.choice(("begin", "demo", "keep", "export"))
    said: list[str] = []
    if what == "keep":
        create_workshop(path, add_stage_pair).close()
    limit = pick.randrange(0, 260_000) if what != "keep" else path.stat().st_size + pick.randrange(0, 12_000)
    page = folder / "page.html"

    def work(say: Callable[[str], None]) -> None:
        match what:
            case "begin":
                begin_workshop(path).close()
                say("begun with plain parts")
            case "demo":
                make_demo(folder).close()
            case "export":
                write_whole(page, "x" * 200_000 + "end")
            case _:
                workshop = open_workshop(path)
                for number in range(60):
                    workshop.keep_reading(1, reading(number))
                    say(f"kill/{number}")

    status, said = _limited(work, limit)
    if status not in (0, 1):
        return f"{what} with at most {limit} bytes a file ended with {status}"
    if what == "begin" and path.exists() and status == 1:
        return f"{what} with at most {limit} bytes a file failed and left {path.name}"
    lost = lost_in(path, said, "") if what in ("keep", "begin") else []
    if what == "export" and page.exists() and not page.read_text().endswith("end"):
        lost = ["a torn page"]
    left = [one.name for one in folder.iterdir() if one.name.startswith(".")]
    return f"{what} with at most {limit} bytes a file: lost {lost}, left {left}" if lost or left else ""


def _say(pipe: int, words: str) -> None:
    os.write(pipe, f"{words}\n".encode())


def _limited(work: Callable[[Callable[[str], None]], None], limit: int) -> tuple[int, list[str]]:
    """Status of a child that may write no file beyond ``limit``: 0 done, 1 failed with a sentence; and what it said."""
    out, into = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(out)
        status = 3
        try:
            signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
            resource.setrlimit(resource.RLIMIT_FSIZE, (limit, limit))
            work(lambda words: _say(into, words))
            status = 0
        except (WorkshopError, OSError) as error:
            status = 1 if str(error) else 4
        finally:
            os._exit(status)
    os.close(into)
    with os.fdopen(out, "rb") as pipe:
        said = pipe.read().decode().splitlines()
    _, waited = os.waitpid(child, 0)
    return os.waitstatus_to_exitcode(waited), said
