"""What a healthy module shows at each step on a current-limited bench supply, computed for this build."""

import dataclasses
import math

from plinth.builds.build import Build
from plinth.builds.modules import Module
from plinth.judge.window import Window
from plinth.physics.heat import thermal
from plinth.physics.stages import bias
from plinth.predict.estimates import (
    BIAS_TEMPCO_PER_K,
    DRIFT_SPREAD,
    LEFT_OVER_SHARE,
    SINK_J_PER_K,
    UNKNOWN_DRIFT_SPREAD,
)

SPREAD = 0.15
TRIM = 0.08
# How near to its target a works sets a bias, cold, on a supply of its own (practice).
WORKS_TRIM = 0.25
# A low rail nearer to the full one than this would tell nothing that the full one does not.
ROOM_BELOW_FULL = 0.8
# From this share of the limit on a supply shows its limit, not the board.
AT_LIMIT = 0.9
# Room above the healthiest current while the bias is turned up: enough to see it pass, too little to burn.
BIAS_LIMIT = 1.5
# A sink that takes longer than this to warm is read then all the same.
LONGEST_WARM_S = 3.0 * 3600.0


@dataclasses.dataclass(frozen=True)
class SupplySetting:
    """Rails and current limit to set on the bench supply, and how long the board's own capacitors charge."""

    v_rail: float
    i_limit_a: float
    charge_s: float


def low_rail_v(module: Module, v_full: float) -> float | None:
    """The rail to begin at: the lowest the module works from, at least half of nominal or full; whole volts.

    None where that leaves no room below ``v_full``: the board is then begun at its full rail.
    """
    low = float(math.ceil(max(module.v_rail_min, 0.5 * min(module.v_rail_nominal, v_full))))
    return low if low <= ROOM_BELOW_FULL * v_full else None


def full_rail_v(module: Module, v_build_idle: float) -> float:
    """This build's own rail at idle, held to the module's highest; whole volts where the module works from those."""
    full = min(v_build_idle, module.v_rail_max)
    return float(math.floor(full)) if math.floor(full) >= module.v_rail_min else round(full, 1)


def rest_current(build: Build, v_rail: float, *, bias_set: bool = False) -> Window:
    """Supply current at ``v_rail`` of all modules of a channel: drivers, and at most the whole quiescent current.

    A trimmer at its least leaves little of the latter; a board that was set before draws all of it, and is healthy.
    ``bias_set``: it is known to have been set at the works, not to the last per cent.
    """
    module, boards = build.module, build.modules_per_channel
    low, high = bias.idle_driver_current_a(module.driver_a, v_rail, module.v_rail_nominal)
    whole = (1.0 + SPREAD) * boards * (high + module.i_quiescent_a)
    usual, beyond = None, ""
    if module.bias is None:
        low += module.i_quiescent_a
        why = f"{module.i_quiescent_a * 1000:.0f} mA set by the module itself"
    elif bias_set:
        whole *= (1.0 + WORKS_TRIM) / (1.0 + TRIM)
        why = f"{module.i_quiescent_a * 1000:.0f} mA and the drivers at the most, as its bias was set at the works"
    else:
        usual = (1.0 + SPREAD) * boards * (high + LEFT_OVER_SHARE * module.i_quiescent_a)
        # What a short draws (the supply's limit) must lie outside, whatever a board that was set before would draw.
        whole = min(whole, AT_LIMIT * _limit_a(usual))
        why = "trimmer at its least leaves at most a tenth of the quiescent current"
        beyond = (
            f"More than {usual * 1000:.0f} mA: the trimmer is not at its least, or the board was set before. Turn it "
            "down and read again before you go on."
        )
    assumed = " (assumed)" if module.i_driver_a is None else ""
    pair = " Both modules of the pair hang on the supply." if boards > 1 else ""
    return Window(
        (1.0 - SPREAD) * boards * low,
        whole,
        "A",
        f"Drivers draw {module.driver_a * 1000:.0f} mA{assumed} at {build.rails_words(module.v_rail_nominal)}, between "
        f"constant and falling with the rail; {why}.{pair}",
        () if module.i_driver_a is not None else ("driver stages",),
        usual_high=usual,
        beyond_usual=beyond,
    )


def supply_setting(build: Build, v_rail: float, *, bias_set: bool = False) -> SupplySetting:
    """Rails and limit: twice the most that is healthy, at least 50 mA, so that a fault cannot burn anything."""
    window = rest_current(build, v_rail, bias_set=bias_set)
    maximum = window.usual_high if window.usual_high is not None else window.high
    assert maximum is not None
    return limited_at(build, v_rail, _limit_a(maximum))


def limited_at(build: Build, v_rail: float, i_limit_a: float) -> SupplySetting:
    """A bench supply set so: with how long the capacitors of a channel's modules charge."""
    return SupplySetting(v_rail, i_limit_a, build.modules_per_channel * build.module.c_local_f * v_rail / i_limit_a)


def _limit_a(healthy_a: float) -> float:
    return _whole_limit(2.0 * healthy_a)


def bias_limit_a(build: Build, v_rail: float) -> float:
    """The limit while the bias is turned up: the whole quiescent current of a channel's modules, and half as much."""
    module = build.module
    _, driver = bias.idle_driver_current_a(module.driver_a, v_rail, module.v_rail_nominal)
    return _whole_limit(BIAS_LIMIT * build.modules_per_channel * (driver + (1.0 + TRIM) * module.i_quiescent_a))


