"""Curves and maps of any figure, as a window asks for them."""

import math
from collections.abc import Callable

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.judge.rules import judge
from plinth.predict.curve import Curve, FigureMap, Over, curve, figure_map, figures_shown, what_can_vary
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve

__all__ = [
    "Curve",
    "FigureMap",
    "Over",
    "curve_of",
    "figures_shown",
    "limit_of",
    "map_of_figure",
    "place_of",
    "what_can_vary",
]

GoOn = Callable[[float], bool]


def curve_of(build: Build, situation: Situation, name: str, over: Over, go_on: GoOn) -> Curve:
    """A figure over one thing. Raises PhysicsError where it cannot run or is stopped."""
    return curve(solve(build, situation.model_copy(update={"lamp_w": None})), name, over, go_on=go_on)


def map_of_figure(build: Build, situation: Situation, name: str, across: Over, up: Over, go_on: GoOn) -> FigureMap:
    """A figure over two things. Raises PhysicsError where it cannot run or is stopped."""
    return figure_map(solve(build, situation.model_copy(update={"lamp_w": None})), name, across, up, go_on=go_on)


def limit_of(prediction: Prediction, figure: Figure) -> tuple[float, str] | None:
    """What a figure is judged against and what that limit is; None where nobody judges it."""
    for margin in judge(prediction):
        if margin.figure is not None and margin.figure.name == figure.name and margin.limit is not None:
            return margin.limit, margin.limit_words
    return None


def place_of(drawn: FigureMap, prediction: Prediction) -> tuple[float, float] | None:
    """Where the build itself stands in a map (logarithms where an axis is logarithmic); None where it lies outside."""
    build, situation = prediction.build, prediction.situation
    stated = {
        "mains_v_rms": situation.mains_rms(build), "load_ohm": situation.load(build),
        "battery_v": situation.battery(build),
    }  # fmt: skip
    place = []
    for over in (drawn.across, drawn.up):
        here = stated.get(over.key, getattr(situation, over.key, None)) if over.of_situation else None
        here = prediction.inputs[over.key].value if here is None and over.key in prediction.inputs else here
        if here is None or not over.low <= here <= over.high:
            return None
        place.append(math.log10(here) if over.log else float(here))
    return place[0], place[1]
