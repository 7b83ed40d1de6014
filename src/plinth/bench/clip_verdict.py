"""What watts read at clipping say against the band predicted and against the listing.

From plain facts, so that it can be said again of a reading that was kept.
"""

import dataclasses
import math
from collections.abc import Mapping

from plinth.builds.modules import Module, PowerClaim
from plinth.judge.claims import DISTORTION, at_distortion, other_rail
from plinth.judge.margin import LIMIT_SLACK
from plinth.judge.state import State
from plinth.judge.window import Window, judge_reading
from plinth.physics.stages import levels
from plinth.predict.figure import Figure
from plinth.record.reading import Reading
from plinth.units.bounds import Bound
from plinth.units.shown import shown, shown_with_spread


@dataclasses.dataclass(frozen=True)
class Band:
    """Watts as predicted, and their standard uncertainty; ``how`` they follow from what is predicted of the onset."""

    value: float
    u: float
    how: str = ""

    @property
    def words(self) -> str:
        """With the 95 % spread, and how they come about where that is not plain."""
        spread = shown_with_spread(self.value, 2.0 * self.u, "W")
        return f"{spread} ({self.how})" if self.how else spread


def band_of(figure: Figure) -> Band:
    """The band of a predicted figure."""
    return Band(figure.value, figure.u)


def band_kept(reading: Reading) -> Band | None:
    """The band that a reading was held against; None where none was kept."""
    if reading.low is None or reading.high is None:
        return None
    return Band(0.5 * (reading.low + reading.high), 0.25 * (reading.high - reading.low), reading.word("expected_how"))


@dataclasses.dataclass(frozen=True)
class Listed:
    """What the listing claims for this load; ``elsewhere`` that it does so for another rail, in words."""

    claim: PowerClaim
    elsewhere: str

    @property
    def words(self) -> str:
        """The claim."""
        return f"Listing: {self.claim.power_w:g} W into {self.claim.r_load_ohm:g} Ω{at_distortion(self.claim)}"


def listed(claim: PowerClaim | None, module: Module, rail_v: float) -> Listed | None:
    """A claim as it holds at this rail (V without load)."""
    return None if claim is None else Listed(claim, other_rail(claim, module.v_rail_nominal, rail_v))


def claim_facts(claim: PowerClaim | None, module: Module) -> dict[str, float | str]:
    """A claim as facts of a reading."""
    if claim is None:
        return {}
    stated = {} if claim.v_rail_v is None else {"claim_rail_v": claim.v_rail_v}
    return {
        "claim_w": claim.power_w, "claim_ohm": claim.r_load_ohm, "claim_at": claim.definition,
        "nominal_rail_v": module.v_rail_nominal, **stated,
    }  # fmt: skip


def listed_then(reading: Reading) -> Listed | None:
    """The claim that a reading was held against, from its facts."""
    power, ohm, nominal = (reading.number(name) for name in ("claim_w", "claim_ohm", "nominal_rail_v"))
    rail = (reading.conditions or {}).get("rail_v")
    if power is None or ohm is None or nominal is None or not isinstance(rail, float | int):
        return None
    claim = PowerClaim.model_validate(
        {
            "power_w": power, "r_load_ohm": ohm, "definition": reading.word("claim_at"),
            "v_rail_v": reading.number("claim_rail_v"),
        }
    )  # fmt: skip
    return Listed(claim, other_rail(claim, nominal, rail))


@dataclasses.dataclass(frozen=True)
class ClipVerdict:
    """What a clipping reading says against the prediction, and against the listing where it has a claim."""

    state: State
    against_prediction: str
    against_claim: str

    @property
    def sentence(self) -> str:
        """Both together."""
        return " ".join(part for part in (self.against_prediction, self.against_claim) if part)


_CHECKS = (
    "Does a channel current-limit, or is the mains low today?",
    "Is the load as measured, and the scope's probe factor right?",
)


