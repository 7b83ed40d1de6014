"""What the engine says of the same build at the same level, laid over a capture: aligned in time, the rest below."""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.captures.capture import AMPERES, VOLTS, Capture, Channel
from plinth.captures.kinds.mains import volts_and_amperes
from plinth.captures.kinds.tone import fitted_tone
from plinth.captures.signal.line_fit import harmonic_fit, strongest_line
from plinth.drawing.series import Series
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.stages.response import band_gain
from plinth.predict.output_wave import PredictedWaves, along, waves_at
from plinth.predict.solve import solve
from plinth.predict.wall import WallDraw
from plinth.session.capture_pictures import Drawn, Picture
from plinth.units.shown import shown

Array = NDArray[np.float64]

_POINTS = 2400
# So many alignments of mains and signal are tried.
_MOST_TURNS = 400
_SLOWEST_HZ = 10.0
# Below this the grid that a wave is computed on shows.
_FAINTEST_DB = -75.0


@dataclasses.dataclass(frozen=True)
class Against:
    """The build that a capture is held against, under which situation; ``v_out_rms`` the output while rails were read.

    ``load_stated``: somebody said the load; ``points`` kept readings of the response, hertz and decibels to 1 kHz.
    """

    build: Build
    situation: Situation
    v_out_rms: float = 0.0
    load_stated: bool = False
    points: tuple[tuple[float, float], ...] = ()


@dataclasses.dataclass(frozen=True)
class Overlay:
    """The pictures with the prediction in them, and a sentence on what it is; why there is none, else."""

    pictures: tuple[Picture, ...]
    words: str


def over_prediction(capture: Capture, kind: str, pictures: tuple[Picture, ...], against: Against) -> Overlay:
    """The pictures of a capture with the engine's own waves laid over; as they are, and why, where it has none."""
    try:
        if kind == "tone":
            return _tone(capture, pictures, against)
        if kind == "rail":
            return _rail(capture, pictures, against)
        if kind == "mains":
            return _mains(capture, pictures, against)
        if kind == "sweep":
            return _sweep(pictures, against)
    except PhysicsError as error:
        return Overlay(pictures, f"No prediction beside it: {error}.")
    return Overlay(pictures, "")


def _tone(capture: Capture, pictures: tuple[Picture, ...], against: Against) -> Overlay:
    output = capture.channels[-1]
    if output.unit != VOLTS:
        return Overlay(pictures, "No prediction beside it: its volts are not known. Type what full scale is.")
    tone = fitted_tone(capture, output)
    if tone is None:
        return Overlay(pictures, "")
    rms = float(np.std(output.samples))
    frequency = tone.fundamental_hz
    # Slower ones find the rails as they are, and their common period with the mains would take seconds.
    asked = against.situation.model_copy(update={"frequency_hz": max(frequency, _SLOWEST_HZ)})
    waves = waves_at(against.build, asked, rms)
    start, stop = _rows_of(pictures[0], capture)
    rows = _thinned(start, stop)
    # Cycles of the signal at each row, counted from where its fundamental is at its top.
    cycles = (tone.omega * (rows - tone.fit.middle) + float(np.angle(tone.fit.phasors[0]))) / (2.0 * math.pi)
    places = (cycles - _top_at_beginning(waves)) / waves.signal_cycles
    measured = output.samples[rows.astype(np.int64)] - float(np.mean(output.samples))
    if waves.clips:
        # Where in the mains' cycle the stretch lies is not recorded: the one that leaves least is taken.
        turns = range(min(waves.signal_cycles, _MOST_TURNS))
        places = min(
            (places + k / waves.signal_cycles for k in turns),
            key=lambda each: float(np.sum((measured - waves.output(each)) ** 2)),
        )
    predicted = waves.output(places)
    if waves.clips:
        pictures = _with_lines(pictures, waves, frequency)
    words = _of_what(against, rms, "it clips there" if waves.clips else "clean there")
    return Overlay(_laid_over(pictures, capture, rows, (predicted, measured), output, Drawn.REST), words)


