"""From a build in a situation to the plain numbers of its circuit."""

from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.modules import ClassAModule, ClassDModule
from plinth.builds.situation import Situation
from plinth.builds.supplies import BatterySupply, DirectSupply, InputSupply, LinearSupply, SwitcherSupply
from plinth.physics.materials import wire_ohm
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.limited_source import CurrentLimit
from plinth.physics.rails.time_course import MainsSource
from plinth.physics.stages import kinds
from plinth.physics.stages.levels import level_fraction_for_crest
from plinth.predict.circuit import PowerCircuit
from plinth.predict.estimates import FOLDED_TO, HICCUP_AFTER_S, HICCUP_OFF_S
from plinth.predict.operating_points import Drive

Values = Mapping[str, float]


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
    match build.supply:
        case LinearSupply():
            return _high_mains(build, situation)
        case SwitcherSupply(switcher=part) if part.control == "proportional":
            return _high_mains(build, situation)
        case BatterySupply(converter=part) if part.control == "proportional":
            return build.supply.battery.v_full / situation.battery(build)
        case _:
            return 1.0


def _high_mains(build: Build, situation: Situation) -> float:
    assert build.mains is not None, "held by validation"
    return build.mains.v_nominal_rms * (1.0 + build.mains.tolerance) / situation.mains_rms(build)


def circuit_of(build: Build, situation: Situation, values: Values) -> PowerCircuit:
    """The circuit with ``values`` (by the keys of the inputs) put into it."""
    part, each = build.module, build.modules_per_channel
    bleeder = build.supply.reservoir.r_bleeder_ohm
    _, phase_deg = situation.impedance(build)
    source: dict[str, float] = {}
    match build.supply:
        case LinearSupply() as supply:
            source = _linear_source(supply, values)
        case DirectSupply():
            # Nothing is stiffer than its own terminals.
            source = {"steady_v": values["v_set"], "steady_r": max(values["r_source"], 1e-3)}
        case SwitcherSupply() as switched:
            source = _switcher_source(switched, build, situation, values)
        case BatterySupply() as battery:
            source = _battery_source(battery, situation.battery(build), values)
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
        loss_share=1.0 / values["efficiency_stage"] - 1.0 if isinstance(part, ClassDModule) else 0.0,
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
    match build.supply:
        case SwitcherSupply(switcher=part) if part.limit == "fold_back":
            return CurrentLimit(part.i_limit_a, FOLDED_TO)
        case SwitcherSupply(switcher=part):
            return CurrentLimit(part.i_limit_a, 1.0, HICCUP_AFTER_S, HICCUP_OFF_S)
        case BatterySupply(converter=converter):
            return CurrentLimit(converter.i_limit_a)
        case DirectSupply(source=source):
            return CurrentLimit(source.i_limit_a)
        case _:
            return None


# What only a transformer and rectifier have; without them the source is steady.
_NO_TRANSFORMER: dict[str, float] = {
    "v_primary_rms": 1.0, "va": 1.0, "v_secondary": 1.0, "regulation": 0.0, "drops": 0, "v_forward": 0.0,
    "r_dynamic": 0.0,
}  # fmt: skip


def stage_of(build: Build) -> kinds.StageKind:
    """Which output stage the modules and their wiring make."""
    bridged = build.wiring == "bridged"
    match build.module:
        case ClassDModule(bridge="full"):
            return kinds.CLASS_D_BRIDGE
        case ClassDModule():
            return kinds.CLASS_D_BRIDGED if bridged else kinds.CLASS_D
        case ClassAModule(topology="single_ended"):
            return kinds.SINGLE_ENDED
        case ClassAModule():
            return kinds.CLASS_A
        case _:
            return kinds.CLASS_AB_BRIDGED if bridged else kinds.CLASS_AB


