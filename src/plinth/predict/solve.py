"""A build in a situation -> figures, waveforms, warnings."""

import contextlib
import dataclasses
import functools
import math
from collections.abc import Iterator, Mapping
from typing import Any

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.numbers.errors import PhysicsError, RailCollapseError
from plinth.physics.rails.common_period import COARSE, FINE, Grid
from plinth.predict.at_rest import at_rest
from plinth.predict.catalogue import CATALOGUE
from plinth.predict.circuits import circuit_of, drive_of, input_circuit_of
from plinth.predict.figure import Contribution, Figure
from plinth.predict.figure_values import figure_values, switch_on_s
from plinth.predict.input import Input
from plinth.predict.inputs import inputs_of
from plinth.predict.lamp_ahead import lamp_ahead
from plinth.predict.mains_unstated import mains_changes, with_mains
from plinth.predict.operating_points import OperatingPoints, solve_points
from plinth.predict.power_state import lay_period, network_onset, plain_onsets
from plinth.predict.prediction import Prediction
from plinth.predict.propagate import as_contributions, combined, contributions
from plinth.predict.solution import Solution
from plinth.predict.source_chain import MOST_WARMINGS, Ahead, ahead_of
from plinth.predict.supply_kinds.numbers import Values
from plinth.predict.transients import can_switch_on, fuse_i2t_a2s
from plinth.predict.wall import battery_draw, wall_draw
from plinth.predict.warnings import warnings_of

PHASES = 8


def solve(build: Build, situation: Situation | None = None, spreads_of: Prediction | None = None) -> Prediction:
    """Predict a build, in no particular situation if none is given.

    With ``spreads_of`` an earlier prediction, only the values are computed and the relative spreads are
    taken from it: for the picture while a slider moves, a tenth of the work.

    Raises PhysicsError (RailCollapseError, NoSwingError) where no such circuit could run.
    """
    situation = situation or Situation()
    return _solve(build, situation, spreads_of) if spreads_of is not None else solve_fully(build, situation)


# Undo, another build and back, the same dummy load on two pages: all ask for what was just computed. Builds and
# situations are frozen, so an answer stays right; a few are kept, because each holds its waveforms.
@functools.lru_cache(maxsize=16)
def solve_fully(build: Build, situation: Situation) -> Prediction:
    """As ``solve``, with every spread computed; the last few answers are remembered."""
    return _solve(build, situation, None)


def solution_of(
    build: Build, situation: Situation, values: Values, grid: Grid = FINE, near: Solution | None = None
) -> Solution:
    """Everything solved for one set of input values; ``near`` the solution of similar ones on the same grid.

    Raises PhysicsError where such a circuit could not run.
    """
    lamp = lamp_ahead(build, situation, values, near.lamp if near else None, look_around=near is None and grid == FINE)
    ahead = ahead_of(build, lamp, near.ahead if near else None)
    try:
        sought = _behind(build, situation, values, grid, near, ahead)
    except RailCollapseError as error:
        if lamp is None:
            raise
        raise RailCollapseError(
            f"behind the lamp of {lamp.lamp.p_rated_w:g} W what hangs on the rails finds no rest: it asks for more "
            "than the lamp lets through, which then stays at full brightness. Take a larger lamp or less load"
        ) from error
    # A thermistor is as warm as the current keeps it, and the current hardly depends on how warm it is.
    for _ in range(MOST_WARMINGS if ahead.warms else 0):
        assert sought.wall is not None, "a transformer hangs on the mains"
        warmed = ahead.warmed(sought.wall.flow.i_rms_a, situation.ambient_c)
        if ahead.like(warmed):
            break
        ahead = warmed
        sought = _behind(build, situation, values, grid, sought, ahead)
    return sought


def _behind(
    build: Build, situation: Situation, values: Values, grid: Grid, near: Solution | None, ahead: Ahead
) -> Solution:
    """Solved with this ahead of the primaries; where a similar solution misleads (pumped rails), from nothing."""
    if near is None:
        return _sought(build, situation, values, grid, None, ahead)
    try:
        return _sought(build, situation, values, grid, near, ahead)
    except RailCollapseError:
        return _sought(build, situation, values, grid, None, ahead)


def _sought(
    build: Build, situation: Situation, values: Values, grid: Grid, near: Solution | None, ahead: Ahead
) -> Solution:
    values = ahead.before(values)
    points = _points(build, situation, values, grid, near.points if near else None).all_solved()
    input_rest = None
    if build.supply.transformer is not None and build.supply.input_supply is not None:
        rest = input_circuit_of(build, situation, values)
        known = near.input_rest if near is not None else None
        input_rest = known if known is not None and known.circuit == rest else at_rest(rest, grid, known)
    battery = None
    if build.supply.converter is not None:
        battery = battery_draw(build.supply, situation.battery(build), values, points)
    wall = wall_draw(build, situation, values, points, input_rest, near.wall if near else None)
    return Solution(
        build, situation, values, points=points, wall=wall, battery=battery, input_rest=input_rest, ahead=ahead
    )


