"""Published definitions, each held against a case worked by hand."""

import math

import numpy as np
import pytest

from plinth.captures.analysis import analyse_capture
from plinth.captures.capture import Capture, CaptureError, Channel
from plinth.captures.figure import CaptureFigure
from plinth.captures.kinds.guess import guessed
from plinth.captures.options import Options, Sweep
from plinth.captures.signal.clipped_sine import distortion_of, fitted_cut, limit_of, rms_at
from plinth.captures.signal.line_fit import harmonic_fit, strongest_line
from plinth.captures.signal.steps import repeats_after, u_of_steps
from plinth.captures.signal.sweep_shape import SweepShape, sweep_wave
from plinth.captures.signal.weighting import a_weighting, itu_r_468
from tests.captures.made import Wave, capture_of

RATE = 48_000.0


def figures_of(capture: Capture, kind: str, **stated: object) -> dict[str, CaptureFigure]:
    analysis = analyse_capture(capture, kind, Options(**stated))  # type: ignore[arg-type]
    return {figure.name: figure for channel in analysis.channels for figure in channel.figures}


def sine(hz: float, peak: float, seconds: float = 1.0, phase: float = 0.0) -> Wave:
    return np.asarray(peak * np.sin(2.0 * math.pi * hz * np.arange(round(RATE * seconds)) / RATE + phase))


def noise(peak: float, seconds: float = 1.0, seed: int = 1) -> Wave:
    return peak * np.random.default_rng(seed).standard_normal(round(RATE * seconds))


def test_thd_is_the_root_sum_square_of_the_harmonics_to_the_fundamental() -> None:
    # 3 % and 4 % make 5 %: 20 log10(0.05) = -26.0206 dB.
    wave = sine(1000.0, 2.0) + sine(2000.0, 0.06, phase=1.0) + sine(3000.0, 0.08, phase=-2.0) + noise(1e-5)
    figures = figures_of(capture_of(wave, rate=RATE), "tone")
    assert figures["thd_db"].value == pytest.approx(-26.0206, abs=0.001)
    assert figures["h2_db"].value == pytest.approx(20.0 * math.log10(0.03), abs=0.001)
    assert figures["h3_phase_deg"].value == pytest.approx(math.degrees(-2.0), abs=0.02)
    assert figures["h2_phase_deg"].value == pytest.approx(math.degrees(1.0), abs=0.02)


def test_rms_holds_the_direct_part_and_crest_is_peak_over_it() -> None:
    wave = 1.0 + sine(500.0, 2.0) + noise(1e-6)
    figures = figures_of(capture_of(wave, rate=RATE), "tone")
    assert figures["rms"].value == pytest.approx(math.sqrt(1.0 + 2.0), rel=1e-6)
    assert figures["dc"].value == pytest.approx(1.0, rel=1e-6)
    assert figures["crest"].value == pytest.approx(3.0 / math.sqrt(3.0), rel=1e-4)
    assert figures["rms_ac"].value == pytest.approx(math.sqrt(2.0), rel=1e-5)
    assert figures["mean"].value == pytest.approx(1.0, rel=1e-5)


def test_noise_is_counted_in_its_band_alone() -> None:
    # White noise of 1 mV over 24 kHz holds sqrt(19980 / 24000) mV from 20 Hz to 20 kHz.
    wave = sine(1000.0, 1.0) + noise(1e-3)
    figures = figures_of(capture_of(wave, rate=RATE), "tone", band_hz=(100.0, 1100.0))
    assert figures["noise_rms_20_20k"].value == pytest.approx(1e-3 * math.sqrt(19_980.0 / 24_000.0), rel=0.02)
    assert figures["noise_rms_100_1100"].value == pytest.approx(1e-3 * math.sqrt(1000.0 / 24_000.0), rel=0.06)
    # 1 mV of noise under 0.7071 V of tone: 20 log10(0.7071 / 0.001) = 56.99 dB, (56.99 - 1.76) / 6.02 bits.
    assert figures["sinad_db"].value == pytest.approx(56.99, abs=figures["sinad_db"].spread + 0.05)
    assert figures["enob_bits"].value == pytest.approx(9.174, abs=figures["enob_bits"].spread + 0.01)
    expected = -56.99 + 10.0 * math.log10(19_980 / 24_000)
    assert figures["thdn_20_20k_db"].value == pytest.approx(expected, abs=figures["thdn_20_20k_db"].spread + 0.05)


