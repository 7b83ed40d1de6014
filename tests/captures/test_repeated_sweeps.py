"""The same sweep several times in one recording: found, averaged, and less noise for it."""

import io
import itertools
import math

import numpy as np
import pytest
import scipy.signal
import soundfile
from numpy.typing import NDArray

from plinth.captures.analysis import analyse_capture
from plinth.captures.capture import Capture, CaptureError
from plinth.captures.kinds.guess import guessed
from plinth.captures.kinds.sweep import repeats_of
from plinth.captures.options import Options, Sweep
from plinth.captures.signal.repeats import cuts_of, starts_of
from plinth.captures.signal.sweep_shape import sweep_wave
from plinth.captures.writing import sweep_bytes
from tests.captures.made import capture_of
from tests.turns import crossed, in_turn

RATE = 48_000.0
SWEEP = Sweep(20.0, 20_000.0, 1.0)
GAIN = 6.0


def played(times: int, gap_s: float = 0.4, lead_s: float = 0.3, off: float = 1.0) -> NDArray[np.float64]:
    """``times`` sweeps by a clock that is slower by the factor ``off``."""
    wave = sweep_wave(SWEEP.f1_hz / off, SWEEP.f2_hz / off, SWEEP.seconds * off, RATE)
    gap = np.zeros(round(gap_s * off * RATE))
    return np.concatenate((np.zeros(round(lead_s * RATE)), *((wave, gap) * times), np.zeros(round(0.5 * RATE))))


def answered(stimulus: NDArray[np.float64], noise: float = 0.0, seed: int = 1) -> NDArray[np.float64]:
    """Through a high-pass at 12 Hz and a gain, with noise."""
    b, a = scipy.signal.butter(1, 12.0, "high", fs=RATE)
    rng = np.random.default_rng(seed)
    return np.asarray(GAIN * scipy.signal.lfilter(b, a, stimulus) + noise * rng.standard_normal(len(stimulus)))


def at_1k_db() -> float:
    b, a = scipy.signal.butter(1, 12.0, "high", fs=RATE)
    return 20.0 * math.log10(GAIN * abs(scipy.signal.freqz(b, a, [1000.0], fs=RATE)[1][0]))


@pytest.mark.parametrize(("times", "gap_s"), crossed([2, 4, 9], [0.4, 0.0], 3))
def test_sweeps_beside_their_stimulus_are_averaged_without_a_word(times: int, gap_s: float) -> None:
    sent = played(times, gap_s)
    capture = capture_of(sent, answered(sent, 0.02), rate=RATE)
    assert guessed(capture) == "sweep"
    report = analyse_capture(capture, "sweep", Options())
    gain = report.channels[-1]["gain_1k_db"]
    assert abs(gain.value - at_1k_db()) < 1.5 * gain.spread
    assert any(f"{times} sweeps are in it" in remark for remark in report.remarks)


@pytest.mark.parametrize("seeds", in_turn([range(3), range(6)], 2))
def test_noise_falls_by_the_root_of_their_number(seeds: range) -> None:
    errors: dict[int, list[float]] = {1: [], 16: []}
    spreads: dict[int, float] = {}
    for times, seed in itertools.product(errors, seeds):
        sent = played(times)
        report = analyse_capture(capture_of(answered(sent, 0.3, seed), rate=RATE), "sweep", Options(sweep=SWEEP))
        gain = report.channels[-1]["gain_1k_db"]
        errors[times].append(gain.value - at_1k_db())
        spreads[times] = gain.spread - 0.002
    assert spreads[1] / spreads[16] == pytest.approx(4.0, rel=0.35)
    rms = {times: math.sqrt(float(np.mean(np.square(values)))) for times, values in errors.items()}
    assert rms[16] < 0.6 * rms[1]
    assert all(abs(error) < 1.5 * (spreads[times] + 0.002) for times, values in errors.items() for error in values)


