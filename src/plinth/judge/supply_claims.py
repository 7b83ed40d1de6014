"""What the supply's parts claim: the mean current of a bridge, the ripple of a reservoir, a regulator's output."""

from collections.abc import Iterator

from plinth.builds.build import Build
from plinth.builds.properties import is_stated
from plinth.builds.supply_parts import Regulator
from plinth.judge.claim_verdict import ALONE, ClaimState, JudgedClaim, near, no, unsure, yes
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.units.shown import shown, shown_with_spread

# What a capacitor as large as a fist gives off at 10 K above the air around it; more boils its electrolyte.
MOST_CAN_W = 6.0


def supply_ratings(build: Build, prediction: Prediction) -> Iterator[JudgedClaim]:
    """Ratings of rectifier, reservoir and regulator that somebody states."""
    supply = build.supply
    if supply.transformer is not None and is_stated(supply.rectifier, "i_rated_a"):
        bridge, mean = supply.rectifier, prediction.get("diode_plus_mean_a")
        fuse, winding_a = build.entry.fuse_a_rms, supply.transformer.i_rated_a
        guessed = "" if is_stated(supply.transformer, "va") else "Its rating only assumed: "
        yield JudgedClaim(
            f"{bridge.i_rated_a:g} A mean", bridge.name,
            (yes if bridge.i_rated_a <= 100.0 else near)("On a sink: without one a bridge carries a fifth of it."),
            (unsure if not is_stated(supply.transformer, "va") else
             yes if bridge.i_rated_a >= winding_a / 1.6 else no)(
              f"{guessed}The winding gives {shown(winding_a, 'A')} rms, some {shown(winding_a / 1.6, 'A')} mean; the "
              f"fuse is {fuse:g} A."),
            unsure("Not predicted.") if mean is None else _rated(mean, bridge.i_rated_a),
        )  # fmt: skip
    can = supply.reservoir
    if can.i_ripple_rated_a is not None and is_stated(can, "i_ripple_rated_a"):
        ripple = prediction.get("reservoir_plus_ripple_a_rms")
        if can.esr_ohm is None or not is_stated(can, "esr_ohm"):
            possible = unsure("No ESR is listed, so its heat cannot be told.")
        else:
            heat = can.i_ripple_rated_a**2 * can.esr_ohm
            possible = (yes if heat <= MOST_CAN_W else no)(
                f"({can.i_ripple_rated_a:g} A)² × {shown(can.esr_ohm, 'ohm')} = {shown(heat, 'W')} of heat; a can "
                f"gives off some {MOST_CAN_W:g} W."
            )
        here = unsure("Not predicted.") if ripple is None else _rated(ripple, can.i_ripple_rated_a)
        yield JudgedClaim(f"{can.i_ripple_rated_a:g} A of ripple", can.name, possible, ALONE, here)
    if (
        supply.transformer is not None
        and supply.input_supply is not None
        and is_stated(supply.input_supply.regulator, "i_max_a")
    ):
        yield _regulator(supply.input_supply.regulator, supply.input_supply.i_load_a, prediction)


def _regulator(part: Regulator, i_load_a: float, prediction: Prediction) -> JudgedClaim:
    limit = 125.0 if part.t_junction_max_c is None else part.t_junction_max_c
    heat = part.i_max_a * part.v_dropout_v
    maximum = (limit - 25.0) / part.r_junction_air_k_per_w
    possible = (yes if heat <= maximum else no)(
        f"{part.i_max_a:g} A × {part.v_dropout_v:g} V of dropout alone is {shown(heat, 'W')}; as it is cooled it gives "
        f"off ({limit:g} − 25) K / {part.r_junction_air_k_per_w:g} K/W = {shown(maximum, 'W')}."
    )
    if part.v_in_max is None:
        consistent = unsure("No highest input is listed.")
    else:
        both = part.i_max_a * (part.v_in_max - part.v_out)
        consistent = (yes if both <= maximum else near)(
            f"Full current at its highest input would be {shown(both, 'W')}: not both at once."
            if both > maximum
            else f"Even full current at its highest input is {shown(both, 'W')}."
        )
    figure = prediction.get("input_rail_mean_v")
    if figure is None:
        here = unsure("Not predicted.")
    else:
        own = (figure.value - part.v_out) * i_load_a
        here = (yes if own <= maximum and i_load_a <= part.i_max_a else no)(
            f"Here ({shown(figure.value, 'V')} − {part.v_out:g} V) × {shown(i_load_a, 'A')} = {shown(own, 'W')}."
        )
    return JudgedClaim(f"{part.v_out:g} V, {part.i_max_a:g} A", part.name, possible, consistent, here)


def _rated(figure: Figure, limit: float) -> ClaimState:
    words = f"Predicted {shown_with_spread(figure.value, figure.spread, figure.unit)} of {limit:g} {figure.unit}."
    if figure.value > limit * (1.0 + 1e-9):
        return no(words)
    return near(words) if figure.high > limit else yes(words)
