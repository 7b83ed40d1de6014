"""Frequency response by typed points, relative to 1 kHz."""

import dataclasses
import datetime as dt
import math
import re
from collections.abc import Mapping

from plinth.bench.sheet import jitter_of
from plinth.bench.signal_level import SignalLevel, cool_level
from plinth.builds.build import Build
from plinth.builds.instruments import BenchKit
from plinth.builds.parts import Load
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.physics.stages import levels, output_filter, response
from plinth.record.conditions import Conditions
from plinth.record.meaning import meaning_of, reading_of
from plinth.record.probe import Point, Probe, Quantity
from plinth.record.reading import Reading
from plinth.record.request import Request, Setting
from plinth.record.subject import Kind, Subject
from plinth.units.errors import QuantityError
from plinth.units.frequency import hertz_as_set, hertz_words
from plinth.units.level import Form
from plinth.units.shown import MINUS, shown_with_spread
from plinth.units.typed import read_quantity

# A run of one's own, as it stands behind the frequency in a subject: ``1000@controls at zero``.
RUN = "@"
AUDIBLE_HZ = (20.0, 20e3)
FREQUENCIES_HZ = (10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1e3, 2e3, 5e3, 10e3, 20e3, 50e3)
REFERENCE_HZ = 1e3
# What meters and generators at a bench reach.
LEAST_HZ, MOST_HZ = 1.0, 1e6
# The quality of an output filter with nothing at it: its own losses.
OPEN_Q = 12.0
MOST_NAME = 40
NEAR_DB = 0.4


def set_up(build: Build, load: Load) -> SignalLevel:
    """One watt, or a tenth of the load's rating where that is less."""
    return cool_level(build, load)


def _about(build: Build, channel: str, f_hz: float, run: str) -> Subject:
    return Subject(Kind.RESPONSE, build.key_of(channel), f"{f_hz:g}{RUN}{run}" if run else f"{f_hz:g}")


def subject(build: Build, channel: str, f_hz: float, run: str = "") -> str:
    """The subject of the reading at ``f_hz``, of a run that has a name where one is given."""
    return _about(build, channel, f_hz, run).text


def read_what(what: str) -> tuple[float, str]:
    """Frequency (Hz) and run that a subject of a point tells."""
    f_hz, _, run = what.partition(RUN)
    return float(f_hz), run


def run_name(typed: str) -> str:
    """A run's name as it is kept. Raises QuantityError for one that is empty or too long."""
    name = " ".join(typed.replace("/", " ").replace(RUN, " ").split())
    if not 1 <= len(name) <= MOST_NAME:
        raise QuantityError(
            f"found {len(name)} letters, expected a name of 1 to {MOST_NAME} for this run, such as: controls at zero"
        )
    return name


def conditions_of(build: Build) -> Conditions:
    """What a point holds for: these boards; of class D the load too, which its output filter answers to.

    Level and load are kept low, so that the supply does not matter.
    """
    conditions: dict[str, float | str] = {"module": build.mark("module")}
    if build.module.output_filter is not None:
        conditions["load_ohm"] = build.load.r_ohm
    return conditions


def request_for_point(
    build: Build, channel: str, f_hz: float, v_reference_rms: float | None, run: str = ""
) -> Request:  # fmt: skip
    """What is asked at ``f_hz``: volts RMS, expected where 1 kHz (``v_reference_rms``) is known.

    A run of one's own (a tone control, a filter) is another setting: its prediction is not this one.
    """
    window = None
    if v_reference_rms is not None and f_hz != REFERENCE_HZ and not run:
        low, high = (v_reference_rms * 10 ** (edge / 20.0) for edge in predicted_band_db(build, f_hz))
        window = Window(low, high, "V", "the level at 1 kHz, and how the response is predicted to fall from it")
    return Request(
        about=_about(build, channel, f_hz, run),
        title=f"Response at {hertz_words(f_hz)}, {channel}{f', {run}' if run else ''}",
        ask="Same level from the generator as at 1 kHz; meter (true rms) or scope at the output.",
        conditions=conditions_of(build), unit="V", window=window, form="level", doubts_unit=False, needs="channel",
        settings=(Setting("frequency", f_hz, "Hz", LEAST_HZ, MOST_HZ),),
        probe=Probe(Point.OUTPUT, Quantity.VOLTS_AC),
    )  # fmt: skip


