"""Captures with a known truth, made from closed forms alone: nothing of what is tested is used here."""

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import Capture, Channel

Wave = NDArray[np.float64]
Truth = dict[str, float]


@dataclass(frozen=True)
class Made:
    """A capture, what is true of it, and what is stated beside it."""

    capture: Capture
    truth: Truth
    stated: dict[str, object] = field(default_factory=dict)


def capture_of(*waves: Wave, rate: float, units: tuple[str, ...] = (), step: float = 0.0) -> Capture:
    """Waves as the channels of one capture."""
    units = units or ("V",) * len(waves)
    return Capture(
        "made",
        tuple(
            Channel(f"ch{k + 1}", wave, unit, step=step)
            for k, (wave, unit) in enumerate(zip(waves, units, strict=True))
        ),
        rate,
    )


def quantised(wave: Wave, bits: int | None, full_scale: float) -> tuple[Wave, float]:
    """The wave in steps of a recorder with so many bits; the step."""
    if bits is None:
        return wave, 0.0
    step = 2.0 * full_scale / 2**bits
    return np.round(wave / step) * step, step


def db(ratio: float) -> float:
    return 20.0 * math.log10(ratio)


def a_tone(rng: np.random.Generator) -> Made:
    """A tone with harmonics, noise, hum and an offset, through a recorder with steps."""
    rate = float(rng.choice([44_100.0, 48_000.0, 96_000.0, 192_000.0]))
    seconds = float(rng.uniform(0.15, 1.5))
    hz = float(np.exp(rng.uniform(math.log(60.0), math.log(6000.0))))
    amplitude = float(np.exp(rng.uniform(math.log(0.2), math.log(40.0))))
    t = np.arange(int(rate * seconds)) / rate
    turn = 2.0 * math.pi * hz * t + rng.uniform(0.0, 2.0 * math.pi)
    sizes = {h: amplitude * 10.0 ** (rng.uniform(-100.0, -35.0) / 20.0) for h in range(2, 11) if h * hz < 0.47 * rate}
    phases = {h: float(rng.uniform(-math.pi, math.pi)) for h in sizes}
    sigma = amplitude * 10.0 ** (rng.uniform(-115.0, -60.0) / 20.0)
    offset = amplitude * float(rng.choice([0.0, 0.01, 0.3])) * float(rng.uniform(-1.0, 1.0))
    clean = amplitude * np.sin(turn) + offset
    for h, size in sizes.items():
        clean = clean + size * np.sin(h * turn + phases[h])
    hum = amplitude * 10.0 ** (rng.uniform(-110.0, -60.0) / 20.0) if rng.random() < 0.5 and seconds > 0.5 else 0.0
    mains = 50.0 + rng.uniform(-0.05, 0.05)
    if hum and min(abs(hz * k - 2.0 * mains) for k in range(1, 4)) < 40.0:
        hum = 0.0
    wave = clean + sigma * rng.standard_normal(len(t)) + hum * np.sin(2.0 * math.pi * 2.0 * mains * t + 1.0)
    bits = [None, 16, 24, 12][int(rng.integers(4))]
    wave, step = quantised(wave, bits, 1.5 * (amplitude + abs(offset)))
    noise = sigma**2 + step**2 / 12.0
    distortion = 0.5 * sum(size**2 for size in sizes.values())
    truth = {
        "frequency_hz": hz, "dc": offset,
        "rms": math.sqrt(offset**2 + 0.5 * amplitude**2 + distortion + noise + 0.5 * hum**2),
        "crest": float(np.max(np.abs(clean))) / math.sqrt(offset**2 + 0.5 * amplitude**2 + distortion + noise),
        "thd_db": db(math.sqrt(2.0 * distortion) / amplitude) if sizes else 0.0,
        "sinad_db": -10.0 * math.log10((distortion + noise + 0.5 * hum**2) / (0.5 * amplitude**2)),
        "mean": float(np.mean(clean)), "rms_ac": math.sqrt(float(np.var(clean)) + noise + 0.5 * hum**2),
    }  # fmt: skip
    for name, low, high in (
        ("20_20k", 20.0, 20e3),
        ("20_22k", 20.0, 22e3),
        ("20_80k", 20.0, 80e3),
        ("22k_80k", 22e3, 80e3),
    ):
        if high < 0.5 * rate:
            inside = 0.5 * sum(size**2 for h, size in sizes.items() if low <= h * hz <= high)
            inside += noise * (high - low) / (0.5 * rate) + (0.5 * hum**2 if low < 100.0 else 0.0)
            truth[f"thdn_{name}_db"] = 10.0 * math.log10(inside / (0.5 * amplitude**2))
    if rate > 40_000.0:
        truth["noise_rms_20_20k"] = math.sqrt(noise * (20e3 - 20.0) / (0.5 * rate))
    for h, size in sizes.items():
        truth[f"h{h}_db"] = db(size / amplitude)
        truth[f"h{h}_phase_deg"] = math.degrees(phases[h])
    return Made(capture_of(wave, rate=rate, step=step), truth)


