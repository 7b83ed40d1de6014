"""Which functions of the engine each test file calls: a plugin of pytest (``-p tests.mutants.touched``).

Written to the file that ``PLINTH_TOUCHED`` names. Each test file is run in a process of its own: what one has computed
is remembered, and would not be called again for the next.
"""

import json
import os
import sys
from pathlib import Path
from types import FrameType

SOURCE = Path(__file__).resolve().parents[2] / "src" / "plinth"
_seen: set[str] = set()
_names: dict[object, str] = {}


def _notice(frame: FrameType, event: str, _argument: object) -> None:
    if event != "call":
        return
    code = frame.f_code
    name = _names.get(code)
    if name is None:
        _, inside, path = code.co_filename.partition("/src/plinth/")
        name = _names[code] = f"{path}:{code.co_firstlineno}" if inside else ""
    if name:
        _seen.add(name)


def pytest_sessionstart() -> None:
    sys.setprofile(_notice)


def pytest_sessionfinish() -> None:
    sys.setprofile(None)
    where = os.environ.get("PLINTH_TOUCHED")
    if where:
        Path(where).write_text(json.dumps(sorted(_seen)))