def reading_for_point(
    build: Build,
    channel: str,
    f_hz: float,
    typed: str,
    v_reference_rms: float | None,
    kit: BenchKit,
    at: dt.datetime,
    run: str = "",
) -> Reading:
    """The reading to keep at ``f_hz``: volts RMS (a level without a form is rms, as a meter shows it).

    Judged against the predicted band where 1 kHz is known; a bound only as far as it tells. Raises QuantityError.
    """
    request = request_for_point(build, channel, f_hz, v_reference_rms, run)
    meaning = meaning_of(typed, request, kit)
    facts: dict[str, float | str] = {"f_hz": f_hz}
    if run:
        facts["run"] = run
    state = State.UNKNOWN if meaning.bound.one_sided else State.CLEAR
    if request.window is not None and v_reference_rms is not None:
        facts["reference_v"] = v_reference_rms
        if not meaning.bound.one_sided:
            db = levels.decibels(meaning.value, v_reference_rms)
            state = _state(db, predicted_band_db(build, f_hz), meaning.form or Form.RMS)
    return reading_of(dataclasses.replace(meaning, state=state), typed, at, facts)


def _state(db: float, band: tuple[float, float], form: Form) -> State:
    # Two readings of one meter share its gain error; what is left is small, a tenth of a decibel covers it.
    slack = 0.1 if form is Form.RMS else 0.5
    apart = max(band[0] - db, db - band[1], 0.0)
    return State.CLEAR if apart <= slack else State.CLOSE if apart <= slack + NEAR_DB else State.OVER


def sentence_of(reading: Reading) -> str:
    """What was said of a point when it was read, from what was kept of it."""
    f_hz, reference = reading.number("f_hz"), reading.number("reference_v")
    if f_hz is None:
        return reading.said
    said = [f"{hertz_words(f_hz)}, understood as {Form(reading.word('form')).words}."]
    bounded = reading.bound.one_sided
    if bounded:
        said.append("Only a bound, which is no point of a curve: take another range.")
    if reference is not None and reading.low is not None and reading.high is not None:
        low, high = (decibel_words(levels.decibels(edge, reference)) for edge in (reading.low, reading.high))
        words = f"{reading.bound.sign}{decibel_words(levels.decibels(reading.value, reference))} dB re 1 kHz, "
        said.append(words + ("as predicted." if reading.state is State.CLEAR else f"predicted {low} to {high} dB."))
    return " ".join(said)


def decibel_words(db: float) -> str:
    """A level in dB with its sign and one decimal; ``0.0`` without one."""
    return f"{round(db, 1) + 0.0:+.1f}".replace("+0.0", "0.0").replace("-", MINUS)


def predicted_db(build: Build, f_hz: float, load_ohm: float | None = None) -> float:
    """Predicted level at ``f_hz`` relative to 1 kHz, dB, into ``load_ohm`` (None: the build's load; inf: none).

    One corner at either end of the band; of class D the upper one is its output filter's with the load.
    """
    module, load = build.module, build.load.r_ohm if load_ohm is None else load_ohm
    corners = module.f_low_hz, module.f_high_hz
    return _with_filter(build, load, f_hz, corners) - _with_filter(build, load, REFERENCE_HZ, corners)


def _with_filter(build: Build, load_ohm: float, f_hz: float, corners: tuple[float, float], off: float = 1.0) -> float:
    """Level at ``f_hz``, dB; ``off`` by which factor the filter's corner is off."""
    coil = build.module.output_filter
    if coil is None:
        return levels.decibels(response.band_gain(f_hz, *corners), 1.0)
    # Each leg of a bridge sees half of the load; with none, what little the filter itself loses.
    legs = 2.0 if build.both_outputs_live else 1.0
    leg = min(load_ohm / legs, OPEN_Q * math.sqrt(coil.l_h / coil.c_f))
    low = levels.decibels(response.band_gain(f_hz, corners[0], math.inf), 1.0)
    return low + output_filter.gain_db(f_hz / off, coil.l_h, coil.c_f, leg)


def predicted_band_db(build: Build, f_hz: float, corner_tol: float = 0.25) -> tuple[float, float]:
    """Least and most of the predicted level when either corner is off by ``corner_tol`` (capacitor tolerance)."""
    module, load = build.module, build.load.r_ohm
    gains_db = []
    for low in (1 - corner_tol, 1 + corner_tol):
        for high in (1 - corner_tol, 1 + corner_tol):
            corners = module.f_low_hz * low, module.f_high_hz * high
            here = _with_filter(build, load, f_hz, corners, math.sqrt(high))
            gains_db.append(here - _with_filter(build, load, REFERENCE_HZ, corners, math.sqrt(high)))
    return min(gains_db), max(gains_db)


@dataclasses.dataclass(frozen=True)
class ResponsePoint:
    """One measured point: volts RMS, and the level relative to 1 kHz in dB."""

    f_hz: float
    v_rms: float
    db: float