def _with_lines(pictures: tuple[Picture, ...], waves: PredictedWaves, frequency: float) -> tuple[Picture, ...]:
    """The spectrum with the lines that a wave held like that would have, to its fundamental."""
    place = next((k for k, picture in enumerate(pictures) if picture.what is Drawn.SPECTRUM), None)
    if place is None:
        return pictures
    spectrum, cycles = pictures[place], waves.signal_cycles
    count = cycles * 256
    lines = np.abs(np.fft.rfft(waves.output(np.arange(count) / count)))[::cycles]
    orders = np.arange(2, min(len(lines) // 2, int(spectrum.x[1] / frequency) + 1))
    decibels = 20.0 * np.log10(np.maximum(lines[orders] / lines[1], 1e-12))
    seen = decibels > max(spectrum.y[0], _FAINTEST_DB)
    marks = Series("predicted lines", orders[seen] * frequency, decibels[seen], "pred", "dB", discs=True)
    return (*pictures[:place], dataclasses.replace(spectrum, series=(*spectrum.series, marks)), *pictures[place + 1 :])


def _top_at_beginning(waves: PredictedWaves) -> float:
    """Cycles by which the predicted fundamental is past its top at the beginning of its period."""
    count = waves.signal_cycles * 64
    line = np.fft.rfft(waves.output(np.arange(count) / count))[waves.signal_cycles]
    return float(np.angle(line)) / (2.0 * math.pi)


def _rail(capture: Capture, pictures: tuple[Picture, ...], against: Against) -> Overlay:
    rail = capture.channels[-1]
    mean = float(np.mean(rail.samples))
    waves = waves_at(against.build, against.situation, against.v_out_rms)
    own = next((wave for wave in waves.rails if float(np.mean(wave)) * mean > 0.0), None)
    if rail.unit != VOLTS or own is None:
        return Overlay(pictures, "No prediction beside it: these are not volts of a rail of this build.")
    line = np.fft.rfft(own[:-1])
    # The strongest line of the predicted rail, as a count of its cycles in the period, is what both are aligned by.
    count = int(np.argmax(np.abs(line[1:]))) + 1
    expected = 2.0 * math.pi * count / waves.seconds / capture.sample_rate_hz
    seen = strongest_line(rail.samples - mean)
    if expected * capture.rows < 4.0 * math.pi or abs(seen / expected - 1.0) > 0.05:
        of = capture.sample_rate_hz / (2.0 * math.pi)
        return Overlay(
            pictures,
            f"No prediction beside it: its strongest ripple is at {shown(seen * of, 'Hz', 3)}, predicted is "
            f"{shown(expected * of, 'Hz', 3)}.",
        )
    fit = harmonic_fit(rail.samples, seen, 3)
    start, stop = _rows_of(pictures[0], capture)
    # Some ten cycles from the middle.
    reach = min((stop - start) // 2, round(20.0 * math.pi / seen))
    start, stop = (start + stop) // 2 - reach, (start + stop) // 2 + reach
    rows = _thinned(start, stop)
    angle = float(fit.bases[0]) * (rows - fit.middle) + float(np.angle(fit.phasors[0])) - float(np.angle(line[count]))
    places = angle / (2.0 * math.pi * count)
    measured = rail.samples[rows.astype(np.int64)]
    candidates = [places + k / count for k in range(min(count, _MOST_TURNS))]
    places = min(candidates, key=lambda each: float(np.sum((measured - mean - along(own, each)) ** 2)))
    predicted = along(own, places)
    state = f"with {shown(against.v_out_rms, 'V')} rms at the output" if against.v_out_rms else "at rest"
    words = f"Predicted: {against.build.name} {state}, mean {shown(float(np.mean(own)), 'V')}."
    span = (start / capture.sample_rate_hz, stop / capture.sample_rate_hz)
    wave = pictures[0]
    middle = dataclasses.replace(wave, x=span, aside=f"{wave.aside}, {shown(span[1] - span[0], 's')} from the middle")
    pictures = (middle, *pictures[1:])
    return Overlay(_laid_over(pictures, capture, rows, (predicted, measured), rail), words)


def _mains(capture: Capture, pictures: tuple[Picture, ...], against: Against) -> Overlay:
    volts, amperes = volts_and_amperes(capture)
    onset = solve(against.build, against.situation)["clip_v_rms"].value
    level = min(against.v_out_rms / onset, 1.0)
    wall = solve(against.build, against.situation.model_copy(update={"level": level})).wall
    # Volts of a clamp stand for amperes, as its figures take them.
    if wall is None or amperes.unit not in (AMPERES, VOLTS):
        return Overlay(pictures, "No prediction beside it: this build has no mains side, or the amperes are not known.")
    fit = harmonic_fit(volts.samples, strongest_line(volts.samples), 5)
    wall_v, wall_a = _whole_cycles(wall, against.situation.frequency_of_mains(against.build))
    line = np.fft.rfft(wall_v[:-1])
    bin_ = int(np.argmax(np.abs(line[1:]))) + 1
    start, stop = _rows_of(pictures[0], capture)
    rows = _thinned(start, stop)
    angle = float(fit.bases[0]) * (rows - fit.middle) + float(np.angle(fit.phasors[0])) - float(np.angle(line[bin_]))
    places = angle / (2.0 * math.pi * bin_)
    predicted = along(wall_a, places)
    measured = amperes.samples[rows.astype(np.int64)]
    state = f"with {shown(against.v_out_rms, 'V')} rms at the output" if level > 0.0 else "at rest"
    words = f"Predicted: the current of {against.build.name} {state}."
    current = dataclasses.replace(amperes, unit=AMPERES)
    return Overlay(_laid_over(pictures, capture, rows, (predicted, measured), current), words)


def _whole_cycles(wall: WallDraw, mains_hz: float) -> tuple[Array, Array]:
    """Volts and amperes from the wall over whole cycles: of an odd number of half ones the other half is turned."""
    if round(2.0 * mains_hz * wall.seconds) % 2 == 0:
        return wall.v, wall.i_a
    return np.concatenate((wall.v[:-1], -wall.v)), np.concatenate((wall.i_a[:-1], -wall.i_a))


def _sweep(pictures: tuple[Picture, ...], against: Against) -> Overlay:
    module = against.build.module
    place = next((k for k, picture in enumerate(pictures) if picture.what is Drawn.RESPONSE), None)
    if place is None:
        return Overlay(pictures, "")
    picture, words = pictures[place], []
    curve = picture.series[0]
    at_1k = float(np.interp(0.0, np.log(curve.x / 1000.0), curve.y))
    more: list[Series] = []
    if module.f_low_hz is not None or module.f_high_hz is not None:
        gains = np.array([band_gain(float(f), module.f_low_hz, module.f_high_hz) for f in curve.x])
        level = band_gain(1000.0, module.f_low_hz, module.f_high_hz)
        more.append(
            Series("predicted", curve.x, at_1k + 20.0 * np.log10(gains / level), "pred", "dB", label="predicted")
        )
        words.append("Predicted from the module's stated corners, level with it at 1 kHz.")
    if against.points:
        f_hz, db = (np.array(each) for each in zip(*against.points, strict=True))
        more.append(Series("read point by point", f_hz, at_1k + db, "ink", "dB", discs=True))
        words.append("Discs: kept readings of the Response test.")
    laid = dataclasses.replace(picture, series=(*more, *picture.series))
    return Overlay((*pictures[:place], laid, *pictures[place + 1 :]), " ".join(words))


def _of_what(against: Against, rms: float, how: str) -> str:
    load = against.situation.load_ohm or against.build.load.r_ohm
    assumed = "" if against.load_stated else ", assumed: the plan's"
    return (
        f"Predicted: {against.build.name} at {shown(rms, 'V')} rms into {shown(load, 'ohm')}{assumed}; {how}. "
        "Without the distortion of its stages, which nobody states."
    )


def _rows_of(picture: Picture, capture: Capture) -> tuple[int, int]:
    rate = capture.sample_rate_hz
    return max(0, round(picture.x[0] * rate)), min(capture.rows, round(picture.x[1] * rate))


def _thinned(start: int, stop: int) -> Array:
    """Rows from one to another, so many at the most that a screen shows."""
    return np.unique(np.linspace(start, stop - 1, min(stop - start, _POINTS)).astype(np.int64)).astype(np.float64)


def _laid_over(
    pictures: tuple[Picture, ...], capture: Capture, rows: Array, waves: tuple[Array, Array], channel: Channel,
    instead_of: Drawn | None = None,
) -> tuple[Picture, ...]:  # fmt: skip
    """The waveform with the prediction behind it; what is read less what is predicted in place of a picture."""
    predicted, measured = waves
    t = rows / capture.sample_rate_hz
    wave = pictures[0]
    behind = Series("predicted", t, predicted, "pred", channel.unit, label="predicted", label_at="corner", wide=True)
    low, high = min(wave.y[0], float(np.min(predicted))), max(wave.y[1], float(np.max(predicted)))
    laid = dataclasses.replace(wave, series=(behind, *wave.series), y=(low, high))
    left = measured - predicted
    reach = 1.1 * max(float(np.max(np.abs(left))), 1e-15)
    share = float(np.sqrt(np.mean(left**2))) / max(float(np.std(measured)), 1e-30)
    below = Picture(
        Drawn.LESS_PREDICTED, "t", "s", (Series("read less predicted", t, left, "claim", channel.unit),), wave.x,
        (-reach, reach), aside=f"{channel.unit}, rms {100.0 * share:.2g} % of what alternates",
    )  # fmt: skip
    others = tuple(picture for picture in pictures[1:] if picture.what is not instead_of)
    return (laid, below, *others)
