"""Any figure over any one input or slider, as a curve with its band, or over two of them, as a map.

Each point is solved on the coarse grid from the one before on; relative spread and worst phase are those of the build's
own full prediction, as ``glance`` takes them: within 1.5 % of predicting every point in full (held by a test).
"""

import contextlib
import dataclasses
import math
from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.common_period import QUICK
from plinth.predict.batch_onsets import Choice
from plinth.predict.figure import Figure
from plinth.predict.figure_values import figure_values, group_of_points
from plinth.predict.inputs import inputs_of
from plinth.predict.prediction import Prediction
from plinth.predict.solution import Solution
from plinth.predict.solve import points_alone, solution_of
from plinth.predict.source_chain import Ahead
from plinth.processes.worker_pool import share

Array = NDArray[np.float64]
GoOn = Callable[[float], bool]
POINTS, MAP_POINTS = 41, (14, 11)
PIECES = 6
# How far an input is varied around what it is.
AROUND = 3.0


@dataclasses.dataclass(frozen=True)
class Over(Choice):
    """What is varied: ``key`` an input of the build, or ``of_situation`` a field of the situation."""

    of_situation: bool = False


@dataclasses.dataclass(frozen=True)
class Curve:
    """``value`` and standard uncertainty ``u`` of a figure over ``x``; NaN where the build could not run."""

    over: Over
    figure: Figure
    x: Array
    value: Array
    u: Array


@dataclasses.dataclass(frozen=True)
class FigureMap:
    """``value`` [y][x] of a figure over two things; NaN where the build could not run."""

    across: Over
    up: Over
    figure: Figure
    x: Array
    y: Array
    value: Array


def what_can_vary(build: Build, situation: Situation) -> tuple[Over, ...]:
    """All that can be varied in a build: sliders first, then its uncertain inputs."""
    axes = []
    if build.mains is not None and build.supply.from_the_wall:
        volts = build.mains.v_nominal_rms
        axes.append(Over("mains_v_rms", "mains", "V", 0.8 * volts, 1.2 * volts, log=False, of_situation=True))
    battery = build.supply.battery
    if battery is not None:
        axes.append(Over("battery_v", "battery", "V", battery.v_empty, battery.v_full, log=False, of_situation=True))
    axes += [
        Over("load_ohm", "load, each channel", "ohm", 2.0, 16.0, of_situation=True),
        Over("level", "level, of clip", "", 0.05, 1.0, log=False, of_situation=True),
        Over("frequency_hz", "signal", "Hz", 20.0, 20_000.0, of_situation=True),
        Over("crest_db", "peak over mean of the programme", "dB", 3.01, 20.0, log=False, of_situation=True),
        Over("ambient_c", "air", "°C", 5.0, 45.0, log=False, of_situation=True),
    ]
    for key, quantity in inputs_of(build, situation).items():
        if quantity.value > 0.0 and key != "r_load":
            axes.append(Over(key, quantity.label, quantity.unit, quantity.value / AROUND, quantity.value * AROUND))
    return tuple(axes)


def figures_shown(prediction: Prediction) -> tuple[Figure, ...]:
    """The figures that a curve can be drawn of: those that hold without switching on."""
    plain = figure_values(prediction.solution, surge=False)
    return tuple(
        figure for name, figure in prediction.figures.items() if (name in plain or "worst" in name) and figure.known
    )


def curve(prediction: Prediction, name: str, over: Over, count: int = POINTS, go_on: GoOn = lambda _: True) -> Curve:
    """A figure over one thing. Raises PhysicsError where ``go_on``, told the share done, says no."""
    x = over.values(count)
    # In a few pieces, each from one end to the other, so that helpers may take some.
    pieces = [tuple(float(value) for value in piece) for piece in np.array_split(x, PIECES) if len(piece)]
    field = _Field(prediction, name, (over,))
    pieces_of_curve = share(_along, field, [tuple((value,) for value in piece) for piece in pieces], _telling(go_on))
    values = np.array([value for piece in pieces_of_curve for value in piece])
    like = prediction[name]
    scale = np.abs(values / like.value) if like.value and math.isfinite(like.value) else np.ones(count)
    return Curve(over, like, x, values, like.u * scale)


def figure_map(
    prediction: Prediction, name: str, across: Over, up: Over, points: tuple[int, int] = MAP_POINTS,
    go_on: GoOn = lambda _: True,
) -> FigureMap:  # fmt: skip
    """A figure over two things. Raises PhysicsError where ``go_on``, told the share done, says no."""
    x, y = across.values(points[0]), up.values(points[1])
    # Half a row each.
    pieces = [tuple((float(value), float(high)) for value in half) for high in y for half in np.array_split(x, 2)]
    rows = share(_along, _Field(prediction, name, (across, up)), pieces, _telling(go_on))
    values = np.array([value for piece in rows for value in piece])
    return FigureMap(across, up, prediction[name], x, y, values.reshape(len(y), len(x)))


def _telling(go_on: GoOn) -> Callable[[float], None]:
    def told(share_done: float) -> None:
        if not go_on(share_done):
            raise PhysicsError("it was stopped")

    return told


@dataclasses.dataclass(frozen=True)
class _Field:
    """A figure of a build over things that vary."""

    prediction: Prediction
    name: str
    over: tuple[Over, ...]

    @property
    def read(self) -> tuple[str, float]:
        """The figure that a solution has, and how much of it this one is: the worst phase is known by its ratio."""
        ratio = self.prediction["clip_worst_v_peak"].value / self.prediction["clip_v_peak"].value
        worst = {"clip_worst_v_peak": ("clip_v_peak", 1), "clip_worst_power_w": ("clip_power_w", 2)}
        name, power = worst.get(self.name, (self.name, 0))
        return name, min(ratio, 1.0) ** power


def _along(field: _Field, places: Sequence[tuple[float, ...]]) -> list[float]:
    """The figure at places beside each other, each sought from the one before; NaN where the build could not run."""
    prediction = field.prediction
    name, scale = field.read
    # What comes from wall or battery need not be known for it, nor whether it can come: of these it always can.
    group = group_of_points(prediction.solution, name) if prediction.build.supply.always_gives else None
    column, near = [], None
    for place in places:
        near = _solved(prediction, dict(zip(field.over, place, strict=True)), near, alone=group is not None)
        value = math.nan
        if near is not None:
            with contextlib.suppress(PhysicsError):
                value = scale * (group or _every)(near).get(name, math.nan)
        column.append(value)
    return column


def _every(solution: Solution) -> dict[str, float]:
    return figure_values(solution, surge=False)


def _solved(
    prediction: Prediction, values: dict[Over, float], near: Solution | None, *, alone: bool
) -> Solution | None:
    """The build with these things so, ``alone`` without what comes from the wall; None where it could not run."""
    build, situation = prediction.build, prediction.situation
    changes = {over.key: value for over, value in values.items() if over.of_situation}
    if changes:
        situation = Situation.model_validate({**situation.model_dump(), **changes})
    nominal = {key: quantity.value for key, quantity in inputs_of(build, situation).items()}
    nominal |= {over.key: value for over, value in values.items() if not over.of_situation}
    for start in (near, None) if near is not None else (None,):
        with contextlib.suppress(PhysicsError):
            if alone:
                points = points_alone(build, situation, nominal, QUICK, start.points if start else None)
                if points is not None:
                    return Solution(
                        build,
                        situation,
                        nominal,
                        points=points,
                        wall=None,
                        battery=None,
                        input_rest=None,
                        ahead=Ahead(),
                    )
            return solution_of(build, situation, nominal, QUICK, start)
    return None