def test_hum_is_told_apart_from_noise() -> None:
    wave = sine(1000.0, 1.0) + sine(100.0, 2e-3) + noise(1e-4)
    figures = figures_of(capture_of(wave, rate=RATE), "tone")
    assert figures["hum_100hz_rms"].value == pytest.approx(2e-3 / math.sqrt(2.0), rel=0.01)
    assert figures["noise_rms_20_20k"].value == pytest.approx(1e-4 * math.sqrt(19_980 / 24_000), rel=0.03)
    both = 10.0 * math.log10((0.5 * 4e-6 + 1e-8 * 19_980 / 24_000) / 0.5)
    assert figures["thdn_20_20k_db"].value == pytest.approx(both, abs=0.05)


@pytest.mark.parametrize(
    ("hz", "decibels"), [(31.5, -39.5), (100.0, -19.1), (1000.0, 0.0), (2500.0, 1.3), (10_000.0, -2.5)]
)
def test_a_weighting_is_that_of_iec_61672(hz: float, decibels: float) -> None:
    assert 20.0 * math.log10(float(a_weighting(np.array([hz]))[0])) == pytest.approx(decibels, abs=0.06)


@pytest.mark.parametrize(
    ("hz", "decibels"), [(63.0, -23.9), (1000.0, 0.0), (6300.0, 12.2), (12_500.0, 0.0), (20_000.0, -22.2)]
)
def test_itu_weighting_is_that_of_its_table(hz: float, decibels: float) -> None:
    assert 20.0 * math.log10(float(itu_r_468(np.array([hz]))[0])) == pytest.approx(decibels, abs=0.01)


def test_weighted_noise_follows_its_curve() -> None:
    # A line at 100 Hz beside the tone is 19.1 dB less when A-weighted, 19.8 dB less by ITU-R 468.
    figures = figures_of(capture_of(sine(2000.0, 1.0) + sine(100.0, 2e-3) + noise(1e-7), rate=RATE), "tone")
    plain = 2e-3 / math.sqrt(2.0)
    assert 20 * math.log10(figures["noise_a_rms"].value / plain) == pytest.approx(-19.1, abs=0.1)
    assert 20 * math.log10(figures["noise_468_rms"].value / plain) == pytest.approx(-19.8, abs=0.1)


def test_intermodulation_is_to_the_upper_tone() -> None:
    wave = sine(60.0, 4.0) + sine(7000.0, 1.0) + sine(7060.0, 0.003) + sine(6940.0, 0.004) + noise(1e-5)
    figures = figures_of(capture_of(wave, rate=RATE), "intermodulation")
    assert figures["imd_db"].value == pytest.approx(20.0 * math.log10(0.005), abs=0.01)
    assert figures["line_7060hz_db"].value == pytest.approx(20.0 * math.log10(0.003), abs=0.02)
    assert figures["line_60hz_db"].value == pytest.approx(12.041, abs=0.001)
    assert figures["line_7000hz_db"].value == pytest.approx(0.0, abs=1e-9)


def test_a_cut_sine_has_the_distortion_of_its_fourier_series() -> None:
    # Cut at half its peak, by hand: b1 = (2/pi)(a + sin a cos a) with a = asin(1/2), total from the mean square.
    a = math.asin(0.5)
    first = 2.0 / math.pi * (a + 0.5 * math.cos(a))
    square = 2.0 / math.pi * (0.5 * (a - 0.5 * math.sin(2.0 * a)) + 0.25 * (0.5 * math.pi - a))
    total = math.sqrt(square / (0.5 * first**2) - 1.0)
    assert distortion_of(1.0, 0.5, 0.5, 400) == pytest.approx(total, rel=2e-3)
    assert limit_of(first * 8.0, total, 400) == pytest.approx(4.0, rel=2e-3)
    assert rms_at(4.0, total, 400) == pytest.approx(8.0 * math.sqrt(square), rel=2e-3)


