"""The numbers a prediction runs on, each with its uncertainty and whether somebody stated it.

Where a part leaves a value out, the estimate is made here, in one place, and marked.
"""

import dataclasses
import math

from plinth.builds.build import Build
from plinth.builds.modules import ClassABModule, ClassAModule, ClassDModule, Module
from plinth.builds.parts import HeatSink
from plinth.builds.properties import How, PartModel, known_of, value_at
from plinth.builds.situation import Situation
from plinth.builds.supplies import BatterySupply, DirectSupply, InputSupply, LinearSupply, SwitcherSupply
from plinth.builds.supply_parts import BatteryConverter, MainsSwitcher, Rectifier, Reservoir, Smoothing, Transformer
from plinth.physics.mains.transformer import estimate_regulation

SQRT3 = math.sqrt(3.0)


@dataclasses.dataclass(frozen=True)
class Input:
    """One number: value, unit, standard uncertainty, whether it is an estimate, and the words for it.

    ``key`` what it is known by among the inputs of a build.
    """

    label: str
    value: float
    unit: str
    u: float
    estimated: bool = False
    why: str = ""
    key: str = ""


def from_tolerance(value: float, tolerance: float) -> float:
    """Standard uncertainty of a value within +-``tolerance`` (relative), rectangular: a / sqrt 3 (GUM 4.3.7)."""
    return abs(value) * tolerance / SQRT3


def inputs_of(build: Build, situation: Situation | None = None) -> dict[str, Input]:
    """All uncertain numbers of a build: supply, modules, load and sink; a load that is set replaces the part's."""
    found: dict[str, Input] = {}
    match build.supply:
        case LinearSupply() as supply:
            found |= _linear(supply)
        case DirectSupply() as supply:
            found |= _direct(supply)
        case SwitcherSupply() as supply:
            found |= _switcher(supply)
        case BatterySupply() as supply:
            found |= _battery(supply)
    found |= _module(build)
    found["i_limit"] = _i_limit(build, situation)
    found["r_load"] = _known(build.load, "r_ohm", "load", "ohm", build.load.r_tol)
    if situation is not None and (situation.load_ohm is not None or build.load.voice_coil is not None):
        z, _ = situation.impedance(build)
        found["r_load"] = Input(
            "load", z, "ohm", from_tolerance(z, build.load.r_tol if not situation.load_ohm else 0.0)
        )
    found["r_sink"] = _sink(build.sink)
    return {key: dataclasses.replace(given, key=key) for key, given in found.items()}


# How far a module's own current limit lies from what is stated: it follows a transistor's knee and its temperature.
LIMIT_TOL = 0.10


def _i_limit(build: Build, situation: Situation | None) -> Input:
    """The modules' own limit; without a spread where no rail they stand could ever reach it into this load."""
    part = build.module
    z, _ = (situation or Situation()).impedance(build)
    within_reach = part.i_limit_a * z < part.v_rail_max * build.modules_per_channel
    return _known(part, "i_limit_a", "module current limit", "A", LIMIT_TOL if within_reach else 0.0)


def _known(part: PartModel, path: str, label: str, unit: str, tolerance: float) -> Input:
    """A property as the part has it: by its own tolerance or what was told of it; an estimate stays one."""
    value = value_at(part, path)
    told = known_of(part, path)
    if not told:
        return _stated(label, value, unit, tolerance)
    best = told[0]
    how = How(best.how)
    source = f"{how}: {best.source}" if best.source else str(how)
    u = from_tolerance(value, tolerance if best.tol is None else best.tol)
    return Input(label, value, unit, u, not how.trusted, source)


def _stated(label: str, value: float, unit: str, tolerance: float) -> Input:
    return Input(label, value, unit, from_tolerance(value, tolerance))


