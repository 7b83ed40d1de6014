"""The operating points of many builds of the plain sort, solved together; whichever cannot be is left to be alone.

Plain: class AB on like rails from the mains, nothing between them, at a period short enough for one sum over it.
"""

import dataclasses
from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from plinth.physics.rails.clip_onset import ClipOnset
from plinth.physics.rails.common_period import Grid
from plinth.physics.rails.many_rails import RailTask, onsets, steady_states
from plinth.physics.rails.rail import LoadCurrent, constant_current
from plinth.physics.rails.steady_state import RailSteadyState
from plinth.predict.at_rest import rest_period
from plinth.predict.circuit import PowerCircuit
from plinth.predict.operating_points import Drive, OperatingPoints, with_further
from plinth.predict.power_state import Period, PowerState, lay_period, plain_emf, unit_load

Array = NDArray[np.float64]
# Fewer are solved as quickly one by one.
FEWEST = 4
# Where nothing is known of a case like it.
_USUAL_START, _USUAL_PEAK = 0.93, 0.8


@dataclasses.dataclass(frozen=True)
class Asked:
    """A circuit and what it is asked to do; ``further`` the same circuit on other loads, by a name of theirs."""

    circuit: PowerCircuit
    drive: Drive
    further: Mapping[str, PowerCircuit]


@dataclasses.dataclass(frozen=True)
class Together:
    """Its operating points, every state solved, and the onsets into the further loads."""

    points: OperatingPoints
    further: Mapping[str, tuple[ClipOnset, ...]]


def solved_together(
    asked: Sequence[Asked], grid: Grid, near: OperatingPoints, near_further: Mapping[str, tuple[ClipOnset, ...]]
) -> list[Together | None]:
    """What was found of each; None where it must be solved alone. ``near`` of a similar case."""
    answers: list[Together | None] = [None] * len(asked)
    # Those that play into loads of the same names go together: a load from the shelf brings its own.
    groups: dict[tuple[Period, Drive, tuple[str, ...]], list[int]] = {}
    for k, build in enumerate(asked):
        if _can(build):
            period = lay_period(build.circuit, build.drive.f_signal_hz, build.drive.phase_deg, grid)
            groups.setdefault((period, build.drive, tuple(build.further)), []).append(k)
    for (period, drive, _), members in groups.items():
        if len(members) >= FEWEST:
            some = _solve([asked[k] for k in members], period, drive, grid, near, near_further)
            for k, together in zip(members, some, strict=True):
                answers[k] = together
    return answers


def _can(wanted: Asked) -> bool:
    circuits = (wanted.circuit, *wanted.further.values())
    away = wanted.circuit.modules_away or wanted.drive.clips_without_ahead
    return not away and wanted.drive.driven > 0 and all(circuit.plain for circuit in circuits)


def _solve(
    asked: Sequence[Asked], period: Period, drive: Drive, grid: Grid, near: OperatingPoints,
    near_further: Mapping[str, tuple[ClipOnset, ...]],
) -> list[Together | None]:  # fmt: skip
    names = list(asked[0].further)
    tasks = []
    for build in asked:
        crest_ratio = _crest(build.circuit) / _crest(near.circuit)
        for circuit, known in (
            (build.circuit, near.onsets),
            *((build.further[n], near_further.get(n, ())) for n in names),
        ):
            tasks += _onset_tasks(circuit, period, drive.driven, known, crest_ratio)
    each = 2 * (1 + len(names))
    touched = onsets(tasks, period.step_s, period.near_v)
    by_one = [touched[k : k + each] for k in range(0, len(touched), each)]
    clips, states = [], []
    for build, pair in zip(asked, by_one, strict=True):
        peaks = [onset[0].v_peak for onset in pair[:2] if onset is not None]
        rails_v = min(peaks) if len(peaks) == 2 else 1.0
        clip = min(rails_v, build.circuit.v_at_limit)
        clips.append((rails_v, clip))
        starts = [onset[0].v_cap_start if onset is not None else 0.0 for onset in pair[:2]]
        for v_peak in (drive.level * clip, drive.programme_level * clip):
            states += _level_tasks(build.circuit, period, drive.driven, v_peak, starts)
    playing = steady_states(states, period.step_s, period.near_v)
    resting = _resting(asked, drive, grid)
    return [
        _together(
            build,
            period,
            grid,
            touched=pair,
            clip=clip,
            playing=playing[4 * k : 4 * k + 4],
            resting=resting[k],
            names=names,
        )
        for k, (build, pair, clip) in enumerate(zip(asked, by_one, clips, strict=True))
    ]


def _crest(circuit: PowerCircuit) -> float:
    return max(circuit.v_amplitude - circuit.v_drop, 1e-3)


