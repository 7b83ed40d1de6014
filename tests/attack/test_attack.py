"""A short run of every attack belongs to the ordinary tests; ``make attack`` runs for as long as one likes."""

import pytest

from tests.attack import window
from tests.attack.__main__ import KINDS, one_round

ROUNDS = {"words": 20, "files": 6, "lives": 2, "disk": 6, "torn": 4, "window": 1, "altered": 2, "strangers": 12}
# A window is used for so long in the ordinary run.
FEW_ACTIONS = 12


@pytest.mark.parametrize(
    ("kind", "actions"),
    [*((kind, FEW_ACTIONS) for kind in KINDS), pytest.param("window", window.ACTIONS, marks=pytest.mark.slow)],
)
def test_nothing_falls(kind: str, actions: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(window, "ACTIONS", actions)
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
