"""Any figure over any one input or slider, as a curve with its band, or over two of them, as a map.

Each point is solved on the coarse grid from the one before on; relative spread and worst phase are those of the build's
own full prediction, as ``glance`` takes them: within 1.5 % of predicting every point in full (held by a test).
"""

import dataclasses
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.common_period import COARSE
from plinth.predict.figure import Figure
from plinth.predict.figures_of import figure_values
from plinth.predict.inputs import inputs_of
from plinth.predict.many import Choice
from plinth.predict.prediction import Prediction
from plinth.predict.solution import Solution
from plinth.predict.solve import solution_of, with_spread_like, worst_figures

Array = NDArray[np.float64]
GoOn = Callable[[float], bool]
POINTS, MAP_POINTS = 41, (14, 11)
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
    found = []
    if build.mains is not None and build.supply.kind in ("linear", "switcher"):
        volts = build.mains.v_nominal_rms
        found.append(Over("mains_v_rms", "mains", "V", 0.8 * volts, 1.2 * volts, log=False, of_situation=True))
    if build.supply.kind == "battery":
        battery = build.supply.battery
        found.append(Over("battery_v", "battery", "V", battery.v_empty, battery.v_full, log=False, of_situation=True))
    found += [
        Over("load_ohm", "load, each channel", "ohm", 2.0, 16.0, of_situation=True),
        Over("level", "level, of clip", "", 0.05, 1.0, log=False, of_situation=True),
        Over("frequency_hz", "signal", "Hz", 20.0, 20_000.0, of_situation=True),
        Over("crest_db", "peak over mean of the programme", "dB", 3.01, 20.0, log=False, of_situation=True),
        Over("ambient_c", "air", "°C", 5.0, 45.0, log=False, of_situation=True),
    ]
    for key, one in inputs_of(build, situation).items():
        if one.value > 0.0 and key != "r_load":
            found.append(Over(key, one.label, one.unit, one.value / AROUND, one.value * AROUND))
    return tuple(found)


def figures_shown(prediction: Prediction) -> tuple[Figure, ...]:
    """The figures that a curve can be drawn of: those that hold without switching on."""
    plain = figure_values(prediction.solution, surge=False)
    return tuple(one for name, one in prediction.figures.items() if (name in plain or "worst" in name) and one.known)


def curve(prediction: Prediction, name: str, over: Over, count: int = POINTS, go_on: GoOn = lambda _: True) -> Curve:
    """A figure over one thing. Raises PhysicsError where ``go_on``, told the share done, says no."""
    x = over.values(count)
    found, near = [], None
    for k, value in enumerate(x):
        figures, near = _at(prediction, {over: float(value)}, near)
        found.append(figures.get(name))
        if not go_on((k + 1) / count):
            raise PhysicsError("it was stopped")
    values = np.array([np.nan if one is None else one.value for one in found])
    return Curve(over, prediction[name], x, values, np.array([np.nan if one is None else one.u for one in found]))


def figure_map(
    prediction: Prediction, name: str, across: Over, up: Over, points: tuple[int, int] = MAP_POINTS,
    go_on: GoOn = lambda _: True,
) -> FigureMap:  # fmt: skip
    """A figure over two things. Raises PhysicsError where ``go_on``, told the share done, says no."""
    x, y = across.values(points[0]), up.values(points[1])
    value = np.full((len(y), len(x)), np.nan)
    near = None
    for j, high in enumerate(y):
        # There and back, so that each is sought from a neighbour.
        for i in range(len(x))[:: 1 if j % 2 == 0 else -1]:
            figures, near = _at(prediction, {across: float(x[i]), up: float(high)}, near)
            if name in figures:
                value[j, i] = figures[name].value
            if not go_on((j * len(x) + 1) / value.size):
                raise PhysicsError("it was stopped")
    return FigureMap(across, up, prediction[name], x, y, value)


def _at(
    prediction: Prediction, values: dict[Over, float], near: Solution | None
) -> tuple[dict[str, Figure], Solution | None]:
    """The figures with these things so; none where it could not run."""
    build, situation = prediction.build, prediction.situation
    changes = {over.key: value for over, value in values.items() if over.of_situation}
    if changes:
        situation = Situation.model_validate({**situation.model_dump(), **changes})
    nominal = {key: one.value for key, one in inputs_of(build, situation).items()}
    nominal |= {over.key: value for over, value in values.items() if not over.of_situation}
    solution = None
    for start in (near, None):
        try:
            solution = solution_of(build, situation, nominal, COARSE, start)
            break
        except PhysicsError:
            if start is None:
                return {}, None
    assert solution is not None, "found, or gone"
    figures = with_spread_like(figure_values(solution, surge=False), prediction)
    ratio = prediction["clip_worst_v_peak"].value / prediction["clip_v_peak"].value
    return figures | worst_figures(figures, min(ratio, 1.0)), solution
