"""The pictures of the guide, made from the demo by the code that draws the same on the screen."""

from collections.abc import Callable
from pathlib import Path

import numpy as np

from plinth.bench.hookup import hookup
from plinth.builds.situation import Situation
from plinth.demo.builds import STAGE_PAIR
from plinth.desk.tokens import LIGHT
from plinth.drawing.series import Series
from plinth.drawing.svg import plot_svg, sketch_svg
from plinth.guide.inspection.sketches import sketch_of
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.session.views import POWER_OFF, SWITCH_ON, TURNED_UP, pictures_of

FOLDER = Path(__file__).parents[1] / "src" / "plinth" / "manual" / "pictures"


def _period(_prediction: Prediction) -> str:
    # Slow enough for its waves to be seen beside the ripple.
    state = solve(STAGE_PAIR, Situation(frequency_hz=200.0)).state
    t = np.linspace(0.0, state.period.steps * state.period.step_s, state.period.steps + 1)
    curves = [Series("+ rail", t, state.plus.v_node, "plus", "V"), Series("output", t, state.v_output, "ink", "V")]
    if state.minus is not None:
        curves.append(Series("− rail", t, -state.minus.v_node, "minus", "V"))
    return plot_svg(
        curves, LIGHT, words="Rails and output over one period", x_label="ms", y_label="V", x_scale=1e3
    )  # fmt: skip


def _view(view: str, *, x_label: str) -> Callable[[Prediction], str]:
    def draw(prediction: Prediction) -> str:
        picture = pictures_of(view, prediction)[0]
        return plot_svg(
            picture.series, LIGHT, words=picture.title, x_label=x_label, y_label="V", x_scale=picture.x_scale
        )

    return draw


def _check(key: str) -> Callable[[Prediction], str]:
    def draw(_prediction: Prediction) -> str:
        sketch = sketch_of(key, STAGE_PAIR)
        assert sketch is not None, key
        return sketch_svg(sketch, LIGHT)

    return draw


def _test(name: str) -> Callable[[Prediction], str]:
    return lambda _prediction: sketch_svg(hookup(name, STAGE_PAIR, STAGE_PAIR.channels[0]), LIGHT)


def _spread(prediction: Prediction) -> str:
    """How likely each value of a figure is, with the band that holds 95 of 100."""
    figure = prediction["rail_idle_v"]
    at = np.linspace(-3.5, 3.5, 141)
    inside = np.abs(at) <= 2.0
    volts = figure.value + at * figure.u
    height = np.exp(-0.5 * at**2)
    band = Series("95 of 100", volts[inside], height[inside], "pred", "")
    return plot_svg(
        [Series("likelihood", volts, height, "ink2", ""), band], LIGHT,
        words=f"Rail at idle, {figure.value:.1f} V with a spread of {figure.spread:.1f} V", x_label="V of rail at idle",
        y_label="",
    )  # fmt: skip


PICTURES: dict[str, Callable[[Prediction], str]] = {
    "one-period": _period,
    "switch-on": _view(SWITCH_ON, x_label="ms"),
    "turned-up": _view(TURNED_UP, x_label="V of mains"),
    "power-off": _view(POWER_OFF, x_label="s"),
    "spread": _spread,
    "mains-side": _check("fuse_and_switch"),
    "earth": _check("earth_bond"),
    "polarity": _check("polarity"),
    "hookup-rails": _test("rails"),
    "hookup-signal": _test("gain"),
    "hookup-impedance": _test("impedance"),
    "hookup-protection": _test("protection"),
    "hookup-mains": _test("mains"),
}


def pictures() -> dict[str, str]:
    """All of them by name, as SVG."""
    prediction = solve(STAGE_PAIR, Situation())
    return {name: draw(prediction) for name, draw in PICTURES.items()}


def write_pictures() -> None:
    """Write them into the package."""
    FOLDER.mkdir(exist_ok=True)
    for name, svg in pictures().items():
        (FOLDER / f"{name}.svg").write_text(svg, encoding="utf-8")
