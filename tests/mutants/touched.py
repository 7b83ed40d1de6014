"""Which functions of the engine each test calls: a plugin of pytest (``-p tests.mutants.touched``).

Each process that runs tests writes what it saw into the folder that ``PLINTH_TOUCHED`` names. What a test takes from
something remembered is not seen: such a test is not asked about what was computed for the one before it.
"""

import json
import os
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from types import FrameType

import pytest

SOURCE = Path(__file__).resolve().parents[2] / "src" / "plinth"
_seen: set[str] = set()
_names: dict[object, str] = {}
_tests: dict[str, tuple[float, list[str]]] = {}


def _notice(frame: FrameType, _event: str, _argument: object) -> None:
    # Nothing is given back: of what a function does, line by line, nothing is told.
    code = frame.f_code
    name = _names.get(code)
    if name is None:
        _, inside, path = code.co_filename.partition("/src/plinth/")
        name = _names[code] = f"{path}:{code.co_firstlineno}" if inside else ""
    if name:
        _seen.add(name)


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_protocol(item: pytest.Item) -> Iterator[None]:
    _seen.clear()
    begun = time.monotonic()
    sys.settrace(_notice)
    try:
        yield
    finally:
        sys.settrace(None)
        _tests[item.nodeid] = (time.monotonic() - begun, sorted(_seen))


def pytest_sessionfinish() -> None:
    where = os.environ.get("PLINTH_TOUCHED")
    if where and _tests:
        (Path(where) / f"{os.getpid()}.json").write_text(json.dumps(_tests))
