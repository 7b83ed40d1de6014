"""A test at the bench as one sheet: its aim, wiring and settings, what it asks for in order, and what its readings say.

A sheet knows nothing of who takes the readings: a builder types them, or an instrument gives them.
"""

import dataclasses
import math
import re
from collections.abc import Callable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from plinth.builds.instruments import Role
from plinth.drawing.series import Series
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.predict.figure import Figure
from plinth.record.conditions import Conditions
from plinth.record.probe import Probe
from plinth.record.reading import Reading
from plinth.record.request import Needs, ReadingForm, Request, Setting
from plinth.record.subject import Kind, Subject
from plinth.units.bounds import Bound
from plinth.units.shown import shown, shown_with_spread, split

Array = NDArray[np.float64]
_NUMBER = re.compile(r"\d+(?:[.,]\d*)?|[.,]\d+")
# Readings that count, by the key of what was asked, in the order kept.
Readings = Mapping[str, Sequence[Reading]]


def bench_request(
    *, test: str, key: str, channel: str, group: str, label: str, ask: str, unit: str, window: Window | None,
    conditions: Conditions, form: ReadingForm = "plain", role: Role = Role.METER, u_own: float | None = None,
    least: float | None = 0.0, most: float | None = None, most_words: str = "", bare_prefix: str = "",
    optional: bool = False, why_open: str = "", needs: Needs = "channel", example: str = "", caution: str = "",
    settings: tuple[Setting, ...] = (), probe: Probe | None = None,
) -> Request:  # fmt: skip
    """What a sheet asks for, under the heading ``group``: doubted by slips, and of nothing below 0 if not said so."""
    return Request(
        about=Subject(Kind.TEST, channel, f"{test}:{key}"), title=f"{group}, {label}" if group else label, ask=ask,
        conditions=conditions, unit=unit, window=window, form=form, doubts_unit=False, role=role, u_own=u_own,
        least=least, most=most, most_words=most_words, bare_prefix=bare_prefix, optional=optional, why_open=why_open,
        needs=needs, group=group, label=label, example=example, caution=caution,
        settings=settings, probe=probe,
    )  # fmt: skip


@dataclasses.dataclass(frozen=True)
class Outcome:
    """A figure or a finding made of readings: ``words`` what came of it, ``against`` what it is held against.

    ``say`` what it means, and what to do next.
    """

    label: str
    words: str
    state: State = State.UNKNOWN
    against: str = ""
    say: str = ""


# Room at either end of an axis that goes by octaves.
_LOG_SIDE = 1.1


