"""The energy, drawn from the engine's own waveforms: mains and its current pulses, the rails, the output in them."""

import math

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from plinth.desk.band.polygon import polygon
from plinth.desk.look import look
from plinth.physics.mains.wave import mains_wave
from plinth.physics.rails.steady_state import RailSteadyState
from plinth.predict.power_state import PowerState
from plinth.predict.prediction import Prediction
from plinth.predict.supply_views import SupplyView
from plinth.predict.wall import WallDraw

Array = NDArray[np.float64]
SHOWN_S = 0.020


def _repeat(samples: Array, period_s: float, t: Array) -> Array:
    """A periodic waveform (n + 1 samples of one period) at the times ``t``."""
    n = len(samples) - 1
    place = (t / period_s % 1.0) * n
    return np.interp(place, np.arange(n + 1), samples)


def _line(painter: QPainter, x: Array, y: Array, colour: QColor, width: float) -> None:
    """A line; one of more than a pixel as two fine ones side by side, which Qt draws ten times faster than one wide."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour, 1.0))
    painter.drawPolyline(polygon(x, y))
    if width > 1.0:
        shift = width - 1.0
        painter.drawPolyline(polygon(x + shift, y + shift))


def _band(painter: QPainter, x: Array, y: Array, colour: QColor, width: float) -> None:
    """A ribbon of ``width`` about ``y``."""
    outline = np.append(y - width / 2, (y + width / 2)[::-1])
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawPolygon(polygon(np.append(x, x[::-1]), outline))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _ribbon(mean_a: float) -> float:
    """Thickness of a rail for its current, px at 100 %."""
    return min(12.0, 2.0 + 1.1 * math.sqrt(max(mean_a, 0.0)) * 1.6)


def draw_path(
    painter: QPainter, box: QRectF, edges: list[float], prediction: Prediction, view: SupplyView, *, muted: bool
) -> None:
    """Draw the supply ``view`` and what hangs on it; ``edges`` the nine x positions that bound the stations.

    Left two stations: mains and its current. Transformer: what each winding gives. Then one voltage scale and
    one time axis for rails and output. ``muted``: the protection is open, and nothing reaches the load.
    """
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    middle, half = box.center().y(), box.height() / 2
    state = view.state
    circuit = state.circuit
    top = max(circuit.v_amplitude, _highest(state))
    if view.feeds_output:
        top = max(top, prediction["rail_no_load_v"].value)
    # A single rail stands above a 0 V line that lies low; two rails share the height.
    zero = middle if state.minus is not None else middle + 0.72 * half
    volts = (0.92 * half if state.minus is not None else 1.6 * half) / top
    painter.setPen(QPen(look.token("zero"), 1))
    painter.drawLine(QPointF(edges[0], middle), QPointF(edges[2], middle))
    painter.drawLine(QPointF(edges[2], zero), QPointF(edges[8], zero))
    if prediction.wall is not None:
        _draw_mains(painter, edges[0], edges[2], middle=middle, half=half, prediction=prediction, wall=prediction.wall)
    else:
        _draw_steady_source(painter, edges[0], edges[2], middle, half, chopped=prediction.battery is not None)
    if circuit.steady_v:
        _draw_chopped(painter, edges[2], edges[3], zero=zero, volts=volts, prediction=prediction, state=state)
    else:
        _draw_windings(painter, edges[2], edges[3], zero, volts, state)

    period_s = state.period.shared.seconds
    shown_s = max(SHOWN_S, period_s)
    per_px = shown_s / (edges[6] - edges[3])
    for rail, sign, token in _signed_rails(state):
        x = np.arange(edges[3], edges[6 if view.feeds_output else 5] + 1.0, 2.0)
        t = (x - edges[3]) * per_px
        emf = np.maximum(_repeat(rail.emf_v, period_s, t), 0.0)
        behind = look.token(token)
        behind.setAlphaF(0.35)
        in_reservoir = x <= edges[4]
        _line(painter, x[in_reservoir], zero - sign * volts * emf[in_reservoir], behind, 1.2)
        # In a low drawing a ribbon of that width would hide what swings between the rails.
        width = look.scale * _ribbon(float(np.mean(np.abs(rail.i_load_mean_a)))) * min(1.0, box.height() / 60.0)
        v = _repeat(rail.v_node, period_s, t)
        if rail.v_reservoir is not None and circuit.c2:
            # Before the second stage the ripple is still whole; after it the rail lies still.
            v = np.where(in_reservoir, _repeat(rail.v_reservoir, period_s, t), v)
        _band(painter, x, zero - sign * volts * v, look.token(token), width)
    if view.feeds_output:
        _draw_output(painter, edges, zero, volts, per_px, state, muted=muted)
    painter.restore()


def _signed_rails(state: PowerState) -> list[tuple[RailSteadyState, float, str]]:
    rails = [(state.plus, 1.0, "plus")]
    return rails if state.minus is None else [*rails, (state.minus, -1.0, "minus")]


def _highest(state: PowerState) -> float:
    return max(rail.v_max for rail in state.rails)


def _draw_steady_source(
    painter: QPainter, left: float, right: float, middle: float, half: float, *, chopped: bool
) -> None:
    """A battery: a straight line that is chopped as the converter begins; a bench supply: the straight line."""
    end = right - look.px(6)
    level, begin = middle - 0.62 * half, left + 0.55 * (end - left) if chopped else end
    _line(painter, np.array([left, begin]), np.array([level, level]), look.token("ink2"), 1.8)
    if chopped:
        pitch, duty = look.px(12), 0.55
        edges = np.arange(begin, end, pitch)
        x = np.repeat(edges, 4) + np.tile([0.0, duty * pitch, duty * pitch, pitch], len(edges))
        pulses = np.tile([level, level, middle, middle], len(edges))
        keep = x <= end
        _line(painter, x[keep], pulses[keep], look.token("ink2"), 1.4)


def _draw_chopped(
    painter: QPainter, left: float, right: float, zero: float, volts: float, prediction: Prediction, state: PowerState
) -> None:
    """What the secondary of a switcher or converter gives: pulses as high as the rail is set."""
    right -= look.px(4)
    if prediction.wall is None and prediction.battery is None:
        for _, sign, token in _signed_rails(state):
            y = zero - sign * volts * state.circuit.steady_v
            _line(painter, np.array([left, right]), np.array([y, y]), look.token(token), 1.5)
        return
    duty = prediction.get("converter_duty")
    share, pitch = 0.45 if duty is None else 0.5 * duty.value, look.px(18)
    starts = np.arange(left, right - 1.0, pitch)
    for k, (_, sign, token) in enumerate(_signed_rails(state)):
        shift = 0.5 * pitch * k
        x = np.repeat(starts + shift, 4) + np.tile([0.0, 0.0, share * pitch, share * pitch], len(starts))
        pulse = zero - sign * volts * state.circuit.steady_v * np.tile([0.0, 1.0, 1.0, 0.0], len(starts))
        keep = x <= right
        _line(painter, x[keep], pulse[keep], look.token(token), 1.3)


def _draw_mains(
    painter: QPainter, left: float, right: float, middle: float, half: float, prediction: Prediction, wall: WallDraw
) -> None:
    """Two mains cycles, with the current they carry filled under them, each to its own scale."""
    state = prediction.state
    x = np.arange(left, right - look.px(6), 2.0)
    t = (x - left) / (right - left) * 2.0 / state.circuit.mains_hz
    sine = mains_wave(2 * np.pi * state.circuit.mains_hz * t, state.circuit.third_harmonic)
    _line(painter, x, middle - 0.62 * half * sine, look.token("ink2"), 1.4)
    pulses = np.abs(_repeat(wall.i_a, wall.seconds, t))
    peak = float(np.max(np.abs(wall.i_a))) or 1.0
    # The scale is fixed by the fuse, so that a larger load is seen to draw more.
    maximum = max(peak, 3.0 * prediction.build.entry.fuse_a_rms)
    y = middle - 0.9 * half * np.sign(sine) * pulses / maximum
    ends = np.array([x[-1], x[0]])
    area = polygon(np.append(x, ends), np.append(y, [middle, middle]))
    fill = look.token("ink2")
    fill.setAlphaF(0.30)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(fill)
    painter.drawPolygon(area)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _draw_windings(
    painter: QPainter, left: float, right: float, middle: float, volts: float, state: PowerState
) -> None:
    """Both windings against 0 V, and their charging pulses: a column as high as its share of the rating."""
    circuit = state.circuit
    x = np.arange(left, right + 1.0, 2.0)
    t = (x - left) / (right - left) / circuit.mains_hz
    wave = circuit.v_amplitude * np.abs(mains_wave(2 * np.pi * circuit.mains_hz * t, circuit.third_harmonic))
    period_s = state.period.shared.seconds
    for rail, sign, token in _signed_rails(state):
        current = _repeat(rail.i_diode_a, period_s, t)
        terminal = wave - circuit.r_winding * current
        colour = look.token(token)
        soft = look.token(token)
        soft.setAlphaF(0.35)
        _line(painter, x, middle - sign * volts * wave, soft, 1.0)
        _line(painter, x, middle - sign * volts * terminal, colour, 1.5)


def _draw_output(
    painter: QPainter, edges: list[float], middle: float, volts: float, per_px: float, state: PowerState,
    *, muted: bool,
) -> None:  # fmt: skip
    period_s = state.period.shared.seconds
    module_left, gap, load_end = edges[5], edges[6], edges[8]
    stop = gap if muted else load_end
    x = np.arange(module_left, stop, 1.0)
    t = (x - edges[3]) * per_px
    ink = look.token("ink")
    for k, v in enumerate(state.output_lines.values()):
        _line(painter, x, middle - volts * _repeat(v, period_s, t), look.token("ink2") if k else ink, 1.5)
    # The relay of the protection: a contact, open while the output is muted.
    at = (edges[6] + edges[7]) / 2
    painter.setPen(QPen(ink, 1.5))
    painter.setBrush(look.token("sheet"))
    if muted:
        painter.drawLine(QPointF(gap, middle), QPointF(at - look.px(10), middle))
        painter.drawLine(QPointF(at - look.px(10), middle), QPointF(at + look.px(8), middle - look.px(14)))
        painter.drawEllipse(QPointF(at - look.px(10), middle), look.px(3), look.px(3))
        painter.drawEllipse(QPointF(at + look.px(10), middle), look.px(3), look.px(3))
