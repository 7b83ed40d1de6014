"""Small line plots as SVG text, for reports that need no window and no network."""

import dataclasses
import math
from collections.abc import Sequence

import numpy as np
from markupsafe import Markup, escape


@dataclasses.dataclass(frozen=True)
class SvgCurve:
    """``x``, ``y`` of equal length; ``role`` a colour and form of the style sheet; ``label`` stands at its end."""

    x: Sequence[float]
    y: Sequence[float]
    role: str
    label: str
    discs: bool = False


def nice_ticks(low: float, high: float, about: int = 5) -> list[float]:
    """Round values between ``low`` and ``high``, some ``about`` of them."""
    if high <= low:
        return [low]
    raw = (high - low) / about
    scale = 10.0 ** math.floor(math.log10(raw))
    step = next(m * scale for m in (1, 2, 2.5, 5, 10) if m * scale >= raw)
    first = math.ceil(low / step - 1e-9) * step
    return [first + i * step for i in range(int((high - first) / step + 1e-9) + 1)]


def line_plot(
    curves: Sequence[SvgCurve], *, x_label: str, y_label: str, title: str, log_x: bool = False,
    size: tuple[int, int] = (640, 260), y_range: tuple[float, float] | None = None,
) -> Markup:  # fmt: skip
    """One plot with axes, units and a label on every curve."""
    width, height = size
    left, right, top, bottom = 52, 96, 12, 34
    drawn = [c for c in curves if len(c.x)]
    xs = np.concatenate([np.asarray(c.x, float) for c in drawn]) if drawn else np.array([1.0, 10.0])
    ys = np.concatenate([np.asarray(c.y, float) for c in drawn]) if drawn else np.array([0.0, 1.0])
    x0, x1 = float(xs.min()), float(xs.max())
    y0, y1 = y_range or (float(ys.min()), float(ys.max()))
    pad = 0.06 * (y1 - y0) or 1.0
    y0, y1 = (y0 - pad, y1 + pad) if y_range is None else (y0, y1)

    def px(x: float) -> float:
        share = math.log(x / x0) / math.log(x1 / x0) if log_x and x1 > x0 else (x - x0) / ((x1 - x0) or 1.0)
        return left + share * (width - left - right)

    def py(y: float) -> float:
        return top + (y1 - y) / (y1 - y0) * (height - top - bottom)

    parts = [f'<svg viewBox="0 0 {width} {height}" role="img" aria-label="{escape(title)}">']
    for tick in nice_ticks(y0, y1):
        parts.append(f'<path class="grid" d="M{left},{py(tick):.1f}H{width - right}"/>')
        parts.append(f'<text x="{left - 6}" y="{py(tick) + 4:.1f}" text-anchor="end">{_number(tick)}</text>')
    parts += [
        f'<text x="{px(tick):.1f}" y="{height - 16}" text-anchor="middle">{_number(tick)}</text>'
        for tick in (_decades(x0, x1) if log_x else nice_ticks(x0, x1))
    ]
    parts.append(f'<text x="{width - right}" y="{height - 2}" text-anchor="end">{escape(x_label)}</text>')
    parts.append(f'<text x="4" y="{height - 2}">{escape(y_label)}</text>')
    used: list[float] = []
    for curve in drawn:
        points = " ".join(f"{px(a):.1f},{py(b):.1f}" for a, b in zip(curve.x, curve.y, strict=True))
        parts.append(f'<polyline class="line {curve.role}" points="{points}"/>')
        if curve.discs:
            parts += [
                f'<circle class="disc" cx="{px(a):.1f}" cy="{py(b):.1f}" r="3.5"/>'
                for a, b in zip(curve.x, curve.y, strict=True)
            ]
        at = py(float(curve.y[-1]))
        while any(abs(at - other) < 13 for other in used):
            at += 13
        used.append(at)
        parts.append(
            f'<text class="{curve.role}" x="{width - right + 6}" y="{at + 4:.1f}">{escape(curve.label)}</text>'
        )
    parts.append("</svg>")
    return Markup("".join(parts))  # noqa: S704  # labels are escaped above, all else is numbers


def _decades(x0: float, x1: float) -> list[float]:
    ticks = [m * 10.0**k for k in range(-1, 7) for m in (1, 2, 5)]
    return [t for t in ticks if x0 * 0.999 <= t <= x1 * 1.001]


def _number(value: float) -> str:
    if abs(value) >= 1e3:
        return f"{value / 1e3:g}k"
    return f"{value:g}".replace("-", "\u2212")
