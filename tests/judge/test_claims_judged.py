"""Claims judged three ways: each verdict at its limit on either side, over every kind of build."""

import math
from typing import Any, Literal

import pytest

from plinth.builds.build import Build
from plinth.builds.hookup import Hookup, SpeakerCable
from plinth.builds.modules import BiasPoint, ClassABModule, DistortionPoint, PowerClaim
from plinth.builds.properties import How, Told, value_at
from plinth.builds.situation import Situation
from plinth.judge.claim_verdict import JudgedClaim
from plinth.judge.claims import bias_claim, sensitivity_claim
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.physics.stages.clipped_sine import clipped, power_ratio_at
from plinth.predict.solve import solve
from plinth.session.claims import claims_of
from plinth.shelf.from_zero import begun_with
from plinth.shelf.listing.read import read_listing
from plinth.shelf.requirement import Requirement
from tests.family import FAMILY, FEW_FIRST
from tests.sample_builds import linear

LINEAR = FAMILY["class AB on linear"]
CLEAR, CLOSE, OVER, UNKNOWN = State.CLEAR, State.CLOSE, State.OVER, State.UNKNOWN


def judged(build: Build, **situation: object) -> tuple[JudgedClaim, ...]:
    return claims_of(build, Situation.model_validate(situation), lambda _: True)


def one(build: Build, words: str, **situation: object) -> JudgedClaim:
    found = [claim for claim in judged(build, **situation) if words in claim.words]
    assert len(found) == 1, [claim.words for claim in judged(build)]
    return found[0]


def claiming(**said: Any) -> Build:
    plain = {"claims": (), "sensitivity_v_rms": None, "slew_v_per_s": None, "distortion": ()}
    return LINEAR.model_copy(update={"module": LINEAR.module.model_copy(update=plain | said)})


def power(watts: float, ohms: float, **more: Any) -> PowerClaim:
    return PowerClaim(power_w=watts, r_load_ohm=ohms, **more)


def test_a_clipped_sine_against_its_own_samples() -> None:
    for drive in (1.0, 1.05, 1.4, 3.0):
        samples = [max(-1.0, min(1.0, drive * math.sin(2.0 * math.pi * (k + 0.5) / 40_000))) for k in range(40_000)]
        square = sum(v * v for v in samples) / len(samples)
        first = sum(v * math.sin(2.0 * math.pi * (k + 0.5) / 40_000) for k, v in enumerate(samples)) / 20_000
        ratio, share = clipped(drive)
        assert ratio == pytest.approx(2.0 * square, rel=1e-6)
        assert share == pytest.approx(math.sqrt(max(2.0 * square / first**2 - 1.0, 0.0)), abs=1e-4)
    assert power_ratio_at(0.0) == 1.0
    for share in (-0.1, 0.5):
        with pytest.raises(ValueError, match="expected"):
            power_ratio_at(share)


@pytest.mark.parametrize(("definition", "share"), [("onset", 0.0), ("thd_1", 0.01), ("thd_10", 0.10)])
def test_a_power_beyond_the_rail_is_not_possible(definition: str, share: float) -> None:
    most = 40.0**2 / (2.0 * 8.0) * power_ratio_at(share)
    for watts, state in ((1.01 * most, OVER), (0.95 * most, CLOSE), (0.5 * most, CLEAR)):
        claim = power(watts, 8.0, definition=definition, v_rail_v=40.0)
        assert one(claiming(claims=(claim,)), "W into").possible.state is state


def test_a_power_beyond_the_current_limit_is_not_possible() -> None:
    limit = LINEAR.module.i_limit_a
    ohms = 1.5
    watts = limit**2 / 2.0 * ohms
    build = claiming(claims=(power(1.02 * watts, ohms, definition="onset"),), r_load_min_ohm=1.0, v_rail_max=90.0)
    assert "limits at" in one(build, "W into").possible.sentence
    build = claiming(claims=(power(0.98 * watts, ohms, definition="onset"),), r_load_min_ohm=1.0, v_rail_max=90.0)
    assert one(build, "W into").possible.state is not OVER


