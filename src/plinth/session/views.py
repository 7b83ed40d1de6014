"""What plots show of a build over a longer time: switch-on, a bass note, power off, warming up."""

import dataclasses
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from plinth.drawing.series import Series
from plinth.physics.mains.lamp import glow
from plinth.physics.rails.transients import SAFE_V
from plinth.predict import transients
from plinth.predict.bass_note import bass_note, note_hz
from plinth.predict.estimates import DEVICE_J_PER_K
from plinth.predict.mains_steps import mains_steps
from plinth.predict.prediction import Prediction
from plinth.predict.wall import cores_stated
from plinth.predict.warm_up import warm_up
from plinth.units.shown import shown

Array = NDArray[np.float64]

ONE_PERIOD, TURNED_UP = "period", "turned up"
SWITCH_ON, BASS_NOTE, POWER_OFF, WARM_UP = "switch-on", "bass note", "power off", "warm-up"


@dataclasses.dataclass(frozen=True)
class Picture:
    """One plot: title, curves, remark; ``x_scale`` from SI to what the axis counts in; what it counts."""

    title: str
    series: tuple[Series, ...]
    aside: str
    x_scale: float
    x_name: str = "t"
    x_unit: str = "s"


def views_of(prediction: Prediction | None) -> tuple[str, ...]:
    """The views that a build has."""
    if prediction is None:
        return (ONE_PERIOD,)
    # Behind a lamp nothing plays.
    views = [ONE_PERIOD, POWER_OFF] if prediction.situation.lamp_w else [ONE_PERIOD, BASS_NOTE, POWER_OFF]
    if transients.can_switch_on(prediction.solution):
        views.insert(1, SWITCH_ON)
        if prediction.situation.lamp_w is None:
            views.insert(2, TURNED_UP)
    if prediction.build.sink.heat_capacity_j_per_k is not None:
        views.append(WARM_UP)
    return tuple(views)


def pictures_of(view: str, prediction: Prediction) -> tuple[Picture, ...]:
    """Compute a view: one or two plots. Called off the window's thread."""
    make: dict[str, Callable[[Prediction], tuple[Picture, ...]]] = {
        SWITCH_ON: _switch_on, BASS_NOTE: _bass_note, POWER_OFF: _power_off, WARM_UP: _warm_up, TURNED_UP: _turned_up,
    }  # fmt: skip
    return make[view](prediction)


