"""A circuit at the points that figures are read from: clip onset, the level asked for, programme, rest, no load."""

import dataclasses
import functools

from plinth.physics.rails.clip_onset import ClipOnset
from plinth.physics.rails.common_period import Grid
from plinth.physics.rails.network_steady import (
    NetworkOnset,
)
from plinth.predict.at_rest import as_biased, at_rest, resting, without_modules
from plinth.predict.circuit import PowerCircuit
from plinth.predict.power_state import (
    Period,
    PowerState,
    as_power_state,
    known_state,
    lay_period,
    level_state,
    network_onset,
    plain_onsets,
)


@dataclasses.dataclass(frozen=True)
class Drive:
    """What the circuit is asked to do: signal, driven channels, level and programme as fractions of clip.

    ``high_ratio`` high mains (or battery) as a multiple of what is in force, 1 where the rails do not follow it;
    ``clips_without_ahead``: onset is that of the circuit without what stands ahead of its primary (a lamp).
    """

    f_signal_hz: float
    phase_deg: float
    driven: int
    level: float
    programme_level: float
    high_ratio: float
    clips_without_ahead: bool = False

    def at_clip(self, circuit: PowerCircuit) -> PowerCircuit:
        """The circuit whose onset is asked for."""
        return dataclasses.replace(circuit, r_ahead=0.0) if self.clips_without_ahead else circuit


@dataclasses.dataclass(frozen=True)
class Further:
    """How the states beside the one asked for are solved, each from a similar one where there is one."""

    circuit: PowerCircuit
    playing: PowerCircuit
    period: Period
    near: dict[str, PowerState]

    def programme(self, points: "OperatingPoints") -> PowerState:
        """The state on programme. Each of these raises PhysicsError where there is none."""
        drive = points.drive
        if self.circuit.modules_away or drive.clips_without_ahead:
            return points.at_level
        v_peak = drive.programme_level * points.clip_v_peak
        return level_state(self.playing, self.period, drive.driven, v_peak, self.near.get("programme"))

    def idle(self, points: "OperatingPoints") -> PowerState:
        """The state at rest."""
        return at_rest(self.circuit, points.grid, self.near.get("idle"))

    def no_load(self, points: "OperatingPoints") -> PowerState:
        """The state without any load."""
        return resting(self.circuit, 0.0, points.grid, self.near.get("no_load"))

    def no_load_high(self, points: "OperatingPoints") -> PowerState:
        """The same at high mains or battery."""
        c, ratio = self.circuit, points.drive.high_ratio
        high = dataclasses.replace(c, mains_v_rms=c.mains_v_rms * ratio, steady_v=c.steady_v * ratio)
        return resting(high, 0.0, points.grid, self.near.get("no_load_high"))


_FURTHER = ("programme", "idle", "no_load", "no_load_high")
_AT_REST = _FURTHER[1:]


@dataclasses.dataclass(frozen=True)
class OperatingPoints:
    """The states that figures are read from: at the level asked for, at programme, at rest, without any load.

    ``clip_v_peak`` the lower of all onsets and of what the modules' own current limit allows (``held_by_current``);
    ``rails_v_peak`` what the rails alone would leave;
    ``no_load_high`` at high mains.
    ``drive`` and ``grid`` what they were solved for. All but ``at_level`` are solved when first asked for, which may
    raise PhysicsError; ``all_solved`` asks for them.
    """

    drive: Drive
    grid: Grid
    onsets: tuple[ClipOnset, ...]
    network_onset: NetworkOnset | None
    clip_v_peak: float
    at_level: PowerState
    further: Further
    held_by_current: bool = False
    rails_v_peak: float = 0.0

    @property
    def circuit(self) -> PowerCircuit:
        """The circuit all of them belong to."""
        return self.at_level.circuit

    @functools.cached_property
    def programme(self) -> PowerState:
        """On programme."""
        return self.further.programme(self)

    @functools.cached_property
    def idle(self) -> PowerState:
        """At rest."""
        return self.further.idle(self)

    @functools.cached_property
    def no_load(self) -> PowerState:
        """Without any load."""
        return self.further.no_load(self)

    @functools.cached_property
    def no_load_high(self) -> PowerState:
        """Without any load, at high mains or battery."""
        return self.further.no_load_high(self)

    def know(self, **states: PowerState) -> None:
        """Further states that are known already: they need not be solved when asked for."""
        self.__dict__.update(states)

    def all_solved(self) -> "OperatingPoints":
        """Itself, every state solved. Raises PhysicsError where one of them cannot be."""
        for name in _FURTHER:
            getattr(self, name)
        # Nothing is solved from them any more.
        self.further.near.clear()
        return self

    def solved(self, names: tuple[str, ...] = _FURTHER) -> dict[str, PowerState]:
        """Those of the further states that have been asked for."""
        return {name: self.__dict__[name] for name in names if name in self.__dict__}


