"""What a builder should know beside the figures, in sentences."""

from collections.abc import Mapping

from plinth.builds.supplies import BatterySupply, LinearSupply, SwitcherSupply
from plinth.physics.lamp import glow
from plinth.predict.figures_of import Solution
from plinth.predict.inputs import Input
from plinth.predict.wall import cores_stated


def warnings_of(solution: Solution, inputs: Mapping[str, Input]) -> tuple[str, ...]:
    """All that applies: estimates, a frequency that was moved, what can hurt."""
    build, situation = solution.build, solution.situation
    lines = [f"{one.label[0].upper()}{one.label[1:]} is {one.why}." for one in inputs.values() if one.estimated]
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
        lines += [
            f"The lamp could rest at {other:.0f} K as well ({glow(other)}), by what went before: switch off, let it "
            "cool, and look again."
            for other in solution.lamp.others_k
        ]
        asleep = min(rail.mean(rail.v_node) for rail in solution.points.idle.rails) < solution.build.module.v_rail_min
        if asleep and not solution.points.circuit.modules_away:
            lines.append(
                f"Behind the lamp the rails stay below the {solution.build.module.v_rail_min:g} V that modules need, "
                "where what they draw is taken to fall with the rail: a bright lamp here need not be a short."
            )
    if solution.r_soft_ohm and solution.wall is not None:
        heat_w = solution.wall.flow.i_rms_a**2 * solution.r_soft_ohm
        lines.append(
            f"Nothing bridges the soft start: at this level it takes {heat_w:.2g} W and gets hot. It is at mains "
            "potential: keep it clear of wires, capacitors and fingers."
        )
    match build.supply:
        case LinearSupply(transformer=part):
            lines += _wrong_primary(part.v_primary_rms, situation.mains_rms(build))
            if part.leakage_h is None:
                lines.append(
                    "Leakage inductance is not stated and taken as none: charging pulses are somewhat too high."
                )
            if not cores_stated(build):
                lines.append(
                    "A transformer's core loss or magnetising current is not stated and taken as none: "
                    "the wall gives somewhat more than is shown, at rest above all."
                )
        case SwitcherSupply(switcher=switcher):
            lines.append(
                "Inside a mains switcher several hundred volts stay on the bulk capacitor after switch-off: "
                "leave its cover on, and leave repairs to people trained for it."
            )
            if switcher.v_mains_jumper is not None:
                lines += _wrong_primary(switcher.v_mains_jumper, situation.mains_rms(build))
        case BatterySupply():
            lines.append(
                "A battery delivers hundreds of amperes into a short: fuse at its terminal, rings and bracelets off."
            )
    if build.both_outputs_live:
        lines.append("Both output wires are live: neither may touch ground, the case or a scope's ground clip.")
    return tuple(lines)


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
