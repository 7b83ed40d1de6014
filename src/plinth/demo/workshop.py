"""A fresh copy of the demo workshop."""

import functools
from pathlib import Path

from plinth.builds.parts import Part
from plinth.builds.stations import part_in, stations
from plinth.workshop.store import Workshop, create_workshop

# Shelf, builds and history are read when they are asked for: who opens a workshop of his own does not wait for them.


@functools.cache
def _invented() -> tuple[Part, ...]:
    from plinth.demo.builds import REHEARSAL_ROOM
    from plinth.demo.shelf import WHOLE

    slots = [slot for station in stations(REHEARSAL_ROOM) for slot in station.slots]
    return (*(part for part, _ in WHOLE), *(part_in(REHEARSAL_ROOM, slot) for slot in slots))


@functools.lru_cache(maxsize=512)
def is_invented(part: Part) -> bool:
    """Whether that part is of the demo's: workshops of one's own were begun with such, as examples."""
    return part in _invented()


DEMO_NAME = "puppet-theatre"


def make_demo(folder: Path) -> Workshop:
    """Make the demo in ``folder`` under the first name that is free, so that no earlier copy is touched."""
    from plinth.demo.story import fill

    path, number = folder / f"{DEMO_NAME}.plinth", 1
    while path.exists():
        number += 1
        path = folder / f"{DEMO_NAME}-{number}.plinth"
    return create_workshop(path, fill)