def _linear(supply: LinearSupply) -> dict[str, Input]:
    found = {
        "v_secondary": _v_secondary(supply.transformer),
        "regulation": _regulation(supply.transformer),
        "v_forward": _v_forward(supply.rectifier),
        "r_dynamic": _r_dynamic(supply.rectifier),
        "c": _known(supply.reservoir, "c_f", "reservoir per rail", "F", supply.reservoir.c_tol),
        "esr": _esr(supply.reservoir, "reservoir ESR"),
    }
    if supply.reservoir_minus is not None:
        other = supply.reservoir_minus
        found["c_minus"] = _known(other, "c_f", "reservoir of the − rail", "F", other.c_tol)
        found["esr_minus"] = _esr(other, "ESR of the − rail's reservoir")
    if supply.smoothing is not None:
        second = supply.smoothing
        found["r_series"] = _known(second, "r_ohm", "smoothing resistance", "ohm", 0.05 if second.l_h is None else 0.10)
        found["c2"] = _known(second, "c_f", "smoothing capacitor", "F", second.c_tol)
        found["esr2"] = _esr(second, "smoothing capacitor's ESR")
        if second.l_h is not None:
            found["l_series"] = _known(second, "l_h", "choke", "H", 0.15)
    if supply.input_supply is not None:
        found |= {f"input_{key}": _renamed(one) for key, one in _input_supply(supply.input_supply).items()}
    return found


def _renamed(one: Input) -> Input:
    return dataclasses.replace(one, label=f"input supply: {one.label}")


def _input_supply(supply: InputSupply) -> dict[str, Input]:
    return {
        "v_secondary": _v_secondary(supply.transformer),
        "regulation": _regulation(supply.transformer),
        "v_forward": _v_forward(supply.rectifier),
        "r_dynamic": _r_dynamic(supply.rectifier),
        "c": _known(supply.reservoir, "c_f", "reservoir per rail", "F", supply.reservoir.c_tol),
        "esr": _esr(supply.reservoir, "reservoir ESR"),
        "i_load": _stated("load current", supply.i_load_a, "A", 0.10),
    }


def _outputs(reservoir: Reservoir) -> dict[str, Input]:
    return {
        "c": _known(reservoir, "c_f", "output capacitors per rail", "F", reservoir.c_tol),
        "esr": _esr(reservoir, "output capacitors' ESR"),
    }


def _direct(supply: DirectSupply) -> dict[str, Input]:
    part = supply.source
    source = (
        _known(part, "r_source_ohm", "source resistance", "ohm", 0.20)
        if part.r_source_ohm is not None
        else Input("source resistance", 0.05, "ohm", 0.02, True, "not stated; usual for bench supplies and their leads")
    )
    return {"v_set": _known(part, "v_rail", "rail as set", "V", 0.01), "r_source": source, **_outputs(supply.reservoir)}


def _switcher(supply: SwitcherSupply) -> dict[str, Input]:
    part = supply.switcher
    return {
        "v_set": _known(part, "v_rail", "switcher rail", "V", part.v_rail_tol),
        "droop": _known(part, "droop", "switcher droop", "", 0.30),
        "efficiency": _efficiency(part, "switcher efficiency"),
        "c_bulk": (
            _known(part, "c_bulk_f", "bulk capacitor", "F", 0.20)
            if part.c_bulk_f is not None
            else Input(
                "bulk capacitor",
                1.2e-6 * part.p_continuous_w,
                "F",
                0.3e-6 * part.p_continuous_w,
                True,
                "not stated; usual is about 1.2 µF per watt at 230 V",
            )
        ),
        **_corrected(part),
        "r_line": Input("line and filter resistance", 0.8, "ohm", 0.25, True, "not stated; usual for a house circuit"),
        **_outputs(supply.reservoir),
    }


def _corrected(part: MainsSwitcher) -> dict[str, Input]:
    """What keeps a power-factor stage from a factor of 1: its filter's capacitors, and some distortion."""
    if not part.pfc:
        return {}
    c = 0.7e-6 * max(1.0, part.p_continuous_w / 300.0)
    return {
        "c_line": Input("line filter capacitance", c, "F", 0.3 * c, True, "not stated; usual about 0.7 µF for 300 W"),
        "thd_line": Input(
            "distortion of the line current", 0.12, "", 0.04, True, "not stated; usual for a power-factor stage"
        ),
        "shape_line": Input(
            "shape of the line current",
            0.5,
            "",
            0.2,
            True,
            "not stated; 0 a flat top, 1 a pointed one",
        ),
    }


