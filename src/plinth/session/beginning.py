"""The beginning of a workshop of one's own: plain parts of the usual series, and one build to change."""

from pathlib import Path

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.workshop.store import Workshop, create_workshop

FIRST = "First build"
# By slot, what the first build is made of: plain parts of the shelf, of a size that is built often.
_PARTS = {
    "mains": "Wall, 230 V 50 Hz", "entry": "Inlet, fuse T 1.25 A", "transformer": "Toroid 2×22 V 160 VA",
    "rectifier": "Two bridges 25 A", "reservoir": "Can 10 mF 50 V", "module": "Chip board, 50 W",
    "sink": "Sink 0.33 K/W", "protection": "Relay board, mutes 3 s", "hookup": "Wiring",
}  # fmt: skip
# What differs of it on a wall of about 120 V: twice the current flows there.
_AT_120_V = {
    "mains": "Wall, 120 V 60 Hz", "entry": "Inlet, fuse T 2.5 A", "transformer": "Toroid for 120 V: 2×22 V 160 VA",
}  # fmt: skip
# Walls below it are taken for one of 120 V, those above for one of 230 V.
_BETWEEN_V = 160.0
_LOADS = ("Dummy 8 Ω 100 W", "Dummy 4 Ω 100 W")


def begin_workshop(path: Path, *, practice: bool = False, mains_v: float = 230.0) -> Workshop:
    """A new workshop with the usual series on its shelf and one build of it; its instruments are not described yet.

    ``practice``: in it what is simulated counts, and what is real never does. ``mains_v`` about what the wall gives
    where it is begun, V.

    Raises FileExistsError where something is there already, a WorkshopError where it cannot be written.
    """

    def fill(workshop: Workshop) -> None:
        _first_build(workshop, mains_v)
        if practice:
            workshop.set_setting("workshop", {"practice": True})

    return create_workshop(path, fill)


def begin_in(folder: Path, mains_v: float = 230.0) -> Workshop:
    """A new workshop in ``folder`` under the first name that is free, as ``begin_workshop``."""
    path, number = folder / "workshop.plinth", 1
    while path.exists():
        number += 1
        path = folder / f"workshop-{number}.plinth"
    return begin_workshop(path, mains_v=mains_v)


def complete(workshop: Workshop) -> None:
    """Give a workshop that was begun and left without any build the one it was to begin with."""
    if not workshop.builds() and not workshop.locked:
        _first_build(workshop)


def first_build(mains_v: float = 230.0) -> Build:
    """Two channels of chip boards on a toroid, all plain parts of the usual series, for a wall of about so many V."""
    from plinth.shelf.usual_series import usual_series

    parts = {part.name: part.model_dump() for part, _ in usual_series()}
    names = _PARTS | (_AT_120_V if mains_v < _BETWEEN_V else {})
    at = {slot: parts[name] for slot, name in names.items()}
    supply = {"kind": "linear", **{slot: at.pop(slot) for slot in ("transformer", "rectifier", "reservoir")}}
    loads = tuple(parts[name] for name in _LOADS)
    return Build.model_validate(
        {"name": FIRST, "channels": ("left", "right"), "supply": supply, "load": loads[0], "loads": loads, **at}
    )


def _first_build(workshop: Workshop, mains_v: float = 230.0) -> None:
    from plinth.shelf.usual_series import usual_series

    if not workshop.items():
        workshop.add_items(list(usual_series()))
    workshop.add_build(first_build(mains_v), Situation(), f"{FIRST}: begun with plain parts of the usual series.")
