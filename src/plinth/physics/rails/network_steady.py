"""Steady state and clip onset of a rail network, by shooting on its state at the mains zero crossing.

A load whose current depends on the rails (class D, a regulator's constant power) is laid on as a current plus its mean
slope, and laid on anew until the rails no longer move: the slope only decides how fast that settles, not where.
"""

import dataclasses
import functools
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from plinth.physics.numbers.errors import NoSwingError, PhysicsError, RailCollapseError, RailRunOffError
from plinth.physics.numbers.roots import last_had
from plinth.physics.rails.between_samples import least_by_parabola
from plinth.physics.rails.network import (
    Drives,
    NetworkMarch,
    NetworkWaves,
    load_voltage_slopes,
    load_volts,
    march_network,
    waves_of,
)
from plinth.physics.rails.network_elements import RailNetwork

Array = NDArray[np.float64]

# A gap that counts as closed, as a share of how near the state must be.
CLOSED = 0.1
# A gap so small that rounding is all there is.
REST_V = 1e-13
MOST_MARCHES = 30
# Of amplitude and state together; of the state alone, where trials are mixed.
JOINT_ROUNDS, MOST_ROUNDS = 20, 45
# Rounds in which a load is simply laid on anew; where that does not settle, trials are mixed, so many at once.
PLAIN_ROUNDS, MIXED = 4, 6
# The same for the rails that a load is laid on anew for, and for the amperes of one that bends with the amplitude.
SETTLED = 2.0
SETTLED_A_PER_V = 0.1
MOST_PUMPED = 20.0
# While each round leaves less than this share of the last one's change, the load's slopes need not be taken anew.
QUICK = 0.3
NO_REST = "this load finds no resting point on these rails: it asks for more than they can give"


@dataclasses.dataclass(frozen=True)
class Loading:
    """A load at one amplitude and on given rails: amperes from each rail.

    ``at`` (n + 1, m), ``mean`` (n, m); ``unit_at``, ``unit_mean`` their slope by amplitude; ``g`` mean slope by rail
    volts, [drawn from][volts of].
    """

    at: Array
    mean: Array
    unit_at: Array
    unit_mean: Array
    g: tuple[tuple[float, ...], ...] = ()


@dataclasses.dataclass(frozen=True)
class LoadLaw:
    """``draw(amplitude, v_load)`` what a load takes; ``follows_rails``: it depends on ``v_load`` (n + 1, m)."""

    draw: Callable[[float, Array], Loading]
    follows_rails: bool


@dataclasses.dataclass(frozen=True)
class RailSource:
    """What feeds the rails: see ``Drives``; ``step_s`` the grid; ``near_v`` how near its state is sought, V."""

    emf: Array
    late_emf: Array
    zero_every: int
    step_s: float
    near_v: float = 1e-5

    @functools.cached_property
    def crest(self) -> float:
        """The highest that any rail's source gets, V."""
        return float(self.emf.max())


@dataclasses.dataclass(frozen=True)
class OutputNeeds:
    """Limits of the output: ``weights @ v_rails - v_sat - amplitude x needed`` must not fall below 0 at any instant.

    ``weights`` (limits, m), ``v_sat`` (limits,), ``needed`` (n + 1, limits) volts per volt of amplitude;
    ``most_v`` an amplitude that cannot be passed for another reason (a single-ended stage's idle current).
    """

    weights: Array
    v_sat: Array
    needed: Array
    most_v: float = np.inf


@dataclasses.dataclass(frozen=True)
class NetworkState:
    """One period in steady state. ``i_load_mean`` (n, m) over each step."""

    network: RailNetwork
    source: RailSource
    march: NetworkMarch
    waves: NetworkWaves
    i_load_mean: Array
    marches: int


@dataclasses.dataclass(frozen=True)
class NetworkOnset:
    """``v_peak`` the onset amplitude and the steady state there; ``limit`` which of the output's limits it touches."""

    v_peak: float
    state: NetworkState
    limit: int