def points_alone(
    build: Build, situation: Situation, values: Values, grid: Grid, near: OperatingPoints | None = None
) -> OperatingPoints | None:
    """The operating points without what flows from wall or battery, their further states solved when asked for.

    None where the one cannot be had without the other: behind a lamp, or behind a soft start that stays and warms.
    Raises PhysicsError, then too.
    """
    ahead = ahead_of(build)
    if situation.lamp_w is not None or ahead.soft is not None:
        return None
    return _points(build, situation, ahead.before(values), grid, near)


def _points(
    build: Build, situation: Situation, values: Values, grid: Grid, near: OperatingPoints | None
) -> OperatingPoints:
    circuit, drive = circuit_of(build, situation, values), drive_of(build, situation)
    if near is not None and (circuit, drive, grid) == (near.circuit, near.drive, near.grid):
        return near
    return solve_points(circuit, drive, grid, near)


def _solve(build: Build, situation: Situation, spreads_of: Prediction | None) -> Prediction:
    inputs = inputs_of(build, situation)
    nominal = {key: quantity.value for key, quantity in inputs.items()}
    solution = _solved_near(build, situation, nominal, spreads_of)
    values = figure_values(solution)
    # Through a lamp the march is long and tells next to nothing: while a slider moves, the last one stands.
    passes = spreads_of is not None and solution.lamp is not None
    filling = _filling(solution) if can_switch_on(solution) and not passes else {}
    if spreads_of is None:
        rough = solution_of(build, situation, nominal, COARSE)
        near = _Near(inputs, rough)
        figures = _with_spread(values, with_mains(_changes(near), mains_changes(rough, nominal, solution_of)))
        figures |= _worst_phase(figures, rough)
        if filling:
            figures |= _filling_figures(filling, near)
    else:
        figures = with_spread_like({**values, **filling}, spreads_of)
        figures |= {name: spread for name in _FILLED if passes and (spread := spreads_of.get(name)) is not None}
    return Prediction(build, situation, figures, inputs, solution, warnings_of(solution, inputs))


def _solved_near(build: Build, situation: Situation, nominal: Values, earlier: Prediction | None) -> Solution:
    """The solution, sought from an earlier one on, which seldom misleads: then from nothing."""
    if earlier is not None:
        with contextlib.suppress(PhysicsError):
            return solution_of(build, situation, nominal, FINE, earlier.solution)
    return solution_of(build, situation, nominal)


class _Near:
    """Solutions near a rough one, each sought once: figures and switch-on move some of the same inputs."""

    def __init__(self, inputs: Mapping[str, Input], rough: Solution) -> None:
        self.inputs, self.rough = inputs, rough
        self._known: dict[tuple[float, ...], Solution] = {}

    def at(self, values: Mapping[str, float]) -> Solution:
        key = tuple(values[name] for name in self.inputs)
        if key not in self._known:
            rough = self.rough
            self._known[key] = solution_of(rough.build, rough.situation, values, COARSE, rough)
        return self._known[key]


def _changes(near: _Near) -> dict[str, list[tuple[Input, float]]]:
    return contributions(lambda values: figure_values(near.at(values)), near.inputs)


_FILLED = ("inrush_i2t_a2s", "switch_on_s")
# What decides how much current fills the reservoirs, and how long.
_FILLING = ("c", "regulation", "v_secondary")


def _filling(solution: Solution, steps: int = 100) -> dict[str, float]:
    return {"inrush_i2t_a2s": fuse_i2t_a2s(solution, steps), "switch_on_s": switch_on_s(solution)}


def _filling_figures(values: Mapping[str, float], near: _Near) -> dict[str, Figure]:
    """The switch-on is a march of its own, so only what matters to it is moved."""
    nominal = {key: quantity.value for key, quantity in near.inputs.items()}
    changes = contributions(
        lambda moved: _filling(near.at({**nominal, **moved}), 50), {key: near.inputs[key] for key in _FILLING}
    )
    return {
        name: _figure(name, value, combined(changes[name]), as_contributions(changes[name]))
        for name, value in values.items()
    }