def _rails(course: transients.RailCourse) -> list[Series]:
    keep = slice(None, None, max(1, len(course.t_s) // 3000))
    t, name = course.t_s[keep], "rail" if course.v_minus is None else "+ rail"
    traces = [Series(name, t, course.v_plus[keep], role="plus", unit="V", label=name, label_at="above")]
    if course.v_minus is not None:
        traces.append(
            Series("− rail", t, -course.v_minus[keep], role="minus", unit="V", label="− rail", label_at="below")
        )
    return traces


def _switch_on(prediction: Prediction) -> tuple[Picture, ...]:
    up = prediction["switch_on_s"].value
    course = transients.switch_on(prediction.solution, float(np.clip(1.6 * up, 0.12, 3.0)))
    assert course.i_primary_a is not None
    rails = Picture("Rails from switch-on", tuple(_rails(course)), f"up after {shown(up, 's')} · V over ms", 1e3)
    if course.lamp_k is not None:
        t_lamp, k = _highest_kept(course.t_s, course.lamp_k)
        flash, rest = glow(float(np.max(k))), glow(prediction["lamp_k"].value)
        words = f"stays {rest}" if flash == rest else f"{flash}, then {rest}"
        filament = Series("filament", t_lamp, k, "ink2", "K")
        return rails, Picture("Filament of the lamp", (filament,), f"{words} · estimated, K over ms", 1e3)
    # The first peaks must survive the thinning, so the current is thinned by its highest.
    t, i = _highest_kept(course.t_s, course.i_primary_a)
    worst, i2t = prediction["inrush_peak_a"], prediction["inrush_i2t_a2s"]
    second = prediction.get("bridged_peak_a")
    again = f", {shown(second.value, 'A')} when bridged" if second is not None else ""
    words = f"at worst {shown(worst.value, 'A')}{again} · {shown(i2t.value, 'A²s', 2)} · its size, A over ms"
    return rails, Picture("Current from the wall", (Series("current", t, i, "ink2", "A"),), words, 1e3)


def _highest_kept(t: Array, y: Array, most: int = 2000) -> tuple[Array, Array]:
    """At most ``most`` points, each the highest of its stretch."""
    each = max(1, len(y) // most)
    whole = len(y) // each * each
    return t[:whole:each], y[:whole].reshape(-1, each).max(axis=1)


def _turned_up(prediction: Prediction) -> tuple[Picture, ...]:
    """What a variable transformer gives on its way up."""
    shares = tuple(np.linspace(0.05, 1.1, 22))
    steps = mains_steps(prediction.build, prediction.situation, shares)
    v, rail, amperes = (
        np.array([getattr(step, name) for step in steps]) for name in ("mains_v_rms", "rail_v", "primary_rms_a")
    )
    u_rail, u_amperes = (np.array([getattr(step, name) for step in steps]) for name in ("u_rail_v", "u_primary_rms_a"))
    wakes = next((step for step in steps if step.awake), None)
    words = "modules stay asleep" if wakes is None else f"modules at work from {shown(wakes.mains_v_rms, 'V', 2)}"
    # Asleep, the cores' own current may be most of it.
    cores = "" if cores_stated(prediction.build) else "without the cores' own, not stated · "
    name = "rail" if prediction.build.supply.single_rail else "+ rail"
    series = [Series(name, v, rail, role="plus", unit="V", label=name, label_at="above", spread=2.0 * u_rail)]
    if not prediction.build.supply.single_rail:
        series.append(
            Series("− rail", v, -rail, role="minus", unit="V", label="− rail", label_at="below", spread=2.0 * u_rail)
        )
    current = Series("current", v, amperes, role="ink2", unit="A", label="", label_at="above", spread=2.0 * u_amperes)
    return (
        Picture(
            "Rails on a variable transformer",
            tuple(series),
            f"{words} · V over V of mains",
            1.0,
            "mains",
            "V",
        ),
        Picture("Current from the wall", (current,), f"{cores}at rest, A over V of mains", 1.0, "mains", "V"),
    )


def _bass_note(prediction: Prediction) -> tuple[Picture, ...]:
    course = bass_note(prediction.solution)
    assert course.v_output is not None
    t, series = course.t_s, _rails(course)
    series.append(Series("output", t, course.v_output, role="ink", unit="V", label="output", label_at="corner"))
    lowest = float(np.min(course.v_plus))
    words, how = "it clips" if course.clips else "clean", "predicted"
    if course.limited_s > 0.0:
        # How far it folds back and how long it stays off is the usual, not stated.
        words, how = f"supply limits for {shown(course.limited_s, 's', 2)}", "estimated"
    if course.silent_s > 0.0:
        words += f", silent for {shown(course.silent_s, 's', 2)}"
    if course.locked_s is not None:
        limit, who = prediction.build.over_voltage_lockout or (0.0, "")
        words = f"pumped to {limit:g} V after {shown(course.locked_s, 's', 2)}: {who} shuts down"
    return (
        Picture(
            f"{note_hz(prediction.solution):g} Hz begins", tuple(series),
            f"rail down to {shown(lowest, 'V')}, {words} · {how}, V over ms", 1e3,
        ),
    )  # fmt: skip


def _power_off(prediction: Prediction) -> tuple[Picture, ...]:
    course = transients.switch_off(prediction.solution)
    # The rail that keeps its charge longer decides.
    highest = course.v_plus if course.v_minus is None else np.maximum(course.v_plus, course.v_minus)
    below = np.flatnonzero(highest < SAFE_V)
    words = f"below {SAFE_V:g} V after {shown(float(course.t_s[below[0]]), 's')}" if len(below) else "still charged"
    return (
        Picture(
            "Rails after power off", tuple(_rails(course)),
            f"{words} · V over s · measure before touching", 1.0,
        ),
    )  # fmt: skip


def _warm_up(prediction: Prediction) -> tuple[Picture, ...]:
    course = warm_up(prediction.solution)
    assert course is not None
    minutes = prediction["sink_settle_s"].value / 60.0
    heat = Picture(
        "Warming up at rest",
        (
            Series("sink", course.t_s, course.sink_c, role="minus", unit="°C", label="sink", label_at="below"),
            Series(
                "device", course.t_s, course.device_c, role="plus", unit="°C", label="device, inside", label_at="above"
            ),
        ),
        f"within 5 % after {minutes:.0f} min · °C over minutes, device taken as {DEVICE_J_PER_K:g} J/K",
        1 / 60,
    )
    if course.bias_a is None:
        return (heat,)
    bias = Series("bias of a pair", course.t_s, course.bias_a, "ink2", "A")
    cold, warm = (shown(float(course.bias_a[k]), "A") for k in (0, -1))
    return heat, Picture("Bias while it warms", (bias,), f"{cold} cold, {warm} warm · A over minutes", 1 / 60)
