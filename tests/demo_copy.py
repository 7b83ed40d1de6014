"""Copies of the demo workshop, which is made once a run."""

import os
import shutil
from pathlib import Path

from plinth.demo.workshop import DEMO_NAME, make_demo
from plinth.workshop.store import Workshop, open_workshop
from tests.shared_answers import folder


def demo_as_made() -> Path:
    """The demo as it is made, which nobody may write to; made by whichever process asks first."""
    kept = folder() / f"{DEMO_NAME}.plinth"
    if not kept.exists():
        own = folder() / f"demo-{os.getpid()}"
        own.mkdir(exist_ok=True)
        workshop = make_demo(own)
        workshop.close()
        workshop.path.replace(kept)
    return kept


def demo_copy(place: Path) -> Workshop:
    """A copy of its own, open; ``place`` a folder, in which it has the demo's own name."""
    place.mkdir(parents=True, exist_ok=True)
    copy = place / f"{DEMO_NAME}.plinth"
    shutil.copy(demo_as_made(), copy)
    return open_workshop(copy)