def _onset_tasks(
    circuit: PowerCircuit, period: Period, driven: int, known: tuple[ClipOnset, ...], crest_ratio: float
) -> list[RailTask]:
    emf = plain_emf(circuit, period)
    rest = constant_current(circuit.channels * circuit.i_idle_a, period.steps)
    tasks = []
    for k, towards in enumerate((1.0, -1.0)):
        start, peak = _USUAL_START * float(emf.max()), _USUAL_PEAK * float(emf.max())
        if len(known) == 2:
            start, peak = crest_ratio * known[k].v_cap_start, crest_ratio * known[k].v_peak
        tasks.append(
            RailTask(
                circuit.rail, emf, rest, v_start=start, unit=unit_load(circuit, period, towards).scaled(driven),
                needed=np.maximum(towards * period.signal_sine, 0.0), limit=circuit.output_limit, v_peak=peak,
            )
        )  # fmt: skip
    return tasks


def _level_tasks(
    circuit: PowerCircuit, period: Period, driven: int, v_peak: float, starts: Sequence[float]
) -> list[RailTask]:
    emf, idle = plain_emf(circuit, period), circuit.channels * circuit.i_idle_a
    return [
        RailTask(circuit.rail, emf, unit_load(circuit, period, towards).scaled(driven * v_peak, idle), start)
        for towards, start in zip((1.0, -1.0), starts, strict=True)
    ]


@dataclasses.dataclass(frozen=True)
class _Rest:
    circuit: PowerCircuit
    load: LoadCurrent
    period: Period


def _resting(asked: Sequence[Asked], drive: Drive, grid: Grid) -> list[list[PowerState | None]]:
    """At rest, without load, without load at high mains."""
    rests = []
    for build in asked:
        circuit, period = build.circuit, rest_period(build.circuit, grid)
        high = dataclasses.replace(circuit, mains_v_rms=circuit.mains_v_rms * drive.high_ratio)
        idle_a = circuit.channels * circuit.i_idle_a
        rests += [
            _Rest(rest, constant_current(amperes, period.steps), period)
            for rest, amperes in ((circuit, idle_a), (circuit, 0.0), (high, 0.0))
        ]
    if len({rest.period for rest in rests}) > 1:
        # The quickest of them want a finer grid.
        return [[None] * 3 for _ in asked]
    tasks = []
    for rest in rests:
        emf = plain_emf(rest.circuit, rest.period)
        tasks.append(RailTask(rest.circuit.rail, emf, rest.load, _USUAL_START * float(emf.max())))
    solved = steady_states(tasks, rests[0].period.step_s, rests[0].period.near_v)
    states = [
        None if rail is None else PowerState(rest.circuit, rest.period, 0.0, 0, rail, rail)
        for rest, rail in zip(rests, solved, strict=True)
    ]
    return [states[k : k + 3] for k in range(0, len(states), 3)]


def _together(
    wanted: Asked, period: Period, grid: Grid, touched: Sequence[tuple[ClipOnset, RailSteadyState] | None],
    clip: tuple[float, float], playing: Sequence[RailSteadyState | None], resting: Sequence[PowerState | None],
    names: Sequence[str],
) -> Together | None:  # fmt: skip
    onsets_found = [pair[0] for pair in touched if pair is not None]
    rails = [rail for rail in playing if rail is not None]
    rest = [state for state in resting if state is not None]
    if len(onsets_found) < len(touched) or len(rails) < 4 or len(rest) < 3:
        return None
    idle = rest[0].plus
    if (
        wanted.circuit.v_awake > 0.0
        and wanted.circuit.i_idle_a > 0.0
        and idle.mean(idle.v_node) < wanted.circuit.v_awake
    ):
        return None
    drive, (rails_v, clip_v) = wanted.drive, clip
    level = PowerState(wanted.circuit, period, drive.level * clip_v, drive.driven, rails[0], rails[1])
    programme = PowerState(wanted.circuit, period, drive.programme_level * clip_v, drive.driven, rails[2], rails[3])
    points = OperatingPoints(
        drive=drive,
        grid=grid,
        onsets=tuple(onsets_found[:2]),
        network_onset=None,
        clip_v_peak=clip_v,
        at_level=level,
        further=with_further(wanted.circuit, period),
        held_by_current=rails_v > wanted.circuit.v_at_limit,
        rails_v_peak=rails_v,
    )
    points.know(programme=programme, idle=rest[0], no_load=rest[1], no_load_high=rest[2])
    pairs = {name: tuple(onsets_found[2 + 2 * k : 4 + 2 * k]) for k, name in enumerate(names)}
    return Together(points, pairs)