def _worst_phase(figures: Mapping[str, Figure], rough: Solution) -> dict[str, Figure]:
    """The least onset over the phases of a slot, by its ratio to the onset at the phase asked for."""
    drive = drive_of(rough.build, rough.situation)
    circuit = drive.at_clip(rough.points.circuit)
    shared = rough.points.at_level.period.shared
    by_phase = {drive.phase_deg: rough.points.clip_v_peak}
    slot = 0.0 if circuit.steady_v else 360.0 / shared.half_cycles
    for k in range(1, PHASES if slot else 0):
        phase = drive.phase_deg + slot * k / PHASES
        period = lay_period(circuit, drive.f_signal_hz, phase, COARSE)
        by_phase[phase] = (
            min(onset.v_peak for onset in plain_onsets(circuit, period, drive.driven, rough.points.onsets))
            if circuit.plain
            else network_onset(circuit, period, drive.driven, rough.points.network_onset).v_peak
        )
    worst = min(by_phase, key=by_phase.__getitem__)
    # The modules' own current limit knows no phase.
    ratio = min(by_phase[worst], circuit.v_at_limit) / rough.points.clip_v_peak
    return {
        **worst_figures(figures, ratio),
        "clip_worst_phase_deg": _figure(
            "clip_worst_phase_deg", (worst + 180.0) % 360.0 - 180.0, slot / PHASES / 2.0, ()
        ),
    }


def worst_figures(figures: Mapping[str, Figure], ratio: float) -> dict[str, Figure]:
    """Onset and power at the worst phase, where the onset is ``ratio`` of the one asked for."""
    worst = {}
    for name, like, scale in (
        ("clip_worst_v_peak", "clip_v_peak", ratio), ("clip_worst_power_w", "clip_power_w", ratio**2),
    ):  # fmt: skip
        near = figures[like]
        rows = tuple(dataclasses.replace(row, u_figure=scale * row.u_figure) for row in near.contributions)
        worst[name] = _figure(name, near.value * scale, near.u * scale, rows)
    return worst


def _with_spread(values: Mapping[str, float], changes: Mapping[str, list[tuple[Input, float]]]) -> dict[str, Figure]:
    return {
        name: _figure(name, value, combined(changes[name]), as_contributions(changes[name]))
        for name, value in values.items()
    }


def with_spread_like(values: Mapping[str, float], earlier: Prediction) -> dict[str, Figure]:
    """Values as figures with the relative spreads of an earlier prediction; without one where that has none."""
    return {name: _like(name, value, earlier.get(name)) for name, value in values.items()}


def _like(name: str, value: float, like: Figure | None) -> Figure:
    if like is None:
        return _figure(name, value, 0.0, ())
    scale = abs(value / like.value) if like.value and math.isfinite(like.value) else 1.0
    return Figure(
        name, like.label, value, unit=like.unit, u=like.u * scale, origin=like.origin, contributions=like.contributions
    )


class FiguresLike(Mapping[str, Figure]):
    """As ``with_spread_like``, with the worst phase's at a ratio of onsets; each is made when it is first asked for."""

    def __init__(self, values: Mapping[str, float], earlier: Prediction, worst_ratio: float) -> None:
        worst = {
            "clip_worst_v_peak": values["clip_v_peak"] * worst_ratio,
            "clip_worst_power_w": values["clip_power_w"] * worst_ratio**2,
        }
        self._values, self._earlier = {**values, **worst}, earlier
        self._made: dict[str, Figure] = {}

    def __getitem__(self, name: str) -> Figure:
        """The figure of that name. Raises KeyError where there is none."""
        if name not in self._made:
            self._made[name] = _like(name, self._values[name], self._earlier.get(name))
        return self._made[name]

    def __iter__(self) -> Iterator[str]:
        """Their names."""
        return iter(self._values)

    def __len__(self) -> int:
        """How many there are."""
        return len(self._values)

    def __contains__(self, name: object) -> bool:
        """Whether there is one of that name."""
        return name in self._values

    def get(self, name: str, default: Any = None) -> Any:
        """The figure of that name, ``default`` where there is none."""
        return self[name] if name in self._values else default


def _figure(name: str, value: float, u: float, rows: tuple[Contribution, ...]) -> Figure:
    entry = CATALOGUE[name]
    return Figure(name, entry.label, value, unit=entry.unit, u=u, origin=entry.origin, contributions=rows)


@functools.lru_cache(maxsize=64)
def idle_rail_v(build: Build) -> float:
    """The rail at idle and nominal mains, V, without its uncertainty. Raises PhysicsError."""
    values = {key: quantity.value for key, quantity in inputs_of(build).items()}
    circuit = circuit_of(build, Situation(), ahead_of(build).before(values))
    rail = at_rest(circuit, FINE).plus
    return rail.mean(rail.v_node)
