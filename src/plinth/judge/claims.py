"""What a listing claims, judged against physics and against the prediction of this build."""

import dataclasses
import math

from plinth.builds.modules import Module, PowerClaim
from plinth.builds.properties import is_stated
from plinth.judge.state import State
from plinth.physics.stages.bias import bias_mv
from plinth.physics.stages.levels import peak_from_rms, rms_for_power
from plinth.predict.figure import Figure
from plinth.units.shown import shown, shown_with_spread


@dataclasses.dataclass(frozen=True)
class ClaimVerdict:
    """``against`` names what the claim was held to: the rails, the prediction, the reading."""

    claim: PowerClaim
    against: str
    state: State
    sentence: str


# Power at a stated distortion lies above the onset of clipping, so it is no claim about onset.
DISTORTION = {"thd_1": "1 % distortion", "thd_10": "10 % distortion"}
THD_OF = {"thd_1": 0.01, "thd_10": 0.10}


def at_distortion(claim: PowerClaim) -> str:
    """`` at 10 % distortion`` where the listing means that; empty otherwise."""
    words = DISTORTION.get(claim.definition)
    return f" at {words}" if words else ""


def power_claim(
    claim: PowerClaim, clip_power: Figure, clip_v_peak: Figure, as_claimed: Figure | None = None
) -> ClaimVerdict:
    """A claimed power against the predicted clip onset into the same load.

    ``as_claimed`` the power predicted at the distortion that the claim means, where it is computed.
    """
    needed = peak_from_rms(rms_for_power(claim.power_w, claim.r_load_ohm))
    listing = f"Listing says {claim.power_w:g} W into {claim.r_load_ohm:g} Ω{at_distortion(claim)}."
    if claim.power_w <= clip_power.high:
        return ClaimVerdict(
            claim, "prediction", State.CLEAR,
            f"{listing} Predicted {shown_with_spread(clip_power.value, clip_power.spread, 'W')}: within reach.",
        )  # fmt: skip
    if claim.definition in DISTORTION and as_claimed is not None:
        sentence = f"{listing} Predicted there {shown_with_spread(as_claimed.value, as_claimed.spread, 'W')}"
        if claim.power_w <= as_claimed.high:
            return ClaimVerdict(claim, "prediction", State.CLEAR, f"{sentence}: within reach.")
        return ClaimVerdict(claim, "prediction", State.OVER, f"{sentence}: not with these rails.")
    if claim.definition in DISTORTION:
        return ClaimVerdict(
            claim, "prediction", State.UNKNOWN,
            f"{listing} Predicted at onset {shown_with_spread(clip_power.value, clip_power.spread, 'W')}; "
            "the two are not the same and are not held against each other.",
        )  # fmt: skip
    return ClaimVerdict(
        claim, "rails", State.OVER,
        f"{listing} It would need ±{shown(needed, 'V')} at the output; "
        f"these rails leave {shown_with_spread(clip_v_peak.value, clip_v_peak.spread, 'V')}.",
    )  # fmt: skip


# A listing means the rail it names, or the module's nominal one; rails without load stand somewhat above.
SAME_RAIL = (0.9, 1.25)


def other_rail(claim: PowerClaim, nominal_v: float, rail_v: float) -> str:
    """Words where a claim was made at another rail than this one (volts without load); empty where it holds here.

    ``nominal_v`` the module's nominal rail, which a claim means that names none.
    """
    meant = claim.v_rail_v if claim.v_rail_v is not None else nominal_v
    if SAME_RAIL[0] * meant <= rail_v <= SAME_RAIL[1] * meant:
        return ""
    named = f"at {meant:g} V rails" if claim.v_rail_v is not None else f"at no stated rail (nominal {meant:g} V)"
    return f"{named}, and here it is {shown(rail_v, 'V')}"


def claim_for(module: Module, r_ohm: float) -> PowerClaim | None:
    """The listing's power for a load within 10 % of ``r_ohm``, if it names one."""
    for claim in module.claims:
        if abs(claim.r_load_ohm - r_ohm) <= 0.10 * claim.r_load_ohm:
            return claim
    return None


# How far a listed sensitivity may lie from the drive that clips before it says something else.
SENSITIVITY_SLACK = 0.10


def sensitivity_claim(module: Module, drive: Figure) -> str | None:
    """A sentence where the listed sensitivity contradicts the listing itself, or is not where this build clips."""
    listed = module.sensitivity_v_rms if is_stated(module, "sensitivity_v_rms") else None
    if listed is not None and (own := _against_itself(module, listed)):
        return own
    if listed is None or abs(listed - drive.value) <= drive.spread + SENSITIVITY_SLACK * listed:
        return None
    needs = f"This build clips at {shown_with_spread(drive.value, drive.spread, 'V')} of drive"
    sentence = f"Listing says full power at {shown(listed, 'V')}."
    if listed < drive.value:
        return (
            f"{sentence} {needs}: at {shown(listed, 'V')} it is {20.0 * math.log10(drive.value / listed):.1f} dB below."
        )
    return f"{sentence} {needs}: sooner than listed, so turn the source down."


def _against_itself(module: Module, listed: float) -> str:
    """Whether the listed sensitivity times the gain is more than the module's own highest rail: no build could tell."""
    if not (is_stated(module, "gain") and is_stated(module, "v_rail_max")):
        return ""
    v_rms = listed * module.gain
    least = peak_from_rms(v_rms) * (1.0 - module.gain_tol)
    if least <= module.v_rail_max:
        return ""
    return (
        f"Listing says full power at {shown(listed, 'V')} and a gain of {module.gain:g}: that is {shown(v_rms, 'V')} "
        f"rms, {shown(peak_from_rms(v_rms), 'V')} of peak, above the {module.v_rail_max:g} V that the module stands. "
        "The listing contradicts itself: measure gain and sensitivity."
    )


def bias_claim(module: Module) -> str | None:
    """A sentence where the listed bias voltage belongs to another resistor than the one fitted."""
    bias = module.bias
    if bias is None or not is_stated(module, "bias.listed_mv"):
        return None
    if abs(bias.r_listed_ohm - bias.r_fitted_ohm) <= 0.02 * bias.r_listed_ohm:
        return None
    per_pair = bias.i_pair_a
    return (
        f"Listing says {bias.listed_mv:g} mV across {bias.r_listed_ohm:g} Ω, which is {shown(per_pair, 'A')}. "
        f"Fitted is {bias.r_fitted_ohm:g} Ω: the same current shows {bias_mv(per_pair, bias.r_fitted_ohm):.3g} mV."
    )
