"""Every kind of file that Plinth reads, changed at random: a sentence, or what was written; never anything else."""

import json
import os
import random
from pathlib import Path

from plinth.builds.files import BuildFileError, read_build
from plinth.demo.builds import STAGE_PAIR
from plinth.desk import preferences
from plinth.workshop.errors import WorkshopError
from plinth.workshop.salvage import salvage
from plinth.workshop.store import open_workshop
from tests.demo_copy import demo_copy
from tests.workshop.writer import FILES

_whole: dict[str, bytes] = {}


def mutated(content: bytes, pick: random.Random) -> bytes:
    """Flipped, cut, overwritten, doubled or emptied somewhere."""
    data = bytearray(content)
    for _ in range(pick.choice((1, 1, 1, 3, 20))):
        if not data:
            break
        at = pick.randrange(len(data))
        match pick.randrange(6):
            case 0:
                data[at] ^= 1 << pick.randrange(8)
            case 1:
                data[at : at + pick.choice((1, 16, 4096))] = pick.randbytes(pick.choice((1, 16, 4096)))
            case 2:
                del data[at : at + pick.choice((1, 100, 5000))]
            case 3:
                data[at : at + 64] = b"\0" * min(64, len(data) - at)
            case 4:
                data[at:at] = data[pick.randrange(len(data)) :][: pick.choice((1, 512, 4096))]
            case _:
                del data[at:]
    return bytes(data)


def attack(folder: Path, seed: int) -> str:
    pick = random.Random(seed)
    return pick.choice((_workshop, _workshop, _workshop, _build, _preferences))(folder, pick)


def _workshop(folder: Path, pick: random.Random) -> str:
    if "new" not in _whole:
        workshop = demo_copy(folder / "whole")
        workshop.close()
        _whole["new"] = workshop.path.read_bytes()
        _whole["old"] = (FILES / "demo-1.plinth").read_bytes()
    kind = pick.choice(("new", "new", "old"))
    path = folder / "mutated.plinth"
    path.write_bytes(mutated(_whole[kind], pick))
    if pick.random() < 0.2:
        wal = (FILES / "killed-1.plinth-wal").read_bytes()
        path.with_name(path.name + pick.choice(("-wal", "-journal"))).write_bytes(mutated(wal, pick))
    before = path.read_bytes()
    refused = ""
    try:
        _read_all(path)
    except WorkshopError as error:
        refused = str(error)
    if refused:
        if path.read_bytes() != before:
            return f"a {kind} workshop that was refused was changed ({refused})"
        try:
            saved = salvage(path, folder / "saved.plinth")
            _read_all(saved.path)
        except WorkshopError as error:
            return "" if str(error) else "no sentence"
    return ""


def _read_all(path: Path) -> None:
    """Everything that the window reads of a workshop."""
    workshop = open_workshop(path)
    try:
        for stored in workshop.builds():
            workshop.diary(stored.id)
            workshop.latest_records(stored.id)
        workshop.last_of(("power_on", "power_off"))
        for kind in (type(STAGE_PAIR.load), type(STAGE_PAIR.module), type(STAGE_PAIR.supply.reservoir)):
            workshop.shelf(kind)
        workshop.bench()
        for key in ("desk", "workshop"):
            workshop.setting(key)
    finally:
        workshop.close()


def _build(folder: Path, pick: random.Random) -> str:
    path = folder / "b.json"
    document = STAGE_PAIR.model_dump(mode="json")
    if pick.random() < 0.5:
        place = document
        while True:
            key = pick.choice(list(place))
            if isinstance(place[key], dict) and place[key] and pick.random() < 0.8:
                place = place[key]
                continue
            place[key] = pick.choice((None, -1, 0, 1e-12, 1e300, "x" * 1000, [], {}, True, [[[]]] * 3, "\0", "kind"))
            break
        path.write_text(json.dumps(document), encoding="utf-8")
    else:
        path.write_bytes(mutated(json.dumps(document).encode(), pick))
    try:
        read_build(path)
    except BuildFileError as error:
        if not str(error) or len(str(error)) > 20_000 or "pydantic" in str(error):
            return f"a build file was refused with {str(error)[:200]!r}"
    return ""


def _preferences(folder: Path, pick: random.Random) -> str:
    os.environ["XDG_CONFIG_HOME"] = str(folder / "config")
    preferences.save_dark(True)
    preferences.save_scale(1.5)
    path = preferences.settings_file()
    text = pick.choice((
        mutated(path.read_bytes(), pick), b'{"scale": "big"}', b"[" * 5000, b'{"workshop": "' + b"x" * 5000 + b'"}',
        b'{"place": [1, 2]}', b'{"dark": 3, "scale": NaN}', b"\xff\xfe",
    ))  # fmt: skip
    path.write_bytes(text)
    found, _said = preferences.load_checked()
    if not 0.5 <= float(found.get("scale", 1.0)) <= 3.0 or not isinstance(found.get("dark", False), bool):
        return f"preferences {text[:60]!r} gave {found}"
    preferences.save_dark(False)
    preferences.save_scale(1.0)
    return ""