def steady_state(
    network: RailNetwork, source: RailSource, law: LoadLaw, amplitude: float, near: NetworkState | None = None
) -> NetworkState:
    """The periodic steady state at a load amplitude. Raises RailCollapseError where a rail falls to 0 V.

    ``near`` the state of a similar case on the same grid, to save marches.
    """
    v, x = _begin(network, source, near)
    marches, stuck, last, laid = 0, 0, np.inf, _laid_near(network, law, near)
    mixed = _Mixed()
    for round_ in range(MOST_ROUNDS if law.follows_rails else 1):
        loading = law.draw(amplitude, v)
        if laid is None:
            laid = dataclasses.replace(network, g_load=_calm(network, loading.g))
        drives = _laid_on(source, laid, loading, v)
        result, count = _shoot(laid, drives, source, x)
        marches += count
        at_load = load_volts(laid, drives, source.step_s, result)
        change = float(np.abs(at_load - v).max())
        if not law.follows_rails or change < SETTLED * source.near_v:
            return _refuse_collapse(_as_state(laid, source, drives, result, marches))
        _refuse_run_off(source, laid, at_load)
        stuck = stuck + 1 if round_ > 3 and change > 0.95 * last else 0
        slow, last = change > QUICK * last, change
        if stuck > 2:
            break
        if round_ > 4 and float(np.min(at_load)) <= 0.0:
            return _refuse_collapse(_as_state(laid, source, drives, result, marches))
        following = mixed.after(v, at_load) if round_ >= PLAIN_ROUNDS else at_load
        v, x = np.maximum(following, 0.02 * np.max(source.emf)), result.x[0]
        laid = None if slow and round_ < PLAIN_ROUNDS else laid
    raise RailCollapseError(NO_REST)


class _Mixed:
    """Where to try next, from the last few rails tried and what became of them.

    A half bridge whose rails float answers a rail with more than it was given: plain repetition swings apart there.
    Anderson's mixing (J. ACM 12, 1965): the combination of the last trials whose changes cancel best.
    """

    def __init__(self) -> None:
        self._tried: list[Array] = []
        self._changes: list[Array] = []

    def after(self, v: Array, after_v: Array) -> Array:
        """The next rails to try, where ``v`` led to ``found``."""
        self._tried, self._changes = [*self._tried[-MIXED:], v], [*self._changes[-MIXED:], after_v - v]
        if len(self._tried) == 1:
            return v + 0.5 * (after_v - v)
        last = self._changes[-1].ravel()
        steps = np.stack([last - change.ravel() for change in self._changes[:-1]], axis=1)
        share, *_ = np.linalg.lstsq(steps, last, rcond=1e-8)
        trial, change = self._tried[-1].copy(), self._changes[-1].copy()
        for weight, at, moved in zip(share, self._tried[:-1], self._changes[:-1], strict=True):
            trial -= weight * (self._tried[-1] - at)
            change -= weight * (self._changes[-1] - moved)
        return np.asarray(trial + change)


def onset(
    network: RailNetwork, source: RailSource, law: LoadLaw, needs: OutputNeeds, near: NetworkOnset | None = None
) -> NetworkOnset:
    """The largest amplitude that no limit clips. Raises NoSwingError where even the unloaded rail leaves none."""
    highest = needs.weights @ np.max(source.emf, axis=0) - needs.v_sat
    reach = np.max(needs.needed, axis=0)
    maximum = float(np.min(highest / np.maximum(reach, 1e-12)))
    if maximum <= 0.0:
        raise NoSwingError(
            f"the rail's crest of {np.max(source.emf):.3g} V is below the {np.max(needs.v_sat):.3g} V that "
            "the module itself needs"
        )
    maximum = min(maximum * (1.5 if law.follows_rails else 1.0), needs.most_v)
    try:
        joint = _joint(network, source, law, needs, maximum, near)
    except PhysicsError:
        joint = None
    if joint is not None:
        return joint
    # Where what the stages draw at rest is too much already, no amplitude will do, and this says so.
    rest = steady_state(network, source, law, 0.0, near.state if near else None)
    return _bisected(network, source, law, needs, maximum, rest)