def two_tones(rng: np.random.Generator) -> Made:
    """Two tones and their products, with noise."""
    rate = float(rng.choice([48_000.0, 96_000.0, 192_000.0]))
    seconds = float(rng.uniform(0.4, 1.5))
    low, high, share = [
        (60.0, 7000.0, 4.0),
        (19_000.0, 20_000.0, 1.0),
        (250.0, 8000.0, 4.0),
        (11_000.0, 12_000.0, 1.0),
    ][int(rng.integers(4))]
    high_size = float(rng.uniform(0.2, 10.0))
    t = np.arange(int(rate * seconds)) / rate
    q1 = 2.0 * math.pi * low * t + rng.uniform(0.0, 6.0)
    q2 = 2.0 * math.pi * high * t + rng.uniform(0.0, 6.0)
    wave = share * high_size * np.sin(q1) + high_size * np.sin(q2)
    truth = {"tone_low_hz": low, "tone_high_hz": high, f"line_{low:.0f}hz_db": db(share), f"line_{high:.0f}hz_db": 0.0}
    power = 0.0
    for m, n in ((1, 1), (-1, 1), (2, 1), (-2, 1), (2, -1), (-1, 2)):
        place = abs(m * low + n * high)
        if place > 0.48 * rate or f"line_{place:.0f}hz_db" in truth:
            continue
        size = high_size * 10.0 ** (rng.uniform(-90.0, -35.0) / 20.0)
        wave = wave + size * np.sin(m * q1 + n * q2 + rng.uniform(0.0, 6.0))
        truth[f"line_{place:.0f}hz_db"] = db(size / high_size)
        power += (size / high_size) ** 2
    truth["imd_db"] = 10.0 * math.log10(power)
    sigma = high_size * 10.0 ** (rng.uniform(-110.0, -65.0) / 20.0)
    wave = wave + sigma * rng.standard_normal(len(t))
    wave, step = quantised(wave, [None, 16, 24][int(rng.integers(3))], 1.3 * (1.0 + share) * high_size)
    return Made(capture_of(wave, rate=rate, step=step), truth)