def test_limits_of_a_wave_that_is_cut_unevenly_are_found() -> None:
    wave = np.clip(10.0 * np.sin(2.0 * math.pi * (np.arange(4096) + 0.5) / 4096), -8.0, 9.0)
    lines = 2j * np.fft.rfft(wave)[1:21] * np.exp(-1j * math.pi * np.arange(1, 21) / 4096) / 4096
    cut = fitted_cut(lines)
    assert cut is not None
    assert (cut.amplitude, cut.upper, cut.lower) == pytest.approx((10.0, 9.0, 8.0), rel=2e-3)


def test_levels_in_power_are_rms_squared_over_the_load() -> None:
    waves = [np.clip(sine(1000.0, peak, 0.1), -10.0, 10.0) for peak in (4.0, 8.0, 10.5, 11.0, 12.0, 14.0, 20.0)]
    output = np.concatenate(waves) + noise(1e-4, 0.7)
    figures = figures_of(capture_of(output, rate=RATE), "levels", step_s=0.1, load_ohm=5.0)
    assert figures["onset_rms_v"].value == pytest.approx(10.0 / math.sqrt(2.0), rel=3e-3)
    assert figures["onset_power_w"].value == pytest.approx(10.0, rel=6e-3)
    at_10 = figures["level_at_10pct_thd_rms_v"]
    assert figures["power_at_10pct_thd_w"].value == pytest.approx(at_10.value**2 / 5.0)
    assert "power_at_1pct_thd_w" in figures


def test_levels_without_a_load_or_clipping_say_so() -> None:
    quiet = np.concatenate([sine(1000.0, peak, 0.1) for peak in (1.0, 2.0, 3.0, 4.0)]) + noise(1e-5, 0.4)
    analysis = analyse_capture(capture_of(quiet, rate=RATE), "levels", Options(step_s=0.1))
    assert "onset_rms_v" not in analysis.channels[0]
    assert any("none of 4 levels" in remark and "clips" in remark for remark in analysis.remarks)
    loud = np.concatenate([np.clip(sine(1000.0, p, 0.1), -2.0, 2.0) for p in (1.0, 1.9, 2.2, 2.4)]) + noise(1e-5, 0.4)
    analysis = analyse_capture(capture_of(loud, rate=RATE), "levels", Options(step_s=0.1))
    assert "onset_rms_v" in analysis.channels[0]
    assert any("no load is stated" in remark for remark in analysis.remarks)
    assert any("level_at_10pct_thd_rms_v" in remark for remark in analysis.remarks)


def test_the_current_of_half_a_sine_lets_through_its_square_times_a_quarter_cycle() -> None:
    t = np.arange(round(RATE * 0.3)) / RATE
    v = 325.0 * np.sin(2.0 * math.pi * 50.0 * t)
    i = np.where((t >= 0.1) & (t < 0.11), 20.0 * np.sin(2.0 * math.pi * 50.0 * (t - 0.1)), 0.0)
    figures = figures_of(capture_of(v, i, rate=RATE, units=("V", "A")), "mains")
    # 400 A^2 times half of 10 ms.
    assert figures["i2t_first_half_cycle_a2s"].value == pytest.approx(2.0, rel=2e-3)
    assert figures["i2t_first_100ms_a2s"].value == pytest.approx(2.0, rel=2e-3)
    assert figures["i_peak_a"].value == pytest.approx(20.0, rel=2e-3)


