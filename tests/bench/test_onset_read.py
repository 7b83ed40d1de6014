"""Onsets of clipping as an eye, a scope and a meter give them: held against samples of cut sines, noise and steps."""

import math

import numpy as np
import pytest

from plinth.bench import onset_read
from plinth.bench.clip_cell import ClipCell, clip_cells
from plinth.bench.clip_level import understand
from plinth.bench.clipping import expected_band, judge_clipping, sentence_of
from plinth.builds.build import Build
from plinth.builds.modules import PowerClaim
from plinth.builds.situation import Situation
from plinth.demo.shelf import BENCH
from plinth.judge.state import State
from plinth.record.clock import now
from plinth.record.meaning import reading_of
from plinth.units.level import Form, read_level
from tests.bench.clip_readings import watts_read
from tests.bench.typed_bench import told
from tests.family import DEMO, FAMILY, FEW
from tests.sample_builds import SHARED_PAIR, linear
from tests.turns import in_turn

ANGLE = np.linspace(0.0, 2.0 * np.pi, 20_001)[:-1]


def cut(drive: float) -> np.ndarray:
    return np.clip(drive * np.sin(ANGLE), -1.0, 1.0)


def distortion(wave: np.ndarray) -> float:
    first = 2.0 * float(np.mean(wave * np.sin(ANGLE)))
    return math.sqrt(max(2.0 * float(np.mean(wave**2)) / first**2 - 1.0, 0.0))


def test_a_meter_reads_the_cut_wave_of_half_to_one_per_cent() -> None:
    low, high = onset_read.power_ratios(Form.RMS)
    for share, ratio in ((0.005, low), (0.01, high)):
        drives = np.linspace(1.0, 1.2, 2001)
        at = next(drive for drive in drives if distortion(cut(drive)) >= share)
        assert ratio == pytest.approx(2.0 * float(np.mean(cut(at) ** 2)), rel=2e-3)
    assert onset_read.power_ratios(Form.PEAK) == pytest.approx((1.0, 1.03**2))


@pytest.mark.parametrize("form", [Form.RMS, Form.PEAK_TO_PEAK])
def test_what_eyes_read_lies_in_the_window_and_its_middle(form: Form) -> None:
    """Onsets seen at half to one per cent, meters within their accuracy, a screen of 256 steps with a thick trace."""
    cell = next(one for one in clip_cells(SHARED_PAIR, "left", Situation()) if one.load.name == "Dummy 8")
    dice, inside, ratios, count = np.random.default_rng(4), 0, [], 500
    band = expected_band(cell, form)
    drives = np.linspace(1.0, 1.2, 2001)
    half, whole = (next(drive for drive in drives if distortion(cut(drive)) >= share) for share in (0.005, 0.01))
    for _ in range(count):
        onset = math.sqrt(2.0 * cell.load.r_ohm * max(cell.power.value + cell.power.u * dice.normal(), 1.0))
        wave = onset * cut(dice.uniform(half, whole))
        if form is Form.RMS:
            volts = math.sqrt(float(np.mean(wave**2)))
            watts = volts**2 / cell.load.r_ohm
        else:
            step = 2.0 * onset / 192.0
            top = math.ceil(onset * (1.0 + dice.uniform(0.0, 0.01)) / step) * step
            watts = top**2 / 2.0 / cell.load.r_ohm
        ratios.append(watts / (onset**2 / 2.0 / cell.load.r_ohm))
        inside += abs(watts - band.value) <= 2.0 * band.u
    assert told(f"onset as {form.words} says it", inside, count) >= 0.93
    low, high = onset_read.power_ratios(form)
    assert low * 0.99 <= min(ratios)
    assert max(ratios) <= high * 1.01
    assert float(np.mean(ratios)) == pytest.approx(onset_read.middle_ratio(form), rel=0.025)