def a_rail(rng: np.random.Generator) -> Made:
    """A rail: charging and discharging twice a cycle of the mains, bass through it, noise."""
    rate = float(rng.choice([10_000.0, 25_000.0, 50_000.0]))
    seconds = float(rng.uniform(0.4, 2.0))
    sign = float(rng.choice([1.0, -1.0]))
    volts = float(rng.uniform(15.0, 60.0))
    ripple = float(rng.uniform(0.1, 3.0))
    hz = 2.0 * float(rng.choice([50.0, 60.0])) * float(rng.uniform(0.998, 1.002))
    rise = float(rng.uniform(0.15, 0.3))
    t = np.arange(int(rate * seconds)) / rate
    place = (hz * t + rng.random()) % 1.0
    saw = np.where(place < rise, place / rise, 1.0 - (place - rise) / (1.0 - rise)) - 0.5
    clean = volts + ripple * saw
    bass_hz, bass = 0.0, 0.0
    if rng.random() < 0.6:
        bass_hz = float(rng.choice([20.0, 31.5, 40.0]))
        bass = float(rng.uniform(0.1, 0.8))
        clean = clean + math.sqrt(2.0) * bass * np.sin(2.0 * math.pi * bass_hz * t + rng.uniform(0.0, 6.0))
    sigma = float(rng.choice([0.0, 0.002, 0.02, 0.06]))
    wave = sign * clean + sigma * rng.standard_normal(len(t))
    wave, step = quantised(wave, [None, 12, 16][int(rng.integers(3))], 1.3 * volts)
    truth = {
        "mean_v": sign * volts, "pp_v": float(np.ptp(clean)), "nearest_zero_v": sign * float(np.min(clean)),
        "ripple_hz": hz,
    }  # fmt: skip
    if bass:
        truth |= {"bass_hz": bass_hz, "bass_rms_v": bass}
    return Made(capture_of(wave, rate=rate, step=step), truth)


def an_edge(rng: np.random.Generator) -> Made:
    """A square wave through one pole, two poles that ring, or a slew limit."""
    rate = float(rng.choice([1e6, 5e6, 20e6]))
    hz = float(rng.choice([1000.0, 5000.0]))
    cycles = int(rng.integers(2, 6))
    t = np.arange(int(rate * cycles / hz)) / rate + rng.random() / rate
    begin, swing, base = 0.13 / hz, float(rng.uniform(1.0, 30.0)), float(rng.uniform(-1.0, 1.0))
    form = int(rng.integers(3))
    tau = float(np.exp(rng.uniform(math.log(4.0 / rate), math.log(0.03 / hz))))
    drive = np.where(((t - begin) * hz) % 1.0 < 0.5, 1.0, 0.0) * (t >= begin)
    truth: Truth = {}
    if form == 0:

        def step_of(s: Wave) -> Wave:
            return np.where(s > 0.0, 1.0 - np.exp(-np.maximum(s, 0.0) / tau), 0.0)

        truth = {
            "rise_10_90_s": tau * math.log(9.0),
            "rise_settle_1pct_s": tau * math.log(100.0),
            "rise_overshoot_pct": 0.0,
        }
    elif form == 1:
        zeta, omega = float(rng.uniform(0.35, 0.7)), 1.0 / tau
        damped = omega * math.sqrt(1.0 - zeta**2)

        def step_of(s: Wave) -> Wave:
            s = np.maximum(s, 0.0)
            wave = 1.0 - np.exp(-zeta * omega * s) * (np.cos(damped * s) + zeta * omega / damped * np.sin(damped * s))
            return np.asarray(wave)

        fine = np.linspace(0.0, 40.0 * tau, 400_001)
        course = step_of(fine)
        at = [float(fine[np.argmax(course >= level)]) for level in (0.1, 0.9)]
        outside = np.flatnonzero(np.abs(course - 1.0) > 0.01)
        truth = {
            "rise_10_90_s": at[1] - at[0],
            "rise_overshoot_pct": 100.0 * math.exp(-math.pi * zeta / math.sqrt(1.0 - zeta**2)),
            "rise_settle_1pct_s": float(fine[outside[-1]]),
            "rise_slew_v_per_s": swing * float(np.max(np.diff(course))) / float(fine[1]),
        }  # fmt: skip
    else:
        ramp = 3.0 * tau

        def step_of(s: Wave) -> Wave:
            return np.clip(s / ramp, 0.0, 1.0)

        truth = {
            "rise_10_90_s": 0.8 * ramp, "rise_slew_v_per_s": swing / ramp, "rise_overshoot_pct": 0.0,
            "rise_settle_1pct_s": 0.99 * ramp,
        }  # fmt: skip
    wave = np.zeros_like(t)
    for k in range(2 * cycles + 2):
        wave = wave + (1.0 if k % 2 == 0 else -1.0) * step_of(t - begin - 0.5 * k / hz)
    truth |= {name.replace("rise", "fall"): value for name, value in truth.items()}
    sigma = swing * float(rng.choice([0.0, 0.0005, 0.002, 0.006]))
    out = base + swing * wave + sigma * rng.standard_normal(len(t))
    out, step = quantised(out, [None, 8, 12][int(rng.integers(3))], 0.8 * swing + 1.5)
    return Made(capture_of(drive, out, rate=rate, step=step), truth)