def _begin(network: RailNetwork, source: RailSource, near: NetworkState | None) -> tuple[Array, Array]:
    shape = (len(source.emf), network.size)
    if near is not None and near.march.x.shape == shape and len(near.network.rails) == len(network.rails):
        return near.waves.v_load, near.march.x[0]
    crest = np.max(source.emf, axis=0)
    x = np.zeros(network.size)
    for r, place in enumerate(network.places):
        for name, at in place.items():
            if name.startswith("v_"):
                x[at] = 0.93 * crest[r]
    return np.tile(0.9 * crest, (len(source.emf), 1)), x


def _laid_near(network: RailNetwork, law: LoadLaw, near: NetworkState | None) -> RailNetwork | None:
    """The network with the load's slopes of a similar case: its matrices are at hand.

    Only where rounds bring the load to rest: one that does not follow the rails is laid on once, with its own slopes.
    """
    if near is None or not law.follows_rails or dataclasses.replace(near.network, g_load=()) != network:
        return None
    return near.network


def _calm(network: RailNetwork, g: tuple[tuple[float, ...], ...]) -> tuple[tuple[float, ...], ...]:
    """Slopes of a load held below what sources and capacitors stand: beyond, the laid-on network itself runs off."""
    if not g or _passive(g):
        return g
    stiffness = [max(r.r_source_ohm + network.r_shared_ohm, r.esr_ohm, r.esr2_ohm) for r in network.rails]
    maximum = 0.2 / max(stiffness)
    steepest = max(abs(x) for row in g for x in row)
    if steepest <= maximum:
        return g
    return tuple(tuple(x * maximum / steepest for x in row) for row in g)


def _passive(g: tuple[tuple[float, ...], ...]) -> bool:
    """Whether slopes are those of resistors: such a load settles whatever feeds it, and is laid on just as it is."""
    return all((x >= 0.0) if r == c else x == 0.0 for r, row in enumerate(g) for c, x in enumerate(row))


def _laid_on(source: RailSource, network: RailNetwork, loading: Loading, v: Array) -> Drives:
    g = network.conductance.T
    return Drives(
        source.emf, source.late_emf, loading.at - v @ g, loading.mean - 0.5 * (v[:-1] + v[1:]) @ g, source.zero_every
    )


def _shoot(network: RailNetwork, drives: Drives, source: RailSource, x: Array) -> tuple[NetworkMarch, int]:
    """Newton on x[n] = x[0], with the step halved where it does not help, and plain periods as a last resort."""
    step_s, near_v = source.step_s, source.near_v
    highest, scale = _bounds(network, drives)
    result = march_network(network, drives, step_s, x)
    gap = result.x[-1] - x
    size, marches = float((np.abs(gap) / scale).max()), 1
    while size > REST_V and marches < MOST_MARCHES:
        step = _newton_step(result.end_slope, gap)
        # Judged by how far Newton would still go: with a slow rail the gap of one period alone tells little.
        if size < CLOSED * near_v and float((np.abs(step) / scale).max()) < near_v:
            break
        for halving in range(5):
            tried = np.minimum(np.maximum(x + step * 0.5**halving, -highest), highest)
            tried = _without_reverse(network, tried)
            try:
                moved = march_network(network, drives, step_s, tried)
            except RailRunOffError:
                continue
            marches += 1
            gap_there = moved.x[-1] - tried
            size_there = float((np.abs(gap_there) / scale).max())
            if size_there < size * (1.0 - 1e-3):
                break
        else:
            tried = _without_reverse(network, result.x[-1])
            moved = march_network(network, drives, step_s, tried)
            marches += 1
            gap_there = moved.x[-1] - tried
            size_there = float(np.max(np.abs(gap_there) / scale))
        x, result, gap, size = tried, moved, gap_there, size_there
    if size > 1e-3:
        raise RailCollapseError(NO_REST)
    return result, marches


def _newton_step(slope: Array, gap: Array) -> Array:
    inner = np.eye(len(gap)) - slope
    # A rail that nothing discharges keeps any voltage above the crest: a tiny leak makes the answer single.
    try:
        return np.asarray(np.linalg.solve(inner + 1e-12 * np.eye(len(gap)), gap))
    except np.linalg.LinAlgError:
        return gap


