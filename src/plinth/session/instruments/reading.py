"""Reading what is wanted: the meter until it stands still, or a record and what it tells, with its uncertainty."""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

from plinth.captures.analysis import analyse_capture
from plinth.captures.capture import Capture, CaptureError, Channel
from plinth.captures.options import Options
from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.kinds import Action, InstrumentKind
from plinth.record.giving import Giving
from plinth.record.origin import Giver, ReadingOrigin
from plinth.record.probe import Point, Quantity
from plinth.record.request import Request
from plinth.session.given import Given
from plinth.session.instruments.connected import Connected
from plinth.session.instruments.orders import Orders
from plinth.session.instruments.wanted import Wanted

Array = NDArray[np.float64]
# A reading stands still where two looks differ by less than this share, or by less than what the meter is unsure of.
STILL_SHARE, LOOKS = 5e-4, 8
RECORD_RATE_HZ, RECORD_POINTS = 100_000.0, 20_000
_PLACES = {Point.OUTPUT: "output", Point.INPUT: "input", Point.RAIL_PLUS: "rail +", Point.RAIL_MINUS: "rail -"}
OUTPUT_CHANNEL = 2


@dataclasses.dataclass(frozen=True)
class Value:
    """``value`` in the unit asked for, its standard uncertainty (None: the map states no accuracy)."""

    value: float
    u: float | None


def read_value(want: Wanted, orders: Orders) -> Value:
    """What is wanted, as the bench is set. Raises InstrumentError, GivenUpError, CaptureError."""
    if want.action is Action.READ_RECORD:
        return _of_record(want, orders)
    if want.probe.quantity is Quantity.WATTS and want.reader.is_a(InstrumentKind.DC_SUPPLY):
        return _watts_of_supply(want, orders)
    row = want.reader.own.accuracy.get(want.action)
    last = math.inf
    value = orders.read(want.reader, want.action)
    for _ in range(LOOKS):
        u = 0.0 if row is None else row.u(value)
        if math.isinf(value) or abs(value - last) <= max(STILL_SHARE * abs(value), 0.5 * u):
            break
        last, value = value, orders.read(want.reader, want.action)
    return Value(value, None if row is None else row.u(value))


def given(want: Wanted, value: Value) -> Given:
    """The value as its field takes it, and who gave it. Raises InstrumentError where it is none: an overload."""
    request = want.request
    if math.isinf(value.value) and request.form != "resistance":
        raise InstrumentError(
            ErrorKind.BEYOND_LIMITS, want.reader.name, "found an overload, expected a value in one of its ranges"
        )
    if want.probe.quantity is Quantity.LINE and value.u is not None and value.value < 2.0 * value.u:
        # It is lost in what the recorder itself has: all that is known is what it does not exceed.
        return Given(f"<{1e6 * (value.value + 2.0 * value.u):.3g} uV rms", giving(want.reader, None))
    return Given(spoken(request, value.value), giving(want.reader, value.u))


def giving(reader: Connected, u: float | None) -> Giving:
    """Who gave it: a stand-in is one for ever."""
    giver = Giver.SIMULATED if reader.simulated else Giver.INSTRUMENT
    return Giving(ReadingOrigin(giver, reader.instrument_id), reader.title, u)


def spoken(request: Request, value: float) -> str:
    """A value in the form of a request, with its unit."""
    if math.isinf(value):
        return "OL"
    match request.form:
        case "level" | "power":
            return f"{value:.6g} V rms"
        case "ripple" | "swing":
            return f"{value:.6g} Vpp"
        case "magnitude":
            return f"{abs(value):.6g} {request.unit}"
        case _:
            return f"{value:.6g} {request.unit}".strip()


def _watts_of_supply(want: Wanted, orders: Orders) -> Value:
    """Volts times amperes of each supply that is wired: one on a single rail, else two that give alike."""
    amperes = orders.read(want.reader, Action.READ_AMPERES)
    volts = orders.read(want.reader, Action.READ_VOLTS_DC)
    rows = [want.reader.own.accuracy.get(action) for action in (Action.READ_AMPERES, Action.READ_VOLTS_DC)]
    watts = want.supplies * amperes * volts
    if rows[0] is None or rows[1] is None or amperes <= 0.0 or volts <= 0.0:
        return Value(watts, None)
    return Value(watts, watts * math.hypot(rows[0].u(amperes) / amperes, rows[1].u(volts) / volts))


