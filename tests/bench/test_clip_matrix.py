"""The clipping table over sources and definitions: each cell its own prediction, what all cells say together."""

import dataclasses
import math

import numpy as np
import pytest

from plinth.bench.across_cells import behind_output, behind_outputs, power_over_source
from plinth.bench.clip_cell import ClipCell, clip_cells, further_cells
from plinth.bench.clip_level import is_possible, understand
from plinth.bench.clipping import judge_clipping, sentence_of, set_up
from plinth.builds.build import Build
from plinth.builds.modules import PowerClaim
from plinth.builds.situation import Situation
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.demo.shelf import BENCH
from plinth.judge.state import State
from plinth.predict.solve import solve
from plinth.record.meaning import reading_of
from plinth.record.reading import Reading
from plinth.record.subject import Kind, read_subject
from plinth.units.errors import QuantityError
from plinth.units.level import read_level
from tests.bench.clip_readings import watts_read
from tests.bench.typed_bench import BEGIN, told
from tests.family import DEMO, FAMILY


@pytest.fixture(scope="module")
def cells() -> tuple[ClipCell, ...]:
    first = clip_cells(REHEARSAL_ROOM, "left", Situation())
    return first + further_cells(first, REHEARSAL_ROOM, Situation())


def test_there_are_twelve_cells_from_three_mains(cells: tuple[ClipCell, ...]) -> None:
    assert len(cells) == 12
    assert [cell.source for cell in cells[::4]] == ["230 V mains", "207 V mains", "253 V mains"]
    assert len({tuple(sorted(cell.conditions.items())) for cell in cells}) == 6
    for load in ("Dummy 8", "Dummy 4"):
        for driven in ("one", "all"):
            low, mid, high = sorted(
                (cell for cell in cells if (cell.load.name, cell.driven) == (load, driven)), key=lambda c: c.source
            )
            assert low.power.value < mid.power.value < high.power.value


@pytest.mark.parametrize("build", [REHEARSAL_ROOM, *(DEMO[n] for n in ("Street box", "Market box")),
                                   FAMILY["class AB on bench"]], ids=lambda b: b.name)  # fmt: skip
def test_a_cell_at_another_source_is_what_is_predicted_there_in_full(build: Build) -> None:
    first = clip_cells(build, build.channels[0], Situation())[:1]
    for cell in further_cells(first, build, Situation()):
        known = cell.prediction
        full = solve(known.build, known.situation)
        assert cell.power.value == pytest.approx(full["clip_worst_power_w"].value, rel=5e-3)
        assert cell.power.u == pytest.approx(full["clip_worst_power_w"].u, rel=0.35)
        assert cell.v_peak.value == pytest.approx(full["clip_worst_v_peak"].value, rel=3e-3)


def test_a_source_from_which_it_cannot_run_is_left_out() -> None:
    high = FAMILY["class AB on bench"]
    module = high.module.model_copy(update={"v_rail_min": 25.0})
    build = high.model_copy(update={"module": module})
    first = clip_cells(build, "left", Situation())
    assert {cell.source for cell in further_cells(first, build, Situation())} == set()


# Definitions


@pytest.fixture(scope="module")
def thd(cells: tuple[ClipCell, ...]) -> ClipCell:
    return cells[0].at("thd_1")


def test_a_distortion_is_another_power_of_another_subject(cells: tuple[ClipCell, ...], thd: ClipCell) -> None:
    ten = cells[0].at("thd_10")
    assert cells[0].power.value < thd.power.value < ten.power.value
    assert [read_subject(one.subject).kind for one in (cells[0], thd, ten)] == [Kind.CLIP, Kind.CLIP_1, Kind.CLIP_10]
    assert {read_subject(one.subject).what for one in (cells[0], thd, ten)} == {"Dummy 8"}
    assert cells[0].at("thd_1").at("onset") == cells[0]
    assert "1 % distortion" in thd.label
    onset, over = set_up(cells[0]), set_up(ten)
    assert onset.start_v_rms < onset.drive_v_rms.value < onset.most_v_rms < over.most_v_rms
    assert over.start_v_rms == over.drive_v_rms.value


def test_the_height_of_a_cut_wave_tells_no_power(thd: ClipCell) -> None:
    for typed in ("50pp", "25 pk"):
        with pytest.raises(QuantityError, match="true rms meter"):
            understand(read_level(typed), thd, BENCH)
    volts = math.sqrt(thd.power.value * thd.load.r_ohm)
    for typed in (f"{volts:.4g}", f"{volts:.4g} rms"):
        taken = understand(read_level(typed), thd, BENCH).taken
        assert taken is not None
        assert taken.value == pytest.approx(thd.power.value, rel=1e-3)
        assert is_possible(taken, thd)
    beyond = understand(read_level(f"{1.1 * thd.most_v_peak / math.sqrt(2):.4g} rms"), thd, BENCH)
    assert beyond.taken is None


