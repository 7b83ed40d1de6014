"""A file made under a name of its own beside the wanted one, and given that name only when it is whole."""

import contextlib
import errno
import fcntl
import os
from collections.abc import Iterator
from pathlib import Path

from plinth.workshop.errors import OutOfReachError

_ENDING = ".begun"


@contextlib.contextmanager
def making(named: Path) -> Iterator[Path]:
    """An empty file beside ``named`` that its owner alone may read; gone afterwards, with any journal of it.

    Raises FileExistsError where ``named`` is taken, OutOfReachError where its folder cannot be written.
    """
    if named.exists() or named.is_symlink():
        raise FileExistsError(f"found a file at {named}, expected none: choose another name")
    aside = named.with_name(f".{named.name}.{os.getpid()}{_ENDING}")
    missing = [folder for folder in named.parents if not folder.exists()]
    try:
        named.parent.mkdir(parents=True, exist_ok=True)
        _tidy(named)
        os.close(os.open(aside, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o600))
    except OSError as error:
        for folder in missing:
            with contextlib.suppress(OSError):
                folder.rmdir()
        raise OutOfReachError(
            named,
            f"{named} could not be begun ({error.strerror or error}). Nothing was left behind. Choose a folder where "
            "you may write, or free some space.",
        ) from error
    try:
        yield aside
    finally:
        for part in (aside, aside.with_name(aside.name + "-journal")):
            with contextlib.suppress(OSError):
                part.unlink(missing_ok=True)


def give_name(aside: Path, named: Path) -> None:
    """Let ``aside`` be known as ``named``. Raises FileExistsError rather than take the place of another file."""
    try:
        os.link(aside, named)
    except FileExistsError as error:
        raise FileExistsError(f"found a file at {named}, expected none: choose another name") from error
    except OSError as error:
        # Some file systems of sticks and cards know no second name for a file.
        if error.errno not in (errno.EPERM, errno.EOPNOTSUPP, errno.ENOTSUP, errno.EMLINK) or named.exists():
            raise
        aside.rename(named)
    _flush_folder(named.parent)


def _flush_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _tidy(named: Path) -> None:
    """Take away what an earlier beginning of that name, killed half-way, has left."""
    for left in named.parent.glob(f".{_escaped(named.name)}.*{_ENDING}*"):
        with contextlib.suppress(OSError), left.open("rb") as file:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            left.unlink()


def _escaped(name: str) -> str:
    return "".join(f"[{c}]" if c in "*?[" else c for c in name)
