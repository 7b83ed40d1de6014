"""A fresh copy of the demo workshop, and the beginning of a workshop of one's own."""

from pathlib import Path

from plinth.builds.situation import Situation
from plinth.demo.builds import REHEARSAL_ROOM
from plinth.demo.shelf import SHELF
from plinth.demo.story import fill
from plinth.workshop.store import Workshop, create_workshop

DEMO_NAME = "puppet-theatre"


def make_demo(folder: Path) -> Workshop:
    """Make the demo in ``folder`` under the first name that is free, so that no earlier copy is touched."""
    path, number = folder / f"{DEMO_NAME}.plinth", 1
    while path.exists():
        number += 1
        path = folder / f"{DEMO_NAME}-{number}.plinth"
    workshop = create_workshop(path)
    fill(workshop)
    return workshop


def begin_workshop(path: Path) -> Workshop:
    """A new workshop with the shelf and one build to change; its instruments are not described yet.

    Raises FileExistsError where something is there already.
    """
    workshop = create_workshop(path)
    workshop.add_parts(SHELF)
    build = REHEARSAL_ROOM.model_copy(update={"name": "First build", "note": ""})
    workshop.add_build(build, Situation(), "First build: begun with parts from the invented shelf.")
    return workshop