def _battery(supply: BatterySupply) -> dict[str, Input]:
    part, battery = supply.converter, supply.battery
    inside = (
        _known(battery, "r_internal_ohm", "battery resistance", "ohm", 0.30)
        if battery.r_internal_ohm is not None
        # About 5 % of the volts at a current that empties it in a fifth of an hour is common to lead and lithium alike.
        else Input(
            "battery resistance", 0.01 * battery.v_nominal / battery.capacity_ah, "ohm",
            0.004 * battery.v_nominal / battery.capacity_ah, True,
            f"not stated; usual for {battery.capacity_ah:g} Ah at {battery.v_nominal:g} V",
        )
    )  # fmt: skip
    return {
        "v_set": _known(part, "v_rail", "converter rail", "V", part.v_rail_tol),
        "droop": _known(part, "droop", "converter droop", "", 0.30),
        "efficiency": _efficiency(part, "converter efficiency"),
        "r_battery": inside,
        **_outputs(supply.reservoir),
    }


def _efficiency(part: MainsSwitcher | BatteryConverter | ClassDModule, label: str) -> Input:
    known = _known(part, "efficiency", label, "", 0.0)
    usual = 0.15 * (1.0 - known.value) / SQRT3 + 0.002
    return dataclasses.replace(known, u=known.u if known.u > 0.0 else usual)


def _module(build: Build) -> dict[str, Input]:
    part = build.module
    found = {
        "gain": _known(part, "gain", "module gain", "V/V", part.gain_tol),
        "i_quiescent": _i_quiescent(part),
        "r_junction": (
            _known(part, "r_junction_sink_k_per_w", "junction to sink", "K/W", 0.0)
            if part.r_junction_sink_k_per_w is not None
            else _usual_junction(part)
        ),
    }
    if part.own_rectifier and build.hookup.own_bridge != "bypassed":
        found["own_drop"] = Input("the module's own bridge", 0.8, "V", 0.08, True, "not stated; usual for one diode")
    if isinstance(part, ClassDModule):
        return found | {
            "r_out": _known(part, "r_on_ohm", "switches and coils", "ohm", 0.20),
            "efficiency_stage": _efficiency(part, "class D efficiency"),
            # A duty limit is a time over a period, and both wander.
            "modulation": Input(
                "largest modulation", part.modulation_max, "", from_tolerance(part.modulation_max, 0.02)
            ),
        }
    return found | {
        "v_sat": _v_sat(part, min(part.v_rail_nominal, _rough_rail_v(build))),
        "r_out": _r_out(part),
    }


def _usual_junction(part: Module) -> Input:
    """Of all output devices beside each other: pairs that are trimmed are two packages each, a chip is one."""
    packages = 2 * part.pairs if part.bias is not None else 1
    why = "a power package with its pad" if packages == 1 else f"{packages} power packages with their pads"
    return Input("junction to sink", 1.5 / packages, "K/W", 0.5 / packages, True, f"not stated; usual for {why}")


def _i_quiescent(part: Module) -> Input:
    value = part.i_quiescent_a + part.driver_a
    if part.i_driver_a is None:
        u = math.hypot(from_tolerance(value, 0.15), 0.5 * part.driver_a)
        return Input(
            "quiescent current", value, "A", u, True, f"not all stated; {1000 * part.driver_a:g} mA for its drivers"
        )
    found = _stated("quiescent current", value, "A", 0.15)
    paths = ("i_quiescent_stated_a" if part.i_quiescent_stated_a is not None else "bias.listed_mv", "i_driver_a")
    guessed = next((one for one in (_known(part, path, "", "", 0.0) for path in paths) if one.estimated), None)
    return found if guessed is None else dataclasses.replace(found, estimated=True, why=guessed.why)


