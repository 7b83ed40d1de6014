"""The mains side: volts and amperes, power and its factor, and what a switch-on lets through."""

import math

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import AMPERES, Capture, CaptureError, Channel
from plinth.captures.figure import FigureList
from plinth.captures.signal.line_fit import harmonic_fit, strongest_line
from plinth.captures.signal.scatter import of_mean, white_noise

_STARTS = 0.02
# At rest: each cycle within this share of the last ones.
_REST_SHARE, _FEWEST_CYCLES = 0.05, 8
_CLASS_A = {
    2: 1.08, 4: 0.43, 6: 0.30, 3: 2.30, 5: 1.14, 7: 0.77, 9: 0.40, 11: 0.33, 13: 0.21,
}  # fmt: skip
_CLASS_ORDERS = (3, 5, 7, 9, 11)


def volts_and_amperes(capture: Capture) -> tuple[Channel, Channel]:
    """Which channel is which: by unit, else volts first. Raises CaptureError where there are not two."""
    if len(capture.channels) < 2:
        raise CaptureError("found one channel, expected volts and amperes")
    first, second = capture.channels[0], capture.channels[1]
    return (second, first) if first.unit == AMPERES and second.unit != AMPERES else (first, second)


def add_mains(volts: FigureList, amperes: FigureList, capture: Capture, of: tuple[Channel, Channel]) -> None:
    """Figures of the volts on the first list, of the current and of both on the second."""
    rate = capture.sample_rate_hz
    v, i = of[0].samples, of[1].samples
    unit = AMPERES if of[1].unit in (AMPERES, "V") else of[1].unit
    if of[1].unit == "V":
        amperes.remarks.append(
            f"{amperes.name}: its volts are taken as amperes; behind a clamp or a shunt state its amperes a volt "
            "(--probe)."
        )
    noise_i = max(white_noise(i), of[1].step / math.sqrt(12.0))
    start = _begins(i, noise_i)
    omega = strongest_line(v)
    if omega * len(v) / (2.0 * math.pi) < 0.9:
        amperes.miss("figures of the mains", "less than a cycle is in it")
        return
    cycles_in = omega * len(v) / (2.0 * math.pi)
    if cycles_in >= 2.5:
        omega = float(harmonic_fit(v, omega, 5).bases[0])
    hz = omega * rate / (2.0 * math.pi)
    volts.add("frequency_hz", hz, hz * (1e-5 + 2e-3 / cycles_in**2), "Hz", "of the volts")
    cycle = rate / hz
    first = start if start > 0.02 * cycle else 0
    count = int((len(v) - 1 - first) / cycle + 1e-6)
    if count < 1:
        amperes.miss("i_rms, p_w and their like", "less than a cycle of the current is in it")
    else:
        _add_powers(
            volts,
            amperes,
            waves=(v, i),
            units=(of[0].unit, unit),
            first=first,
            cycle=cycle,
            count=count,
            noise_i=noise_i,
        )
        if first:
            _add_rest(amperes, i, first, cycle, count, rate)
    where = "from its first current on" if first else "from the record's first sample on"
    if not first:
        amperes.remarks.append(
            f"{amperes.name}: current flows from the first sample on: what was let through before is not in it."
        )
    along = np.concatenate(([0.0], np.cumsum(0.5 * (i[1:] ** 2 + i[:-1] ** 2)))) / rate
    for name, seconds, words in (
        ("i2t_first_half_cycle_a2s", 0.5 / hz, f"half a cycle of {hz:.3g} Hz"),
        ("i2t_first_100ms_a2s", 0.1, "0.1 s"),
    ):
        end = first + seconds * rate
        if end > len(i) - 1 + 1e-6:
            amperes.miss(name, f"the record ends before {words} have passed")
            continue
        value = float(np.interp(end, np.arange(len(i)), along) - along[first])
        peak = float(np.max(np.abs(i[first : int(end) + 1])))
        spread = 2.0 * noise_i * math.sqrt(max(value, 0.0) / rate) + peak**2 * 1e-3 / rate + 2e-3 * value
        amperes.add(name, value, spread, f"{unit}²s", f"integral of the squared current over {words}, {where}")


