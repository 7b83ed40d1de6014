"""A short run of every attack belongs to the ordinary tests; ``make attack`` runs for as long as one likes."""

import pytest

from tests.attack.__main__ import KINDS, one_round

ROUNDS = {"words": 20, "files": 60, "lives": 3, "disk": 12, "window": 2}


@pytest.mark.parametrize("kind", KINDS)
def test_nothing_falls(kind: str, monkeypatch: pytest.MonkeyPatch) -> None:
    for key in ("XDG_CONFIG_HOME", "XDG_DATA_HOME"):
        monkeypatch.setenv(key, "")
    for seed in range(ROUNDS[kind]):
        fell = one_round(kind, seed)
        assert not fell, f"{fell}\nagain: make attack MINUTES=0 SEED={seed} KIND={kind}"
