"""Where clipping begins, found by rising distortion: from low to high, no further than it must, the load counted."""

import dataclasses
import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import Channel
from plinth.captures.figure import ChannelFigures, FigureList
from plinth.captures.kinds.levels import Level, add_levels, level_of
from plinth.captures.options import Options
from plinth.instruments.errors import ErrorKind, InstrumentError

Array = NDArray[np.float64]
# Until distortion rises the steps are wide, then narrow.
FAR, NEAR, RISING = 1.06, 1.015, 0.0015
# Levels beyond the distortion looked for, so that it lies between two.
BEYOND = 2
# What the method itself is unsure of: the mains wanders between its levels, and a record holds few of their periods.
METHOD_SHARE = 0.004
MOST_LEVELS = 60


@dataclasses.dataclass(frozen=True)
class OnsetFigures:
    """``figures`` as a capture of levels has them; ``levels_v`` of the generator used, ``energy_j`` into the load.

    ``touch_v`` peak volts of the largest sine that no half cycle cuts, ``u_touch_v`` its standard uncertainty.
    """

    figures: ChannelFigures
    touch_v: float
    u_touch_v: float
    levels_v: tuple[float, ...]
    energy_j: float
    gain: float


def search(
    take: Callable[[float], Array], start_v: float, most_v: float, until: float, rate_hz: float, hz: float,
    load_ohm: float, may_take: Callable[[float, float], str], seconds_each: float,
) -> OnsetFigures:  # fmt: skip
    """Raise the level from ``start_v`` until the output's distortion passes ``until`` (a share).

    ``take`` sets a generator level, V rms, and gives a record of the output; ``may_take`` says why the load may not
    take so many watts for so many seconds (empty: it may). Raises InstrumentError where the load may not, the level
    would pass ``most_v``, or no clipping comes.
    """
    levels: list[Level] = []
    used: list[float] = []
    tops: list[Tops] = []
    energy, drive, beyond = 0.0, start_v, 0
    while len(used) < MOST_LEVELS:
        if drive > most_v * (1.0 + 1e-9):
            raise InstrumentError(
                ErrorKind.BEYOND_LIMITS, "generator",
                f"found no clipping up to {used[-1] if used else 0.0:.4g} V, expected it below {most_v:.4g} V",
                "The gain is less than the plan has, or something else holds the output: read it by hand.",
            )  # fmt: skip
        ahead_w = _ahead_w(levels, used, drive, load_ohm)
        why = may_take(ahead_w, energy)
        if why:
            raise InstrumentError(ErrorKind.BEYOND_LIMITS, "load", why, "The level was not raised further.")
        samples = take(drive)
        level = level_of(samples, None, 2.0 * math.pi * hz / rate_hz)
        if level is None:
            raise InstrumentError(
                ErrorKind.WRONG_ANSWER, "digitiser", f"found no tone of {hz:g} Hz at the output at {drive:.4g} V",
                "Is its lead at the output, and the input connected?",
            )  # fmt: skip
        levels.append(dataclasses.replace(level, drive=math.sqrt(2.0) * drive))
        used.append(drive)
        tops.append(tops_of(samples, rate_hz / hz))
        energy += level.rms**2 / load_ohm * seconds_each
        if level.distortion >= until:
            beyond += 1
            if beyond >= BEYOND:
                break
        drive *= NEAR if level.distortion > RISING else FAR
        if until > 0.05 and level.distortion > 0.02:
            drive *= FAR / NEAR
    figures = FigureList("output")
    add_levels(figures, levels, Channel("output", np.zeros(1), "V"), Options(load_ohm=load_ohm))
    first = levels[0]
    gain = first.rms / used[0]
    touch, u_touch = touch_of(used, tops)
    return OnsetFigures(figures.done(), touch, u_touch, tuple(used), energy, gain)


def _ahead_w(levels: list[Level], used: list[float], drive: float, load_ohm: float) -> float:
    """Watts that the next level puts into the load, by the gain seen so far; 0 before any was seen."""
    if not levels:
        return 0.0
    return (levels[-1].rms / used[-1] * drive) ** 2 / load_ohm


@dataclasses.dataclass(frozen=True)
class Tops:
    """The lowest top of a record's half cycles, V: ``least`` as it is, ``whole`` as the peak of a sine through it."""

    least: float
    whole: float


# Samples at a top that are taken together.
_AT_TOP = 3


def tops_of(samples: Array, cycle: float) -> Tops:
    """The lowest top of all half cycles of a record with ``cycle`` samples a period.

    Rails move under the wave: it is cut first where they are lowest, in some of its half cycles alone, which no
    harmonic of the whole record shows.
    """
    wave = np.abs(samples - np.mean(samples))
    half = cycle / 2.0
    count = int(len(wave) / half)
    heights = np.empty(count)
    for k in range(count):
        piece = wave[round(k * half) : max(round((k + 1) * half), round(k * half) + _AT_TOP)]
        heights[k] = float(np.mean(np.sort(piece)[-_AT_TOP:]))
    least = float(np.min(heights[1:-1] if count > 4 else heights))
    # The highest few samples of a sine lie below its peak; those of a cut one do not.
    angle = 2.0 * math.pi / cycle * (np.arange(_AT_TOP) - (_AT_TOP - 1) / 2.0)
    return Tops(least, least / float(np.mean(np.cos(angle))))


def touch_of(drives: list[float], tops: list[Tops]) -> tuple[float, float]:
    """Peak volts at which the lowest half cycle just touches what holds it, and its standard uncertainty.

    The least top over the level, against the straight line that it follows while nothing is cut. Raises
    InstrumentError where nothing is.
    """
    x, least = np.array(drives), np.array([top.least for top in tops])
    ratio = np.array([top.whole for top in tops]) / x
    free = float(np.median(ratio[:4]))
    scatter = max(float(np.std(ratio[:4])) / free, 2e-4)
    cut = [k for k in range(len(x)) if ratio[k] < free * (1.0 - max(5.0 * scatter, 2e-3))]
    if not cut:
        raise InstrumentError(ErrorKind.WRONG_ANSWER, "digitiser", "found no half cycle that is cut, expected some")
    # Of those that are cut the first few: how the limit falls as more is drawn, drawn back to where it touched.
    first = cut[: max(4, sum(1 for k in cut if ratio[k] > 0.94 * free))][:8]
    leads, limits = free * x[first], least[first]
    if len(first) < 3:
        touch = float(limits[0])
        return touch, 0.005 * touch
    slope, base = np.polyfit(leads, limits, 1)
    slope = min(float(slope), 0.5)
    base = float(np.mean(limits) - slope * np.mean(leads))
    touch = base / (1.0 - slope)
    off = limits - (slope * leads + base)
    u = float(np.std(off)) / math.sqrt(len(first)) / (1.0 - slope)
    return touch, math.hypot(u, scatter * touch, METHOD_SHARE * touch)