def test_more_volts_into_the_heavier_load_contradict_themselves() -> None:
    for watts, state in ((99.0, CLEAR), (104.0, OVER)):
        build = claiming(claims=(power(50.0, 8.0), power(watts, 4.0)))
        assert one(build, "into 4").consistent.state is state
    # At another rail or another distortion nothing is held against anything.
    build = claiming(claims=(power(50.0, 8.0), power(150.0, 4.0, definition="thd_10")))
    assert one(build, "into 4").consistent.state is UNKNOWN


def test_a_load_below_its_own_least_contradicts_itself() -> None:
    least = LINEAR.module.r_load_min_ohm
    assert one(claiming(claims=(power(10.0, 0.9 * least),)), "W into").consistent.state is OVER


def test_a_power_against_what_this_build_gives() -> None:
    into = solve(LINEAR, Situation(load_ohm=8.0, channels_driven="one"))["clip_worst_power_w"]
    for watts, state in ((into.value, CLEAR), (1.3 * into.high, OVER)):
        claim = power(watts, 8.0, definition="onset", v_rail_v=solve(LINEAR)["rail_no_load_v"].value)
        assert one(claiming(claims=(claim,)), "W into").here.state is state
    # What was listed for higher rails is not disproved by lower ones.
    claim = power(1.3 * into.high, 8.0, definition="onset", v_rail_v=41.0)
    assert one(claiming(claims=(claim,)), "W into").here.state is CLOSE


def test_sensitivity_gain_and_power_agree_or_not() -> None:
    gain = LINEAR.module.gain
    volts = math.sqrt(50.0 * 8.0)
    for listed, state in ((volts / gain, CLEAR), (0.8 * volts / gain, OVER)):
        build = claiming(claims=(power(50.0, 8.0),), sensitivity_v_rms=listed)
        assert one(build, "W into").consistent.state is state
        assert one(build, "full power at").consistent.state is state
        assert one(build, "gain").consistent.state is state
    # More than its own highest rail.
    beyond = claiming(sensitivity_v_rms=1.2 * LINEAR.module.v_rail_max / gain)
    assert one(beyond, "full power at").possible.state is OVER


def test_gain_against_the_source() -> None:
    drive = solve(LINEAR)["drive_v_rms"].value
    assert one(claiming(), "gain").here.state is UNKNOWN
    assert one(claiming(), "gain", source_v_rms=1.02 * drive).here.state is CLEAR
    assert one(claiming(), "gain", source_v_rms=0.98 * drive).here.state is OVER
    assert one(claiming(gain=1000.0), "gain").possible.state is CLOSE


def test_a_response_against_slew_filter_and_input() -> None:
    high = LINEAR.module.f_high_hz
    for times, state in ((1.02, CLEAR), (0.98, CLOSE)):
        slew = times * high * 2.0 * math.pi * LINEAR.module.v_rail_nominal
        assert one(claiming(slew_v_per_s=slew), " to ").consistent.state is state
    corner = 1.0 / (2.0 * math.pi * LINEAR.module.r_input_ohm)
    low = LINEAR.module.f_low_hz
    for c, state in ((corner / (0.9 * low), CLEAR), (corner / 60.0, OVER)):
        hookup = Hookup(name="Mine", coupling="film", c_input_f=c)
        assert one(claiming().model_copy(update={"hookup": hookup}), " to ").here.state is state
    half = FAMILY["class D half bridge on linear"]
    wide = half.model_copy(update={"module": half.module.model_copy(update={"f_high_hz": 4e5})})
    assert one(wide, " to ").possible.state is OVER


def test_distortion_that_falls_where_feedback_lets_it_rise_is_band_limited() -> None:
    def curve(*points: tuple[float, float]) -> JudgedClaim:
        found = tuple(DistortionPoint(f_hz=f, share=share) for f, share in points)
        return one(claiming(distortion=found), "% at")

    falling = curve((1e3, 2e-4), (2e4, 1e-4))
    assert falling.possible.state is OVER
    assert "Band-limited" in falling.possible.sentence
    assert curve((1e3, 1e-4), (2e4, 4e-4)).possible.state is CLEAR
    assert curve((1e3, 1e-4), (2e4, 0.95e-4)).possible.state is CLEAR
    # In the bass it may fall: a transformer or a loudspeaker's bass is not what feedback does.
    assert curve((20.0, 4e-4), (1e3, 1e-4)).possible.state is CLEAR
    assert curve((1e3, 1e-4)).possible.state is UNKNOWN
    assert curve((1e3, 1e-4)).here.state is UNKNOWN