def _begins(current: NDArray[np.float64], noise: float) -> int:
    """The first sample at which current flows."""
    least = max(6.0 * noise, _STARTS * float(np.max(np.abs(current))))
    above = np.abs(current) > least
    row = int(np.argmax(above)) if above.any() else 0
    # Back to where it rose out of the noise.
    while row > 0 and abs(current[row - 1]) > 3.0 * noise and abs(current[row - 1]) < abs(current[row]):
        row -= 1
    return max(row - 1, 0)


def _add_powers(
    volts: FigureList, amperes: FigureList, waves: tuple[NDArray[np.float64], NDArray[np.float64]],
    units: tuple[str, str], first: int, cycle: float, count: int, noise_i: float,
) -> None:  # fmt: skip
    v, i = waves
    bounds = np.asarray(first + cycle * np.arange(count + 1))
    v_each, i_each, p_each = (_means(wave, bounds) for wave in (v * v, i * i, v * i))
    v_rms, i_rms, p = math.sqrt(float(np.mean(v_each))), math.sqrt(float(np.mean(i_each))), float(np.mean(p_each))
    words = f"over {count} whole {'cycle' if count == 1 else 'cycles'}"
    fine = 2.0 / cycle**2
    volts.add(
        "v_rms", v_rms, 2.0 * of_mean(np.sqrt(v_each)) + fine * v_rms + 2.0 * white_noise(v) / math.sqrt(len(v)),
        units[0], f"true root mean square {words}",
    )  # fmt: skip
    u_i = of_mean(np.sqrt(np.maximum(i_each, 0.0)))
    rms_noise = 0.5 * noise_i**2 / max(i_rms, noise_i, 1e-30)
    amperes.add("i_rms", i_rms, 2.0 * u_i + 20.0 * fine * i_rms + 2.0 * rms_noise, units[1],
                f"true root mean square {words}")  # fmt: skip
    part = np.abs(i[first:])
    peak = float(np.max(part))
    excess = noise_i * math.sqrt(2.0 * math.log(max(0.05 * len(part), 3.0)))
    amperes.add("i_peak_a", peak - 0.5 * excess, 0.5 * excess + 2.0 * noise_i + 0.001 * peak, units[1],
                "highest current of the record, noise allowed for")  # fmt: skip
    if i_rms > 0.0:
        amperes.add(
            "i_crest", (peak - 0.5 * excess) / i_rms,
            ((0.5 * excess + 2.0 * noise_i) / i_rms + peak / i_rms * (2.0 * u_i / i_rms + 20.0 * fine + 0.001)), "",
            "peak over root mean square",
        )  # fmt: skip
    u_p = of_mean(p_each) + abs(p) * 10.0 * fine + v_rms * noise_i / math.sqrt(count * cycle)
    power_unit = "W" if units == ("V", "A") else ""
    s = v_rms * i_rms
    if power_unit:
        amperes.add("p_w", p, 2.0 * u_p, "W", f"mean of volts times amperes {words}")
        amperes.add("s_va", s, s * (2.0 * u_i / max(i_rms, 1e-300) + 20.0 * fine)
                    + v_rms * 2.0 * rms_noise, "VA", f"rms volts times rms amperes {words}")  # fmt: skip
    else:
        amperes.miss("p_w, s_va", "volts or amperes are not known (--volts-per-full-scale)")
    if s > 0.0:
        pf = p / s
        spread = 2.0 * math.hypot(u_p / s, abs(pf) * u_i / i_rms * 0.5) + 20.0 * fine + rms_noise / i_rms
        amperes.add("pf", pf, spread, "", "true power over apparent power, harmonics included (IEEE 1459)")
    if count >= 3:
        _add_harmonics(amperes, i, first, cycle, count, units[1])