def _whole_limit(a: float) -> float:
    """At least 50 mA, and what a bench supply can be set to."""
    step = 0.01 if a < 1.0 else 0.1
    return max(0.05, round(math.ceil(a / step - 1e-9) * step, 2))


def rail_resistance(build: Build, setting: SupplySetting) -> Window:
    """Ohms from either rail to 0 V, unpowered: less would take the whole limit at the first rail set."""
    return Window(
        setting.v_rail / setting.i_limit_a,
        None,
        "ohm",
        f"Less than this would take all of {setting.i_limit_a * 1000:.0f} mA at {build.rails_words(setting.v_rail)}.",
    )


def output_dc(module: Module) -> Window:
    """Output DC once the input and feedback capacitors have charged."""
    maximum = module.offset_max_v
    return Window(-maximum, maximum, "V", f"The module is stated to rest within ±{maximum * 1000:.0f} mV.")


def bias_resistor(module: Module) -> Window:
    """The fitted emitter resistor, as an ohmmeter shows it."""
    assert module.bias is not None
    r, tolerance = module.bias.r_fitted_ohm, max(module.bias.r_fitted_tol, 0.05)
    return Window(r * (1 - tolerance), r * (1 + tolerance), "ohm", f"Fitted {r:g} Ω, ±{100 * tolerance:.0f} %.")


def bias_setting(module: Module, r_ohm: float, measured: bool, *, bias_set: bool = False) -> Window:
    """Millivolts to trim to across a resistor of ``r_ohm``, cold; wider where they were set at the works."""
    assert module.bias is not None
    target = bias.bias_mv(module.bias.i_pair_a, r_ohm) / 1000.0
    trim = WORKS_TRIM if bias_set else TRIM
    how = "as you measured it" if measured else "as fitted, not yet measured"
    return Window(
        target * (1 - trim),
        target * (1 + trim),
        "V",
        f"{module.bias.i_pair_a * 1000:.0f} mA through {r_ohm:g} Ω, {how}, "
        f"{'set at the works' if bias_set else 'trimmed'} to ±{100 * trim:.0f} %.",
        () if measured else (module.bias.label,),
    )


@dataclasses.dataclass(frozen=True)
class WarmUp:
    """``rise_k`` of the sink with this channel at rest, ``wait_s`` until it has come, ``window`` of the bias."""

    rise_k: float
    wait_s: float
    window: Window


def rest_heat_w(build: Build, v_rail: float) -> float:
    """What one channel's modules turn to heat at rest, W: the rails times what they draw."""
    module, rails = build.module, 1.0 if build.supply.single_rail else 2.0
    return rails * v_rail * build.modules_per_channel * (module.i_quiescent_a + module.driver_a)


def rest_rise_k(build: Build, v_rail: float) -> float:
    """How far one channel at rest warms the sink, K."""
    return rest_heat_w(build, v_rail) * build.sink.to_air_k_per_w


def settles_s(build: Build, v_rail: float) -> float:
    """How long that takes, to 5 % of it; a bias that rises as it warms settles later than the sink alone.

    One that would run away is watched for as long as is worth waiting.
    """
    module, sink = build.module, build.sink
    tempco = 0.0
    if module.bias is not None:
        stated = module.bias.tempco_per_k
        tempco = BIAS_TEMPCO_PER_K if stated is None else stated
    quiescent_w = rest_heat_w(build, v_rail) * module.i_quiescent_a / (module.i_quiescent_a + module.driver_a)
    gain = quiescent_w * tempco * sink.to_air_k_per_w
    stated_j = sink.heat_capacity_j_per_k
    capacity = SINK_J_PER_K if stated_j is None else stated_j
    return min(thermal.wait_s(gain, sink.to_air_k_per_w, capacity), LONGEST_WARM_S)


def warm_bias(build: Build, v_rail: float, v_bias_cold: float) -> WarmUp:
    """The bias reading after warming up from ``v_bias_cold`` volts, with one channel at rest on the sink."""
    module, sink = build.module, build.sink
    assert module.bias is not None
    rise = rest_rise_k(build, v_rail)
    estimated = []
    tempco, spread = module.bias.tempco_per_k, DRIFT_SPREAD
    if tempco is None:
        # Stated by nobody, so the window is wide and says so.
        tempco, spread = BIAS_TEMPCO_PER_K, UNKNOWN_DRIFT_SPREAD
        estimated.append("bias drift")
    if sink.heat_capacity_j_per_k is None:
        estimated.append("heat capacity of the sink")
    drift = abs(tempco * rise)
    middle = bias.drifted_a(v_bias_cold, tempco, rise)
    half = v_bias_cold * (drift * spread + 0.04)
    return WarmUp(
        rise,
        settles_s(build, v_rail),
        Window(
            middle - half, middle + half, "V",
            f"The sink rises by {rise:.0f} K at rest; {100 * tempco:+.1f} % per kelvin moves "
            f"{1000 * v_bias_cold:.3g} mV to {1000 * middle:.3g} mV.",
            tuple(estimated),
        ),
    )  # fmt: skip
