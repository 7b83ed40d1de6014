"""What a builder should know beside the figures, in sentences."""

from collections.abc import Mapping

from plinth.physics.mains.lamp import glow
from plinth.predict.input import Input
from plinth.predict.lamp_ahead import LampAhead, Shorted
from plinth.predict.solution import Solution
from plinth.predict.wall import cores_stated


def warnings_of(solution: Solution, inputs: Mapping[str, Input]) -> tuple[str, ...]:
    """All that applies: estimates, a frequency that was moved, what can hurt."""
    build, situation = solution.build, solution.situation
    lines = [
        f"{quantity.label[0].upper()}{quantity.label[1:]} is {quantity.why}."
        for quantity in inputs.values()
        if quantity.estimated
    ]
    computed = solution.points.at_level.period.shared.f_signal_hz
    if solution.lamp is None and abs(computed / situation.frequency_hz - 1.0) > 1e-9:
        lines.append(f"Computed at {computed:.6g} Hz, the nearest frequency that shares a short period with the mains.")
    if any(g == 0.0 for _, g in solution.points.circuit.reservoirs):
        lines.append(
            "No bleeder is fitted to a rail: its reservoirs stay charged after switch-off. Measure before touching."
        )
    if solution.points.held_by_current:
        lines.append(
            f"Clip power is where the module's own current limit of {solution.points.circuit.i_limit_a:.3g} A is "
            "reached: the rails would leave more."
        )
    if solution.points.circuit.modules_away:
        lines.append(
            "Rails are those under what hangs on them in place of the modules; clip figures are those with the modules."
        )
    if solution.lamp is not None:
        lines.append(
            f"A {solution.lamp.lamp.p_rated_w:g} W lamp is in series, as warm as the build at rest keeps it: "
            f"{glow(solution.lamp.t_k)}. "
            "Rails, currents and heat are those at rest: under a signal it glows up and takes the rails down. Clip "
            "figures are those without it. A filament of 2700 K at its rated voltage is assumed."
        )
        if build.module.idle_follows_rail is None:
            lines.append("That modules draw as much at rest from any rail they work on is assumed: nobody states it.")
        lines += at_the_lamp(solution)
    if solution.r_soft_ohm and solution.wall is not None:
        heat_w = solution.wall.flow.i_rms_a**2 * solution.r_soft_ohm
        lines.append(
            f"Nothing bridges the soft start: at this level it takes {heat_w:.2g} W and gets hot. It is at mains "
            "potential: keep it clear of wires, capacitors and fingers."
        )
    supply = build.supply
    lines += supply.cautions
    if supply.made_for_v_rms is not None:
        lines += _wrong_primary(supply.made_for_v_rms, situation.mains_rms(build))
    if supply.transformer is not None:
        if supply.transformer.leakage_h is None:
            lines.append("Leakage inductance is not stated and taken as none: charging pulses are somewhat too high.")
        if not cores_stated(build):
            lines.append(
                "A transformer's core loss or magnetising current is not stated and taken as none: "
                "the wall gives somewhat more than is shown, at rest above all."
            )
    if build.both_outputs_live:
        lines.append("Both output wires are live: neither may touch ground, the case or a scope's ground clip.")
    return tuple(lines)


# Of volts on the lamp: nearer to a short's than this, eye and meter hardly tell them apart.
LIKE_A_SHORT = 0.9
# About the modules' lowest rail: a mean this near to it is that of a stage that stops and starts.
AT_THE_LOWEST = 0.01


def at_the_lamp(solution: Solution) -> list[str]:
    """What to know while looking at the lamp: how a short would look, what else a bright one may be."""
    lamp, lines = solution.lamp, list[str]()
    if lamp is None:
        return lines
    if lamp.shorted is not None:
        lines.append(_told_from_a_short(lamp, lamp.shorted))
    if not solution.points.circuit.modules_away:
        lines += _asleep(solution)
    return lines + [
        f"The lamp could rest at {other:.0f} K as well ({glow(other)}), by what went before: switch off, let it "
        "cool, and look again."
        for other in lamp.others_k
    ]


def _asleep(solution: Solution) -> list[str]:
    """What to know where the lamp leaves the modules less than they work from."""
    module, idle = solution.build.module, solution.points.idle
    lowest = min(rail.mean(rail.v_node) for rail in idle.rails)
    stops = module.idle_below_min == "stops"
    if stops and abs(lowest / module.v_rail_min - 1.0) < AT_THE_LOWEST:
        return [
            (
                f"Behind the lamp the modules stop below {module.v_rail_min:g} V and wake above it, on and on: rails "
                "and lamp waver about the figures shown. Take a larger lamp."
            )
        ]
    if lowest >= module.v_rail_min:
        return []
    law = {
        None: "is taken to fall with the rail, as nobody states it",
        "falls": "falls with the rail",
        "stops": "stops",
    }[module.idle_below_min]
    return [
        (
            f"Behind the lamp the rails stay below the {module.v_rail_min:g} V that modules need, "
            f"where what they draw {law}: a bright lamp here need not be a short."
        )
    ]


def _told_from_a_short(lamp: LampAhead, short: Shorted) -> str:
    """How healthy is told from one rail shorted, by eye and by meter."""
    v = lamp.i_rms_a * lamp.r_ohm
    other = "" if short.other_rail_v is None else f", with about {short.other_rail_v:.1f} V left on the other rail"
    words = (
        f"With one rail shorted the lamp would be {glow(short.t_k)} with {short.v_rms:.0f} V on it{other}; healthy it "
        f"is {glow(lamp.t_k)} with {v:.0f} V."
    )
    if v > LIKE_A_SHORT * short.v_rms:
        words += " The eye does not tell these apart: read the rails, or take a larger lamp."
    return words


# Mains within these shares of what a primary is wound for is that mains, on a low or a high day.
RIGHT_PRIMARY = (0.85, 1.15)


def _wrong_primary(wound_for: float, mains: float) -> list[str]:
    if RIGHT_PRIMARY[0] <= mains / wound_for <= RIGHT_PRIMARY[1]:
        return []
    return [
        (
            f"The primary is wound for {wound_for:g} V and the mains has {mains:g} V: "
            "check the jumper or the tapping before power."
        )
    ]