def test_the_clock_of_the_player_is_drawn_from_all_of_them() -> None:
    # 300 parts in a million slow; what is played begins 0.3 s into the record.
    sent = played(5, off=1.0003)
    report = analyse_capture(capture_of(answered(sent, 0.2), rate=RATE), "sweep", Options(sweep=SWEEP, at_hz=(8000.0,)))
    figures = report.channels[-1]
    assert abs(figures["gain_1k_db"].value - at_1k_db()) < 1.5 * figures["gain_1k_db"].spread
    assert figures["delay_s"].value == pytest.approx(0.3, abs=2e-5)
    assert abs(figures["gain_8000hz_db_re_1k"].value) < 1.5 * figures["gain_8000hz_db_re_1k"].spread


def test_a_clock_far_off_is_taken_out_whole() -> None:
    # 2000 parts in a million: what is left of it would turn the phase at 8 kHz by tens of degrees.
    sent = played(1, off=1.002)
    figures = analyse_capture(
        capture_of(answered(sent), rate=RATE), "sweep", Options(sweep=SWEEP, at_hz=(8000.0,))
    ).channels[-1]  # fmt: skip
    assert abs(figures["phase_8000hz_deg"].value) < 1.0
    assert figures["delay_s"].value == pytest.approx(0.3, abs=2e-5)


def test_repeats_between_samples_are_laid_over_each_other() -> None:
    # At this clock each begins at another part of a sample; a quarter of one off would cost a decibel at 16 kHz.
    sent = played(6, off=1.0003)
    figures = analyse_capture(
        capture_of(answered(sent), rate=RATE), "sweep", Options(sweep=SWEEP, at_hz=(16_000.0,))
    ).channels[-1]  # fmt: skip
    assert figures["gain_16000hz_db_re_1k"].value == pytest.approx(0.0, abs=0.06)


def test_scatter_is_what_the_spread_says() -> None:
    b, a = scipy.signal.butter(1, 12.0, "high", fs=RATE)
    sent = played(1)
    true = GAIN * abs(scipy.signal.freqz(b, a, [8000.0], fs=RATE)[1][0])
    errors, spreads = [], []
    for seed in range(24):
        mean = repeats_of(capture_of(sent, answered(sent, 0.1, seed), rate=RATE), Options()).mean
        errors.append(abs(mean.at(8000.0)) - true)
        spreads.append(mean.u_linear(8000.0))
    # Late in a sweep little is recorded after it: noise there must not be looked for where none can stand.
    assert 0.5 < float(np.std(errors)) / math.sqrt(float(np.mean(np.square(spreads)))) < 1.3


def test_a_high_pass_is_not_taken_for_a_clock() -> None:
    sent = played(1)
    figures = analyse_capture(capture_of(answered(sent), rate=RATE), "sweep", Options(sweep=SWEEP)).channels[-1]
    assert figures["delay_s"].value == pytest.approx(0.3, abs=1e-5)
    assert figures["gain_1k_db"].value == pytest.approx(at_1k_db(), abs=1e-3)


def test_sweeps_started_by_hand_come_at_any_interval() -> None:
    parts = [played(1, gap_s=gap, lead_s=0.1) for gap in (0.2, 0.9, 0.5)]
    report = analyse_capture(
        capture_of(answered(np.concatenate(parts), 0.02), rate=RATE), "sweep", Options(sweep=SWEEP)
    )
    assert any("3 sweeps are in it" in remark for remark in report.remarks)
    gain = report.channels[-1]["gain_1k_db"]
    assert abs(gain.value - at_1k_db()) < 1.5 * gain.spread


def test_one_that_is_cut_off_is_left_out() -> None:
    sent = played(4)
    short = sent[: round((0.3 + 3 * 1.4 + 0.96) * RATE)]
    for options, channels in ((Options(), (short, answered(short))), (Options(sweep=SWEEP), (answered(short),))):
        report = analyse_capture(capture_of(*channels, rate=RATE), "sweep", options)
        assert any("3 sweeps are in it" in r and "1 more not whole" in r for r in report.remarks), report.remarks
        assert report.channels[-1]["gain_1k_db"].value == pytest.approx(at_1k_db(), abs=0.01)


