"""Lives of a workshop file, ended at a counted moment; run as a program by the tests and by the attack.

    python -m tests.workshop.writer FOLDER ROUNDS SEED

Moments are calls that Python makes, counted by the interpreter itself, so that a busy machine changes nothing. Each
life first runs to its end to learn how many there are. What a life says on its pipe, it says after it was kept.
Exits 1 with a sentence on a loss.
"""

import datetime as dt
import os
import random
import signal
import sys
from collections.abc import Callable
from pathlib import Path

import alembic.command  # loaded before the fork: moments are those of the life, not of its imports
import alembic.config  # noqa: F401
import sqlalchemy.orm  # noqa: F401

from plinth.builds.situation import Situation
from plinth.demo.builds import STAGE_PAIR
from plinth.judge.state import State
from plinth.record.diary import DiaryEntry
from plinth.record.kept_capture import CaptureFacts, CaptureSource
from plinth.record.reading import Reading
from plinth.report.file_out import write_whole
from plinth.session.beginning import begin_workshop
from plinth.workshop.errors import WorkshopError
from plinth.workshop.kept_builds import StoredBuild
from plinth.workshop.store import Workshop, create_workshop, open_workshop

FILES = Path(__file__).parent / "files"
AT = dt.datetime(2026, 1, 1, tzinfo=dt.UTC)


def reading(number: int) -> Reading:
    return Reading(
        subject=f"kill/{number}", label="x", typed=str(number), value=float(number), unit="V", u=0.1,
        instrument="meter", taken_at=AT, state=State.CLEAR,
    )  # fmt: skip


Say = Callable[[str], None]


def keep_readings(path: Path, say: Say) -> None:
    workshop = open_workshop(path)
    build_id = workshop.builds()[0].id
    for number in range(1, 4):
        workshop.keep_reading(build_id, reading(number))
        say(f"kill/{number}")
    workshop.keep_entry(build_id, DiaryEntry(AT, "note", "note", "buzz gone"))
    say("buzz gone")
    stored = workshop.builds()[0]
    workshop.save_build(StoredBuild(stored.id, stored.build, Situation(load_ohm=6.0)), "load changed")
    say("load changed")
    workshop.close()


def keep_things(path: Path, say: Say) -> None:
    """Parts, papers, photos and settings: added, changed, taken away again."""
    workshop = open_workshop(path)
    build_id = workshop.builds()[0].id
    (item,) = workshop.add_parts([STAGE_PAIR.load])
    say("part 1")
    for number in range(2):
        paper = workshop.add_paper(item.number, f"sheet {number}.txt", b"ten volts" * 500, "ten volts")
        say(f"paper sheet {number}.txt")
        photo = workshop.add_photo(build_id, "note", AT, f"{number}.png", b"content" * 5000, b"scaled" * 500)
        say(f"photo {number}.png")
    # Large enough to stand in chunks, each a write of its own.
    workshop.add_photo(build_id, "note", AT, "large.png", b"content" * 180_000, b"scaled" * 500)
    say("photo large.png")
    facts = CaptureFacts("tone", CaptureSource.FILE, seconds=1.5, sample_rate_hz=96e3, channels=("ch1",))
    capture = workshop.add_capture(build_id, "note", AT, "tone.wav", b"samples" * 180_000, facts)
    say("capture tone.wav")
    workshop.change_capture(capture.number, "test/left/gain", "gain of the left")
    say("capture gain of the left")
    workshop.note_paper(paper.number, "seen")
    workshop.change_photo(photo.number, "left board", ())
    say("photo left board")
    extra = workshop.add_photo(build_id, "note", AT, "gone.png", b"content", b"scaled")
    workshop.remove_photo(extra.number)
    workshop.set_setting("kept", {"by": "a life"})
    say("setting kept")
    workshop.close()


def begin(path: Path, say: Say) -> None:
    begin_workshop(path).close()
    say("begun with plain parts")


def add_stage_pair(workshop: Workshop) -> None:
    workshop.add_build(STAGE_PAIR, Situation(), "made")


def create(path: Path, say: Say) -> None:
    create_workshop(path, add_stage_pair).close()
    say("made")


def export(path: Path, say: Say) -> None:
    for number in range(3):
        write_whole(path.with_suffix(".html"), f"{number}" * 50_000 + "end")
    say("")


def prepared(path: Path) -> None:
    create_workshop(path, add_stage_pair).close()


def of_before(path: Path) -> None:
    path.write_bytes((FILES / "demo-1.plinth").read_bytes())


def of_before_killed(path: Path) -> None:
    path.write_bytes((FILES / "killed-1.plinth").read_bytes())
    path.with_name(path.name + "-wal").write_bytes((FILES / "killed-1.plinth-wal").read_bytes())


def nothing(_path: Path) -> None:
    return