def _bounds(network: RailNetwork, drives: Drives) -> tuple[Array, Array]:
    """How far each state may go, and the size in which its gap counts (volts; amperes by the source's own scale)."""
    highest, scale = np.empty(network.size), np.ones(network.size)
    crest = max(float(np.max(drives.emf)), 1e-3)
    # Nothing but a coil or a load that gives back lifts a capacitor above the crest.
    lifted = any(rail.l_source_h or rail.l_series_h for rail in network.rails) or bool(network.g_load)
    most_v = MOST_PUMPED * crest if lifted or float(np.min(drives.load_mean)) < 0.0 else crest
    for rail, place in zip(network.rails, network.places, strict=True):
        for name, at in place.items():
            highest[at] = most_v if name.startswith("v_") else 50.0 * crest / max(rail.r_source_ohm, 1e-4)
            if not name.startswith("v_"):
                scale[at] = 1.0 / max(rail.r_source_ohm, 1e-3)
    return highest, scale


def _without_reverse(network: RailNetwork, x: Array) -> Array:
    for place in network.places:
        if "i_source" in place:
            x[place["i_source"]] = max(x[place["i_source"]], 0.0)
    return x


def _as_state(
    network: RailNetwork, source: RailSource, drives: Drives, result: NetworkMarch, marches: int
) -> NetworkState:
    waves = waves_of(network, drives, source.step_s, result)
    middle = 0.5 * (waves.v_load[:-1] + waves.v_load[1:])
    return NetworkState(network, source, result, waves, drives.load_mean + middle @ network.conductance.T, marches)


def _refuse_run_off(source: RailSource, network: RailNetwork, at_load: Array) -> None:
    """A half bridge on reservoirs that are far too small pumps its rails up without end."""
    highest, crest = float(np.abs(at_load).max()), source.crest
    if not highest < MOST_PUMPED * crest:
        raise RailRunOffError(
            f"this output pumps the rails beyond {MOST_PUMPED:g} times the supply's {crest:.3g} V: the capacitors of "
            f"{1e6 * network.rails[0].c_f:.3g} µF are far too small for it"
        )


def _refuse_collapse(state: NetworkState) -> NetworkState:
    lowest = float(np.min(state.waves.v_load))
    if lowest <= 0.0:
        drawn = np.max(np.mean(state.i_load_mean, axis=0))
        raise RailCollapseError(
            f"this load collapses the rail: it draws {drawn:.3g} A on average and the supply's crest is "
            f"{np.max(state.source.emf):.3g} V behind {state.network.rails[0].r_source_ohm:.3g} ohm"
        )
    return state


def _least(margins: Array) -> tuple[int, int, float]:
    """Which limit is nearest, at which sample, and how near, interpolated between samples."""
    minima = [least_by_parabola(margins[:, c]) for c in range(margins.shape[1])]
    c = min(range(len(minima)), key=lambda i: minima[i][1])
    return c, minima[c][0], minima[c][1]


def _margins(waves_v: Array, needs: OutputNeeds, amplitude: float) -> Array:
    left: Array = waves_v @ needs.weights.T - needs.v_sat - amplitude * needs.needed
    return left