def levels_by_steps(rng: np.random.Generator) -> Made:
    """Steps of level through a stage that cuts, on one side first or on both, its limit sagging with level."""
    rate, hz = 96_000.0, 1000.0
    step_s = float(rng.choice([0.1, 0.2]))
    limit = float(rng.uniform(10.0, 45.0))
    lean = float(rng.choice([1.0, 1.0, 0.96]))
    sag = float(rng.choice([0.0, 0.03]))
    gain = float(rng.uniform(15.0, 30.0))
    count = int(rng.integers(14, 26))
    peaks = limit / gain * np.geomspace(0.2, 2.2, count) * rng.uniform(0.97, 1.03)
    t = np.arange(int(rate * step_s)) / rate
    drive = np.concatenate([peak * np.sin(2.0 * math.pi * hz * t) for peak in peaks])

    def out_of(peak: float, q: Wave) -> Wave:
        top = limit * (1.0 - sag * (gain * peak / limit - 1.0)) if gain * peak > limit else limit
        return np.clip(gain * peak * np.sin(q), -top, lean * top)

    output = np.concatenate([out_of(float(peak), 2.0 * math.pi * hz * t) for peak in peaks])
    sigma = limit * 10.0 ** (rng.uniform(-90.0, -60.0) / 20.0)
    output = output + sigma * rng.standard_normal(len(output))
    truth = {"onset_rms_v": lean * limit / math.sqrt(2.0)}
    load = 8.2
    truth["onset_power_w"] = truth["onset_rms_v"] ** 2 / load
    for percent in (1, 10):
        low, high = 0.9 * limit / gain, 2.2 * limit / gain
        for _ in range(60):
            middle = 0.5 * (low + high)
            lines = np.abs(np.fft.rfft(out_of(middle, 2.0 * math.pi * (np.arange(4096) + 0.5) / 4096)))
            low, high = (
                (middle, high)
                if math.sqrt(float(np.sum(lines[2:21] ** 2))) / lines[1] < 0.01 * percent
                else (low, middle)
            )
        wave = out_of(low, 2.0 * math.pi * (np.arange(4096) + 0.5) / 4096)
        truth[f"level_at_{percent}pct_thd_rms_v"] = float(np.std(wave))
        truth[f"power_at_{percent}pct_thd_w"] = float(np.var(wave)) / load
    return Made(capture_of(drive, output, rate=rate), truth, {"step_s": step_s, "load_ohm": load})


def on_mains(rng: np.random.Generator) -> Made:
    """Volts and the pulses of a rectifier, in steady state."""
    rate = float(rng.choice([10_000.0, 20_000.0, 50_000.0]))
    hz = float(rng.choice([50.0, 60.0])) * float(rng.uniform(0.998, 1.002))
    seconds = float(rng.uniform(0.12, 1.0))
    t = np.arange(int(rate * seconds)) / rate
    q = 2.0 * math.pi * hz * t + rng.uniform(0.0, 6.0)
    peak_v = 325.0
    width, peak_i, late = float(rng.uniform(0.5, 1.2)), float(rng.uniform(0.5, 6.0)), float(rng.uniform(-0.2, 0.2))

    def pulse(q: Wave) -> Wave:
        place = (q - 0.5 * math.pi - late + 0.5 * math.pi) % math.pi - 0.5 * math.pi
        shape = np.where(np.abs(place) < 0.5 * width, np.cos(math.pi * place / width), 0.0)
        return np.asarray(peak_i * shape * np.sign(np.sin(q - late)))

    fine = 2.0 * math.pi * (np.arange(200_000) + 0.5) / 200_000
    v_fine, i_fine = peak_v * np.sin(fine), pulse(fine)
    v, i = peak_v * np.sin(q), pulse(q)
    p, i_rms = float(np.mean(v_fine * i_fine)), math.sqrt(float(np.mean(i_fine**2)))
    v_rms = peak_v / math.sqrt(2.0)
    truth = {
        "v_rms": v_rms, "i_rms": i_rms, "i_peak_a": peak_i, "i_crest": peak_i / i_rms, "p_w": p, "s_va": v_rms * i_rms,
        "pf": p / (v_rms * i_rms),
    }  # fmt: skip
    sigma = peak_i * float(rng.choice([0.0, 0.001, 0.005]))
    i = i + sigma * rng.standard_normal(len(t))
    v = v + 0.2 * rng.standard_normal(len(t))
    return Made(capture_of(v, i, rate=rate, units=("V", "A")), truth)


