"""A fresh copy of the demo workshop."""

from pathlib import Path

from plinth.demo.story import fill
from plinth.workshop.store import Workshop, create_workshop

DEMO_NAME = "puppet-theatre.plinth"


def make_demo(folder: Path) -> Workshop:
    """Make the demo in ``folder``, in place of an earlier copy of it."""
    path = folder / DEMO_NAME
    for suffix in ("", "-wal", "-shm"):
        path.with_name(path.name + suffix).unlink(missing_ok=True)
    workshop = create_workshop(path)
    fill(workshop)
    return workshop
