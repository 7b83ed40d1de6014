"""Frequency response by typed points, relative to 1 kHz."""

import dataclasses
import datetime as dt
import math
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.instruments import BenchKit
from plinth.builds.parts import Load
from plinth.judge.state import State
from plinth.physics.stages import levels, response
from plinth.record.conditions import Conditions
from plinth.record.reading import Reading
from plinth.record.subject import Kind, Subject
from plinth.units.level import Form, TypedLevel
from plinth.units.shown import MINUS

FREQUENCIES_HZ = (10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1e3, 2e3, 5e3, 10e3, 20e3, 50e3)
REFERENCE_HZ = 1e3
# What meters and generators at a bench reach.
LEAST_HZ, MOST_HZ = 1.0, 1e6
COOL_SHARE = 0.10
MOST_TEST_W = 1.0
NEAR_DB = 0.4


@dataclasses.dataclass(frozen=True)
class ResponseSetUp:
    """A level that keeps the dummy load cool: output and generator volts RMS, watts in the load."""

    v_out_rms: float
    v_in_rms: float
    power_w: float


def set_up(build: Build, load: Load) -> ResponseSetUp:
    """One watt, or a tenth of the load's rating where that is less."""
    power = MOST_TEST_W if load.p_carried_w is None else min(MOST_TEST_W, COOL_SHARE * load.p_carried_w)
    v_out = levels.rms_for_power(power, load.r_ohm)
    return ResponseSetUp(v_out, v_out / build.module.gain, power)


def subject(build: Build, channel: str, f_hz: float) -> str:
    """The subject of the reading at ``f_hz``."""
    return Subject(Kind.RESPONSE, build.key_of(channel), f"{f_hz:g}").text


def conditions_of(build: Build) -> Conditions:
    """What a point holds for: these boards. Level and load are kept low, so that neither supply nor load matters."""
    return {"module": build.mark("module")}


def reading_for_point(
    build: Build,
    channel: str,
    f_hz: float,
    typed: TypedLevel,
    v_reference_rms: float | None,
    kit: BenchKit,
    at: dt.datetime,
) -> Reading:
    """The reading to keep at ``f_hz``: volts RMS (a level without a form is rms, as a meter shows it).

    Judged against the predicted band where 1 kHz (``v_reference_rms``) is known; a bound only as far as it tells.
    """
    form = typed.form or Form.RMS
    v_rms = typed.rms(form)
    instrument = kit.meter if form is Form.RMS else kit.scope
    u_typed = instrument.u(typed.volts)
    state, low, high = State.CLEAR, None, None
    facts: dict[str, float | str] = {"form": str(form), "f_hz": f_hz}
    bounded = typed.bound.one_sided
    if bounded:
        state = State.UNKNOWN
    if v_reference_rms is not None and f_hz != REFERENCE_HZ:
        band = predicted_band_db(build, f_hz)
        low, high = (v_reference_rms * 10 ** (edge / 20.0) for edge in band)
        facts["reference_v"] = v_reference_rms
        if not bounded:
            state = _state(levels.decibels(v_rms, v_reference_rms), band, form)
    return Reading(
        subject=subject(build, channel, f_hz), label=f"Response at {_hertz(f_hz)}, {channel}", typed=typed.typed,
        value=v_rms, unit="V", u=None if u_typed is None else u_typed * form.rms_per_unit,
        instrument=instrument.name, taken_at=at, state=state,
        low=low, high=high, bound=typed.bound, conditions=conditions_of(build), facts=facts,
    )  # fmt: skip


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
    said = [f"{_hertz(f_hz)}, understood as {Form(reading.word('form')).words}."]
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


def predicted_db(build: Build, f_hz: float) -> float:
    """Predicted level at ``f_hz`` relative to 1 kHz, dB: one corner at either end of the band."""
    module = build.module
    here = response.band_gain(f_hz, module.f_low_hz, module.f_high_hz)
    return levels.decibels(here, response.band_gain(REFERENCE_HZ, module.f_low_hz, module.f_high_hz))


def predicted_band_db(build: Build, f_hz: float, corner_tol: float = 0.25) -> tuple[float, float]:
    """Least and most of the predicted level when either corner is off by ``corner_tol`` (capacitor tolerance)."""
    module = build.module
    found = []
    for low in (1 - corner_tol, 1 + corner_tol):
        for high in (1 - corner_tol, 1 + corner_tol):
            corners = module.f_low_hz * low, module.f_high_hz * high
            found.append(
                levels.decibels(response.band_gain(f_hz, *corners), response.band_gain(REFERENCE_HZ, *corners))
            )
    return min(found), max(found)


@dataclasses.dataclass(frozen=True)
class ResponsePoint:
    """One measured point: volts RMS, and the level relative to 1 kHz in dB."""

    f_hz: float
    v_rms: float
    db: float


@dataclasses.dataclass(frozen=True)
class MeasuredResponse:
    """Points by rising frequency, -3 dB crossings, flatness from 20 Hz to 20 kHz (None: not covered)."""

    points: tuple[ResponsePoint, ...]
    minus_3_db_hz: tuple[float, ...]
    flatness_db: float | None
    sentence: str


def evaluate(volts_rms: Mapping[float, float]) -> MeasuredResponse:
    """What typed points say; ``volts_rms`` by frequency in Hz. Without a reading at 1 kHz nothing is relative yet."""
    reference = volts_rms.get(REFERENCE_HZ)
    if reference is None:
        return MeasuredResponse((), (), None, "Read 1 kHz first: every other point is drawn relative to it.")
    points = tuple(ResponsePoint(f, v, levels.decibels(v, reference)) for f, v in sorted(volts_rms.items()) if v > 0.0)
    f_hz, db = [p.f_hz for p in points], [p.db for p in points]
    crossings = tuple(response.crossings_hz(f_hz, db))
    inside = [p.db for p in points if 20.0 <= p.f_hz <= 20e3]
    covered = bool(inside) and min(f_hz) <= 20.0 and max(f_hz) >= 20e3
    flatness = max(abs(x) for x in inside) if covered else None
    return MeasuredResponse(points, crossings, flatness, _sentence(points, crossings, flatness))


def _sentence(points: tuple[ResponsePoint, ...], crossings: tuple[float, ...], flatness: float | None) -> str:
    parts = []
    if flatness is not None:
        parts.append(f"Within {flatness:.1f} dB from 20 Hz to 20 kHz.")
    else:
        parts.append("Flatness from 20 Hz to 20 kHz is not covered yet.")
    if crossings:
        parts.append("−3 dB at " + " and ".join(_hertz(f) for f in crossings) + ".")
    else:
        low, high = points[0].f_hz, points[-1].f_hz
        parts.append(f"No −3 dB point between {_hertz(low)} and {_hertz(high)}.")
    return " ".join(parts)


def _hertz(f_hz: float) -> str:
    digits = max(0, 1 - math.floor(math.log10(f_hz if f_hz < 1e3 else f_hz / 1e3)))
    return f"{f_hz / 1e3:.{digits}f} kHz" if f_hz >= 1e3 else f"{f_hz:.{digits}f} Hz"
