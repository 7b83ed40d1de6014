"""Writing a file for people: aside, flushed, then under its name, so that nobody ever finds half of one.

What is written replaces what was written before, never a workshop and never a file that is read-only.
"""

import contextlib
import errno
import os
import re
import stat
import tempfile
import time
from pathlib import Path

# A workshop by its first bytes, whatever it is called, and by its name, whatever became of its bytes.
_DATABASE, _WORKSHOP = b"SQLite format 3\x00", ".plinth"
# Whatever lies beside a workshop under its name belongs to it.
_BESIDE = ("-journal", "-wal", "-shm")
_ASIDE, _PART = ".plinth-", ".part"
# A file aside whose writer is gone is taken away once it is older than this; another machine's writer may be at it.
_LEFT_BEHIND_S = 60.0


def write_whole(path: Path, content: str | bytes) -> None:
    """Write ``content`` (text as UTF-8); when this returns it is on the disk. Raises OSError, leaving nothing behind.

    A link is followed to the file it names. Refused are a workshop (by content or by name), a read-only file, a folder,
    and a pipe or a device, which would be waited on. A new file may be read by its owner alone, as a workshop may.
    """
    path = path.resolve()
    _refuse_precious(path)
    _take_away_left_behind(path.parent)
    try:
        handle, name = tempfile.mkstemp(prefix=f"{_ASIDE}{os.getpid()}-", suffix=_PART, dir=path.parent)
    except OSError as error:
        raise OSError(error.errno, error.strerror, str(path)) from error
    aside = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content.encode("utf-8", "replace") if isinstance(content, str) else content)
            file.flush()
            os.fchmod(file.fileno(), path.stat().st_mode & 0o777 if path.exists() else 0o600)
            os.fsync(file.fileno())
        aside.replace(path)
    except BaseException:
        with contextlib.suppress(OSError):
            aside.unlink(missing_ok=True)
        raise
    folder = os.open(path.parent, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)


def not_written_words(path: Path | str, error: OSError) -> str:
    """Why a file was not written, and what to do about it."""
    return f"{path} could not be written ({error.strerror or error}). Choose another name or folder."


def _refuse_precious(path: Path) -> None:
    name = path.name.lower()
    beside = next((name.removesuffix(ending) for ending in _BESIDE if name.endswith(ending)), name)
    if beside.endswith(_WORKSHOP):
        raise OSError(errno.EINVAL, "that name belongs to a workshop, which no export replaces", str(path))
    with contextlib.suppress(FileNotFoundError):
        mode = path.stat().st_mode
        if stat.S_ISDIR(mode):
            raise IsADirectoryError(errno.EISDIR, "that is a folder", str(path))
        if not stat.S_ISREG(mode):
            raise OSError(errno.EINVAL, "that is a pipe or a device, no place for a file", str(path))
        if not mode & 0o222:
            raise PermissionError(errno.EACCES, "that file is read-only", str(path))
        with path.open("rb") as file:
            if file.read(len(_DATABASE)) == _DATABASE:
                raise OSError(errno.EINVAL, "that is a workshop or another database, no place for an export", str(path))


def _take_away_left_behind(folder: Path) -> None:
    """Files aside whose writer was killed: nobody will finish them."""
    try:
        left = [file for file in folder.glob(f"{_ASIDE}*{_PART}") if not _has_writer(file)]
    except OSError:
        return
    for leftover in left:
        with contextlib.suppress(OSError):
            leftover.unlink()


def _has_writer(aside: Path) -> bool:
    number = aside.name.removeprefix(_ASIDE).partition("-")[0]
    try:
        young = time.time() - aside.stat().st_mtime < _LEFT_BEHIND_S
    except FileNotFoundError:
        return True
    return young or not number.isdigit() or Path(f"/proc/{number}").exists()


def proposed_name(title: str, ending: str) -> str:
    """A file name made of a title: small letters, nothing that a file system or a shell could take for something else.

    ``Stage pair: left/right`` -> ``stage-pair-left-right.html``.
    """
    plain = re.sub(r"[\s/\\\x00-\x1f\x7f:*?\"<>|]+", "-", title.lower()).strip("-. ")
    return f"{plain[:80] or 'plinth'}{ending}"