def test_power_of_a_resistor_and_of_a_choke() -> None:
    v, i = sine(50.0, 325.0, 0.5), sine(50.0, 2.0, 0.5)
    figures = figures_of(capture_of(v, i, rate=RATE, units=("V", "A")), "mains")
    assert figures["p_w"].value == pytest.approx(325.0, rel=1e-4)
    assert figures["s_va"].value == pytest.approx(325.0, rel=1e-4)
    assert figures["pf"].value == pytest.approx(1.0, abs=1e-4)
    assert figures["i_crest"].value == pytest.approx(math.sqrt(2.0), rel=2e-3)
    late = sine(50.0, 2.0, 0.5, phase=-math.pi / 3.0)
    assert figures_of(capture_of(v, late, rate=RATE, units=("V", "A")), "mains")["pf"].value == pytest.approx(
        0.5, abs=1e-3
    )


def test_amperes_may_come_first() -> None:
    v, i = sine(50.0, 325.0, 0.5), sine(50.0, 2.0, 0.5)
    figures = figures_of(capture_of(i, v, rate=RATE, units=("A", "V")), "mains")
    assert figures["v_rms"].value == pytest.approx(325.0 / math.sqrt(2.0), rel=1e-4)
    assert figures["i_rms"].value == pytest.approx(2.0 / math.sqrt(2.0), rel=1e-4)


@pytest.mark.parametrize("with_drive", [True, False])
def test_output_impedance_is_the_load_times_what_the_volts_fall_by(with_drive: bool) -> None:
    # 0.2 ohm before 8 ohm: volts fall by 8.2 / 8; the generator drifts by 1 % between, which the drive shows.
    drift = 1.01 if with_drive else 1.0
    unloaded, loaded = sine(1000.0, 4.1) + noise(1e-5), sine(1000.0, drift * 4.0) + noise(1e-5, seed=2)
    drive = (sine(1000.0, 1.0), sine(1000.0, drift))
    from plinth.captures.figure import FigureList
    from plinth.captures.kinds.impedance import add_impedance

    figures = FigureList("out")
    add_impedance(
        figures,
        capture_of(*((drive[1],) if with_drive else ()), loaded, rate=RATE),
        capture_of(*((drive[0],) if with_drive else ()), unloaded, rate=RATE),
        Options(load_ohm=8.0),
    )
    done = figures.done()
    assert done["zout_ohm"].value == pytest.approx(0.2, abs=max(done["zout_ohm"].spread, 1e-6))
    assert done["zout_ohm"].spread < 1e-4
    assert done["damping"].value == pytest.approx(40.0, rel=1e-3)


def test_impedance_wants_a_load_stated() -> None:
    with pytest.raises(CaptureError, match="--open"):
        analyse_capture(capture_of(sine(1000.0, 1.0), rate=RATE), "impedance", Options(load_ohm=8.0))


def test_a_sweep_alone_is_read_with_the_clock_of_its_player_taken_out() -> None:
    # The player runs 80 parts in a million fast, the record starts 0.3 s before the sweep; gain 2.
    off = 1.0 + 80e-6
    wave = sweep_wave(10.0 * off, 20_000.0 * off, 3.0 / off, RATE)
    record = np.concatenate((np.zeros(round(0.3 * RATE)), 2.0 * wave, np.zeros(round(0.5 * RATE))))
    record = record + 1e-4 * np.random.default_rng(3).standard_normal(len(record))
    figures = figures_of(
        capture_of(record, rate=RATE), "sweep", sweep=Sweep(10.0, 20_000.0, 3.0), at_hz=(100.0, 10_000.0)
    )
    assert figures["gain_1k_db"].value == pytest.approx(20.0 * math.log10(2.0), abs=0.01)
    assert figures["gain_100hz_db_re_1k"].value == pytest.approx(0.0, abs=0.02)
    assert figures["gain_10000hz_db_re_1k"].value == pytest.approx(0.0, abs=0.02)
    assert figures["delay_s"].value == pytest.approx(0.3, abs=1e-4)


