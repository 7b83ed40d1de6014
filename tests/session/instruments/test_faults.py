"""First power on a bench with a fault laid on: it stops before anything of the simulated build burns."""

from pathlib import Path

import pytest

from plinth.guide.fault_bench import bench_of
from plinth.guide.faults import FAULTS
from plinth.judge.state import State
from tests.session.instruments.practice import NAMES, Practice, practice
from tests.turns import in_turn

# What first power cannot see: a slip of whoever types is none of the bench, and turned polarity plays as well.
UNSEEN = {"slip", "swapped output"}
BURNING = [fault.key for fault in FAULTS if fault.burns and fault.key not in UNSEEN]


def fits(own: Practice, key: str) -> bool:
    """Whether the build has what the fault is about."""
    session = own.session
    fault = next(each for each in FAULTS if each.key == key)
    if fault.where == {"supply"} and session.build.mains is None:
        # Of a transformer and what comes behind it; a battery's converter has none of them.
        return False
    steps = [stand.step for stand in session.bring_up.stands(own.channel)]
    bench = bench_of(session.build, steps, session.bring_up.idle_rail_v() or 0.0)
    return fault.fits(bench)


def brought_up_with(key: str, name: str, folder: Path, *, must_stop: bool) -> str:
    """What the first power of a build with the fault came to: ``stopped``, ``unseen``, or that it does not fit."""
    with practice(name, folder, fault=key) as own:
        fitting = fits(own, key)
        own.bring_up()
        outside = [reading for reading in own.readings() if reading.state is State.OVER]
        assert own.session.power.live is None
        assert own.session.instruments.are_on() == ()
        assert not own.truth()["burnt"], own.truth()
        if not fitting:
            return "does not fit"
        if must_stop:
            assert outside, own.run.words
        # It stops at the first that is outside.
        assert len(outside) <= 1
        return "stopped" if outside else "unseen"


@pytest.mark.parametrize("key", in_turn(BURNING, 6))
def test_first_power_stops_before_it_burns(key: str, tmp_path: Path) -> None:
    assert brought_up_with(key, "stage-pair", tmp_path, must_stop=True) == "stopped"


@pytest.mark.slow
@pytest.mark.parametrize("name", NAMES)
def test_first_power_stops_at_each_fault_of_the_catalogue(name: str, tmp_path: Path) -> None:
    came_to: dict[str, list[str]] = {"stopped": [], "unseen": [], "does not fit": []}
    for fault in FAULTS:
        folder = tmp_path / fault.key.replace(" ", "-")
        folder.mkdir()
        came_to[brought_up_with(fault.key, name, folder, must_stop=False)].append(fault.key)
    assert not set(came_to["unseen"]) & {fault.key for fault in FAULTS if fault.burns} - UNSEEN, came_to
    assert len(came_to["stopped"]) >= 3 * len(came_to["unseen"]), came_to