@dataclasses.dataclass(frozen=True)
class Graph:
    """Curves over ``x_name`` in ``x_unit``, with what the heights are in words."""

    title: str
    x_name: str
    x_unit: str
    heights: str
    curves: tuple[Series, ...]
    x_scale: float = 1.0
    log_x: bool = False

    def extent(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """The whole of its curves, bands and discs, with a little room: (least x, most x), (least y, most y)."""
        x = np.concatenate([curve.x for curve in self.curves])
        half = [np.broadcast_to(np.asarray(curve.spread, dtype=float), curve.y.shape) for curve in self.curves]
        low = min(float(np.min(curve.y - by)) for curve, by in zip(self.curves, half, strict=True))
        high = max(float(np.max(curve.y + by)) for curve, by in zip(self.curves, half, strict=True))
        room = 0.12 * max(high - low, 1e-9 + 1e-3 * abs(high))
        if self.log_x:
            return (float(np.min(x)) / _LOG_SIDE, float(np.max(x)) * _LOG_SIDE), (low - room, high + room)
        side = 0.04 * max(float(np.ptp(x)), 1e-12)
        return (float(np.min(x)) - side, float(np.max(x)) + side), (low - room, high + room)


def _nothing(_readings: Readings) -> tuple[Outcome, ...]:
    return ()


def _no_graph(_readings: Readings) -> Graph | None:
    return None


@dataclasses.dataclass(frozen=True, eq=False)
class Sheet:
    """One test of one channel of a build, under given conditions.

    ``asked`` what it asks for in the order in which one reads, as far as that depends on what was read; ``outcomes``
    what the readings say; ``graph`` them over what is predicted.
    """

    test: str
    title: str
    aim: str
    settings: tuple[tuple[str, str], tuple[str, str], tuple[str, str]]
    load: str
    wired: str
    asked: Callable[[Readings], tuple[Request, ...]]
    outcomes: Callable[[Readings], tuple[Outcome, ...]] = _nothing
    graph: Callable[[Readings], Graph | None] = _no_graph
    listing: str | None = None
    caution: str = ""


# What a reading says


def last(readings: Readings, key: str) -> Reading | None:
    """The last reading of a key; None where there is none, or where it is only a bound."""
    held = readings.get(key, ())
    return held[-1] if held and not held[-1].bound.one_sided else None


@dataclasses.dataclass(frozen=True)
class Measured:
    """A value and its standard uncertainty; None where an accuracy that it rests on is not known.

    ``u_offset`` what a meter's zero may be off (standard uncertainty), alike in all readings of it; not part of ``u``.
    """

    value: float
    u: float | None
    u_offset: float = 0.0

    def words(self, unit: str) -> str:
        """With its 95 % spread; marked where that is not known."""
        if self.u is None:
            return f"{shown(self.value, unit)} ± not stated"
        return shown_with_spread(self.value, 2.0 * self.u, unit)


def measured(reading: Reading) -> Measured:
    """A reading as a value; what is only about it has a tenth more of spread."""
    if reading.bound is Bound.ABOUT:
        return Measured(reading.value, math.hypot(reading.u or 0.0, 0.1 * abs(reading.value) / math.sqrt(3.0)))
    return Measured(reading.value, reading.u)


def beside(*readings: Reading) -> tuple[Measured, ...]:
    """Readings that are compared: of one instrument only their last digits differ, of several their whole spreads.

    How far its zero is off, alike in all of them, does not leave a ratio.
    """
    if all(reading.beside(readings[0]) for reading in readings):
        return tuple(
            Measured(reading.value, jitter_of(reading), (reading.number("meter_floor") or 0.0) / math.sqrt(3.0))
            for reading in readings
        )
    return tuple(measured(reading) for reading in readings)


def derived(formula: Callable[..., float], *given: Measured) -> Measured:
    """A formula of measured values, with what each adds to its spread (GUM 5.1, differences in place of slopes)."""
    values = [reading.value for reading in given]
    at = formula(*values)
    if any(reading.u is None for reading in given):
        return Measured(at, None)
    square = 0.0
    for place, record in enumerate(given):
        moved = list(values)
        moved[place] += record.u or 0.0
        square += (formula(*moved) - at) ** 2
    if any(reading.u_offset for reading in given):
        square += (formula(*(value + reading.u_offset for value, reading in zip(values, given, strict=True))) - at) ** 2
    return Measured(at, math.sqrt(square))


def jitter_of(reading: Reading) -> float:
    """Standard uncertainty of a reading beside others of the same meter: the last digit typed (GUM 4.3.7).

    What the meter is off as a whole is the same in all of them and cancels in their ratio.
    """
    number = _NUMBER.search(reading.typed)
    whole = "" if number is None else number.group().replace(".", "").replace(",", "").lstrip("0")
    if not whole:
        return 0.0
    # The last of so many digits, as a share of the value.
    step = 10.0 ** (math.floor(math.log10(abs(reading.value))) + 1 - len(whole)) if reading.value else 0.0
    return 0.5 * step / math.sqrt(3.0)


def window_of(figure: Figure | None, why: str = "", least: float | None = None) -> Window | None:
    """The 95 % band of a predicted figure as a window, from ``least`` on; None where it is not known."""
    if figure is None or not figure.known:
        return None
    low = figure.low if least is None else max(figure.low, least)
    return Window(low, figure.high, figure.unit, why or f"{figure.label}, as predicted", figure.estimated)


def against(window: Window | None) -> str:
    """What is expected, in few words (``35.1 to 37.4 V``); empty where nothing is."""
    if window is None:
        return ""
    if window.low is None or window.high is None:
        return window.words()
    (low, unit), (high, same) = split(window.low, window.unit), split(window.high, window.unit)
    if window.low == 0.0:
        return f"0 to {high} {same}".strip()
    return f"{low} to {high} {same}".strip() if unit == same else window.words()


def apart(value: Measured, predicted: float, u_predicted: float) -> State:
    """A value against a predicted one, both with their spread: clear where the 95 % bands meet, else close, else over.

    Unknown where the value's own spread is not known and it lies outside the predicted band.
    """
    difference = abs(value.value - predicted)
    u = math.hypot(u_predicted, value.u or 0.0)
    if difference <= 2.0 * u * (1.0 + 1e-9):
        return State.CLEAR
    if value.u is None:
        return State.CLOSE if difference <= 4.0 * u else State.UNKNOWN
    return State.CLOSE if difference <= 4.0 * u else State.OVER


def of_figures(formula: Callable[..., float], *figures: Figure) -> Measured:
    """A formula of predicted figures, what several of them rest on alike moving them together: by contributions."""
    values = [figure.value for figure in figures]
    at = formula(*values)
    by: dict[str, list[float]] = {}
    for place, figure in enumerate(figures):
        for contribution in figure.contributions:
            by.setdefault(contribution.label, [0.0] * len(values))[place] += contribution.u_figure
    moved = (formula(*(v + u for v, u in zip(values, moves, strict=True))) - at for moves in by.values())
    return Measured(at, math.sqrt(sum(x * x for x in moved)))


def difference(a: Figure, b: Figure) -> Measured:
    """``a`` less ``b``, what both rest on alike cancelling."""
    return of_figures(lambda x, y: x - y, a, b)