def test_quiescent_current_against_its_resistor_and_its_other_words() -> None:
    def biased(**said: Any) -> JudgedClaim:
        point = BiasPoint(listed_mv=22.0, r_listed_ohm=0.22, r_fitted_ohm=0.22)
        return one(claiming(bias=point, output_pairs=1, **said), "mV across")

    assert biased(i_quiescent_stated_a=0.109).consistent.state is CLEAR
    assert biased(i_quiescent_stated_a=0.12).consistent.state is OVER
    other = BiasPoint(listed_mv=22.0, r_listed_ohm=0.22, r_fitted_ohm=0.33)
    assert one(claiming(bias=other), "mV across").here.state is CLOSE
    # One pair at 0.1 A on these rails: its heat lifts the junction so far above a sink of 40 degrees.
    rise = 2.0 * LINEAR.module.v_rail_nominal * 0.1 * 2.0
    for limit, state in ((41.0 + rise, CLEAR), (39.0 + rise, OVER)):
        hot = biased(t_junction_max_c=limit, r_junction_sink_k_per_w=2.0)
        assert hot.possible.state is state, hot.possible.sentence
        assert f"{rise:.0f} K above its sink" in hot.possible.sentence


def test_damping_is_decided_by_the_cable() -> None:
    build = claiming(r_output_ohm=0.02)
    assert one(build, "damping").here.state is UNKNOWN
    for area, state in ((10e-6, CLEAR), (1e-6, CLOSE), (0.05e-6, OVER)):
        cable = SpeakerCable(name="Lead", maker="M", length_m=5.0, a_m2=area)
        assert one(build.model_copy(update={"cable": cable}), "damping").here.state is state
    assert one(claiming(r_output_ohm=1e-4), "damping").possible.state is CLOSE


def test_ratings_of_bridge_and_capacitor() -> None:
    mean = solve(LINEAR)["diode_plus_mean_a"]
    ripple = solve(LINEAR)["reservoir_plus_ripple_a_rms"]
    supply = linear(LINEAR)
    for factor, state in ((0.98, OVER), (1.5, CLEAR)):
        bridge = supply.rectifier.model_copy(update={"i_rated_a": factor * mean.value})
        can = supply.reservoir.model_copy(update={"i_ripple_rated_a": factor * ripple.value, "esr_ohm": 0.02})
        build = LINEAR.model_copy(update={"supply": supply.model_copy(update={"rectifier": bridge, "reservoir": can})})
        assert one(build, "A mean").here.state is state
        assert one(build, "of ripple").here.state is state
    for esr, state in ((0.05, CLEAR), (0.07, OVER)):
        can = supply.reservoir.model_copy(update={"i_ripple_rated_a": 10.0, "esr_ohm": esr})
        build = LINEAR.model_copy(update={"supply": supply.model_copy(update={"reservoir": can})})
        assert one(build, "of ripple").possible.state is state


@pytest.mark.parametrize("build", FEW_FIRST)
def test_every_kind_of_build_is_judged(build: Build) -> None:
    for claim in judged(build):
        for verdict in (claim.possible, claim.consistent, claim.here):
            assert verdict.sentence.rstrip().endswith((".", "?"))
            assert "nan" not in verdict.sentence
            assert "inf " not in verdict.sentence


ASSUMED_FIELDS = (
    "v_rail_max", "v_rail_nominal", "i_limit_a", "r_load_min_ohm", "gain", "sensitivity_v_rms", "slew_v_per_s",
    "f_low_hz", "f_high_hz", "r_output_ohm", "t_junction_max_c", "bias.listed_mv", "r_input_ohm",
)  # fmt: skip