@dataclasses.dataclass(frozen=True)
class MeasuredResponse:
    """Points by rising frequency, -3 dB crossings, flatness in a band (None: not covered)."""

    points: tuple[ResponsePoint, ...]
    minus_3_db: tuple[response.Crossing, ...]
    flatness_db: float | None
    sentence: str


def read_band(typed: str) -> tuple[float, float]:
    """A band as typed: ``20 Hz to 20 kHz``, ``40-15k``. Raises QuantityError."""
    parts = re.split(r"\s*(?:to|\.\.\.|…|–|-)\s*", typed.strip(), maxsplit=1)
    if len(parts) != 2:
        raise QuantityError(f"found {typed.strip()!r}, expected a band such as 20 Hz to 20 kHz")
    low, high = (read_quantity(part, "Hz") for part in parts)
    if not LEAST_HZ <= low < high <= MOST_HZ:
        raise QuantityError(f"found {typed.strip()!r}, expected a lower and a higher frequency, from 1 Hz to 1 MHz")
    return low, high


def u_of(reading: Reading) -> float:
    """Standard uncertainty of a point beside others of the same instrument, V: its digits and its zero.

    What is read off a screen by eye differs from point to point by all of its accuracy.
    """
    if reading.word("form") in ("", Form.RMS):
        return math.hypot(jitter_of(reading), (reading.number("meter_floor") or 0.0) / math.sqrt(3.0))
    return reading.u or 0.0


def evaluate(
    volts_rms: Mapping[float, float],
    band_hz: tuple[float, float] = AUDIBLE_HZ,
    bandwidth_hz: float | None = None,
    u_v: Mapping[float, float] | None = None,
) -> MeasuredResponse:
    """What typed points say; ``volts_rms`` by frequency in Hz. Without a reading at 1 kHz nothing is relative yet.

    ``band_hz`` in which flatness is told; ``bandwidth_hz`` of the meter itself (None: not stated); ``u_v`` standard
    uncertainties of the points beside each other, which the spread of the -3 dB points rests on.
    """
    reference = volts_rms.get(REFERENCE_HZ)
    if reference is None:
        return MeasuredResponse((), (), None, "Read 1 kHz first: every other point is drawn relative to it.")
    points = tuple(ResponsePoint(f, v, levels.decibels(v, reference)) for f, v in sorted(volts_rms.items()) if v > 0.0)
    f_hz, db = [p.f_hz for p in points], [p.db for p in points]
    shares = [(u_v or {}).get(p.f_hz, 0.0) / p.v_rms for p in points]
    of_reference = (u_v or {}).get(REFERENCE_HZ, 0.0) / reference
    u_db = [20.0 / math.log(10.0) * math.hypot(share, of_reference) for share in shares]
    crossings = tuple(response.crossings(f_hz, db, u_db=u_db))
    low, high = band_hz
    inside = [p.db for p in points if low <= p.f_hz <= high]
    covered = bool(inside) and min(f_hz) <= low * (1 + 1e-9) and max(f_hz) >= high * (1 - 1e-9)
    flatness = max(abs(x) for x in inside) if covered else None
    words = f"{_sentence(points, crossings, flatness, band_hz)} {_meter_words(points, bandwidth_hz)}".strip()
    return MeasuredResponse(points, crossings, flatness, words)


def _meter_words(points: tuple[ResponsePoint, ...], bandwidth_hz: float | None) -> str:
    """What the meter's own bandwidth leaves of the highest points."""
    highest = points[-1].f_hz
    if bandwidth_hz is None:
        return "The meter's own bandwidth is not stated: a fall at the top may be its own." if highest > 5e3 else ""
    lost = -levels.decibels(response.band_gain(highest, 1e-3, bandwidth_hz), 1.0)
    if lost < 0.1:
        return ""
    return (
        f"The meter itself loses {lost:.1f} dB at {hertz_words(highest)} (its bandwidth {hertz_words(bandwidth_hz)}): "
        "read the top with a scope."
    )


def _sentence(
    points: tuple[ResponsePoint, ...],
    crossings: tuple[response.Crossing, ...],
    flatness: float | None,
    band_hz: tuple[float, float],
) -> str:
    parts = []
    band = f"from {hertz_as_set(band_hz[0])} to {hertz_as_set(band_hz[1])}"
    if flatness is not None:
        parts.append(f"Within {flatness:.1f} dB {band}.")
    else:
        parts.append(f"Flatness {band} is not covered yet.")
    if crossings:
        corners = (shown_with_spread(crossing.f_hz, 2.0 * crossing.u_hz, "Hz") for crossing in crossings)
        parts.append(f"−3 dB at {' and '.join(corners)}.")
    else:
        low, high = points[0].f_hz, points[-1].f_hz
        parts.append(f"No −3 dB point between {hertz_words(low)} and {hertz_words(high)}.")
    return " ".join(parts)
