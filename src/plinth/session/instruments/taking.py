"""One reading by instruments, start to end: the bench set, read, and what it gives; runs off the window's thread."""

import dataclasses
import math

from plinth.bench.clip_cell import Definition
from plinth.captures.capture import CaptureError
from plinth.captures.figure import CaptureFigure
from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.kinds import Action, InstrumentKind
from plinth.record.probe import Quantity
from plinth.session.given import Given
from plinth.session.instruments.instruments import Instruments
from plinth.session.instruments.onset_search import OnsetFigures, search
from plinth.session.instruments.orders import Array
from plinth.session.instruments.reading import (
    RECORD_RATE_HZ,
    given,
    giving,
    read_value,
    spoken,
    take_record,
)
from plinth.session.instruments.wanted import Wanted

# Distortion up to which the level is raised, by what is called clipping, and the figure that is read there.
UNTIL: dict[Definition, float] = {"onset": 0.012, "thd_1": 0.012, "thd_10": 0.105}
_FIGURES: dict[Definition, str] = {
    "onset": "onset_rms_v", "thd_1": "level_at_1pct_thd_rms_v", "thd_10": "level_at_10pct_thd_rms_v",
}  # fmt: skip
# Of a record at each level: so many points, a tenth of a second at the usual rate.
LEVEL_POINTS = 9600
LEVEL_S = LEVEL_POINTS / RECORD_RATE_HZ


@dataclasses.dataclass(frozen=True)
class Taking:
    """What was given; with clipping the draw of the supply beside it, and how it was found."""

    given: Given
    draw: Given | None = None
    words: str = ""


def take(
    instruments: Instruments, want: Wanted, definition: Definition = "onset", draw: Wanted | None = None
) -> Taking:
    """Set the bench for what is wanted and read it. Raises InstrumentError, GivenUpError, CaptureError."""
    setter = instruments.setter
    if want.probe.quantity is Quantity.ONSET:
        return _onset(instruments, want, definition, draw)
    setter.set_up(want)
    value = read_value(want, setter.orders)
    setter.orders.holds()
    return Taking(given(want, value))


def _onset(instruments: Instruments, want: Wanted, definition: Definition, draw: Wanted | None) -> Taking:
    setter, sets = instruments.setter, want.sets
    if sets.load_ohm is None or sets.most_level_v is None or sets.generator is None:
        raise InstrumentError(
            ErrorKind.NOT_KNOWN, "generator", "found no level, limit or load for it, expected them in the cell"
        )
    ohm = sets.load_ohm

    def record(level_v: float) -> Array:
        setter.set_up(want, level_v)
        if want.rail is not None:
            setter.rest(want)
        return take_record(want.reader, want.probe.point, setter.orders, RECORD_RATE_HZ, LEVEL_POINTS, 400.0)

    try:
        result = search(
            record, start_v=sets.level_v, most_v=sets.most_level_v, until=UNTIL[definition], rate_hz=RECORD_RATE_HZ,
            hz=sets.hz, load_ohm=ohm, may_take=lambda watts, spent: instruments.may_take(ohm, watts, spent),
            seconds_each=LEVEL_S,
        )  # fmt: skip
        figure = _figure(result, definition)
        mains_off = _mains_off(instruments, want)
        drawn = None if draw is None else _draw(instruments, want, draw, figure.value / result.gain)
    finally:
        # Nothing stays at clipping.
        setter.orders.tell(sets.generator, Action.SET_OUTPUT, 0.0)
        setter.silenced()
    row = want.reader.own.accuracy.get(Action.READ_RECORD)
    own = None if row is None else row.u(figure.value)
    # P = v^2 / R, and so its uncertainty; what it clips at goes with the mains, which were not quite those asked for.
    u_v = None if own is None else math.hypot(own, 0.5 * figure.spread, mains_off * figure.value)
    u = None if u_v is None else 2.0 * figure.value * u_v / ohm
    words = (
        f"{len(result.levels_v)} levels from {result.levels_v[0]:.3g} V to {result.levels_v[-1]:.3g} V rms, "
        f"{result.energy_j:.0f} J into the load."
    )
    facts = {"levels": float(len(result.levels_v)), "energy_j": result.energy_j}
    by = giving(want.reader, u)
    return Taking(Given(spoken(want.request, figure.value), dataclasses.replace(by, facts=facts)), drawn, words)


def _mains_off(instruments: Instruments, want: Wanted) -> float:
    """How far the mains were from what was asked for, as a share; 0 where no instrument at the wall tells."""
    meters = instruments.bench.of_kind(InstrumentKind.POWER_METER)
    meter = next((each for each in meters if each.can(Action.READ_VOLTS_AC)), None)
    if meter is None or want.sets.mains is None or want.sets.mains_v <= 0.0:
        return 0.0
    return abs(instruments.setter.orders.read(meter, Action.READ_VOLTS_AC) / want.sets.mains_v - 1.0)


def _figure(result: OnsetFigures, definition: Definition) -> CaptureFigure:
    name = _FIGURES[definition]
    if definition == "onset":
        return CaptureFigure(
            name, result.touch_v / math.sqrt(2.0), 2.0 * result.u_touch_v / math.sqrt(2.0), "V",
            "the largest sine that no half cycle cuts, root mean square",
        )  # fmt: skip
    if name not in result.figures:
        raise CaptureError("found no clipping in its levels, expected the top of the sine to flatten")
    return result.figures[name]


def _draw(instruments: Instruments, want: Wanted, draw: Wanted, level_v: float) -> Given:
    """What the supply gives at the onset itself."""
    setter = instruments.setter
    most = want.sets.most_level_v or level_v
    setter.set_up(want, min(level_v, most))
    if want.rail is not None:
        setter.rest(want)
    value = read_value(draw, setter.orders)
    return Given(f"{value.value:.6g} W", giving(draw.reader, value.u))