def test_a_sweep_that_is_neither_stated_nor_seen_is_refused() -> None:
    with pytest.raises(CaptureError, match="--sweep"):
        analyse_capture(capture_of(sine(1000.0, 1.0), rate=RATE), "sweep", Options())
    with pytest.raises(CaptureError, match="--sweep"):
        analyse_capture(capture_of(sine(1000.0, 1.0), sine(1000.0, 1.0), rate=RATE), "sweep", Options())


@pytest.mark.parametrize(
    ("hz", "rows", "period"), [(1000.0, 48_000, 48), (997.0, 48_000, 48_000), (19_000.0, 96_000, 48)]
)
def test_a_wave_repeats_on_the_sample_grid_where_its_ratio_is_whole(hz: float, rows: int, period: int) -> None:
    assert repeats_after([hz / RATE], rows) == period


def test_two_waves_repeat_after_the_least_common_multiple() -> None:
    assert repeats_after([60.0 / RATE, 7000.0 / RATE], 96_000) == 2400


def test_a_fit_needs_no_whole_cycles() -> None:
    wave = 0.2 + sine(73.3, 1.0, 0.1, 0.4) + sine(146.6, 0.1, 0.1, 1.0)
    fit = harmonic_fit(wave, strongest_line(wave), 5)
    assert fit.bases[0] * RATE / (2.0 * math.pi) == pytest.approx(73.3, rel=1e-6)
    assert abs(fit.phasors[0]) == pytest.approx(1.0, rel=1e-6)
    assert fit.dc == pytest.approx(0.2, rel=1e-5)


def test_too_few_cycles_and_silence_are_said() -> None:
    short = analyse_capture(capture_of(sine(20.0, 1.0, 0.1), rate=RATE), "tone", Options())
    assert "frequency_hz" not in short.channels[0]
    assert any("fewer than three cycles" in remark for remark in short.remarks)
    still = analyse_capture(capture_of(np.full(1000, 2.5), rate=RATE), "tone", Options())
    assert still.channels[0]["mean"].value == 2.5
    assert any("every sample is the same" in remark for remark in still.remarks)


def test_harmonics_above_half_the_rate_are_left_out_with_a_remark() -> None:
    analysis = analyse_capture(capture_of(sine(9000.0, 1.0) + noise(1e-4), rate=RATE), "tone", Options())
    assert "h3_db" not in analysis.channels[0]
    assert any("h3_db" in remark and "above half the rate" in remark for remark in analysis.remarks)
    assert any("thdn_20_80k_db" in remark and "24000" in remark for remark in analysis.remarks)


def test_a_square_wave_in_noise_has_no_overshoot_and_no_ringing() -> None:
    wave = np.sign(np.sin(2.0 * math.pi * 500.0 * (np.arange(48_000) + 0.3) / RATE)) + noise(1e-4)
    figures = figures_of(capture_of(wave, rate=RATE), "edge")
    assert figures["rise_overshoot_pct"].value == pytest.approx(0.0, abs=0.05)
    assert figures["rise_settle_1pct_s"].value < 2.0 / RATE
    assert "rise_ringing_hz" not in figures
    assert figures["rise_tilt_pct"].value == pytest.approx(0.0, abs=0.01)


def test_a_level_that_sags_is_told_as_tilt() -> None:
    # A high-pass of 5 Hz under a square wave of 100 Hz: between the means of the second quarter and of the second half
    # it falls by the course's slope over 3/8 of a half period, to first order.
    t = np.arange(48_000) / RATE
    phase = (t * 100.0) % 1.0
    level = np.where(phase < 0.5, 1.0, -1.0)
    since = np.where(phase < 0.5, phase, phase - 0.5) / 100.0
    wave = level * np.exp(-2.0 * math.pi * 5.0 * since)
    figures = figures_of(capture_of(wave, rate=RATE), "edge")
    assert 2.0 < figures["rise_tilt_pct"].value < 8.0
    assert figures["rise_tilt_pct"].value == pytest.approx(figures["fall_tilt_pct"].value, rel=0.02)
    # From edge to edge, of the whole step: (1 - e^-a) / (1 + e^-a), a = 2 pi 5 Hz times half a period.
    droop = 100.0 * math.tanh(0.5 * 2.0 * math.pi * 5.0 * 0.005)
    for name in ("rise_droop_pct", "fall_droop_pct"):
        assert figures[name].value == pytest.approx(droop, rel=5e-3)


