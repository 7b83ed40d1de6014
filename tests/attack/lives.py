"""A life of a workshop file is killed at a counted moment."""

import random
from pathlib import Path

from tests.workshop.writer import LIVES, kill_life

_moments: dict[str, int] = {}


def attack(folder: Path, seed: int) -> str:
    pick = random.Random(seed)
    name = pick.choice(list(LIVES))
    if name not in _moments:
        lost, _moments[name] = kill_life(folder / "whole", name, None)
        if lost:
            return f"{name}: lost {lost} without being killed"
    moment = pick.randint(1, _moments[name])
    lost, _ = kill_life(folder / "killed", name, moment)
    return f"{name}, killed at moment {moment} of {_moments[name]}: lost {lost}" if lost else ""
