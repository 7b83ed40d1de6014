import datetime as dt

import pytest

from plinth.builds.modules import PowerClaim
from plinth.builds.situation import Situation
from plinth.builds.stations import with_part
from plinth.demo import shelf
from plinth.demo.builds import BUILDS, REHEARSAL_ROOM, STAGE_PAIR
from plinth.judge.claims import THD_OF, bias_claim, claim_for, power_claim
from plinth.judge.margin import state_against
from plinth.judge.rules import judge
from plinth.judge.state import State, worst
from plinth.judge.window import Window, judge_reading
from plinth.predict.distortion import power_figure_at
from plinth.predict.figure import Figure, Origin
from plinth.predict.solve import solve
from plinth.record.reading import Confirmation, latest
from plinth.units.bounds import Bound
from tests.sample_builds import SHARED_PAIR


def figure(value: float, u: float = 0.0) -> Figure:
    return Figure("x", "x", value, "V", u, Origin("", ""))


@pytest.mark.parametrize(
    ("value", "u", "limit", "floor", "state"),
    [
        (40.0, 0.5, 50.0, False, State.CLEAR),
        (46.0, 0.1, 50.0, False, State.CLOSE),
        (44.0, 4.0, 50.0, False, State.CLOSE),
        (50.1, 0.0, 50.0, False, State.OVER),
        (20.0, 0.1, 18.0, True, State.CLEAR),
        (19.0, 0.1, 18.0, True, State.CLOSE),
        (17.9, 0.0, 18.0, True, State.OVER),
        # The band alone reaches the limit: 95 % of it is twice the standard uncertainty, on either side.
        (24.0, 3.5, 18.0, True, State.CLOSE),
        (24.0, 2.5, 18.0, True, State.CLEAR),
        (40.0, 5.5, 50.0, False, State.CLOSE),
        (40.0, 4.5, 50.0, False, State.CLEAR),
    ],
)
def test_states_against_a_limit(value: float, u: float, limit: float, floor: bool, state: State) -> None:
    assert state_against(figure(value, u), limit, floor) is state


def test_unknown_never_counts_as_clear() -> None:
    assert state_against(None, 5.0, False) is State.UNKNOWN
    assert state_against(figure(5.0), None, False) is State.UNKNOWN
    assert state_against(figure(float("nan")), 5.0, False) is State.UNKNOWN
    assert worst([State.CLEAR, State.UNKNOWN]) is State.UNKNOWN
    assert worst([State.CLOSE, State.OVER, State.CLEAR]) is State.OVER
    assert worst([]) is State.UNKNOWN


@pytest.mark.parametrize("build", BUILDS, ids=lambda b: b.name)
def test_every_rule_gives_a_margin_with_a_sentence(build: object) -> None:
    margins = judge(solve(build, Situation()))  # type: ignore[arg-type]
    assert len(margins) >= 14
    assert len({m.key for m in margins}) == len(margins)
    for margin in margins:
        assert margin.sentence
        assert margin.limit_words
        assert bool(margin.fix) == (margin.state is not State.CLEAR)
    order = [State.OVER, State.CLOSE, State.UNKNOWN, State.CLEAR]
    assert [order.index(m.state) for m in margins] == sorted(order.index(m.state) for m in margins)


def by_key(build: object, situation: Situation) -> dict[str, State]:
    return {m.key: m.state for m in judge(solve(build, situation))}  # type: ignore[arg-type]


def test_margins_follow_the_physics() -> None:
    states = by_key(STAGE_PAIR, Situation())
    assert states["reservoir_voltage"] is State.CLEAR
    assert states["dc_detector"] is State.UNKNOWN
    assert states["reservoir_ripple"] is State.UNKNOWN
    assert by_key(STAGE_PAIR, Situation(load_ohm=2.0))["module_current"] is State.OVER
    assert by_key(STAGE_PAIR, Situation(load_ohm=2.0))["load_minimum"] is State.OVER
    assert by_key(STAGE_PAIR, Situation(ambient_c=45.0))["sink_heat"] is State.OVER
    low_caps = with_part(STAGE_PAIR, "supply.reservoir", shelf.SMALL_4M7_35)
    assert by_key(low_caps, Situation())["reservoir_voltage"] is State.OVER
    tall = with_part(STAGE_PAIR, "supply.transformer", shelf.RING_330)
    assert by_key(tall, Situation())["module_rail_maximum"] is State.OVER
    slow = STAGE_PAIR.model_copy(update={"protection": STAGE_PAIR.protection.model_copy(update={"mute_s": 0.5})})
    assert by_key(slow, Situation())["mute_settling"] is State.OVER


def test_winding_is_judged_for_programme_and_names_the_sine() -> None:
    margin = next(m for m in judge(solve(SHARED_PAIR, Situation())) if m.key == "winding_current")
    assert margin.state is State.CLEAR
    assert "1.50" in margin.sentence
    music = next(m for m in judge(solve(SHARED_PAIR, Situation(crest_db=3.01))) if m.key == "winding_current")
    assert music.state is State.OVER
    assert music.room < 0.0
    assert music.room_percent == pytest.approx(100 * music.room)


def test_a_claim_that_no_rail_could_swing_is_caught() -> None:
    prediction = solve(STAGE_PAIR, Situation())
    claim = claim_for(STAGE_PAIR.module, 4.03)
    assert claim is not None
    assert claim.power_w == 100
    verdict = power_claim(claim, prediction["clip_power_w"], prediction["clip_v_peak"])
    assert verdict.state is State.OVER
    assert "28.3 V" in verdict.sentence
    assert claim_for(STAGE_PAIR.module, 2.0) is None


