"""What is analysed together as one content: a file, a folder of levels, an output with and without its load.

One file is kept as it is; several are put into a zip, each as it is.
"""

import contextlib
import dataclasses
import io
import re
import tempfile
import zipfile
from collections.abc import Iterator
from pathlib import Path

from plinth.captures.capture import LARGEST_BYTES, CaptureError
from plinth.captures.options import Options
from plinth.captures.reading.read_capture import file_bytes, read_capture
from plinth.captures.writing import wav_bytes

ENDING = ".captures.zip"
_LEVELS, _LOADED, _OPEN = "levels", "loaded", "open"
_NAME = re.compile(rf"({_LEVELS}|{_LOADED}|{_OPEN})/[^/\\\0]+")
_MOMENT = (1980, 1, 1, 0, 0, 0)


@dataclasses.dataclass(frozen=True)
class Content:
    """``name`` and bytes of what is kept of a capture."""

    name: str
    data: bytes

    @property
    def is_bundle(self) -> bool:
        """Whether it holds several files."""
        return self.name.endswith(ENDING)


def content_of(path: Path, options: Options) -> Content:
    """The bytes of all that an analysis of ``path`` rests on. Raises CaptureError where they are not to be had."""
    try:
        if path.is_dir():
            levels = sorted(each for each in path.iterdir() if each.is_file() and not each.name.startswith("."))
            return _bundled(path.name, [(f"{_LEVELS}/{each.name}", file_bytes(each)) for each in levels])
        if options.open_file is not None:
            pair = [(_LOADED, path), (_OPEN, options.open_file)]
            return _bundled(path.name, [(f"{part}/{each.name}", file_bytes(each)) for part, each in pair])
        if path.is_file() and path.stat().st_size > LARGEST_BYTES:
            # Only the part that is looked at is kept of it.
            return Content(f"{path.stem}, part.wav", wav_bytes(read_capture(path, options)))
        return Content(path.name, file_bytes(path))
    except OSError as error:
        raise CaptureError(f"{path}: found no readable file ({error.strerror or error}), expected one") from error


def _bundled(name: str, files: list[tuple[str, bytes]]) -> Content:
    if sum(len(data) for _, data in files) > LARGEST_BYTES:
        raise CaptureError(f"{name}: found more than {LARGEST_BYTES / 1e6:.0f} MB together, expected less")
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as packed:
        for place, data in files:
            packed.writestr(zipfile.ZipInfo(place, _MOMENT), data, zipfile.ZIP_DEFLATED)
    return Content(f"{name}{ENDING}", held.getvalue())


@contextlib.contextmanager
def laid_out(content: Content, options: Options) -> Iterator[tuple[Path, Options]]:
    """The files of a content in a folder of their own while it is looked at, and the options with what lies beside.

    Raises CaptureError where a bundle is none of Plinth's.
    """
    with tempfile.TemporaryDirectory(prefix="plinth-capture-") as folder:
        place = Path(folder)
        if not content.is_bundle:
            path = place / Path(content.name).name
            path.write_bytes(content.data)
            yield path, options
            return
        names = _unpacked(content, place)
        if any(name.startswith(_LEVELS) for name in names):
            yield place / _LEVELS, options
            return
        pair = {name.partition("/")[0]: place / name for name in names}
        if set(pair) != {_LOADED, _OPEN}:
            raise CaptureError(f"{content.name}: found {', '.join(names)} in it, expected what Plinth keeps")
        yield pair[_LOADED], dataclasses.replace(options, open_file=pair[_OPEN])


def _unpacked(content: Content, to: Path) -> list[str]:
    try:
        with zipfile.ZipFile(io.BytesIO(content.data)) as packed:
            infos = packed.infolist()
            if sum(info.file_size for info in infos) > LARGEST_BYTES:
                raise CaptureError(f"{content.name}: found more than {LARGEST_BYTES / 1e6:.0f} MB in it")
            for info in infos:
                if _NAME.fullmatch(info.filename) is None:
                    raise CaptureError(f"{content.name}: found {info.filename[:60]!r}, expected what Plinth keeps")
                path = to / info.filename
                path.parent.mkdir(exist_ok=True)
                path.write_bytes(packed.read(info))
    except (zipfile.BadZipFile, EOFError, NotImplementedError, ValueError) as error:
        if isinstance(error, CaptureError):
            raise
        raise CaptureError(f"{content.name}: found no whole bundle ({error}), expected one") from error
    return [info.filename for info in infos]