def _joint(
    network: RailNetwork,
    source: RailSource,
    law: LoadLaw,
    needs: OutputNeeds,
    most: float,
    near: NetworkOnset | None,
) -> NetworkOnset | None:
    """Newton on state and amplitude together, the load laid on anew each round; None where it does not settle."""
    v, x = _begin(network, source, near.state if near else None)
    amplitude = min(near.v_peak, most) if near else 0.8 * min(most, needs.most_v)
    _, scale = _bounds(network, Drives(source.emf, source.late_emf, v, v, 0))
    crest, near_v = source.crest, source.near_v
    n, still = network.size, np.eye(network.size) * (1.0 + 1e-12)
    farthest = 20.0 * crest / float(scale.min())
    marches, last, laid = 0, np.inf, _laid_near(network, law, near.state if near else None)
    for _ in range(JOINT_ROUNDS):
        loading = law.draw(amplitude, v)
        if laid is None:
            laid = dataclasses.replace(network, g_load=_calm(network, loading.g))
        drives = _laid_on(source, laid, loading, v)
        here, settled, limit = amplitude, False, 0
        for _count in range(14):
            shift = amplitude - here
            moved = Drives(
                drives.emf,
                drives.late_emf,
                drives.load_at + shift * loading.unit_at,
                drives.load_mean + shift * loading.unit_mean,
                drives.zero_every,
            )
            result = march_network(laid, moved, source.step_s, x, (loading.unit_at, loading.unit_mean))
            marches += 1
            at_load = load_volts(laid, moved, source.step_s, result)
            _refuse_run_off(source, laid, at_load)
            gap = result.x[-1] - x
            limit, k, least = _least(_margins(at_load, needs, amplitude))
            capped = amplitude >= needs.most_v and least > 0.0
            by_start, by_scale = load_voltage_slopes(laid, source.step_s, result, loading.unit_at, k)
            assert result.response is not None
            jacobian = np.empty((n + 1, n + 1))
            jacobian[:n, :n] = result.end_slope - still
            jacobian[:n, n] = result.response[-1]
            jacobian[n, :n] = needs.weights[limit] @ by_start
            jacobian[n, n] = needs.weights[limit] @ by_scale - needs.needed[k, limit]
            if capped:
                jacobian[n] = 0.0
                jacobian[n, n], least = 1.0, 0.0
            try:
                step = np.linalg.solve(jacobian, -np.append(gap, least))
            except np.linalg.LinAlgError:
                return None
            # Judged by how far Newton would still go: with a slow rail the gap of one period alone tells little.
            far = max(float((np.abs(step[:n]) / scale).max()), abs(float(step[n])))
            if far < near_v or (capped and float(np.max(np.abs(gap) / scale)) < CLOSED * near_v):
                settled = True
                break
            x = _without_reverse(network, np.minimum(np.maximum(x + step[:n], -farthest), farthest))
            amplitude = min(max(amplitude + float(step[n]), 0.01 * most), most)
        if not settled:
            return None
        change = float(np.abs(at_load - v).max())
        v = np.maximum(at_load, 0.02 * crest)
        # The load was laid on as a straight line in the amplitude; a stage that leaves class A on the way is none.
        straight = loading.mean + (amplitude - here) * loading.unit_mean
        bent = 0.0 if law.follows_rails else float(np.abs(law.draw(amplitude, v).mean - straight).max())
        at_ease = SETTLED * near_v
        if (
            bent < SETTLED_A_PER_V * near_v
            if not law.follows_rails
            else change < at_ease and abs(amplitude - here) < at_ease
        ):
            state = _as_state(laid, source, moved, result, marches)
            return NetworkOnset(amplitude, _refuse_collapse(state), limit)
        laid, last = None if change > QUICK * last else laid, change
    return None


def _from_either(
    network: RailNetwork, source: RailSource, law: LoadLaw, amplitude: float, near: NetworkState
) -> NetworkState | None:
    """The steady state sought from a similar one, else from full rails; None where neither leads to one."""
    for start in (near, None) if law.follows_rails else (near,):
        try:
            return steady_state(network, source, law, amplitude, start)
        except (RailCollapseError, RailRunOffError):
            continue
    return None


def _bisected(
    network: RailNetwork, source: RailSource, law: LoadLaw, needs: OutputNeeds, most: float, rest: NetworkState
) -> NetworkOnset:
    best, state = rest, rest

    def unclipped_at(amplitude: float) -> NetworkOnset | None:
        nonlocal best, state
        tried = _from_either(network, source, law, amplitude, state)
        if tried is None:
            state = best
            return None
        state = tried
        limit, _, least = _least(_margins(state.waves.v_load, needs, amplitude))
        if least < 0.0:
            return None
        best = state
        return NetworkOnset(amplitude, state, limit)

    last = last_had(unclipped_at, 0.0, most, 1e-5 * max(1.0, most))
    if last is None:
        raise NoSwingError("the module's idle current alone takes the rail below what the output needs")
    return last[1]
