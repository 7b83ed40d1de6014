"""A life of a workshop file is ended inside SQLite's own writes, and what it was writing is left torn.

The kernel ends it where a write would pass a limit on the size of files: in the middle of a journal, or of the pages
that are written into the file itself; or an alarm does, wherever it is. Where a whole journal is left, the pages that
it can restore are torn sector by sector, as a failing supply tears them: old, new, or neither.
"""

import random
import resource
import signal
import struct
from collections.abc import Callable
from pathlib import Path

from tests.workshop.writer import LIVES, forked_life, lost_after

# What begins a rollback journal; what follows it: records, nonce, pages before, sector and page size.
MAGIC = bytes.fromhex("d9d505f920a163d7")
HEAD = struct.Struct(">5I")
SECTOR = 512
# The longest of the lives takes about so long on an idle machine; an alarm that comes later ends none.
LONGEST_LIFE_S = 1.5


def attack(folder: Path, seed: int) -> str:
    pick = random.Random(seed)
    name = pick.choice([name for name in LIVES if name != "export"])
    prepare, life, _ = LIVES[name]
    path = folder / "shed.plinth"
    prepare(path)
    end, words = pick.choice((_at_offset, _at_offset, _at_time))(path, pick)
    said, whole = forked_life(path, life, end, lambda: "")
    torn = 0 if whole else tear(path, pick)
    lost = lost_after(path, name, said)
    return f"{name}, ended {words}, {torn} pages torn: lost {lost}" if lost else ""


def _at_offset(path: Path, pick: random.Random) -> tuple[Callable[[], None], str]:
    size = path.stat().st_size if path.exists() else 150_000
    limit = pick.randrange(1, int(1.2 * size))

    def end() -> None:
        signal.signal(signal.SIGXFSZ, signal.SIG_DFL)
        resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
        resource.setrlimit(resource.RLIMIT_FSIZE, (limit, limit))

    return end, f"where a file would pass {limit} bytes"


def _at_time(_path: Path, pick: random.Random) -> tuple[Callable[[], None], str]:
    after_s = pick.uniform(0.001, LONGEST_LIFE_S)

    def end() -> None:
        signal.signal(signal.SIGALRM, signal.SIG_DFL)
        signal.setitimer(signal.ITIMER_REAL, after_s)

    return end, f"after {after_s:.4f} s"


def tear(path: Path, pick: random.Random) -> int:
    """Tear the pages that a whole journal beside ``path`` can restore; how many were."""
    journal = path.with_name(path.name + "-journal")
    if not path.exists() or not journal.exists():
        return 0
    torn, content = 0, bytearray(path.read_bytes())
    for page, old, begin in restorable(journal.read_bytes()):
        if begin + len(old) > len(content) or pick.random() < 0.3:
            continue
        torn += 1
        for at in range(0, len(old), SECTOR):
            # What begins the first page is the same before and after; nothing writes another there.
            choices = (old[at : at + SECTOR], None, pick.randbytes(SECTOR))
            sector = pick.choice(choices[:2] if page == 1 and at == 0 else choices)
            if sector is not None:
                content[begin + at : begin + at + SECTOR] = sector
    path.write_bytes(content)
    return torn


def restorable(journal: bytes) -> list[tuple[int, bytes, int]]:
    """Each page that a journal restores: number, content before, where it begins in the file.

    A journal counts what it holds only once that is on the disk, and nothing is written over before.
    """
    if journal[: len(MAGIC)] != MAGIC or len(journal) < len(MAGIC) + HEAD.size:
        return []
    records, _nonce, _before, sector, size = HEAD.unpack_from(journal, len(MAGIC))
    pages, at = [], sector
    for _ in range(records):
        (page,) = struct.unpack_from(">I", journal, at)
        pages.append((page, journal[at + 4 : at + 4 + size], (page - 1) * size))
        at += size + 8
    return pages
