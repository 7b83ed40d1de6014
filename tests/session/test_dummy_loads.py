"""How warm a dummy load is outlives the window, and is the workshop's, whichever build it hangs on."""

import datetime as dt
import math
from pathlib import Path

import pytest

from plinth.bench.clip_cell import Definition, clip_cells
from plinth.bench.load_heat import LoadUse, still_felt
from plinth.builds.situation import Situation
from plinth.session.session import Session
from plinth.workshop.store import open_workshop
from tests.bench.clip_readings import kept_as_typed
from tests.demo_copy import demo_copy
from tests.session.running import AtOnce


@pytest.fixture
def clock() -> list[dt.datetime]:
    return [dt.datetime(2026, 10, 12, 19, 0, tzinfo=dt.UTC)]


def test_a_load_warms_by_its_clock_and_is_as_warm_after_a_restart(tmp_path: Path, clock: list[dt.datetime]) -> None:
    workshop = demo_copy(tmp_path)
    session = Session(workshop, AtOnce(), clock=lambda: clock[0])
    load = session.build.loads[1]
    assert load.p_carried_w is not None
    cold = session.loads.load_now(load, 80.0)
    assert cold is not None
    assert (cold.share, cold.cold_s, cold.driven_s) == (0.0, 0.0, None)
    assert session.loads.drive_load(load, 80.0)
    clock[0] += dt.timedelta(seconds=40)
    warm = session.loads.load_now(load, 80.0)
    assert warm is not None
    assert warm.driven_s == 40.0
    tau = load.time_constant_s or 0.0
    share = 80.0 / load.p_carried_w * (1.0 - math.exp(-40.0 / tau))
    assert warm.share == pytest.approx(share)
    assert warm.allowed_s == pytest.approx(cold.allowed_s - 40.0)
    path = workshop.path
    session.close()
    clock[0] += dt.timedelta(seconds=20)
    again = Session(open_workshop(path), AtOnce(), clock=lambda: clock[0])
    on = again.loads.load_now(load, 80.0)
    assert on is not None
    assert on.driven_s == 60.0, "whoever left it on while the window was closed left it on"
    assert again.loads.release_load(load)
    clock[0] += dt.timedelta(seconds=3 * tau)
    cooling = again.loads.load_now(load, 80.0)
    assert cooling is not None
    assert cooling.driven_s is None
    assert cooling.share == pytest.approx(80.0 / load.p_carried_w * (1.0 - math.exp(-60.0 / tau)) * math.exp(-3.0))
    assert not cooling.guessed
    again.close()


def test_a_reading_that_nobody_timed_warms_it_for_ten_seconds_and_says_so(
    tmp_path: Path, clock: list[dt.datetime]
) -> None:
    session = Session(demo_copy(tmp_path), AtOnce(), clock=lambda: clock[0])
    cell = clip_cells(session.build, "left", Situation())[1]
    reading = kept_as_typed(cell, "49.4pp", clock[0])
    assert session.records.keep(reading)
    warm = session.loads.load_now(cell.load, 80.0)
    assert warm is not None
    assert warm.guessed
    rated, tau = cell.load.p_carried_w or 0.0, cell.load.time_constant_s or 0.0
    assert warm.share == pytest.approx(reading.value / rated * (1.0 - math.exp(-10.0 / tau)))
    session.close()


@pytest.mark.parametrize("definition", ["onset", "thd_1", "thd_10"])
def test_a_power_read_at_any_distortion_warms_the_load(
    tmp_path: Path, clock: list[dt.datetime], definition: Definition
) -> None:
    session = Session(demo_copy(tmp_path), AtOnce(), clock=lambda: clock[0])
    cell = clip_cells(session.build, "left", Situation())[1].at(definition)
    assert session.records.keep(kept_as_typed(cell, "17.4 rms", clock[0]))
    warm = session.loads.load_now(cell.load, 80.0)
    assert warm is not None
    assert warm.share > 0.01
    session.close()


def test_what_a_load_was_driven_with_is_felt_for_eight_of_its_time_constants(
    tmp_path: Path, clock: list[dt.datetime]
) -> None:
    session = Session(demo_copy(tmp_path), AtOnce(), clock=lambda: clock[0])
    load = session.build.loads[1]
    tau = load.time_constant_s or 0.0
    begun = clock[0] - dt.timedelta(seconds=60)
    driven = LoadUse(load.identity, begun, clock[0], 80.0)
    for times, felt in ((0.9, True), (7.5, True), (8.5, False)):
        later = clock[0] + dt.timedelta(seconds=times * tau)
        assert bool(still_felt((driven,), (load,), later)) is felt
    # What is still felt is remembered when another load is driven meanwhile.
    assert session.loads.drive_load(load, 80.0)
    clock[0] += dt.timedelta(seconds=60)
    assert session.loads.release_load(load)
    clock[0] += dt.timedelta(seconds=2.0 * tau)
    other = session.build.loads[0]
    assert session.loads.drive_load(other, 20.0)
    again = session.loads.load_now(load, 80.0)
    assert again is not None
    assert again.share == pytest.approx(80.0 / (load.p_carried_w or 1.0) * (1.0 - math.exp(-60.0 / tau)) * math.exp(-2))
    session.close()