def test_of_two_one_may_be_cut_off() -> None:
    sent = played(2)
    short = sent[: round((0.3 + 1.4 + 0.96) * RATE)]
    for options, channels in (
        (Options(sweep=SWEEP), (short, answered(short))),
        (Options(sweep=SWEEP), (answered(short),)),
    ):
        report = analyse_capture(capture_of(*channels, rate=RATE), "sweep", options)
        assert any("one sweep is whole in it; 1 more" in remark for remark in report.remarks), report.remarks
        assert report.channels[-1]["gain_1k_db"].value == pytest.approx(at_1k_db(), abs=0.01)


def test_sweeps_that_differ_are_said_to() -> None:
    sent = played(3)
    answer = answered(sent, 0.012)
    quiet = capture_of(sent, answer, rate=RATE)
    assert not any("differ" in remark for remark in analyse_capture(quiet, "sweep", Options()).remarks)
    # The last is 0.1 dB louder than the others.
    answer[round((0.2 + 2 * 1.4) * RATE) :] *= 10.0 ** (0.1 / 20.0)
    loud = analyse_capture(capture_of(sent, answer, rate=RATE), "sweep", Options())
    assert any("differ by 0.1" in remark for remark in loud.remarks), loud.remarks


def test_orders_of_distortion_are_those_of_one_sweep() -> None:
    sent = played(4)
    # a x + b x^2: the second harmonic is b/2 to the fundamental's a, for a peak of 1.
    report = analyse_capture(capture_of(sent, 2.0 * sent + 0.02 * sent**2, rate=RATE), "sweep", Options())
    second = report.channels[-1]["h2_at_1000hz_db"]
    assert second.value == pytest.approx(20.0 * math.log10(0.01 / 2.0), abs=second.spread)


def test_what_is_played_several_times_comes_back() -> None:
    sound, rate = soundfile.read(io.BytesIO(sweep_bytes(SWEEP, 48_000, 0.5, 3)))
    assert rate == 48_000
    assert len(sound) == round((0.5 + 3 * 2.0) * 48_000)
    repeats = repeats_of(capture_of(3.0 * sound, rate=RATE), Options(sweep=SWEEP))
    assert len(repeats.answers) == 3
    assert abs(repeats.mean.at(1000.0)) == pytest.approx(1.5, rel=1e-4)


@pytest.mark.parametrize(("times", "words"), [(0, "1 to 32"), (33, "1 to 32"), (31, "fewer times")])
def test_more_than_can_be_averaged_is_not_written(times: int, words: str) -> None:
    with pytest.raises(CaptureError, match=words):
        sweep_bytes(Sweep(20.0, 20_000.0, 10.0), 48_000, 0.5, times)


def test_spans_about_sweeps_have_one_length_and_do_not_meet() -> None:
    rng = np.random.default_rng(3)
    wave = sweep_wave(100.0, 10_000.0, 0.5, RATE)
    for _ in range(20):
        gaps = rng.integers(0, 20_000, size=int(rng.integers(2, 6)))
        lead = np.concatenate([part for gap in gaps for part in (np.zeros(int(gap)), wave)] + [np.zeros(500)])
        begins = np.cumsum(gaps + len(wave)) - len(wave)
        starts = starts_of(lead, wave)
        assert starts == tuple(begins)
        cuts, cut_off = cuts_of(starts, len(wave), len(lead), RATE)
        assert cut_off == 0
        assert len({b - a for a, b in cuts}) == 1
        assert all(a <= start and b >= start + len(wave) for (a, b), start in zip(cuts, starts, strict=True))
        assert all(one[1] <= two[0] for one, two in itertools.pairwise(cuts))


def test_a_tone_and_noise_hold_no_sweeps() -> None:
    t = np.arange(round(4 * RATE)) / RATE
    for wave in (np.sin(2.0 * math.pi * 440.0 * t), np.random.default_rng(2).standard_normal(len(t))):
        assert guessed(Capture("x", capture_of(wave, rate=RATE).channels, RATE)) != "sweep"
