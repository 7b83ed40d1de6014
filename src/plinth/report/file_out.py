"""Writing a file for people: aside, flushed, then under its name, so that nobody ever finds half of one."""

import contextlib
import os
import re
import stat
import tempfile
from pathlib import Path


def write_whole(path: Path, content: str | bytes) -> None:
    """Write ``content`` (text as UTF-8); when this returns it is on the disk. Raises OSError, leaving nothing behind.

    A pipe or a device is refused, for it would be waited on; a link is followed to the file it names.
    """
    path = path.resolve()
    with contextlib.suppress(FileNotFoundError):
        mode = path.stat().st_mode
        if stat.S_ISDIR(mode):
            raise IsADirectoryError(21, "that is a folder", str(path))
        if not stat.S_ISREG(mode):
            raise OSError(22, "that is a pipe or a device, no place for a file", str(path))
    try:
        handle, name = tempfile.mkstemp(prefix=".", suffix=".part", dir=path.parent)
    except OSError as error:
        raise OSError(error.errno, error.strerror, str(path)) from error
    aside = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content.encode("utf-8", "replace") if isinstance(content, str) else content)
            file.flush()
            os.fchmod(file.fileno(), path.stat().st_mode & 0o777 if path.exists() else 0o644)
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


def proposed_name(title: str, ending: str) -> str:
    """A file name made of a title: small letters, nothing that a file system or a shell could take for something else.

    ``Stage pair: left/right`` -> ``stage-pair-left-right.html``.
    """
    plain = re.sub(r"[\s/\\\x00-\x1f\x7f:*?\"<>|]+", "-", title.lower()).strip("-. ")
    return f"{plain[:80] or 'plinth'}{ending}"
