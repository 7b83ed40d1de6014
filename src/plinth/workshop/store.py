"""The workshop, opened: everything that is kept goes through here and is on disk when a call returns."""

import contextlib
from collections.abc import Callable
from pathlib import Path

import sqlalchemy as sa

from plinth.workshop import begun
from plinth.workshop.checks import check_contents, check_kind, copy_of, told
from plinth.workshop.errors import DamagedWorkshopError, NotAWorkshopError, NotKeptError, WorkshopError
from plinth.workshop.kept_builds import KeptBuilds
from plinth.workshop.kept_captures import KeptCaptures
from plinth.workshop.kept_papers import KeptPapers
from plinth.workshop.kept_parts import KeptParts
from plinth.workshop.kept_photos import KeptPhotos
from plinth.workshop.kept_settings import KeptSettings
from plinth.workshop.lock import WorkshopLock
from plinth.workshop.schema import (
    SCHEMA_VERSION,
)


class Workshop(KeptBuilds, KeptParts, KeptPapers, KeptPhotos, KeptCaptures, KeptSettings):
    """An open workshop file. Construct with ``open_workshop`` or ``create_workshop``; ``close`` when done."""


def open_workshop(path: Path) -> Workshop:
    """Open an existing workshop. Raises a WorkshopError that says what is wrong; the file is then untouched."""
    named = _named(path)
    check_kind(named)
    lock = WorkshopLock(named)
    workshop: Workshop | None = None
    try:
        damage = check_contents(named)
        if damage.version < SCHEMA_VERSION:
            _rehearse_migration(named)
        workshop = Workshop(named, lock)
        workshop.unchecked = damage.unchecked
        for sentence in damage.notices:
            workshop.notice(sentence)
        workshop.migrate()
        workshop.remember()
        # Only tidying: a disk that takes nothing just now is no reason not to open.
        with contextlib.suppress(WorkshopError):
            workshop.drop_ownerless()
    except BaseException:
        if workshop is not None:
            workshop.close()
        lock.release()
        raise
    return workshop


def _rehearse_migration(path: Path) -> None:
    """Bring a copy to this version first: a file that cannot be brought there is damaged, and is left as it is."""
    try:
        with copy_of(path) as copy:
            rehearsed = Workshop(copy, WorkshopLock(copy))
            try:
                rehearsed.migrate()
            finally:
                rehearsed.close()
    except (NotKeptError, sa.exc.SQLAlchemyError, ValueError) as error:
        raise DamagedWorkshopError(
            path, [f"it cannot be brought to this version: {str(error).splitlines()[0][:160]}"]
        ) from error
    except OSError as error:
        raise told(path, error) from error


def create_workshop(path: Path, fill: Callable[[Workshop], None] | None = None) -> Workshop:
    """Make a new workshop file, ``fill`` it, and only then give it its name: nobody ever sees half of one.

    Raises FileExistsError where something is there already, OutOfReachError or NotKeptError where the disk does not
    take it; nothing is then left behind.
    """
    named = _named(path)
    with begun.making(named) as aside:
        lock = WorkshopLock(aside)
        workshop = Workshop(aside, lock)
        try:
            workshop.migrate()
            if fill is not None:
                fill(workshop)
            begun.give_name(aside, named)
            workshop.move_to(named)
        except BaseException:
            workshop.close()
            raise
    return workshop


def _named(path: Path) -> Path:
    try:
        return path.resolve()
    except (OSError, RuntimeError, ValueError) as error:
        raise NotAWorkshopError(
            path, f"{str(path)[:200]!r} is no name of a file ({error}). Choose another workshop, or make a new one."
        ) from error
