"""A short run of every attack belongs to the ordinary tests; ``make attack`` runs for as long as one likes."""

import pytest

from tests.attack import window
from tests.attack.__main__ import KINDS, one_round

ROUNDS = {"words": 20, "files": 10, "lives": 3, "disk": 12, "torn": 8, "window": 1, "altered": 4, "strangers": 12}


@pytest.mark.parametrize("kind", KINDS)
def test_nothing_falls(kind: str, monkeypatch: pytest.MonkeyPatch) -> None:
    for key in ("XDG_CONFIG_HOME", "XDG_DATA_HOME"):
        monkeypatch.setenv(key, "")
    for seed in range(ROUNDS[kind]):
        fell = one_round(kind, seed)
        assert not fell, f"{fell}\nagain: make attack MINUTES=0 SEED={seed} KIND={kind}"


def test_memory_that_grows_is_noticed() -> None:
    before = [180.0, 300.0, 310.0]
    assert window.grown(before, 320.0) == ""
    assert before == [180.0, 300.0, 310.0, 320.0]
    for _ in range(window.WARM):
        assert window.grown(before, 330.0) == ""
    assert "from 330 to 500 MB" in window.grown(before, 500.0)