def solve_points(
    circuit: PowerCircuit, drive: Drive, grid: Grid, near: OperatingPoints | None = None
) -> OperatingPoints:
    """Solve a circuit at its clip onset and at the level asked for; the further states are solved when asked for.

    ``near`` those of a similar circuit, to save marches. Raises PhysicsError where the circuit could not run.
    """
    period = lay_period(circuit, drive.f_signal_hz, drive.phase_deg, grid)
    onsets: tuple[ClipOnset, ...] = ()
    joint: NetworkOnset | None = None
    at_level: PowerState | None = None
    known = near.solved() if near is not None else {}
    same: dict[str, PowerState] = {}
    if near is not None and (circuit.supply_alone, drive.high_ratio, grid) == (
        near.circuit.supply_alone, near.drive.high_ratio, near.grid,
    ):  # fmt: skip
        # Module and load do not matter to a rail at rest, so those points are the very same.
        same = near.solved(_AT_REST)
    playing = circuit
    # From nothing rest comes first: a circuit that finds none says so best.
    if near is None or circuit.idle_rise or drive.clips_without_ahead:
        same["idle"] = rest = at_rest(circuit, grid, known.get("idle"))
        playing = circuit if drive.clips_without_ahead else as_biased(circuit, rest)
    at_clip = drive.at_clip(playing)
    if drive.clips_without_ahead and at_clip.idle_rise:
        at_clip = as_biased(at_clip, at_rest(at_clip, grid))
    if at_clip.plain:
        onsets = plain_onsets(at_clip, period, drive.driven, near.onsets if near else ())
        clip = min(onset.v_peak for onset in onsets)
        if drive.level == 1.0 and all(abs(onset.v_peak - clip) < 1e-6 for onset in onsets):
            at_level = known_state(playing, period, drive.driven, clip, tuple(onset.v_cap_start for onset in onsets))
    else:
        joint = network_onset(at_clip, period, drive.driven, near.network_onset if near else None)
        clip = joint.v_peak
        if drive.level == 1.0:
            at_level = as_power_state(playing, period, clip, drive.driven, joint.state)
    rails_v, held = clip, clip > circuit.v_at_limit
    if held:
        clip, at_level = circuit.v_at_limit, None
    if drive.clips_without_ahead:
        # Behind a lamp nothing plays.
        at_level = same["idle"]
    elif circuit.modules_away:
        at_level = without_modules(circuit, period, near.at_level if near else None)
    if at_level is None:
        at_level = level_state(playing, period, drive.driven, drive.level * clip, near.at_level if near else None)
    points = OperatingPoints(
        drive=drive,
        grid=grid,
        onsets=onsets,
        network_onset=joint,
        clip_v_peak=clip,
        at_level=at_level,
        further=Further(circuit, playing, period, known),
        held_by_current=held,
        rails_v_peak=rails_v,
    )
    points.know(**same)
    return points


def with_further(circuit: PowerCircuit, period: Period) -> Further:
    """The further states of a circuit, from nothing."""
    return Further(circuit, circuit, period, {})