def _linear_source(supply: LinearSupply, values: Values) -> dict[str, float]:
    part, other = supply.transformer, supply.reservoir_minus
    found = {
        "v_primary_rms": part.v_primary_rms,
        "va": part.va,
        "halves": part.halves,
        "v_secondary": values["v_secondary"],
        "regulation": values["regulation"],
        "drops": drops_of(supply),
        "v_forward": values["v_forward"],
        "r_dynamic": values["r_dynamic"],
        "l_leak": part.leakage_h or 0.0,
        "primary_share": part.primary_share or 0.0,
        "r_series": values.get("r_series", 0.0),
        "l_series": values.get("l_series", 0.0),
        "c2": values.get("c2", 0.0),
        "esr2": values.get("esr2", 0.0),
    }
    if other is not None:
        bleeder = other.r_bleeder_ohm
        found |= {
            "c_minus": values["c_minus"],
            "esr_minus": values["esr_minus"],
            "g_bleed_minus": 0.0 if bleeder is None else 1.0 / bleeder,
        }
    return found


def drops_of(supply: LinearSupply | InputSupply) -> int:
    """Diodes in series for each rail: one on a centre tap, two with two bridges or on a single winding."""
    return 2 if supply.rectifier.bridges == "two" or supply.transformer.secondaries == "one" else 1


def _per_rail_a(p_w: float, v_rail: float, rails: int) -> float:
    return p_w / (rails * v_rail)


# Halved or doubled mains: between these a jumper is set right, and the switcher's own range says the rest.
JUMPER_TOO_HIGH, JUMPER_TOO_LOW = 0.7, 1.5


def _hold_to_jumper(mains: float, jumper: float) -> None:
    if mains < JUMPER_TOO_HIGH * jumper:
        raise PhysicsError(
            f"the switcher's mains jumper is set for {jumper:g} V and the mains has {mains:g} V, so it does not start: "
            "set the jumper for this mains"
        )
    if mains > JUMPER_TOO_LOW * jumper:
        raise PhysicsError(
            f"the switcher's mains jumper is set for {jumper:g} V and the mains has {mains:g} V, which destroys it at "
            "once: set the jumper for this mains before it is ever plugged in"
        )


def _switcher_source(supply: SwitcherSupply, build: Build, situation: Situation, values: Values) -> dict[str, float]:
    part = supply.switcher
    v = values["v_set"]
    if part.v_mains_jumper is not None:
        _hold_to_jumper(situation.mains_rms(build), part.v_mains_jumper)
    if part.control == "proportional":
        assert build.mains is not None, "held by validation"
        v *= situation.mains_rms(build) / (part.v_mains_jumper or build.mains.v_nominal_rms)
    rated = _per_rail_a(part.p_continuous_w, part.v_rail, 1 if part.rails == "single" else 2)
    return {"steady_v": v, "steady_r": max(values["droop"] * part.v_rail / rated, 1e-3)}


def _battery_source(supply: BatterySupply, v_battery: float, values: Values) -> dict[str, float]:
    part, battery = supply.converter, supply.battery
    rated = _per_rail_a(part.p_continuous_w, part.v_rail, 2)
    r = max(values["droop"] * part.v_rail / rated, 1e-3)
    if part.control == "regulated":
        return {"steady_v": values["v_set"], "steady_r": r}
    ratio = values["v_set"] / battery.v_nominal
    # Both rails draw on the one battery: what its resistance drops, seen from the rails.
    shared = ratio**2 * (values["r_battery"] + cable_ohm(supply)) / values["efficiency"]
    return {"steady_v": ratio * v_battery, "steady_r": r, "steady_shared_r": shared}


def cable_ohm(supply: BatterySupply) -> float:
    """Resistance of the battery cable, copper at 20 degrees: 17.2 nohm m x length / area."""
    return wire_ohm(supply.converter.cable_m, supply.converter.a_cable_m2)


def input_circuit_of(build: Build, situation: Situation, values: Values) -> PowerCircuit:
    """The input stages' small supply, up to its regulators, as a circuit at rest."""
    assert isinstance(build.supply, LinearSupply)
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
