"""``plinth doctor``: what on this machine may keep Plinth from working, one line each, and how to mend it."""

import ctypes.util
import dataclasses
import fcntl
import grp
import importlib.util
import os
import platform
import shutil
import sys
import tempfile
from collections.abc import Mapping
from importlib import metadata, resources
from pathlib import Path

import platformdirs

from plinth.release import VERSION

# What a report of a fault should name besides Plinth itself.
RESTS_ON = ("PySide6_Essentials", "numpy", "scipy", "pydantic", "SQLAlchemy", "alembic", "pyqtgraph", "PyVISA")
# A workshop with photos grows to some hundred megabytes, and a copy of it is made each day.
ROOM_BYTES = 1_000_000_000
# Where the kernel shows instruments on USB, and serial ports; the group that may use a port.
USB_INSTRUMENTS, SERIAL_PORTS, PORT_GROUP = "usbtmc*", "ttyUSB*", "dialout"
OLDEST_PYTHON = (3, 11)


@dataclasses.dataclass(frozen=True)
class Finding:
    """``about`` what was looked at, ``words`` what was found; ``remedy`` empty where all is well."""

    about: str
    words: str
    remedy: str = ""

    @property
    def line(self) -> str:
        """As it is printed."""
        mark = "look" if self.remedy else "ok"
        return f"{mark:4}  {self.about:12} {self.words}{f'. {self.remedy}' if self.remedy else ''}"


def versions() -> str:
    """Plinth, Python, the system and what Plinth rests on, in one line."""
    system = f"{platform.system()} {platform.machine()}"
    rests_on = ", ".join(f"{name} {_version_of(name)}" for name in RESTS_ON)
    return f"plinth {VERSION}, Python {platform.python_version()}, {system}; {rests_on}"


def findings(environment: Mapping[str, str], devices: Path = Path("/dev")) -> tuple[Finding, ...]:
    """Everything that is looked at, in order; ``devices`` where the system's devices are."""
    return (
        _python(),
        _parts(),
        _fonts(),
        _screen(environment),
        _drawing(environment),
        _place(Path(platformdirs.user_data_dir("plinth")), "workshops"),
        _place(Path(platformdirs.user_config_dir("plinth")), "settings"),
        _room(Path(platformdirs.user_data_dir("plinth"))),
        _sound(),
        _usb(devices),
        _ports(devices),
    )


def _python() -> Finding:
    found = platform.python_version()
    if sys.version_info < OLDEST_PYTHON:
        return Finding("Python", f"found {found}, expected 3.11 or newer", "Install a newer Python.")
    return Finding("Python", found)


def _parts() -> Finding:
    missing = [name for name in RESTS_ON if "missing" in _version_of(name)]
    if missing:
        return Finding("libraries", f"found no {', '.join(missing)}", "Install Plinth anew: a part of it is gone.")
    return Finding("libraries", ", ".join(f"{name} {_version_of(name)}" for name in RESTS_ON[:3]))


def _version_of(name: str) -> str:
    try:
        return metadata.version(name)
    except metadata.PackageNotFoundError:
        return "missing"


def _fonts() -> Finding:
    folder = resources.files("plinth.desk") / "fonts"
    names = [each.name for each in folder.iterdir() if each.name.endswith((".ttf", ".otf"))]
    if not names:
        return Finding("fonts", f"found none in {folder}", "Install Plinth anew: its fonts come with it.")
    return Finding("fonts", f"{len(names)} of its own")


def _screen(environment: Mapping[str, str]) -> Finding:
    for name in ("WAYLAND_DISPLAY", "DISPLAY", "QT_QPA_PLATFORM"):
        if environment.get(name):
            return Finding("screen", f"{name}={environment[name]}")
    return Finding(
        "screen", "found neither WAYLAND_DISPLAY nor DISPLAY",
        "Begin from a desktop session; solve, report, list and find work without one.",
    )  # fmt: skip


