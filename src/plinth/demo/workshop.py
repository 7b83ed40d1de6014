"""A fresh copy of the demo workshop, and the beginning of a workshop of one's own."""

import functools
from pathlib import Path

from plinth.builds.parts import Part
from plinth.builds.situation import Situation
from plinth.builds.stations import part_in, stations
from plinth.workshop.store import Workshop, create_workshop

# Shelf, builds and history are read when they are asked for: who opens a workshop of his own does not wait for them.


@functools.cache
def _invented() -> tuple[Part, ...]:
    from plinth.demo.builds import REHEARSAL_ROOM
    from plinth.demo.shelf import WHOLE

    slots = [slot for station in stations(REHEARSAL_ROOM) for slot in station.slots]
    return (*(part for part, _ in WHOLE), *(part_in(REHEARSAL_ROOM, slot) for slot in slots))


def is_invented(part: Part) -> bool:
    """Whether a workshop of one's own is begun with that part: an example, until it is exchanged or changed."""
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


def begin_workshop(path: Path, *, practice: bool = False) -> Workshop:
    """A new workshop with the shelf and one build to change; its instruments are not described yet.

    ``practice``: in it what is simulated counts, and what is real never does.

    Raises FileExistsError where something is there already, a WorkshopError where it cannot be written.
    """

    def fill(workshop: Workshop) -> None:
        _first_build(workshop)
        if practice:
            workshop.set_setting("workshop", {"practice": True})

    return create_workshop(path, fill)


def complete(workshop: Workshop) -> None:
    """Give a workshop that was begun and left without any build the one it was to begin with."""
    if not workshop.builds() and not workshop.locked:
        _first_build(workshop)


def _first_build(workshop: Workshop) -> None:
    from plinth.demo.builds import REHEARSAL_ROOM
    from plinth.demo.shelf import WHOLE

    if not workshop.items():
        # Nothing of the theatre lies in one's own drawer.
        workshop.add_items([(part, stock.model_copy(update={"in_drawer": 0, "ordered": 0})) for part, stock in WHOLE])
    build = REHEARSAL_ROOM.model_copy(update={"name": "First build", "note": ""})
    workshop.add_build(build, Situation(), "First build: begun with parts from the invented shelf.")