@pytest.mark.parametrize("name", in_turn([*DEMO, *FEW], 4))
def test_what_is_expected_is_clear_and_says_why_it_is_more_than_at_onset(name: str) -> None:
    build = {**DEMO, **FAMILY}[name]
    cells = [one for one in clip_cells(build, build.channels[0], Situation()) if one.load.voice_coil is None]
    for cell in cells[:2]:
        pp = onset_read.expected_pp(cell.v_peak.value)
        taken = understand(read_level(f"{pp:.2f}pp"), cell, BENCH).taken
        assert taken is not None
        reading = reading_of(taken, f"{pp:.2f}pp", now())
        assert reading.state is State.CLEAR
        assert "at onset; a scope's p-p reads high" in sentence_of(reading)
        # What the page says before it is kept is what is said of it afterwards.
        before = judge_clipping(cell, taken)
        assert before.sentence in sentence_of(reading)


@pytest.mark.parametrize(("definition", "high"), [("onset", True), ("unstated", False)])
def test_a_claim_of_the_onset_is_held_against_the_onset_not_against_what_reads_high(
    definition: str, high: bool
) -> None:
    claim = PowerClaim.model_validate({"power_w": 45.0, "r_load_ohm": 8.0, "definition": definition})
    build = SHARED_PAIR.model_copy(update={"module": SHARED_PAIR.module.model_copy(update={"claims": (claim,)})})
    cell = next(one for one in clip_cells(build, "left", Situation()) if one.load.name == "Dummy 8")
    for form in (Form.RMS, Form.PEAK_TO_PEAK):
        times = onset_read.middle_ratio(form) if high else 1.0
        assert "reached." in judge_clipping(cell, watts_read(cell, 1.002 * 45.0 * times, 0.0, form)).against_claim
        assert "not reached" in judge_clipping(cell, watts_read(cell, 0.995 * 45.0 * times, 0.0, form)).against_claim
    # At a stated distortion nothing is read high.
    at_one = cell.at("thd_1")
    assert expected_band(at_one, Form.RMS).how == ""
    assert expected_band(at_one, Form.RMS).value == at_one.power.value


def test_a_scope_reads_from_what_is_there_to_three_hundredths_more() -> None:
    for form in (Form.PEAK, Form.PEAK_TO_PEAK):
        least, most = onset_read.power_ratios(form)
        # Two of 256 steps of a screen that the trace fills by three quarters, and as much again of its thickness.
        assert (least, most**0.5) == (1.0, pytest.approx(1.0 + 3 * (2 / 256 / 0.75), rel=0.01))
    assert 20.0 < onset_read.expected_pp(10.0) < 20.6


@pytest.mark.parametrize(("va", "v_secondary_rms"), [(50.0, 18.0), (80.0, 18.0), (80.0, 22.0)])
def test_chips_on_a_small_transformer_into_4_ohm_are_read_12_per_cent_high_within_the_window(
    va: float, v_secondary_rms: float
) -> None:
    """So much of nobody's stated figures of a small transformer is an estimate, and so much an eye adds."""
    build = FAMILY["chip on linear"]
    small = {"va": va, "v_secondary_rms": v_secondary_rms, "regulation": None}
    transformer = linear(build).transformer.model_copy(update=small)
    build = build.model_copy(update={"supply": linear(build).model_copy(update={"transformer": transformer})})
    cell = _both_into_4_ohm(build)
    band = expected_band(cell, Form.RMS)
    assert cell.power.value < band.value < 1.12 * cell.power.value
    assert 1.12 * cell.power.value < band.value + 2.0 * band.u
    # It is no window that takes anything: a stated regulation tells it to a third less.
    stated = transformer.model_copy(update={"regulation": 0.17, "regulation_tol": 0.05})
    known = build.model_copy(update={"supply": linear(build).model_copy(update={"transformer": stated})})
    sure = _both_into_4_ohm(known).power
    assert sure.u / sure.value < 0.8 * cell.power.u / cell.power.value


def _both_into_4_ohm(build: Build) -> ClipCell:
    cells = clip_cells(build, "left", Situation())
    return next(cell for cell in cells if (cell.load.name, cell.driven) == ("Dummy 4", "all"))