def test_a_claim_at_a_distortion_is_told_by_a_reading_there_only(cells: tuple[ClipCell, ...]) -> None:
    module = REHEARSAL_ROOM.module
    claims = (PowerClaim(power_w=30.0, r_load_ohm=8.0, definition="thd_1"),)
    build = REHEARSAL_ROOM.model_copy(update={"module": module.model_copy(update={"claims": claims})})
    cell = clip_cells(build, "left", Situation())[0]
    assert "does not tell" in judge_clipping(cell, watts_read(cell, 25.0, 0.2)).against_claim
    at = cell.at("thd_1")
    assert "not reached" in judge_clipping(at, watts_read(at, 25.0, 0.2)).against_claim
    assert "reached." in judge_clipping(at, watts_read(at, 31.0, 0.2)).against_claim
    taken = understand(read_level("14.2 rms"), at, BENCH).taken
    assert taken is not None
    kept = reading_of(taken, "14.2 rms", BEGIN)
    assert "not reached" in sentence_of(kept)
    assert kept.label.startswith("Power, ")


def test_a_distortion_that_is_not_predicted_is_held_against_nothing(thd: ClipCell) -> None:
    """Not against the onset's band, which is another power."""
    blind = dataclasses.replace(thd, at_thd=None)
    assert not blind.is_predicted
    volts = math.sqrt(thd.power.value * thd.load.r_ohm)
    taken = understand(read_level(f"{volts:.4g} rms"), blind, BENCH).taken
    assert taken is not None
    assert judge_clipping(blind, taken).state is State.UNKNOWN
    kept = reading_of(taken, f"{volts:.4g} rms", BEGIN)
    assert (kept.low, kept.high, kept.state) == (None, None, State.UNKNOWN)
    assert sentence_of(kept) == "Understood as rms. Not predicted at this distortion: held against nothing."


# Over all cells


def read(cell: ClipCell, watts: float, u: float | None = 0.2) -> tuple[ClipCell, Reading]:
    taken = understand(read_level(f"{math.sqrt(watts * cell.load.r_ohm):.5f} rms"), cell, BENCH)
    meaning = taken.taken or taken.choices[-1]
    kept = reading_of(meaning, "typed", BEGIN)
    return cell, dataclasses.replace(kept, value=watts, u=u)


def test_what_is_as_predicted_has_the_resistance_predicted_behind_it(cells: tuple[ClipCell, ...]) -> None:
    row = [cell for cell in cells if cell.driven == "all" and cell.source == "230 V mains"]
    found = behind_output([read(cell, cell.power.value) for cell in row])
    assert found is not None
    value, expected = found
    v = {cell.load.r_ohm: cell.v_peak.value for cell in row}
    (r8, v8), (r4, v4) = v.items()
    closed = (v8 - v4) / (v4 / r4 - v8 / r8)
    assert value.value == pytest.approx(closed, rel=1e-6)
    assert expected.value == pytest.approx(closed, rel=1e-6)
    (said,) = behind_outputs([read(cell, cell.power.value) for cell in row])
    assert "as predicted" in said
    assert behind_output([read(row[0], 20.0)]) is None


def test_thin_wiring_is_seen_across_the_loads(cells: tuple[ClipCell, ...]) -> None:
    row = [cell for cell in cells if cell.driven == "one" and cell.source == "230 V mains"]

    def through(cell: ClipCell, ohm: float) -> float:
        v = cell.v_peak.value / (1.0 + ohm / cell.load.r_ohm)
        return v * v / 2.0 / cell.load.r_ohm

    (said,) = behind_outputs([read(cell, through(cell, 2.5), 0.05) for cell in row])
    assert "more than predicted" in said
    (unknown,) = behind_outputs([read(cell, through(cell, 0.0), None) for cell in row])
    assert "± not stated" in unknown


def test_the_true_resistance_lies_inside_the_spread_of_200_benches(cells: tuple[ClipCell, ...]) -> None:
    row = [cell for cell in cells if cell.driven == "one" and cell.source == "230 V mains"]
    dice, inside = np.random.default_rng(11), 0
    for _ in range(200):
        ohm, v0 = dice.uniform(0.5, 2.5), dice.uniform(20.0, 30.0)
        given = []
        for cell in row:
            true = cell.load.r_ohm * (1.0 + cell.load.r_tol / math.sqrt(3.0) * dice.normal())
            v = v0 / (1.0 + ohm / true) * (1.0 + 0.01 * dice.normal())
            watts = v * v / 2.0 / cell.load.r_ohm
            given.append(read(cell, watts, watts * cell.load.r_tol / math.sqrt(3.0)))
        found = behind_output(given)
        assert found is not None
        assert found[0].u is not None
        inside += abs(found[0].value - ohm) <= 2.0 * found[0].u
    assert 0.92 <= told("resistance behind a clipping output", inside, 200) <= 0.99


def test_power_is_drawn_over_the_source_for_each_load(cells: tuple[ClipCell, ...]) -> None:
    row = [cell for cell in cells if cell.driven == "one"]
    graph = power_over_source(row, [read(row[0], 20.0)])
    assert graph is not None
    assert [one.name for one in graph.curves] == ["8.11 Ω, predicted", "8.11 Ω, read", "4.03 Ω, predicted"]
    assert all(np.all(np.diff(one.x) > 0) and np.all(np.diff(one.y) > 0) for one in graph.curves[::2])
    assert power_over_source(row[:2], []) is None
    assert STAGE_PAIR.name