@pytest.mark.parametrize("seconds", [1.0, 2.0, 5.0])
def test_a_short_sweep_tells_its_ends_with_a_wider_spread(seconds: float) -> None:
    sent = np.concatenate((np.zeros(2400), 0.5 * sweep_wave(20.0, 20_000.0, seconds, RATE), np.zeros(24_000)))
    # One pole at 8 Hz by the recurrence y = a (y + x - x before), whose response is known in closed form.
    a = 1.0 / (1.0 + 2.0 * math.pi * 8.0 / RATE)
    came, last, before = np.empty_like(sent), 0.0, 0.0
    for row, value in enumerate(sent):
        last = a * (last + value - before)
        came[row], before = last, value
    figures = figures_of(capture_of(sent, came, rate=RATE), "sweep", sweep=Sweep(20.0, 20_000.0, seconds))

    def response(hz: float) -> complex:
        z = np.exp(-2j * math.pi * hz / RATE)
        return complex(a * (1.0 - z) / (1.0 - a * z))

    for hz in (20, 100, 10_000, 20_000):
        ratio = 20.0 * math.log10(abs(response(hz)) / abs(response(1000.0)))
        gain, phase = figures[f"gain_{hz}hz_db_re_1k"], figures[f"phase_{hz}hz_deg"]
        assert gain.value == pytest.approx(ratio, abs=gain.spread)
        assert phase.value == pytest.approx(math.degrees(np.angle(response(hz))), abs=phase.spread)


def test_rounding_shares_its_power_among_the_lines_of_a_wave_that_repeats() -> None:
    # 48 samples hold 24 lines of equal peak A: 24 A^2 / 2 = step^2 / 12; each quadrature has A / sqrt(2).
    step, period = 0.5, 48
    peak = math.sqrt(2.0 * step**2 / 12.0 / (period / 2.0))
    assert u_of_steps(step, period, step**2 / 12.0, 1e6) == pytest.approx(peak / math.sqrt(2.0), rel=0.01)
    # Noise of half a step blurs it away; without steps there is none.
    assert u_of_steps(step, period, (0.6 * step) ** 2, 1e6) < 0.01 * peak
    assert u_of_steps(0.0, period, 0.0, 1.0) == 0.0


def test_an_order_arrives_as_much_earlier_as_the_sweep_takes_to_that_multiple() -> None:
    shape = SweepShape(20.0, 20_000.0, 3.0 / math.log(1000.0))
    # From end to end it takes its three seconds, and so much later it swings twice as often.
    assert shape.ahead_s(1000) == pytest.approx(3.0)
    wave = sweep_wave(20.0, 20_000.0, 3.0, RATE)

    def crossings(begin: float) -> int:
        part = wave[round(begin * RATE) : round((begin + 0.3) * RATE)]
        return int(np.count_nonzero(np.diff(np.signbit(part))))

    assert crossings(1.0 + shape.ahead_s(2)) / crossings(1.0) == pytest.approx(2.0, rel=0.01)


def test_levels_are_seen_whether_they_rise_or_fall() -> None:
    rising = np.concatenate([np.clip(sine(1000.0, peak, 0.1), -2.0, 2.0) for peak in (0.5, 1.0, 1.5, 1.9, 2.2, 2.6)])
    up, down = capture_of(rising + noise(1e-5, 0.6), rate=RATE), capture_of(rising[::-1] + noise(1e-5, 0.6), rate=RATE)
    assert (guessed(up), guessed(down)) == ("levels", "levels")
    both = [figures_of(each, "levels")["onset_rms_v"].value for each in (up, down)]
    assert both == pytest.approx([math.sqrt(2.0)] * 2, rel=5e-3)


