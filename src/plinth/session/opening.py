"""Opening and beginning workshops, and saving what is whole of a damaged one: what a window needs before a session."""

from pathlib import Path

from plinth.demo.workshop import make_demo
from plinth.session.beginning import begin_in, begin_workshop, complete
from plinth.workshop.errors import DamagedWorkshopError, WorkshopError, WorkshopInUseError
from plinth.workshop.salvage import salvage
from plinth.workshop.store import Workshop, open_workshop

__all__ = [
    "DamagedWorkshopError", "Workshop", "WorkshopError", "WorkshopInUseError", "begin_in", "begin_workshop",
    "make_demo", "opened", "salvaged_words",
]  # fmt: skip


def opened(path: Path) -> Workshop:
    """The workshop in ``path`` with a build in it. Raises a WorkshopError; the file is then closed again."""
    workshop = open_workshop(path)
    try:
        complete(workshop)
        if not workshop.builds():
            raise DamagedWorkshopError(path, [build.why for build in workshop.locked])
    except BaseException:
        workshop.close()
        raise
    return workshop


def salvaged_words(damaged: Path, to: Path) -> tuple[bool, str]:
    """Save what is whole in a damaged workshop as a new one; whether it was, and in words what came of it."""
    try:
        saved = salvage(damaged, to)
    except (WorkshopError, OSError) as error:
        return False, f"Nothing was saved: {error}"
    lost = f" Not whole, and left out: {'; '.join(saved.lost[:12])}" if saved.lost else " Nothing was lost."
    more = f"; and {len(saved.lost) - 12} more." if len(saved.lost) > 12 else "." if saved.lost else ""
    return True, (
        f"Saved in {saved.path}: {saved.builds} build{'s' * (saved.builds != 1)}, {saved.lines} lines of diary. Open "
        f"it with Ctrl+Shift+W.{lost}{more}"
    )
