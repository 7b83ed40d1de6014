"""The energy, drawn from the engine's own waveforms: mains and its current pulses, the rails, the output in them."""

import math

import numpy as np
from numpy.typing import NDArray
from pyqtgraph.functions import arrayToQPolygonF
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from plinth.desk.look import look
from plinth.physics.mains import mains_wave
from plinth.predict.solve import Prediction

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
    painter.drawPolyline(arrayToQPolygonF(x, y))
    if width > 1.0:
        shift = width - 1.0
        painter.drawPolyline(arrayToQPolygonF(x + shift, y + shift))


def _band(painter: QPainter, x: Array, y: Array, colour: QColor, width: float) -> None:
    """A ribbon of ``width`` about ``y``."""
    outline = np.append(y - width / 2, (y + width / 2)[::-1])
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawPolygon(arrayToQPolygonF(np.append(x, x[::-1]), outline))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _ribbon(mean_a: float) -> float:
    """Thickness of a rail for its current, px at 100 %."""
    return min(12.0, 2.0 + 1.1 * math.sqrt(max(mean_a, 0.0)) * 1.6)


def draw_path(painter: QPainter, box: QRectF, edges: list[float], prediction: Prediction, *, muted: bool) -> None:
    """Draw into ``box``; ``edges`` the nine x positions that bound the eight stations.

    Left two stations: mains and its current. Transformer: what each winding gives. Then one voltage scale and
    one time axis for rails and output. ``muted``: the protection is open, and nothing reaches the load.
    """
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    middle, half = box.center().y(), box.height() / 2
    painter.setPen(QPen(look.token("zero"), 1))
    painter.drawLine(QPointF(edges[0], middle), QPointF(edges[8], middle))
    state = prediction.state
    circuit = state.circuit
    top = max(circuit.v_amplitude, float(np.max(prediction.points.no_load.v_node)))
    volts = 0.92 * half / top

    _draw_mains(painter, edges[0], edges[2], middle, half, prediction)
    _draw_windings(painter, edges[2], edges[3], middle, volts, prediction)

    period_s = state.period.shared.seconds
    shown_s = max(SHOWN_S, period_s)
    per_px = shown_s / (edges[6] - edges[3])
    for rail, sign, token in ((state.plus, 1.0, "plus"), (state.minus, -1.0, "minus")):
        x = np.arange(edges[3], edges[6] + 1.0, 2.0)
        t = (x - edges[3]) * per_px
        emf = np.maximum(_repeat(rail.emf_v, period_s, t), 0.0)
        behind = look.token(token)
        behind.setAlphaF(0.35)
        in_reservoir = x <= edges[4]
        _line(painter, x[in_reservoir], middle - sign * volts * emf[in_reservoir], behind, 1.2)
        width = look.scale * _ribbon(rail.mean(rail.i_diode_a))
        _band(painter, x, middle - sign * volts * _repeat(rail.v_node, period_s, t), look.token(token), width)
    _draw_output(painter, edges, middle, volts, per_px, prediction, muted=muted)
    painter.restore()


def _draw_mains(
    painter: QPainter, left: float, right: float, middle: float, half: float, prediction: Prediction
) -> None:
    """Two mains cycles, with the current they carry filled under them, each to its own scale."""
    state = prediction.state
    x = np.arange(left, right - look.px(6), 2.0)
    t = (x - left) / (right - left) * 2.0 / state.circuit.mains_hz
    sine = mains_wave(2 * np.pi * state.circuit.mains_hz * t, state.circuit.third_harmonic)
    _line(painter, x, middle - 0.62 * half * sine, look.token("ink2"), 1.4)
    period_s = state.period.shared.seconds
    pulses = np.abs(_repeat(prediction.mains_current_a, period_s, t))
    peak = float(np.max(np.abs(prediction.mains_current_a))) or 1.0
    # The scale is fixed by the fuse, so that a larger load is seen to draw more.
    most = max(peak, 3.0 * prediction.build.entry.fuse_a_rms)
    y = middle - 0.9 * half * np.sign(sine) * pulses / most
    ends = np.array([x[-1], x[0]])
    area = arrayToQPolygonF(np.append(x, ends), np.append(y, [middle, middle]))
    fill = look.token("ink2")
    fill.setAlphaF(0.30)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(fill)
    painter.drawPolygon(area)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _draw_windings(
    painter: QPainter, left: float, right: float, middle: float, volts: float, prediction: Prediction
) -> None:
    """Both windings against 0 V, and their charging pulses: a column as high as its share of the rating."""
    state = prediction.state
    circuit = state.circuit
    x = np.arange(left, right + 1.0, 2.0)
    t = (x - left) / (right - left) / circuit.mains_hz
    wave = circuit.v_amplitude * np.abs(mains_wave(2 * np.pi * circuit.mains_hz * t, circuit.third_harmonic))
    period_s = state.period.shared.seconds
    for rail, sign, token in ((state.plus, 1.0, "plus"), (state.minus, -1.0, "minus")):
        current = _repeat(rail.i_diode_a, period_s, t)
        terminal = wave - circuit.r_winding * current
        colour = look.token(token)
        soft = look.token(token)
        soft.setAlphaF(0.35)
        _line(painter, x, middle - sign * volts * wave, soft, 1.0)
        _line(painter, x, middle - sign * volts * terminal, colour, 1.5)


def _draw_output(
    painter: QPainter, edges: list[float], middle: float, volts: float, per_px: float, prediction: Prediction,
    *, muted: bool,
) -> None:  # fmt: skip
    state = prediction.state
    period_s = state.period.shared.seconds
    module_left, gap, load_end = edges[5], edges[6], edges[8]
    stop = gap if muted else load_end
    x = np.arange(module_left, stop, 1.0)
    t = (x - edges[3]) * per_px
    ink = look.token("ink")
    _line(painter, x, middle - volts * _repeat(state.v_output, period_s, t), ink, 1.5)
    # The relay of the protection: a contact, open while the output is muted.
    at = (edges[6] + edges[7]) / 2
    painter.setPen(QPen(ink, 1.5))
    painter.setBrush(look.token("sheet"))
    if muted:
        painter.drawLine(QPointF(gap, middle), QPointF(at - look.px(10), middle))
        painter.drawLine(QPointF(at - look.px(10), middle), QPointF(at + look.px(8), middle - look.px(14)))
        painter.drawEllipse(QPointF(at - look.px(10), middle), look.px(3), look.px(3))
        painter.drawEllipse(QPointF(at + look.px(10), middle), look.px(3), look.px(3))