def _add_rest(
    figures: FigureList, current: NDArray[np.float64], first: int, cycle: float, count: int, rate: float
) -> None:
    """How long until the current is what it stays, a cycle at a time."""
    if count < _FEWEST_CYCLES:
        figures.miss("rest_s", f"the record ends before {_FEWEST_CYCLES} cycles have passed")
        return
    each = np.sqrt(np.maximum(_means(current**2, np.asarray(first + cycle * np.arange(count + 1))), 0.0))
    last = each[-max(3, count // 10) :]
    final, width = float(np.mean(last)), max(_REST_SHARE * float(np.mean(last)), float(np.ptp(last)))
    outside = np.flatnonzero(np.abs(each - final) > width)
    cycles = int(outside[-1]) + 1 if len(outside) else 0
    if cycles > count - max(3, count // 10):
        figures.miss("rest_s", "the current is still on its way where the record ends")
        return
    figures.add(
        "rest_s", cycles * cycle / rate, 1.5 * cycle / rate, "s",
        f"from its first current to where each cycle's root mean square stays within {100.0 * _REST_SHARE:g} % of the "
        "last ones'",
    )  # fmt: skip


def _add_harmonics(
    figures: FigureList, i: NDArray[np.float64], first: int, cycle: float, count: int, unit: str
) -> None:
    """Harmonics of the current that limits of classes are written for (IEC 61000-3-2 to IEC 61000-4-7)."""
    stretch = i[first : first + round(count * cycle)]
    fit = harmonic_fit(stretch, 2.0 * math.pi / cycle, 40)
    noise = white_noise(i)
    for order in (1, *_CLASS_ORDERS):
        if order <= len(fit.phasors):
            figures.add(
                f"i_h{order}_a", float(abs(fit.phasors[order - 1])) / math.sqrt(2.0),
                2.0 * noise * math.sqrt(fit.noise_gain) + 1e-4 * float(abs(fit.phasors[0])), unit,
                f"harmonic {order} of the current, root mean square",
            )  # fmt: skip
    if unit == AMPERES:
        _say_limits(figures)


def class_a_limit_a(order: int) -> float:
    """The most of a harmonic that equipment of class A (amplifiers among them) may draw, amperes rms.

    IEC 61000-3-2, table 1, for 230 V and more than 75 W; orders 2 to 40.
    """
    if order in _CLASS_A:
        return _CLASS_A[order]
    return 0.23 * 8.0 / order if order % 2 == 0 else 0.15 * 15.0 / order


def _say_limits(figures: FigureList) -> None:
    """Which harmonics are above the limits of class A; a limit is passed where the spread leaves no doubt."""
    over = []
    for order in _CLASS_ORDERS:
        name = f"i_h{order}_a"
        if name in figures and figures[name].value - figures[name].spread > class_a_limit_a(order):
            over.append(f"harmonic {order}: {figures[name].value:.3g} A of {class_a_limit_a(order):.3g} A")
    if over:
        figures.say(
            f"above the usual limits for such equipment (IEC 61000-3-2, class A, 230 V): {'; '.join(over)}."
        )  # fmt: skip


def _means(wave: NDArray[np.float64], bounds: NDArray[np.float64]) -> NDArray[np.float64]:
    """Means between bounds that lie between samples, the wave straight from sample to sample."""
    along = np.concatenate(([0.0], np.cumsum(0.5 * (wave[1:] + wave[:-1]))))
    places = np.minimum(bounds, len(wave) - 1.0)
    row = np.minimum(places.astype(np.int64), len(wave) - 2)
    part = places - row
    inside = along[row] + part * wave[row] + 0.5 * part**2 * (wave[row + 1] - wave[row])
    return np.asarray(np.diff(inside) / np.diff(bounds))
