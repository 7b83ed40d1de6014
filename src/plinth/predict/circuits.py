"""From a build in a situation to the plain numbers of its circuit."""

from plinth.builds.build import Build
from plinth.builds.modules import ClassAModule
from plinth.builds.situation import Situation
from plinth.physics.rails.limited_source import CurrentLimit
from plinth.physics.rails.time_course import MainsSource
from plinth.physics.stages import kinds
from plinth.physics.stages.levels import level_fraction_for_crest
from plinth.predict.circuit import PowerCircuit
from plinth.predict.operating_points import Drive
from plinth.predict.supply_kinds import supply_numbers
from plinth.predict.supply_kinds.linear import drops_of
from plinth.predict.supply_kinds.numbers import Values


def drive_of(build: Build, situation: Situation) -> Drive:
    """What a situation asks of the circuit."""
    driven = situation.driven(build)
    return Drive(
        f_signal_hz=situation.frequency_hz,
        phase_deg=situation.phase_deg,
        driven=1 if build.one_supply_per_channel else driven,
        # Behind a lamp nothing plays: a signal would light it up and take the rails down.
        level=0.0 if situation.lamp_w else situation.level,
        programme_level=0.0 if situation.lamp_w else min(situation.level, level_fraction_for_crest(situation.crest_db)),
        high_ratio=high_ratio(build, situation),
        clips_without_ahead=situation.lamp_w is not None,
    )


def high_ratio(build: Build, situation: Situation) -> float:
    """High mains, or a full battery, as a multiple of what is in force; 1 where the rails do not follow it."""
    return supply_numbers(build.supply).high_ratio(build, situation)


def circuit_of(build: Build, situation: Situation, values: Values) -> PowerCircuit:
    """The circuit with ``values`` (by the keys of the inputs) put into it."""
    part, each = build.module, build.modules_per_channel
    bleeder = build.supply.reservoir.r_bleeder_ohm
    _, phase_deg = situation.impedance(build)
    source = supply_numbers(build.supply).source(build, situation, values)
    # By name and with one kind of number; mypy cannot see which fields a dict fills.
    return PowerCircuit(
        **{**_NO_TRANSFORMER, **source},  # type: ignore[arg-type]
        mains_v_rms=situation.mains_rms(build),
        mains_hz=situation.frequency_of_mains(build),
        c=values["c"],
        esr=values["esr"],
        g_bleed=0.0 if bleeder is None else 1.0 / bleeder,
        v_sat=values.get("v_sat", 0.0),
        r_out=values["r_out"],
        r_load=values["r_load"],
        i_idle_a=values["i_quiescent"] * each,
        channels=1 if build.one_supply_per_channel else len(build.channels),
        third_harmonic=situation.third_harmonic,
        rails=1 if build.supply.single_rail else 2,
        stage=stage_of(build),
        i_bias_a=values["i_quiescent"] - part.driver_a if isinstance(part, ClassAModule) else 0.0,
        modulation=values.get("modulation", 1.0),
        loss_share=1.0 / values.get("efficiency_stage", 1.0) - 1.0,
        own_drop=values.get("own_drop", 0.0),
        load_phase_deg=phase_deg,
        antiphase=situation.antiphase,
        rail_load_a=situation.rail_load_a,
        rail_load_ohm=situation.rail_load_ohm,
        r_ahead=values.get("r_ahead", 0.0) * supplies_in_all(build),
        v_awake=part.v_rail_min,
        idle_rise=part.idle_follows_rail or 0.0,
        v_idle=part.v_rail_nominal,
        idle_stops=part.idle_below_min == "stops",
        i_limit_a=values["i_limit"],
    )


def supplies_in_all(build: Build) -> int:
    """How many whole supplies hang on the entry together."""
    return len(build.channels) if build.one_supply_per_channel else 1


def mains_source(circuit: PowerCircuit) -> MainsSource:
    """The rectified mains as a source of a time course."""
    return MainsSource(circuit.v_amplitude, circuit.v_drop, circuit.mains_hz, circuit.third_harmonic)


def current_limit_of(build: Build) -> CurrentLimit | None:
    """The limit of a source's current and what it does there; None for a transformer, which has none."""
    return supply_numbers(build.supply).limit(build.supply)


# What only a transformer and rectifier have; without them the source is steady.
_NO_TRANSFORMER: dict[str, float] = {
    "v_primary_rms": 1.0, "va": 1.0, "v_secondary": 1.0, "regulation": 0.0, "drops": 0, "v_forward": 0.0,
    "r_dynamic": 0.0,
}  # fmt: skip


def stage_of(build: Build) -> kinds.StageKind:
    """Which output stage the modules and their wiring make."""
    return kinds.stage_named(build.module.stage(bridged=build.wiring == "bridged"))


def input_circuit_of(build: Build, situation: Situation, values: Values) -> PowerCircuit:
    """The input stages' small supply, up to its regulators, as a circuit at rest."""
    supply = build.supply.input_supply
    assert supply is not None
    bleeder = supply.reservoir.r_bleeder_ohm
    return PowerCircuit(
        mains_v_rms=situation.mains_rms(build),
        mains_hz=situation.frequency_of_mains(build),
        v_primary_rms=supply.transformer.v_primary_rms,
        va=supply.transformer.va,
        v_secondary=values["input_v_secondary"],
        regulation=values["input_regulation"],
        drops=drops_of(supply),
        v_forward=values["input_v_forward"],
        r_dynamic=values["input_r_dynamic"],
        c=values["input_c"],
        esr=values["input_esr"],
        g_bleed=0.0 if bleeder is None else 1.0 / bleeder,
        v_sat=0.0,
        r_out=0.0,
        r_load=1.0,
        i_idle_a=values["input_i_load"] + supply.regulator.i_ground_a,
        channels=1,
        third_harmonic=situation.third_harmonic,
        halves=supply.transformer.halves,
        r_ahead=values.get("input_r_ahead", 0.0) * supplies_in_all(build),
        # Below what its regulator needs, less comes through it.
        v_awake=supply.regulator.v_out + supply.regulator.v_dropout_v,
    )