def judge_watts(
    band: Band,
    most_v_peak: float,
    r_ohm: float,
    claim: Listed | None,
    power_w: float,
    u_power_w: float | None,
    bound: Bound = Bound.NONE,
    definition: str = "onset",
    reads_times: float = 1.0,
) -> ClipVerdict:
    """Watts at onset into ``r_ohm``, or at the distortion of ``definition``, against prediction and listing.

    ``reads_times`` how many times the power at onset such a reading says: a claim of the onset is held against that.

    Bands are those of 95 %. Clear where the bands meet; close where they miss by less than their own width; over beyond
    that, or where the peak is more than the rails can give (``most_v_peak``). A bound is judged as far as it tells.
    """
    if claim is None or claim.claim.definition != "onset":
        reads_times = 1.0
    if bound.one_sided:
        state, words = bound_against_prediction(band, power_w, bound)
        return ClipVerdict(state, words, _bound_against_claim(claim, power_w / reads_times, bound, definition))
    v_peak = levels.peak_from_rms(levels.rms_for_power(power_w, r_ohm))
    if v_peak * (1.0 - 1.5 * (u_power_w or 0.0) / power_w) > most_v_peak:
        # Never praised: whatever the listing says, these rails cannot have given it.
        words = f"{shown(v_peak, 'V')} of peak is beyond these rails ({shown(most_v_peak, 'V')} at the most): "
        return ClipVerdict(State.OVER, f"{words}look at load, probe factor and form, and read it again.", "")
    state, words = against_prediction(band, power_w, u_power_w, _CHECKS)
    u_claimed = None if u_power_w is None else u_power_w / reads_times
    return ClipVerdict(state, words, _against_claim(claim, power_w / reads_times, u_claimed, definition))


def against_prediction(
    band: Band, power_w: float, u_power_w: float | None, checks: tuple[str, str]
) -> tuple[State, str]:
    """Read watts against predicted ones, bands at 95 %; ``checks`` what to look at where they lie below, and above."""
    u = math.hypot(band.u, u_power_w or 0.0)
    apart = power_w - band.value
    if abs(apart) <= 2.0 * u:
        return State.CLEAR, f"Inside the predicted {band.words}."
    state = State.CLOSE if abs(apart) <= 4.0 * u else State.OVER
    side = "above" if apart > 0 else "below"
    return state, f"{shown(abs(apart), 'W', 2)} {side} the predicted {band.words}. {checks[apart > 0]}"


def bound_against_prediction(band: Band, power_w: float, bound: Bound) -> tuple[State, str]:
    """Watts that are only a bound against predicted ones, as far as that tells."""
    window = Window(band.value - 2.0 * band.u, band.value + 2.0 * band.u, "W", "")
    verdict = judge_reading(power_w, None, window, bound)
    words = f"{bound.sign}{shown(power_w, 'W')}"
    if verdict.state is State.OVER:
        return State.OVER, f"{words} lies {'above' if verdict.side > 0 else 'below'} the predicted {band.words}."
    return State.UNKNOWN, f"{words} does not tell whether the predicted {band.words} is met: read it on another range."


def _bound_against_claim(here: Listed | None, power_w: float, bound: Bound, definition: str) -> str:
    if here is None or here.elsewhere:
        return ""
    claim = here.claim
    if bound is Bound.ABOVE and power_w >= claim.power_w * (1.0 - LIMIT_SLACK):
        return f"{here.words}, reached."
    if bound is Bound.BELOW and power_w < claim.power_w and _told(claim, definition):
        return f"{here.words}, not reached: less than {100.0 * power_w / claim.power_w:.0f} %."
    return f"{here.words}, which a bound does not tell."


def _told(claim: PowerClaim, definition: str) -> bool:
    """Whether a reading at a definition of clipping tells of a claim: one at onset not of a claim at a distortion."""
    return claim.definition not in DISTORTION or claim.definition == definition


def _against_claim(here: Listed | None, power_w: float, u_power_w: float | None, definition: str) -> str:
    if here is None:
        return ""
    if here.elsewhere:
        return f"{here.words}, {here.elsewhere}: not held against this reading."
    if power_w + 2.0 * (u_power_w or 0.0) >= here.claim.power_w:
        return f"{here.words}, reached."
    if not _told(here.claim, definition):
        return f"{here.words}, which this reading at {DISTORTION.get(definition, 'onset')} does not tell."
    return f"{here.words}, not reached: {100.0 * power_w / here.claim.power_w:.0f} % of it."


def unexplained_words(power_w: float, facts: Mapping[str, float | str]) -> str:
    """That a bias changed since an earlier reading does not explain the power; empty where no such facts were kept."""
    numbers = [facts.get(name) for name in ("earlier_w", "bias_was_v", "bias_now_v", "bias_moves_w")]
    earlier, was, now, moves = (math.nan if number is None else float(number) for number in numbers)
    if not all(math.isfinite(number) for number in (earlier, was, now, moves)):
        return ""
    return (
        f"{shown(earlier, 'W')} was read at {shown(was, 'V')} of bias; now {shown(now, 'V')}. That moves clip power by "
        f"about {shown(abs(moves), 'W', 2)}, which does not explain {shown(abs(power_w - earlier), 'W', 2)}."
    )