def a_switch_on(rng: np.random.Generator) -> Made:
    """The current of a switch-on: a pulse that decays onto a steady one."""
    rate, hz = 20_000.0, 50.0
    t = np.arange(int(rate * 0.6)) / rate
    begin = float(rng.uniform(0.05, 0.15))
    peak, tau, steady = float(rng.uniform(15.0, 60.0)), float(rng.uniform(0.01, 0.05)), float(rng.uniform(0.3, 1.0))

    def current(s: Wave) -> Wave:
        course = np.sin(2.0 * math.pi * hz * s) * (peak * np.exp(-s / tau) + steady)
        return np.asarray(np.where(s >= 0.0, course, 0.0))

    fine = np.linspace(0.0, 0.1, 200_001)
    truth = {
        "i2t_first_100ms_a2s": float(np.trapezoid(current(fine) ** 2, fine)),
        "i2t_first_half_cycle_a2s": float(np.trapezoid(current(fine[:20_001]) ** 2, fine[:20_001])),
        "i_peak_a": float(np.max(np.abs(current(fine)))),
    }  # fmt: skip
    i = current(t - begin) + 0.02 * rng.standard_normal(len(t))
    v = 325.0 * np.sin(2.0 * math.pi * hz * (t - begin)) + 0.2 * rng.standard_normal(len(t))
    return Made(capture_of(v, i, rate=rate, units=("V", "A")), truth)


def a_relay(rng: np.random.Generator) -> Made:
    """A tone that begins, a contact that closes with bounces, a direct voltage that opens it, release."""
    rate, hz = 20_000.0, float(rng.choice([400.0, 1000.0]))
    begin, mute = float(rng.uniform(0.05, 0.3)), float(rng.uniform(0.8, 3.0))
    trip, lasts, release = float(rng.uniform(0.03, 0.3)), 0.6, float(rng.uniform(0.5, 2.0))
    closes = begin + mute
    direct = closes + 0.8
    ends = direct + lasts
    t = np.arange(int(rate * (ends + release + 0.5))) / rate
    given = np.where(t >= begin, np.sin(2.0 * math.pi * hz * t), 0.0) + np.where((t >= direct) & (t < ends), 6.0, 0.0)
    closed = (t >= closes) & (t < direct + trip) | (t >= ends + release)
    bounce = 0.0
    if rng.random() < 0.7:
        bounce = float(rng.uniform(0.003, 0.008))
        closed &= ~((t >= closes + 0.3 * bounce) & (t < closes + bounce))
    behind = np.where(closed, given, 0.0)
    sigma = 0.002
    truth = {"muting_delay_s": mute, "bounce_s": bounce, "dc_trip_s": trip, "release_s": release}
    return Made(
        capture_of(
            given + sigma * rng.standard_normal(len(t)), behind + sigma * rng.standard_normal(len(t)), rate=rate
        ), truth,
    )  # fmt: skip


