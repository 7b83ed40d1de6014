"""Shared fixtures: fresh settings for each test, the demo builds, offscreen Qt."""

import gc
import os
from collections.abc import Iterator
from pathlib import Path

# As the command does it, before anything loads it: a thread of BLAS for each processor in each of the runner's
# processes fights with the others for what few there are.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
# Hours and numbers as nowhere in particular; what is otherwise somewhere is tested with that place named.
os.environ["LC_ALL"] = "C.UTF-8"

import pytest

from plinth.predict import solve as solving
from tests.ordinary_run import left_for_later
from tests.shared_answers import folder, shared

# Many tests ask for the same builds, which are frozen: each is predicted once a run.
# A run makes millions of objects that live on; looking for garbage as often as a small program does takes its time.
# It is looked for between tests alone: within a call of Qt's it could destroy a widget that Qt holds a lock for.
gc.set_threshold(50_000, 20, 100)
gc.disable()
folder()
solving.solve_fully = shared(solving.solve_fully.__wrapped__)

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


# Lines of the list that name no test: it was renamed or is gone.
NAMES_NO_TEST = pytest.StashKey[list[str]]()


@pytest.hookimpl(tryfirst=True)
def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Mark what the ordinary run leaves for later."""
    left, named = set(left_for_later()), set()
    for item in items:
        for name in (item.nodeid, item.nodeid.partition("[")[0]):
            if name in left:
                named.add(name)
                item.add_marker(pytest.mark.later)
    config.stash[NAMES_NO_TEST] = sorted(left - named)


def pytest_collection_finish() -> None:
    """What the modules and the tests themselves are made of lives as long as the run: it need not be looked through."""
    gc.collect()
    gc.freeze()


@pytest.fixture(autouse=True)
def fresh_home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    home = tmp_path / "home"
    home.mkdir()
    monkeypatch.setenv("HOME", str(home))
    for name in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME"):
        monkeypatch.setenv(name, str(home / name.lower()))
    yield home
    # The command leaves it to the interpreter when its window is gone.
    gc.disable()
    counts, thresholds = gc.get_count(), gc.get_threshold()
    due = [generation for generation in (2, 1, 0) if counts[generation] > thresholds[generation]]
    if due:
        gc.collect(due[0])
