"""A build at a glance: its figures without a spread of their own, for many builds like one that is known well.

On a coarse grid and from the known one's solution on; relative spreads and the worst phase are taken from there, and
what happens at switch-on is left out. Within 1 % of the full prediction (held by a test over the family of builds).
"""

import contextlib
import dataclasses
import math
from collections.abc import Mapping, Sequence

from plinth.builds.build import Build
from plinth.builds.parts import Load
from plinth.builds.situation import Situation
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.clip_onset import ClipOnset
from plinth.physics.rails.common_period import QUICK
from plinth.physics.rails.network_steady import NetworkOnset
from plinth.predict.circuit import PowerCircuit
from plinth.predict.circuits import circuit_of, drive_of
from plinth.predict.figure import Figure
from plinth.predict.figure_values import figure_values
from plinth.predict.input import Input
from plinth.predict.inputs import inputs_of
from plinth.predict.plain_together import Asked, Together, solved_together
from plinth.predict.power_state import lay_period, network_onset, plain_onsets
from plinth.predict.prediction import Prediction
from plinth.predict.solution import Solution
from plinth.predict.solve import FiguresLike, solution_of, solve
from plinth.predict.source_chain import ahead_of


@dataclasses.dataclass(frozen=True)
class _Onset:
    circuit: PowerCircuit
    v_peak: float
    plain: tuple[ClipOnset, ...] = ()
    network: NetworkOnset | None = None
    u_share: float | None = None

    def held(self, ratio: float) -> bool:
        """Whether the modules' own current limit comes first."""
        return self.circuit.v_at_limit < ratio * self.v_peak

    def power_w(self, ratio: float) -> float:
        """Watts at clip, where the worst phase's onset is ``ratio`` of this one."""
        v = min(ratio * self.v_peak, self.circuit.v_at_limit)
        return v**2 / (2.0 * self.circuit.r_load) * math.cos(self.circuit.load_phase_rad)


@dataclasses.dataclass(frozen=True)
class WellKnown:
    """A build predicted in full, its solution on the coarse grid from which others are sought, its onsets by load."""

    prediction: Prediction
    rough: Solution
    onsets: Mapping[str, _Onset]

    @property
    def worst_ratio(self) -> float:
        """Onset at the worst phase over that at the phase asked for."""
        return self.prediction["clip_worst_v_peak"].value / self.prediction["clip_v_peak"].value


def well_known(prediction: Prediction) -> WellKnown:
    """Begin glances from a prediction. Raises PhysicsError."""
    nominal = {key: quantity.value for key, quantity in prediction.inputs.items()}
    rough = solution_of(prediction.build, prediction.situation, nominal, QUICK)
    onsets = {}
    for load in _loads(prediction.build):
        with contextlib.suppress(PhysicsError):
            onset = _onset_into(load, prediction, None)
            # Whoever shows powers into every load has asked for the same, and it is remembered.
            alone = solve(prediction.build.model_copy(update={"load": load}), _plainly(prediction.situation))
            power, held = alone["clip_worst_power_w"], alone.points.held_by_current
            onsets[load.identity] = dataclasses.replace(onset, u_share=None if held else power.u / power.value)
    return WellKnown(prediction, rough, onsets)


@dataclasses.dataclass(frozen=True)
class Ready:
    """What is known of a build before it is looked at: its inputs, and what was solved of it together with others."""

    inputs: Mapping[str, Input]
    together: Together


def made_ready(builds: Sequence[Build], known: WellKnown) -> list[Ready | None]:
    """What can be solved of builds together; None of those that must be looked at one by one."""
    situation = _plainly(known.prediction.situation)
    asked, places = [], []
    for k, build in enumerate(builds):
        if not _alike(build, known.prediction.build) or known.prediction.situation != situation:
            continue
        if ahead_of(build).soft is not None or not known.rough.points.circuit.plain:
            continue
        # One that cannot be laid out says so when it is looked at alone, and spoils none of the others.
        with contextlib.suppress(PhysicsError):
            inputs = inputs_of(build, situation)
            asked.append(_asked(build, situation, inputs))
            places.append((k, inputs))
    readies: list[Ready | None] = [None] * len(builds)
    near_further = {name: onset.plain for name, onset in known.onsets.items()}
    together = solved_together(asked, QUICK, known.rough.points, near_further)
    for (k, inputs), estimate in zip(places, together, strict=True):
        readies[k] = None if estimate is None else Ready(inputs, estimate)
    return readies


def _asked(build: Build, situation: Situation, inputs: Mapping[str, Input]) -> Asked:
    values = {key: quantity.value for key, quantity in inputs.items()}
    circuits = {}
    for load in _loads(build):
        on_load = build.model_copy(update={"load": load})
        z, _ = situation.impedance(on_load)
        circuits[load.identity] = circuit_of(on_load, situation, {**values, "r_load": z})
    first = circuits.pop(build.load.identity, None) or circuit_of(build, situation, values)
    return Asked(first, drive_of(build, situation), circuits)