def a_sweep(rng: np.random.Generator) -> Made:
    """A sweep through first-order ends of the band, then a curve of second and third order, a delay, noise."""
    rate = float(rng.choice([96_000.0, 192_000.0]))
    seconds = float(rng.uniform(1.8, 3.6))
    f1, f2 = 10.0, 40_000.0
    low, high = float(rng.uniform(3.0, 30.0)), float(rng.uniform(25_000.0, 80_000.0))
    gain = float(rng.uniform(5.0, 30.0))
    per_e = seconds / math.log(f2 / f1)
    lead = int(0.2 * rate)
    total = int(rate * (seconds + 0.8))
    t = (np.arange(total) - lead) / rate
    inside = (t >= 0.0) & (t < seconds)
    stimulus = np.where(inside, np.sin(2.0 * math.pi * f1 * per_e * np.expm1(np.clip(t, 0.0, seconds) / per_e)), 0.0)
    delay_rows = float(rng.choice([0.0, 137.0, 1200.0]))

    def response(f: Wave) -> NDArray[np.complex128]:
        s = 1j * f
        return np.asarray(
            gain * (s / (s + low)) * (1.0 / (1.0 + s / high)) * np.exp(-2j * math.pi * f * delay_rows / rate)
        )

    # Powers of the sweep itself make each order's product exactly, ahead of the linear network.
    a2, a3 = 10.0 ** (rng.uniform(-70.0, -40.0) / 20.0), 10.0 ** (rng.uniform(-70.0, -40.0) / 20.0)
    bent = stimulus + 2.0 * a2 * (stimulus**2 - np.mean(stimulus**2)) + 4.0 * a3 * stimulus**3
    size = 2 * total
    lines = np.fft.rfft(bent, size) * response(np.arange(size // 2 + 1) * rate / size)
    output = np.fft.irfft(lines, size)[:total]
    sigma = gain * 10.0 ** (rng.uniform(-100.0, -60.0) / 20.0)
    output = output + sigma * rng.standard_normal(total)
    stimulus = stimulus + 1e-6 * rng.standard_normal(total)

    # The third power of a sine holds three quarters of its size at the fundamental.
    linear = 1.0 + 3.0 * a3

    def at(f: float) -> complex:
        return complex(response(np.array([f]))[0] * linear)

    bare = {
        f: complex(at(f) * np.exp(2j * math.pi * f * delay_rows / rate))
        for f in (20.0, 100.0, 1000.0, 10_000.0, 20_000.0)
    }
    truth = {"gain_1k_db": db(abs(at(1000.0))), "delay_s": delay_rows / rate}
    for f in (20.0, 100.0, 10_000.0, 20_000.0):
        truth[f"gain_{f:g}hz_db_re_1k"] = db(abs(at(f)) / abs(at(1000.0)))
        truth[f"phase_{f:g}hz_deg"] = math.degrees(float(np.angle(bare[f])))
    reference = abs(at(1000.0)) / math.sqrt(2.0)
    grid = np.geomspace(1.0, 1000.0, 200_001)
    corner = float(grid[np.argmax(np.abs(response(grid)) * linear > reference)])
    if corner > f1 * 1.05:
        truth["minus_3db_lo_hz"] = corner
    grid = np.geomspace(1000.0, 200_000.0, 200_001)
    corner = float(grid[np.argmax(np.abs(response(grid)) * linear < reference)])
    if corner < min(f2, 0.49 * rate) * 0.97:
        truth["minus_3db_hi_hz"] = corner
    truth["h2_at_1000hz_db"] = db(a2 * abs(response(np.array([2000.0]))[0]) / abs(at(1000.0)))
    truth["h3_at_1000hz_db"] = db(a3 * abs(response(np.array([3000.0]))[0]) / abs(at(1000.0)))
    return Made(capture_of(stimulus, output, rate=rate), truth)


KINDS = {
    "tone": a_tone, "intermodulation": two_tones, "rail": a_rail, "edge": an_edge, "levels": levels_by_steps,
    "mains": on_mains, "switch_on": a_switch_on, "relay": a_relay, "sweep": a_sweep,
}  # fmt: skip