def test_hum_beside_a_tone_makes_no_second_tone_of_it() -> None:
    assert guessed(capture_of(sine(1000.0, 1.0) + sine(100.0, 0.3) + noise(1e-4), rate=RATE)) == "tone"
    assert guessed(capture_of(sine(7000.0, 1.0) + sine(60.0, 4.0) + noise(1e-4), rate=RATE)) == "intermodulation"


def test_ripple_and_bass_of_a_rail_are_told_as_rms() -> None:
    wave = 35.0 + sine(100.0, 1.0, 2.0) + sine(31.5, 0.5, 2.0) + noise(1e-4, 2.0)
    figures = figures_of(capture_of(wave, rate=RATE), "rail")
    assert figures["ripple_rms_v"].value == pytest.approx(1.0 / math.sqrt(2.0), rel=1e-3)
    assert figures["bass_rms_v"].value == pytest.approx(0.5 / math.sqrt(2.0), rel=1e-3)
    assert figures["mean_v"].value == pytest.approx(35.0, rel=1e-5)


def test_the_mean_of_a_broken_cycle_is_known_no_better_than_that_cycle() -> None:
    # Seven and a half cycles: the odd half adds 2 / (2 pi 7.5) of the peak.
    figures = figures_of(capture_of(sine(75.0, 1.0, 0.1) + noise(1e-6, 0.1), rate=RATE), "tone")
    off = 2.0 / (2.0 * math.pi * 7.5)
    assert figures["mean"].value == pytest.approx(off, rel=0.01)
    assert off < figures["mean"].spread < 2.0 * off
    assert figures["dc"].value == pytest.approx(0.0, abs=1e-4)


def test_volts_that_are_taken_as_amperes_are_said_to_be() -> None:
    v, i = sine(50.0, 325.0, 0.5), sine(50.0, 2.0, 0.5)
    said = analyse_capture(capture_of(v, i, rate=RATE), "mains", Options()).remarks
    assert any("taken as amperes" in remark for remark in said)
    known = analyse_capture(capture_of(v, i, rate=RATE, units=("V", "A")), "mains", Options()).remarks
    assert not any("taken as amperes" in remark for remark in known)


def test_a_direct_part_that_is_not_seen_is_not_taken_for_none() -> None:
    t = np.arange(48_000) / 48_000.0
    for dc, said in ((0.0, True), (0.1, False)):
        wave = np.sin(2.0 * math.pi * 1000.0 * t) + dc + 1e-5 * np.random.default_rng(1).standard_normal(len(t))
        told = analyse_capture(Capture("x", (Channel("ch1", wave, "V"),), 48_000.0), "tone", Options())
        assert any("blocks direct current" in remark for remark in told.remarks) == said


def test_harmonics_that_are_folded_are_named_and_filtered_ones_are_not() -> None:
    t = np.arange(96_000) / 48_000.0
    turns = 2.0 * math.pi * 997.0 * t
    sine = np.sin(turns) + 1e-5 * np.random.default_rng(1).standard_normal(len(t))
    for wave, said in ((np.clip(1.3 * sine, -1.0, 1.0), True), (sine + 0.01 * np.sin(3.0 * turns), False)):
        told = analyse_capture(Capture("x", (Channel("ch1", wave, "V"),), 48_000.0), "tone", Options())
        words = [remark for remark in told.remarks if "aliased" in remark]
        assert bool(words) == said
    # 25 times 997 Hz is 24 925 Hz, which stands at 48 000 - 24 925 Hz.
    clipped = analyse_capture(
        Capture("x", (Channel("ch1", np.clip(1.3 * sine, -1.0, 1.0), "V"),), 48_000.0), "tone", Options()
    )  # fmt: skip
    assert any("harmonic 25 of 997 Hz" in remark and "folded at 23075 Hz" in remark for remark in clipped.remarks)
