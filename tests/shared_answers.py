"""Answers of the engine, computed once a run and shared between the processes that run the tests.

The engine is a pure function of frozen models and the code stands still during a run, so an answer is right wherever
it came from. What a test takes apart it asks of the function itself (``__wrapped__``).
"""

import atexit
import contextlib
import functools
import hashlib
import os
import pickle
import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

# So many are kept in the memory of one process; each holds its waveforms.
IN_MEMORY = 200


# Set by whoever comes first, which is who starts the others; they inherit it.
PLACE = "PLINTH_TEST_ANSWERS"


def folder() -> Path:
    """Where the answers of this run lie, one place for all its processes."""
    if PLACE not in os.environ:
        os.environ[PLACE] = tempfile.mkdtemp(prefix="answers-")
        atexit.register(shutil.rmtree, os.environ[PLACE], ignore_errors=True)
    return Path(os.environ[PLACE])


def shared(compute: Callable[..., Any]) -> Any:
    """``compute`` of frozen models, whose answers are kept in memory and on disk for as long as the run lasts."""

    @functools.lru_cache(maxsize=IN_MEMORY)
    @functools.wraps(compute)
    def answer(*args: object) -> Any:
        # A model's words have all its fields, to the last digit.
        key = hashlib.sha256("\n".join(map(repr, args)).encode()).hexdigest()
        kept = folder() / f"{compute.__name__}-{key}"
        try:
            return pickle.loads(kept.read_bytes())
        except FileNotFoundError:
            pass
        found = compute(*args)
        # Where there is no room it is computed again.
        with contextlib.suppress(OSError):
            part = kept.with_name(f"{kept.name}.{os.getpid()}")
            part.write_bytes(pickle.dumps(found, pickle.HIGHEST_PROTOCOL))
            part.replace(kept)
        return found

    return answer