def _drawing(environment: Mapping[str, str]) -> Finding:
    if environment.get("QT_QPA_PLATFORM") in ("offscreen", "minimal"):
        return Finding("drawing", "without a screen; no OpenGL is asked for")
    wanted = ("libEGL.so.1", "libGL.so.1", "libxkbcommon.so.0", "libxcb-cursor.so.0")
    missing = [name for name in wanted if not _loads(name)]
    if missing:
        return Finding(
            "drawing", f"found no {', '.join(missing)}",
            "Install them: apt install libegl1 libgl1 libxkbcommon0 libxcb-cursor0.",
        )  # fmt: skip
    return Finding("drawing", "the libraries that Qt opens a window with are there; no OpenGL is asked for")


def _loads(library: str) -> bool:
    import ctypes

    try:
        ctypes.CDLL(library)
    except OSError:
        return False
    return True


def _place(folder: Path, what: str) -> Finding:
    """Whether files can be written and locked there."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryFile(dir=folder) as file:
            file.write(b"plinth")
            file.flush()
            fcntl.lockf(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        return Finding(
            what, f"{folder} cannot be written or locked ({error.strerror or error})",
            "Keep workshops on a disk that can lock files: a local one, or a share mounted with locks.",
        )  # fmt: skip
    return Finding(what, f"{folder} can be written and locked")


def _room(folder: Path) -> Finding:
    there = next(place for place in (folder, *folder.parents) if place.exists())
    free = shutil.disk_usage(there).free
    words = f"{free / 1e9:.1f} GB free at {there}"
    if free < ROOM_BYTES:
        return Finding("room", words, "Photos and the copy of each day need about 1 GB: make room, or move them.")
    return Finding("room", words)


def _sound() -> Finding:
    if importlib.util.find_spec("soundfile") is None:
        return Finding("sound", "found no soundfile", "Sound files cannot be read: install Plinth anew.")
    try:
        import soundfile
    except OSError as error:
        return Finding("sound", f"its library does not load ({error})", "Install it: apt install libsndfile1.")
    return Finding("sound", f"files are read by libsndfile {soundfile.__libsndfile_version__}")


def _usb(devices: Path) -> Finding:
    found = sorted(devices.glob(USB_INSTRUMENTS))
    refused = [str(path) for path in found if not os.access(path, os.R_OK | os.W_OK)]
    if refused:
        return Finding(
            "USB", f"{', '.join(refused)} may not be used by you",
            f"Let a udev rule give them to a group of yours, say {PORT_GROUP}, and plug them in again.",
        )  # fmt: skip
    if found and ctypes.util.find_library("usb-1.0") is None:
        return Finding("USB", f"{len(found)} instruments, and no libusb to reach them by",
                       "Install it: apt install libusb-1.0-0.")  # fmt: skip
    return Finding("USB", f"{len(found)} instruments" if found else "no instrument is plugged in")


def _ports(devices: Path) -> Finding:
    found = sorted(devices.glob(SERIAL_PORTS))
    refused = [str(path) for path in found if not os.access(path, os.R_OK | os.W_OK)]
    if refused:
        mine = {entry.gr_name for entry in grp.getgrall() if entry.gr_gid in os.getgroups()}
        remedy = (
            f"Join it: sudo adduser $USER {PORT_GROUP}, then log in again."
            if PORT_GROUP not in mine
            else "Let a udev rule give them to it."
        )
        return Finding("serial", f"{', '.join(refused)} belong to the group {PORT_GROUP}", remedy)
    return Finding("serial", f"{len(found)} ports" if found else "no serial adapter is plugged in")


def run_doctor(*, as_json: bool = False) -> int:
    """Print every finding; status 0 where all is well, 1 where something wants a look."""
    found = findings(os.environ)
    if as_json:
        import json

        print(json.dumps({"versions": versions(), "findings": [dataclasses.asdict(each) for each in found]}))
    else:
        print(versions())
        for each in found:
            print(each.line)
    return int(any(each.remedy for each in found))
