"""Every figure of a side: clipping into each load, every reading that a test asks for, what the prediction says."""

import dataclasses
import math
from collections.abc import Callable, Hashable

from plinth.bench.clip_cell import ClipCell, clip_cell, clip_places
from plinth.bench.every_sheet import SHEETS, readings_for
from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.decide.cell import Cell, Value
from plinth.decide.side import Side
from plinth.judge.claims import claim_for
from plinth.judge.window import Window
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.figure import Figure
from plinth.predict.solve import solve
from plinth.record.reading import Reading
from plinth.record.request import Request

# Of the prediction alone, what nobody reads at the bench or only in the heat run.
_PREDICTED = (
    "sink_c", "heat_programme_w", "rail_no_load_high_v", "winding_programme_ratio", "supply_programme_ratio",
    "drive_v_rms", "stored_j", "bleed_s",
)  # fmt: skip
# A course of many readings is no figure.
_NO_FIGURE = ("course",)
COST, SO_FAR = "cost", "so far"
GoOn = Callable[[float], bool]


@dataclasses.dataclass(frozen=True)
class Entry:
    """One figure of one side, under its ``key``; ``role`` who reads it (None: nobody), ``subject`` of its readings."""

    key: str
    label: str
    unit: str
    cell: Cell
    role: Role | None = None
    subject: str = ""


def gather(side: Side, go_on: GoOn = lambda _share: True) -> tuple[Entry, ...]:
    """Every figure of a side. Raises PhysicsError where it cannot run, or ``go_on``, told the share done, says no."""
    entries = list(_clipping(side))
    _go(go_on, 0.3)
    if not side.listing:
        for place, kind in enumerate(SHEETS):
            for channel in side.build.channels:
                entries += _of_sheet(side, kind.key, kind.name, channel)
            _go(go_on, 0.3 + 0.6 * (place + 1) / len(SHEETS))
        entries += _of_prediction(side)
        if side.cost is not None:
            entries.append(Entry(COST, "Still to pay", "", Cell(predicted=Value(side.cost, 0.0))))
        if side.so_far is not None:
            entries.append(
                Entry(SO_FAR, "Cost so far, of what has a price", "", Cell(predicted=Value(side.so_far, 0.0)))
            )
    # A row of the whole build is asked for on every channel's sheet.
    unique = {entry.key: entry for entry in reversed(entries)}
    return tuple(entry for entry in entries if unique.pop(entry.key, None) is not None)


def _go(go_on: GoOn, share: float) -> None:
    if not go_on(share):
        raise PhysicsError("it was stopped")


def _clipping(side: Side) -> list[Entry]:
    entries, build = [], side.build
    channel = build.channels[0]
    for who, load in clip_places(build):
        try:
            cell = clip_cell(build, channel, side.situation, who, load)
        except PhysicsError:
            # Into a load that it cannot drive there is no figure.
            continue
        claim = claim_for(build.module, load.r_ohm)
        whose = "alone" if who == "one" else "all channels"
        entries.append(
            Entry(
                f"clip/{who}/{load.r_ohm:g}", f"Clip power, {load.r_ohm:g} Ω, {whose}", "W",
                _clip_cell(side, cell, None if claim is None else claim.power_w), Role.SCOPE, cell.subject,
            )
        )  # fmt: skip
    return entries


def _clip_cell(side: Side, cell: ClipCell, claim: float | None) -> Cell:
    if side.listing:
        return Cell(claim=claim)
    reading, why = _reading(side, cell.subject, cell.conditions)
    return Cell(claim=claim, predicted=_value(cell.power, side), reading=reading, why=why)


def _reading(side: Side, subject: str, conditions: object) -> tuple[Reading | None, str]:
    assert isinstance(conditions, dict)
    record = side.book.counting(subject, conditions)
    if isinstance(record, Reading):
        return record, ""
    return None, side.book.why_not(subject, conditions)


def _of_sheet(side: Side, key: str, name: str, channel: str) -> list[Entry]:
    kind = next(kind for kind in SHEETS if kind.key == key)
    try:
        sheet = kind.make(side.build, channel, side.situation)
    except PhysicsError:
        return []
    readings = readings_for(sheet, side.book)
    entries = []
    for request in sheet.asked(readings):
        if request.form in _NO_FIGURE:
            continue
        held = readings.get(request.key, ())
        why = "" if held else side.book.why_not(request.subject, request.conditions)
        cell = Cell(
            claim=_claim(side.build, key, request), predicted=_of_window(request.window),
            window=_closed(request.window), reading=held[-1] if held else None, why=why,
        )  # fmt: skip
        if not cell.is_empty:
            label = f"{name}: {request.full_title[:1].lower()}{request.full_title[1:]}"
            whose = "" if len(side.build.channels) == 1 or not request.channel else f"{request.channel}/"
            entries.append(
                Entry(
                    f"{key}/{whose}{request.key}",
                    _with_channel(label, request, side),
                    request.unit,
                    cell=cell,
                    role=request.role,
                    subject=request.subject,
                )
            )
    return entries


def _with_channel(label: str, request: Request, side: Side) -> str:
    """The label with the channel that it is of, where the title does not say."""
    build = side.build
    names = {build.key_of(channel): channel for channel in build.channels}
    channel = names.get(request.channel, "")
    return f"{label}, {channel}" if channel and len(names) > 1 and channel not in label.lower() else label


def _claim(build: Build, key: str, request: Request) -> float | None:
    """What the listing says of it."""
    return build.module.noise_v_rms if (key, request.key) == ("hum", "whole") else None


def _closed(window: Window | None) -> tuple[float, float] | None:
    if window is None or window.low is None or window.high is None:
        return None
    return window.low, window.high


def _of_window(window: Window | None) -> Value | None:
    """The middle of a window and a quarter of its width: it is about 95 % of where healthy ones lie."""
    ends = _closed(window)
    return None if ends is None else Value(0.5 * (ends[0] + ends[1]), 0.25 * (ends[1] - ends[0]))


def _value(figure: Figure | None, side: Side) -> Value | None:
    if figure is None or not figure.known or not math.isfinite(figure.value):
        return None
    shares: dict[Hashable, float] = {
        (side.of or side.name, c.key, c.value, c.u_input): c.u_figure for c in figure.contributions if c.key
    }
    return Value(figure.value, figure.u if math.isfinite(figure.u) else None, shares)


def _of_prediction(side: Side) -> list[Entry]:
    prediction = solve(side.build, side.situation.model_copy(update={"lamp_w": None}))
    entries = []
    for name in _PREDICTED:
        figure = prediction.get(name)
        value = _value(figure, side)
        if figure is not None and value is not None:
            label = f"{figure.label[:1].upper()}{figure.label[1:]}"
            entries.append(Entry(f"figure/{name}", label, figure.unit, Cell(predicted=value)))
    return entries