# What a life begins from, what it does, what must be there whatever happens.
LIVES = {
    "creation": (nothing, create, ""),
    "first start": (nothing, begin, ""),
    "work": (prepared, keep_readings, "made"),
    "things": (prepared, keep_things, "made"),
    "migration": (of_before, keep_readings, "Left board played the wolf"),
    "migration of a killed one": (of_before_killed, keep_readings, "begun with parts"),
    "export": (nothing, export, ""),
}


def run_life(path: Path, life: Callable[[Path, Say], None], moment: int | None) -> tuple[list[str], int]:
    """What it said, and the moments it had (0 where it was killed at one)."""

    def begin() -> None:
        passed = [0]

        def count(_frame: object, _event: str, _arg: object) -> None:
            passed[0] += 1
            if passed[0] == moment:
                os.kill(os.getpid(), signal.SIGKILL)

        counted.append(passed)
        sys.setprofile(count)

    counted: list[list[int]] = []
    said, whole = forked_life(path, life, begin, lambda: f"moments {counted[0][0]}")
    if not whole:
        return said, 0
    return said, int(said.pop().removeprefix("moments "))


def forked_life(
    path: Path, life: Callable[[Path, Say], None], begin: Callable[[], None], last: Callable[[], str]
) -> tuple[list[str], bool]:
    """A life in a child that ``begin`` sets a trap for: what it said, and whether it came to its end."""
    out, into = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(out)
        status = 3

        def say(words: str) -> None:
            os.write(into, f"{words}\n".encode())

        try:
            begin()
            life(path, say)
            sys.setprofile(None)
            say(last())
            status = 0
        finally:
            os._exit(status)
    os.close(into)
    with os.fdopen(out, "rb") as pipe:
        said = pipe.read().decode().splitlines()
    _, status = os.waitpid(child, 0)
    if status and not os.WIFSIGNALED(status):
        raise SystemExit(f"a life failed by itself, having said {said}")
    return said, not status


def lost_in(path: Path, said: list[str], always: str) -> list[str]:
    """What was said to be kept, or must be there, and is not; a file that does not open loses all."""
    wanted = [words for words in (*said, always) if words]
    if not path.exists():
        return wanted
    try:
        workshop = open_workshop(path)
    except WorkshopError as error:
        return [str(error)]
    lines = [f"{e.subject} {e.words}" for one in workshop.builds() for e in workshop.diary(one.id)]
    if not workshop.builds():
        wanted.append("a build")
    lines += [f"part {number}" for number in range(1, len(workshop.items()) + 1)]
    lines += [f"paper {one.name}" for one in workshop.papers()]
    lines += [
        f"photo {one.name} photo {one.words}"
        for stored in workshop.builds() for one in workshop.photos(stored.id)
        if workshop.photo_picture(one.number, whole=True)
    ]  # fmt: skip
    lines += [
        f"capture {capture.name} capture {capture.words}"
        for stored in workshop.builds() for capture in workshop.captures(stored.id)
        if workshop.capture_content(capture.number)
    ]  # fmt: skip
    lines += ["setting kept"] * (workshop.setting("kept") is not None)
    lines += [f"a notice: {one}" for one in workshop.notices]
    workshop.close()
    if any(line.startswith("a notice") for line in lines):
        return lines
    return [words for words in wanted if not any(words in line for line in lines)]


def kill_life(folder: Path, name: str, moment: int | None) -> tuple[list[str], int]:
    """Run one life in an empty folder; what was lost, and how many moments it had."""
    prepare, life, _ = LIVES[name]
    folder.mkdir()
    path = folder / "shed.plinth"
    prepare(path)
    said, moments = run_life(path, life, moment)
    return lost_after(path, name, said), moments


def lost_after(path: Path, name: str, said: list[str]) -> list[str]:
    """What a life lost that was ended, of what it said and of what was there before it."""
    prepare, _, always = LIVES[name]
    if name == "export":
        page = path.with_suffix(".html")
        return [] if not page.exists() or page.read_text().endswith("end") else ["a torn page"]
    lost = lost_in(path, said, always)
    if prepare is nothing and not path.exists():
        # What is left of a beginning must not stand in the way of the next one.
        begin_workshop(path).close()
        lost += [f"left behind: {left.name}" for left in path.parent.iterdir() if left != path]
    return lost


def main(folder: Path, rounds: int, seed: int) -> int:
    pick, killed = random.Random(seed), 0
    for name in LIVES:
        lost, moments = kill_life(folder / name, name, None)
        if lost or not moments:
            sys.stdout.write(f"{name}: lost {lost} without being killed\n")
            return 1
        for number in range(max(1, rounds // len(LIVES))):
            moment = pick.randint(1, moments)
            lost, _ = kill_life(folder / f"{name} {number}", name, moment)
            killed += 1
            if lost:
                sys.stdout.write(f"{name}, killed at moment {moment} of {moments}: lost {lost}\n")
                return 1
    sys.stdout.write(f"killed {killed} lost 0\n")
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])))
