"""What a healthy module shows at each step on a current-limited bench supply, computed for this build."""

import dataclasses
import math

from plinth.builds.build import Build
from plinth.builds.modules import Module
from plinth.builds.parts import HeatSink
from plinth.judge.window import Window
from plinth.physics import bias, thermal, transients

SAFE_V = 5.0
LEFT_OVER_SHARE = 0.10
SPREAD = 0.15
TRIM = 0.08


@dataclasses.dataclass(frozen=True)
class SupplySetting:
    """Rails and current limit to set on the bench supply, and how long the board's own capacitors charge."""

    v_rail: float
    i_limit_a: float
    charge_s: float


def low_rail_v(module: Module) -> float:
    """The rail to begin at: the lowest the module works from, at least half of nominal; whole volts."""
    return float(math.ceil(max(module.v_rail_min, 0.5 * module.v_rail_nominal)))


def full_rail_v(module: Module, v_build_idle: float) -> float:
    """This build's own rail at idle, in whole volts, held to the module's highest."""
    return float(math.floor(min(v_build_idle, module.v_rail_max)))


def rest_current(build: Build, v_rail: float) -> Window:
    """Supply current at ``v_rail`` with the bias trimmer at its least (or as the chip sets it)."""
    module = build.module
    low, high = bias.idle_driver_current_a(module.i_driver_a, v_rail, module.v_rail_nominal)
    if module.bias is None:
        low, high = low + module.i_quiescent_a, high + module.i_quiescent_a
        why = f"{module.i_quiescent_a * 1000:.0f} mA set by the module itself"
    else:
        high += LEFT_OVER_SHARE * module.i_quiescent_a
        why = "trimmer at its least leaves at most a tenth of the quiescent current"
    return Window(
        (1.0 - SPREAD) * low,
        (1.0 + SPREAD) * high,
        "A",
        f"Drivers draw {module.i_driver_a * 1000:.0f} mA at {build.rails_words(module.v_rail_nominal)}, between "
        f"constant and falling with the rail; {why}.",
    )


def supply_setting(build: Build, v_rail: float) -> SupplySetting:
    """Rails and limit: twice the most that is healthy, at least 50 mA, so that a fault cannot burn anything."""
    window = rest_current(build, v_rail)
    assert window.high is not None
    limit = max(0.05, math.ceil(2.0 * window.high / 0.01) * 0.01)
    return SupplySetting(v_rail, limit, build.module.c_local_f * v_rail / limit)


def rail_resistance(build: Build) -> Window:
    """Ohms from either rail to 0 V, unpowered: less would take the whole limit at the low rail."""
    setting = supply_setting(build, low_rail_v(build.module))
    return Window(
        setting.v_rail / setting.i_limit_a,
        None,
        "ohm",
        f"Less than this would take all of {setting.i_limit_a * 1000:.0f} mA at {build.rails_words(setting.v_rail)}.",
    )


def output_dc(module: Module) -> Window:
    """Output DC once the input and feedback capacitors have charged."""
    most = module.offset_max_v
    return Window(-most, most, "V", f"The module is stated to rest within ±{most * 1000:.0f} mV.")


def bias_resistor(module: Module) -> Window:
    """The fitted emitter resistor, as an ohmmeter shows it."""
    assert module.bias is not None
    r, tolerance = module.bias.r_fitted_ohm, max(module.bias.r_fitted_tol, 0.05)
    return Window(r * (1 - tolerance), r * (1 + tolerance), "ohm", f"Fitted {r:g} Ω, ±{100 * tolerance:.0f} %.")


def bias_setting(module: Module, r_ohm: float, measured: bool) -> Window:
    """Millivolts to trim to across a resistor of ``r_ohm``, cold."""
    assert module.bias is not None
    target = bias.bias_mv(module.bias.i_pair_a, r_ohm) / 1000.0
    how = "as you measured it" if measured else "as fitted, not yet measured"
    return Window(
        target * (1 - TRIM),
        target * (1 + TRIM),
        "V",
        f"{module.bias.i_pair_a * 1000:.0f} mA through {r_ohm:g} Ω, {how}, trimmed to ±{100 * TRIM:.0f} %.",
        () if measured else (module.bias.label,),
    )


@dataclasses.dataclass(frozen=True)
class WarmUp:
    """``rise_k`` of the sink with this channel at rest, ``wait_s`` until it has come, ``window`` of the bias."""

    rise_k: float
    wait_s: float
    window: Window


def warm_bias(module: Module, sink: HeatSink, v_rail: float, v_bias_cold: float) -> WarmUp:
    """The bias reading after warming up from ``v_bias_cold`` volts, with one channel at rest on the sink."""
    assert module.bias is not None
    rise = 2.0 * v_rail * (module.i_quiescent_a + module.i_driver_a) * sink.to_air_k_per_w
    estimated = []
    tempco, spread = module.bias.tempco_per_k, 0.5
    if tempco is None:
        # Between well compensated and hardly: stated by nobody, so the window is wide and says so.
        tempco, spread = 0.003, 1.5
        estimated.append("bias drift")
    capacity = sink.heat_capacity_j_per_k
    if capacity is None:
        capacity = 500.0
        estimated.append("heat capacity of the sink")
    drift = abs(tempco * rise)
    middle = bias.drifted_a(v_bias_cold, tempco, rise)
    half = v_bias_cold * (drift * spread + 0.04)
    return WarmUp(
        rise,
        # A bias that rises as it warms settles later than the sink alone.
        thermal.wait_s(
            thermal.bias_loop_gain(2.0 * v_rail, module.i_quiescent_a, tempco, sink.to_air_k_per_w),
            sink.to_air_k_per_w, capacity,
        ),
        Window(
            middle - half, middle + half, "V",
            f"The sink rises by {rise:.0f} K at rest; {100 * tempco:+.1f} % per kelvin moves "
            f"{1000 * v_bias_cold:.3g} mV to {1000 * middle:.3g} mV.",
            tuple(estimated),
        ),
    )  # fmt: skip


@dataclasses.dataclass(frozen=True)
class BleedDown:
    """Seconds until a board's own capacitors are below 5 V after switching off; ``estimated`` if nobody stated how."""

    v_start: float
    seconds: float
    resistance_ohm: float
    c_f: float
    estimated: bool

    def volts_after(self, seconds: float) -> float:
        """What is left on each rail after ``seconds``."""
        return transients.bleed_voltage(self.c_f, self.resistance_ohm, self.v_start, seconds)


def board_bleed_down(module: Module, v_rail: float) -> BleedDown:
    """Discharge of the module's own capacitors; without a stated path through what the drivers draw, doubled."""
    estimated = module.r_discharge_ohm is None
    # The drivers stop drawing as the rail falls, so their nominal resistance is taken twice.
    resistance = module.r_discharge_ohm or 2.0 * module.v_rail_nominal / max(module.i_driver_a, 1e-4)
    seconds = transients.bleed_down_s(module.c_local_f, resistance, v_rail, SAFE_V)
    return BleedDown(v_rail, seconds, resistance, module.c_local_f, estimated)
