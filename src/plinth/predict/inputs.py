"""The numbers a prediction runs on, each with its uncertainty and whether somebody stated it.

Where a part leaves a value out, the estimate is made here, in one place, and marked.
"""

import dataclasses
import math

from plinth.builds.build import Build
from plinth.physics.transformer import estimate_regulation

SQRT3 = math.sqrt(3.0)


@dataclasses.dataclass(frozen=True)
class Input:
    """One number: value, unit, standard uncertainty, whether it is an estimate, and the words for it."""

    label: str
    value: float
    unit: str
    u: float
    estimated: bool = False
    why: str = ""


def from_tolerance(value: float, tolerance: float) -> float:
    """Standard uncertainty of a value within +-``tolerance`` (relative), rectangular: a / sqrt 3 (GUM 4.3.7)."""
    return abs(value) * tolerance / SQRT3


def supply_and_module_inputs(build: Build) -> dict[str, Input]:
    """All uncertain numbers of a linear supply, class AB modules, loads and sink."""
    return {
        "v_secondary": _v_secondary(build),
        "regulation": _regulation(build),
        "v_forward": _v_forward(build),
        "r_dynamic": _r_dynamic(build),
        "c": _stated("reservoir per rail", build.supply.reservoir.c_f, "F", build.supply.reservoir.c_tol),
        "esr": _esr(build),
        "v_sat": _stated("module saturation", build.module.v_sat_v, "V", build.module.v_sat_tol),
        "r_out": _r_out(build),
        "gain": _stated("module gain", build.module.gain, "V/V", build.module.gain_tol),
        "i_quiescent": _stated("quiescent current", build.module.i_quiescent_a + build.module.i_driver_a, "A", 0.15),
        "r_load": _stated("load", build.load.r_ohm, "ohm", build.load.r_tol),
        "r_sink": _stated("heat sink", build.sink.r_k_per_w, "K/W", build.sink.r_tol),
    }


def _stated(label: str, value: float, unit: str, tolerance: float) -> Input:
    return Input(label, value, unit, from_tolerance(value, tolerance))


def _v_secondary(build: Build) -> Input:
    part = build.supply.transformer
    return _stated("secondary volts", part.v_secondary_rms, "V", part.v_secondary_tol)


def _regulation(build: Build) -> Input:
    part = build.supply.transformer
    if part.regulation is not None:
        return _stated("transformer regulation", part.regulation, "", part.regulation_tol)
    value, u = estimate_regulation(part.va, part.core)
    why = f"not stated; estimated from {part.va:g} VA, {'toroid' if part.core == 'toroid' else 'EI core'}"
    return Input("transformer regulation", value, "", u, True, why)


def _v_forward(build: Build) -> Input:
    part = build.supply.rectifier
    if part.v_forward_v is not None:
        return _stated("diode drop", part.v_forward_v, "V", 0.10)
    value = 0.75 if part.diode == "silicon" else 0.40
    return Input("diode drop", value, "V", 0.08, True, f"not stated; usual for {part.diode} at some amperes")


def _r_dynamic(build: Build) -> Input:
    part = build.supply.rectifier
    if part.r_dynamic_ohm is not None:
        return _stated("diode slope resistance", part.r_dynamic_ohm, "ohm", 0.20)
    # About 0.3 V of rise between small and rated current is common to bridges of all sizes.
    value = 0.3 / part.i_rated_a
    return Input(
        "diode slope resistance", value, "ohm", 0.3 * value, True,
        f"not stated; usual for a bridge rated {part.i_rated_a:g} A",
    )  # fmt: skip


def _esr(build: Build) -> Input:
    part = build.supply.reservoir
    if part.esr_ohm is not None:
        return _stated("reservoir ESR", part.esr_ohm, "ohm", 0.30)
    # Loss factor about 0.15 at 100 Hz for aluminium electrolytics of this voltage class: ESR = tan d / (2 pi f C).
    value = 0.15 / (2.0 * math.pi * 100.0 * part.c_f)
    return Input("reservoir ESR", value, "ohm", 0.25 * value, True, "not stated; from a loss factor of 0.15 at 100 Hz")


def _r_out(build: Build) -> Input:
    part = build.module
    if part.r_out_ohm is not None:
        return _stated("module output resistance at clip", part.r_out_ohm, "ohm", 0.25)
    if part.bias is None:
        return Input("module output resistance at clip", 0.25, "ohm", 0.08, True, "not stated; usual for a power chip")
    # The fitted emitter resistors in parallel, and as much again for the devices themselves.
    value = 2.0 * part.bias.r_fitted_ohm / part.output_pairs
    return Input(
        "module output resistance at clip", value, "ohm", 0.3 * value, True,
        "not stated; estimated as twice the emitter resistors in parallel",
    )  # fmt: skip