def _v_sat(part: ClassABModule | ClassAModule, rail_v: float) -> Input:
    """What the output leaves of its rail: a base current and some diodes, and more of it the higher the rail."""
    if part.v_sat_v is not None:
        return _known(part, "v_sat_v", "module saturation", "V", part.v_sat_tol)
    base, share = (1.0, 0.06) if part.bias is None else (1.5, 0.04)
    value = base + share * rail_v
    kind = "a power chip" if part.bias is None else "a discrete stage"
    return Input(
        "module saturation", value, "V", 0.3 * value, True, f"not stated; usual for {kind} at {rail_v:.3g} V",
    )  # fmt: skip


def _rough_rail_v(build: Build) -> float:
    """About where the rails of a build stand, by its stated volts alone."""
    match build.supply:
        case LinearSupply(transformer=part):
            return math.sqrt(2.0) * part.v_secondary_rms
        case DirectSupply(source=source):
            return source.v_rail
        case SwitcherSupply(switcher=switcher):
            return switcher.v_rail
        case BatterySupply(converter=converter):
            return converter.v_rail


def _sink(part: HeatSink) -> Input:
    value = part.to_air_k_per_w
    if part.r_k_per_w is not None:
        return _known(part, "r_k_per_w", "heat sink", "K/W", part.r_tol)
    return Input("heat sink", value, "K/W", 0.15 * value, True, f"not stated; from {1e4 * (part.area_m2 or 0):.0f} cm²")


def _v_secondary(part: Transformer) -> Input:
    return _known(part, "v_secondary_rms", "secondary volts", "V", part.v_secondary_tol)


def _regulation(part: Transformer) -> Input:
    if part.regulation is not None:
        return _known(part, "regulation", "transformer regulation", "", part.regulation_tol)
    value, u = estimate_regulation(part.va, part.core)
    why = f"not stated; estimated from {part.va:g} VA, {'toroid' if part.core == 'toroid' else 'EI core'}"
    return Input("transformer regulation", value, "", u, True, why)


def _v_forward(part: Rectifier) -> Input:
    if part.v_forward_v is not None:
        return _known(part, "v_forward_v", "diode drop", "V", 0.10)
    value = 0.75 if part.diode == "silicon" else 0.40
    return Input("diode drop", value, "V", 0.08, True, f"not stated; usual for {part.diode} at some amperes")


def _r_dynamic(part: Rectifier) -> Input:
    if part.r_dynamic_ohm is not None:
        return _known(part, "r_dynamic_ohm", "diode slope resistance", "ohm", 0.20)
    # About 0.3 V of rise between small and rated current is common to bridges of all sizes.
    value = 0.3 / part.i_rated_a
    return Input(
        "diode slope resistance", value, "ohm", 0.3 * value, True,
        f"not stated; usual for a bridge rated {part.i_rated_a:g} A",
    )  # fmt: skip


def _esr(part: Reservoir | Smoothing, label: str) -> Input:
    if part.esr_ohm is not None:
        return _known(part, "esr_ohm", label, "ohm", 0.30)
    # Loss factor about 0.15 at 100 Hz for aluminium electrolytics of this voltage class: ESR = tan d / (2 pi f C).
    value = 0.15 / (2.0 * math.pi * 100.0 * part.c_f)
    return Input(label, value, "ohm", 0.25 * value, True, "not stated; from a loss factor of 0.15 at 100 Hz")


def _r_out(part: Module) -> Input:
    stated: float | None = getattr(part, "r_out_ohm", None)
    if stated is not None:
        return _known(part, "r_out_ohm", "module output resistance at clip", "ohm", 0.25)
    if part.bias is None:
        return Input("module output resistance at clip", 0.25, "ohm", 0.08, True, "not stated; usual for a power chip")
    # The fitted emitter resistors in parallel, and as much again for the devices themselves.
    value = 2.0 * part.bias.r_fitted_ohm / part.pairs
    return Input(
        "module output resistance at clip", value, "ohm", 0.3 * value, True,
        "not stated; estimated as twice the emitter resistors in parallel",
    )  # fmt: skip