def glance(build: Build, known: WellKnown, ready: Ready | None = None) -> Prediction:
    """Figures of a build in the situation of the known one; ``ready`` what is solved of it already.

    Raises PhysicsError where it could not run.
    """
    situation = known.prediction.situation
    inputs = inputs_of(build, situation) if ready is None else ready.inputs
    nominal = {key: quantity.value for key, quantity in inputs.items()}
    near = known.rough if _alike(build, known.prediction.build) else None
    if ready is not None:
        near = dataclasses.replace(known.rough, points=ready.together.points)
    try:
        solution = solution_of(build, situation, nominal, QUICK, near)
    except PhysicsError:
        if near is None:
            raise
        # Sought from too far away; from nothing it may be found.
        solution = solution_of(build, situation, nominal, QUICK)
    figures = FiguresLike(figure_values(solution, surge=False), known.prediction, min(known.worst_ratio, 1.0))
    return Prediction(build, situation, figures, inputs, solution, ())


def _alike(build: Build, other: Build) -> bool:
    """Whether a solution of one may lead to the other's: the same kinds of supply and stage in the same wiring."""
    return (build.supply.kind, build.module.kind, build.wiring, build.supply.single_rail, build.channels) == (
        other.supply.kind, other.module.kind, other.wiring, other.supply.single_rail, other.channels,
    )  # fmt: skip


def load_powers(prediction: Prediction, known: WellKnown, ready: Ready | None = None) -> dict[str, Figure]:
    """Clip power at the worst phase into each load at hand, by the load's identity; NaN where it cannot run.

    Relative spread and worst phase are those of the known build.
    """
    powers, alike = {}, _alike(prediction.build, known.prediction.build)
    like = known.prediction["clip_worst_power_w"]
    for load in _loads(prediction.build):
        try:
            onset = _onset_current(load, prediction)
            if onset is None and ready is not None and load.identity in ready.together.further:
                onset = _onset_together(load, prediction, ready.together.further[load.identity])
            if onset is None:
                onset = _onset_into(load, prediction, known.onsets.get(load.identity) if alike else None)
            power = onset.power_w(known.worst_ratio)
            share = _relative_u(load, onset.held(known.worst_ratio), prediction, known)
        except PhysicsError:
            power = share = math.nan
        powers[load.identity] = dataclasses.replace(like, value=power, u=power * share)
    return powers


def _relative_u(load: Load, held: bool, prediction: Prediction, known: WellKnown) -> float:
    """Standard uncertainty of a clip power as a share of it: that of what sets it, the modules' limit or the rails."""
    limit = prediction.inputs["i_limit"]
    if held:
        return 2.0 * limit.u / limit.value
    here = known.onsets.get(load.identity)
    shares = [here.u_share if here is not None else None, *(onset.u_share for onset in known.onsets.values())]
    rail = known.prediction["rail_no_load_v"]
    # Where the limit sets it into every load, nothing is known but how far the rails themselves may be off.
    return next((share for share in shares if share is not None), 2.0 * rail.u / rail.value)


def _plainly(situation: Situation) -> Situation:
    """At clip into the load at hand, whatever the sliders are set to."""
    return situation.model_copy(update={"load_ohm": None, "level": 1.0, "lamp_w": None})


def _loads(build: Build) -> tuple[Load, ...]:
    return build.loads or (build.load,)


def _onset_current(load: Load, prediction: Prediction) -> _Onset | None:
    """Clip onset into the load that the prediction was made for; None of another, or in a situation of its own."""
    situation, points = prediction.situation, prediction.points
    if load != prediction.build.load or situation.load_ohm is not None or points.drive.clips_without_ahead:
        return None
    if situation.lamp_w is not None or points.circuit.modules_away:
        return None
    return _Onset(points.circuit, points.rails_v_peak, points.onsets, points.network_onset)


def _onset_together(load: Load, prediction: Prediction, onsets: tuple[ClipOnset, ...]) -> _Onset:
    build = prediction.build.model_copy(update={"load": load})
    z, _ = _plainly(prediction.situation).impedance(build)
    circuit = dataclasses.replace(prediction.points.circuit, r_load=z)
    return _Onset(circuit, min(onset.v_peak for onset in onsets), onsets)


def _onset_into(load: Load, prediction: Prediction, near: _Onset | None) -> _Onset:
    """Clip onset of a predicted build into another load."""
    build = prediction.build.model_copy(update={"load": load})
    situation = _plainly(prediction.situation)
    z, _ = situation.impedance(build)
    # Whatever the sliders say, these are watts without a lamp.
    ahead = dataclasses.replace(prediction.solution.ahead, lamp=None)
    values = ahead.before({**{key: quantity.value for key, quantity in prediction.inputs.items()}, "r_load": z})
    if ahead.warms:
        # A thermistor is as warm as this load makes it.
        points = solution_of(build, situation, values, QUICK, prediction.solution).points
        return _Onset(points.circuit, points.rails_v_peak, points.onsets, points.network_onset)
    drive = drive_of(build, situation)
    circuit = drive.at_clip(circuit_of(build, situation, values))
    period = lay_period(circuit, drive.f_signal_hz, drive.phase_deg, QUICK)
    if circuit.plain:
        plain = plain_onsets(circuit, period, drive.driven, near.plain if near else ())
        return _Onset(circuit, min(onset.v_peak for onset in plain), plain)
    joint = network_onset(circuit, period, drive.driven, near.network if near else None)
    return _Onset(circuit, joint.v_peak, network=joint)
