"""A circuit at the points that figures are read from: clip onset, the level asked for, programme, rest, no load."""

import dataclasses

from plinth.physics.rails.clip_onset import ClipOnset
from plinth.physics.rails.common_period import Grid
from plinth.physics.rails.network_steady import (
    NetworkOnset,
)
from plinth.predict.at_rest import as_biased, at_rest, resting, without_modules
from plinth.predict.circuit import PowerCircuit
from plinth.predict.power_state import (
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
class OperatingPoints:
    """The states that figures are read from: at the level asked for, at programme, at rest, without any load.

    ``clip_v_peak`` the lower of all onsets and of what the modules' own current limit allows (``held_by_current``);
    ``rails_v_peak`` what the rails alone would leave;
    ``no_load_high`` at high mains.
    ``drive`` and ``grid`` what they were solved for.
    """

    drive: Drive
    grid: Grid
    onsets: tuple[ClipOnset, ...]
    network_onset: NetworkOnset | None
    clip_v_peak: float
    at_level: PowerState
    programme: PowerState
    idle: PowerState
    no_load: PowerState
    no_load_high: PowerState
    held_by_current: bool = False
    rails_v_peak: float = 0.0

    @property
    def circuit(self) -> PowerCircuit:
        """The circuit all of them belong to."""
        return self.at_level.circuit


def solve_points(
    circuit: PowerCircuit, drive: Drive, grid: Grid, near: OperatingPoints | None = None
) -> OperatingPoints:
    """Solve a circuit at all its operating points; ``near`` those of a similar circuit, to save marches.

    Raises PhysicsError where the circuit could not run.
    """
    period = lay_period(circuit, drive.f_signal_hz, drive.phase_deg, grid)
    onsets: tuple[ClipOnset, ...] = ()
    found: NetworkOnset | None = None
    at_level: PowerState | None = None
    rest = at_rest(circuit, grid, near.idle if near else None)
    playing = circuit if drive.clips_without_ahead else as_biased(circuit, rest)
    at_clip = drive.at_clip(playing)
    if drive.clips_without_ahead and at_clip.idle_rise:
        at_clip = as_biased(at_clip, at_rest(at_clip, grid))
    if at_clip.plain:
        onsets = plain_onsets(at_clip, period, drive.driven, near.onsets if near else ())
        clip = min(one.v_peak for one in onsets)
        if drive.level == 1.0 and all(abs(one.v_peak - clip) < 1e-6 for one in onsets):
            at_level = known_state(playing, period, drive.driven, clip, tuple(one.v_cap_start for one in onsets))
    else:
        found = network_onset(at_clip, period, drive.driven, near.network_onset if near else None)
        clip = found.v_peak
        if drive.level == 1.0:
            at_level = as_power_state(playing, period, clip, drive.driven, found.state)
    rails_v, held = clip, clip > circuit.v_at_limit
    if held:
        clip, at_level = circuit.v_at_limit, None
    if drive.clips_without_ahead:
        # Behind a lamp nothing plays.
        at_level = rest
    elif circuit.modules_away:
        at_level = without_modules(circuit, period, near.at_level if near else None)
    if at_level is None:
        at_level = level_state(playing, period, drive.driven, drive.level * clip, near.at_level if near else None)
    programme = (
        at_level
        if circuit.modules_away or drive.clips_without_ahead
        else level_state(playing, period, drive.driven, drive.programme_level * clip, near.programme if near else None)
    )
    if (
        near is not None
        and circuit.supply_alone == near.circuit.supply_alone
        and (drive.high_ratio, grid) == (near.drive.high_ratio, near.grid)
    ):
        # Module and load do not matter to a rail at rest, so those points are the very same.
        return dataclasses.replace(
            near,
            drive=drive,
            onsets=onsets,
            network_onset=found,
            clip_v_peak=clip,
            at_level=at_level,
            programme=programme,
            held_by_current=held,
            rails_v_peak=rails_v,
        )
    high = dataclasses.replace(
        circuit, mains_v_rms=circuit.mains_v_rms * drive.high_ratio, steady_v=circuit.steady_v * drive.high_ratio
    )
    return OperatingPoints(
        drive=drive,
        grid=grid,
        onsets=onsets,
        network_onset=found,
        clip_v_peak=clip,
        at_level=at_level,
        programme=programme,
        idle=rest,
        no_load=resting(circuit, 0.0, grid, near.no_load if near else None),
        no_load_high=resting(high, 0.0, grid, near.no_load_high if near else None),
        held_by_current=held,
        rails_v_peak=rails_v,
    )