def take_record(
    reader: Connected, point: Point, orders: Orders, rate_hz: float, points: int, range_v: float | None = None
) -> Array:
    """A record of one point, volts. Raises InstrumentError where its range cuts it."""
    with orders.recording:
        if reader.can(Action.SET_PLACE) and point in _PLACES:
            orders.tell(reader, Action.SET_PLACE, channel=OUTPUT_CHANNEL, place=_PLACES[point])
        orders.tell(reader, Action.SET_RATE, rate_hz)
        orders.tell(reader, Action.SET_POINTS, float(points))
        if range_v is not None and reader.can(Action.SET_RANGE):
            orders.tell(reader, Action.SET_RANGE, range_v, channel=OUTPUT_CHANNEL)
        orders.tell(reader, Action.TAKE)
        return orders.samples(reader, OUTPUT_CHANNEL)


# Periods of a square wave in a record, and its rate: as many samples a period, as far as the digitiser goes.
SQUARE_PERIODS, SQUARE_SAMPLES, MOST_RATE_HZ = 8.0, 10_000.0, 5e6
_EDGE_FIGURES = {
    Quantity.RISE: "rise_10_90_s", Quantity.OVERSHOOT: "rise_overshoot_pct", Quantity.RINGING: "rise_ringing_hz",
    Quantity.TILT: "rise_droop_pct",
}  # fmt: skip


def _of_square(want: Wanted, orders: Orders) -> Value:
    """A figure of an edge. Raises CaptureError where the record does not show it."""
    rate = min(SQUARE_SAMPLES * want.sets.hz, MOST_RATE_HZ)
    points = round(SQUARE_PERIODS * rate / want.sets.hz)
    samples = take_record(want.reader, want.probe.point, orders, rate, points, 100.0)
    range_v = max(1.5 * float(np.max(np.abs(samples))), 0.05)
    samples = take_record(want.reader, want.probe.point, orders, rate, points, range_v)
    capture = Capture("record", (Channel("ch1", samples, "V"),), rate)
    report, name = analyse_capture(capture, "edge", Options()), _EDGE_FIGURES[want.probe.quantity]
    figures = report.channels[0]
    if name not in figures:
        raise CaptureError(f"found no {want.probe.quantity}; {' '.join(report.remarks)}".strip(" ;."))
    return Value(figures[name].value, 0.5 * figures[name].spread)


def _of_record(want: Wanted, orders: Orders) -> Value:
    if want.probe.quantity.of_square:
        return _of_square(want, orders)
    point = want.probe.point
    samples = take_record(want.reader, point, orders, RECORD_RATE_HZ, RECORD_POINTS, 100.0)
    top = float(np.max(np.abs(samples)))
    if top < 30.0:
        # Its steps shrink with its range.
        samples = take_record(want.reader, point, orders, RECORD_RATE_HZ, RECORD_POINTS, max(1.3 * top, 0.05))
    row = want.reader.own.accuracy.get(Action.READ_RECORD)
    own = None if row is None else row.u(top)
    value, spread = _drawn(want, samples)
    return Value(value, None if own is None else math.hypot(0.5 * spread, own if value else 0.0))


def _drawn(want: Wanted, samples: Array) -> tuple[float, float]:
    """The value that a record gives, and its spread."""
    count = len(samples)
    match want.probe.quantity:
        case Quantity.VOLTS_DC:
            mean = float(np.mean(samples))
            # Blocks of a period of the slowest wave there, at 50 Hz: how far their means scatter.
            blocks = samples[: count // 10 * 10].reshape(10, -1).mean(axis=1)
            return mean, 2.0 * float(np.std(blocks)) / math.sqrt(len(blocks))
        case Quantity.LINE:
            assert want.probe.hz is not None, "a line has its frequency"
            return line_rms(samples, RECORD_RATE_HZ, want.probe.hz)
        case Quantity.SWING:
            capture = Capture("record", (Channel("ch1", samples, "V"),), RECORD_RATE_HZ)
            figure = analyse_capture(capture, "rail", Options()).channels[0]["pp_v"]
            return figure.value, figure.spread
        case _:
            rms = float(np.std(samples))
            return rms, 2.0 * rms / math.sqrt(count)


def line_rms(samples: Array, rate_hz: float, hz: float) -> tuple[float, float]:
    """RMS of the sine of ``hz`` in a record, by least squares over whole periods, and its spread."""
    whole = int(math.floor(len(samples) * hz / rate_hz) * rate_hz / hz)
    t = 2.0 * math.pi * hz / rate_hz * np.arange(whole)
    basis = np.column_stack([np.ones(whole), np.cos(t), np.sin(t)])
    parts, *_ = np.linalg.lstsq(basis, samples[:whole], rcond=None)
    left = samples[:whole] - basis @ parts
    u = float(np.std(left)) * math.sqrt(2.0 / whole)
    return float(np.hypot(parts[1], parts[2])) / math.sqrt(2.0), 2.0 * u / math.sqrt(2.0)