def test_a_bias_for_another_resistor_is_caught() -> None:
    words = bias_claim(STAGE_PAIR.module)
    assert words is not None
    assert "22 mV across 0.22 Ω" in words
    assert "33 mV" in words
    assert bias_claim(shelf.STAGEHAND_90) is None
    assert bias_claim(shelf.GREENROOM_30) is None


WINDOW = Window(0.030, 0.036, "V", "why")


@pytest.mark.parametrize(
    ("value", "u", "state", "side"),
    [
        (0.033, 0.0002, State.CLEAR, 0),
        (0.0301, 0.0002, State.CLOSE, 0),
        (0.029, 0.0002, State.OVER, -1),
        (0.040, 0.0002, State.OVER, 1),
        (0.0358, None, State.CLOSE, 0),
    ],
)
def test_readings_against_a_window(value: float, u: float | None, state: State, side: int) -> None:
    verdict = judge_reading(value, u, WINDOW)
    assert (verdict.state, verdict.side) == (state, side)


@pytest.mark.parametrize(
    ("value", "u", "bound", "state"),
    [
        # At an edge is within twice the standard uncertainty.
        (96.3, 2.0, Bound.NONE, State.CLOSE), (95.7, 2.0, Bound.NONE, State.CLEAR),
        (3.7, 2.0, Bound.NONE, State.CLOSE), (4.3, 2.0, Bound.NONE, State.CLEAR),
        # "About" adds a tenth as a bound: 10.4 at 90, 9.8 at 85.
        (90.0, 0.0, Bound.ABOUT, State.CLOSE), (85.0, 0.0, Bound.ABOUT, State.CLEAR),
        # Of a meter that nobody describes a twentieth of the width is near.
        (95.5, None, Bound.NONE, State.CLOSE), (94.5, None, Bound.NONE, State.CLEAR),
    ],
)  # fmt: skip
def test_how_near_an_edge_is_near(value: float, u: float | None, bound: Bound, state: State) -> None:
    assert judge_reading(value, u, Window(0.0, 100.0, "V", ""), bound).state is state


@pytest.mark.parametrize(("ohms", "found"), [(8.0, True), (8.75, True), (7.25, True), (8.9, False), (7.1, False)])
def test_a_claim_is_for_a_load_within_a_tenth_of_its_own(ohms: float, found: bool) -> None:
    module = STAGE_PAIR.module.model_copy(update={"claims": (PowerClaim(power_w=50.0, r_load_ohm=8.0),)})
    assert (claim_for(module, ohms) is not None) is found


@pytest.mark.parametrize(
    ("low", "bound", "value", "state"),
    [
        (0.0, Bound.BELOW, 0.1, State.CLEAR), (-0.2, Bound.BELOW, 0.1, State.CLEAR),
        (0.05, Bound.BELOW, 0.1, State.UNKNOWN), (0.0, Bound.BELOW, 0.3, State.UNKNOWN),
        (0.0, Bound.ABOVE, 0.1, State.UNKNOWN), (0.0, Bound.ABOVE, 0.3, State.OVER),
    ],
)  # fmt: skip
def test_a_bound_inside_a_window_that_goes_down_to_nothing_is_inside(
    low: float, bound: Bound, value: float, state: State
) -> None:
    assert judge_reading(value, 0.001, Window(low, 0.2, "V", ""), bound).state is state


def test_open_windows() -> None:
    assert judge_reading(2e7, 1e5, Window(1e6, None, "ohm", "")).state is State.CLEAR
    assert judge_reading(900.0, 1.0, Window(1e6, None, "ohm", "")).side == -1
    assert Window(1e6, None, "ohm", "").words() == "above 1.00 MΩ"
    assert Window(None, 60.0, "°C", "").words() == "below 60.0 °C"
    assert WINDOW.words() == "30.0 mV to 36.0 mV"


def test_the_last_record_of_a_subject_counts() -> None:
    first, second = (Confirmation("a", dt.datetime(2026, 1, day, tzinfo=dt.UTC)) for day in (1, 2))
    assert latest([first, second]) == {"a": second}


def test_a_limit_that_nobody_states_is_unknown_and_not_assumed() -> None:
    silent = STAGE_PAIR.module.model_copy(update={"t_junction_max_c": None})
    states = by_key(STAGE_PAIR.model_copy(update={"module": silent}), Situation())
    assert states["junction_heat"] is State.UNKNOWN
    assert by_key(STAGE_PAIR, Situation())["junction_heat"] is State.CLEAR


def test_a_claim_at_a_distortion_is_not_held_against_onset() -> None:
    prediction = solve(REHEARSAL_ROOM, Situation(load_ohm=4.0))
    claim = claim_for(REHEARSAL_ROOM.module, 4.0)
    assert claim is not None
    assert claim.definition == "thd_10"
    verdict = power_claim(claim, prediction["clip_power_w"], prediction["clip_v_peak"])
    assert verdict.state is State.UNKNOWN
    assert "at 10 % distortion" in verdict.sentence
    there = power_figure_at(prediction, THD_OF[claim.definition])
    assert there is not None
    assert there.value > 1.2 * prediction["clip_power_w"].value
    held = power_claim(claim, prediction["clip_power_w"], prediction["clip_v_peak"], there)
    assert held.state is (State.CLEAR if claim.power_w <= there.high else State.OVER)
    assert "Predicted there" in held.sentence
