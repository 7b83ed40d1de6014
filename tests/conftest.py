"""Shared fixtures: fresh settings for each test, the demo builds, offscreen Qt."""

import os
from pathlib import Path

import pytest

from plinth.predict import solve as solving
from tests.shared_answers import folder, shared

# Many tests ask for the same builds, which are frozen: each is predicted once a run.
folder()
solving.solve_fully = shared(solving.solve_fully.__wrapped__)

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


@pytest.fixture(autouse=True)
def fresh_home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    home = tmp_path / "home"
    home.mkdir()
    monkeypatch.setenv("HOME", str(home))
    for name in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME"):
        monkeypatch.setenv(name, str(home / name.lower()))
    return home
