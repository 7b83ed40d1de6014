"""A fresh copy of the demo workshop."""

from pathlib import Path

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