def assuming(build: Build, *fields: str) -> Build:
    """The build with these fields of its module only assumed."""
    told = tuple(Told(field=one, how=How.ASSUMED, value=value_at(build.module, one), source="usual") for one in fields)
    return build.model_copy(update={"module": build.module.model_copy(update={"told": told})})


CONTRADICTING = claiming(
    claims=(power(90.0, 3.0, definition="onset"), power(50.0, 8.0)), sensitivity_v_rms=2.9, slew_v_per_s=1e5,
    r_load_min_ohm=6.0, r_output_ohm=0.03,
)  # fmt: skip


@pytest.mark.parametrize(
    ("words", "fields"),
    [
        ("no load below", ("r_load_min_ohm",)), ("limits at", ("i_limit_a",)), ("Sensitivity 2.90 V", ("gain",)),
        ("gain 24 times", ("gain",)), ("full power at", ("sensitivity_v_rms",)), ("slew / (2π", ("slew_v_per_s",)),
        ("damping", ("r_output_ohm",)), ("across", ("bias.listed_mv",)), (" Hz to ", ("f_low_hz",)),
    ],
)  # fmt: skip
def test_what_is_only_assumed_is_no_claim_of_the_listing(words: str, fields: tuple[str, ...]) -> None:
    """Each is said of a stated value, and not of the same one assumed."""
    build = CONTRADICTING.model_copy(update={"module": CONTRADICTING.module.model_copy(update={"gain": 24.0})})
    if words == "limits at":
        build = claiming(claims=(power(150.0, 1.5, definition="onset"),), r_load_min_ohm=1.0, v_rail_max=90.0)

    def said(of: Build) -> str:
        return " ".join(
            f"{claim.words} {claim.possible.sentence} {claim.consistent.sentence}" for claim in judged(of)
        )  # fmt: skip

    assert words in said(build)
    assert words not in said(assuming(build, *fields))


def test_a_power_without_any_rail_that_is_stated_cannot_be_told() -> None:
    build = claiming(claims=(power(90.0, 8.0),), v_rail_max=52.0, v_rail_nominal=25.0)
    assert one(build, "W into").possible.state is CLEAR
    # With only the nominal rail stated it is held against that, as where the listing is pasted.
    nominal = one(assuming(build, "v_rail_max"), "W into").possible
    assert nominal.state is OVER
    assert "±25 V" in nominal.sentence
    pasted = read_listing("Module, ±25 V, 90 W into 8 ohm", ClassABModule)
    arithmetic = nominal.sentence.removeprefix("No: ").split(" with")[0]
    assert any(arithmetic in said for said in pasted.contradictions), (arithmetic, pasted.contradictions)
    neither = one(assuming(build, "v_rail_max", "v_rail_nominal"), "W into").possible
    assert neither.state is UNKNOWN
    assert "±52 V, which is only assumed" in neither.sentence


@pytest.mark.parametrize("stage", ["AB", "D"])
def test_a_build_begun_from_a_requirement_claims_nothing(stage: Literal["AB", "D"]) -> None:
    build = begun_with(Requirement(50.0, 8.0, stage=stage))
    assert judged(build) == ()
    assert sensitivity_claim(build.module, solve(build)["drive_v_rms"]) is None
    assert bias_claim(build.module) is None


def test_a_limit_that_is_only_assumed_is_said_to_be_in_its_margin() -> None:
    for build in (begun_with(Requirement(50.0, 8.0, stage="AB")), begun_with(Requirement(50.0, 8.0, stage="D"))):
        words = {margin.key: margin.limit_words for margin in judge(solve(build))}
        for key in ("reservoir_voltage", "module_rail_maximum", "module_current", "sink_heat", "load_minimum"):
            assert words[key].endswith("(assumed)"), (key, words[key])
    stated = {margin.key: margin.limit_words for margin in judge(solve(LINEAR))}
    assert stated["reservoir_voltage"] == "rated 50 V"
    assert not any("assumed" in stated[key] for key in ("module_rail_maximum", "module_current", "load_minimum"))
