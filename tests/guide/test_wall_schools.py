"""First power from the wall: behind a lamp, on a variable transformer, then on the whole mains."""

import datetime as dt
import math

import pytest

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.demo import shelf
from plinth.demo.builds import FOYER, MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX
from plinth.guide.bleeding import supply_bleed_down
from plinth.guide.judging import reading_for_step, verdict_at
from plinth.guide.progress import Stand, due, stands
from plinth.guide.school import School
from plinth.guide.schools import limited_supply, reforming, series_lamp, variable_transformer
from plinth.guide.schools.every_school import SCHOOLS
from plinth.guide.schools.wall_steps import MAINS_CAUTION
from plinth.guide.step import Step
from plinth.judge.state import State
from plinth.predict.lamp_outlook import lamp_outlook, one_channel
from plinth.predict.solve import idle_rail_v
from plinth.record.book import RecordBook
from plinth.record.reading import Confirmation, Record
from tests.family import FAMILY
from tests.guide.answers import inside
from tests.sample_builds import linear
from tests.solved import solved
from tests.turns import crossed

AT = dt.datetime(2026, 10, 12, 9, 0, tzinfo=dt.UTC)
SOAK = ("soak_1h", "soak_sink_1h", "soak_8h", "soak_24h", "soak_168h", "soak_sink_168h")
WALL = (series_lamp.SCHOOL, variable_transformer.SCHOOL, reforming.SCHOOL)
LINEAR = [build for build in FAMILY.values() if not series_lamp.SCHOOL.why_not(build)][::4]


def steps_of(school: School, build: Build, values: dict[str, float] | None = None) -> tuple[Step, ...]:
    return school.steps(build, build.channels[0], idle_rail_v(build), values or {})


def through(school: School, build: Build) -> tuple[list[Record], tuple[Step, ...]]:
    """Records of a healthy bring-up, one step after another."""
    kept: list[Record] = []
    for _ in range(60):
        found = school.stands(build, build.channels[0], idle_rail_v(build), RecordBook(kept))
        now = due(found)
        if now is None:
            return kept, tuple(one.step for one in found)
        assert now.stand is Stand.DUE, (now.step.key, now.why, kept[-1])
        if now.step.request is None:
            kept.append(Confirmation(now.step.subject, AT, dict(now.step.conditions)))
        else:
            at = AT + dt.timedelta(seconds=now.step.due_after_s)
            kept.append(reading_for_step(now.step, inside(now.step), shelf.BENCH, at))
    raise AssertionError("no end")


@pytest.mark.parametrize(
    ("build", "school"),
    crossed((STAGE_PAIR, REHEARSAL_ROOM, FOYER, *LINEAR), WALL, 7, lambda build: build.name, lambda school: school.key),
)
def test_a_healthy_build_comes_to_its_loudspeaker(school: School, build: Build) -> None:
    kept, steps = through(school, build)
    assert len(kept) == sum(step.rounds for step in steps)
    assert [step.key for step in steps if step.due_after] == list(SOAK)
    for step in steps:
        assert ": " in step.title
        if step.window is not None and step.window.low is not None and step.window.high is not None:
            assert step.window.low < step.window.high
        if step.power:
            assert MAINS_CAUTION in step.caution, step.key
    # Off and discharged stands before anything is wired or taken away after power.
    keys = [step.key for step in steps]
    assert keys.index("mains_discharged") < keys.index("loudspeaker")
    if school is series_lamp.SCHOOL:
        assert keys.index("lamp_alone_rail") < keys.index("lamp_alone_discharged") < keys.index("rails_open")


def test_the_first_mains_step_is_held_until_it_is_acknowledged() -> None:
    for school in WALL:
        steps = steps_of(school, STAGE_PAIR)
        found = stands(steps, RecordBook())
        assert found[0].step.key == "mains_known"
        assert found[0].stand is Stand.DUE
        assert all(one.stand is Stand.HELD for one in found[1:])
        # Once for a build: by whichever school, for whichever channel.
        other = school.steps(STAGE_PAIR, STAGE_PAIR.channels[1], idle_rail_v(STAGE_PAIR), {})[0]
        assert (other.subject, dict(other.conditions)) == (steps[0].subject, {})


def test_a_wrong_primary_holds_the_mains_back() -> None:
    part = REHEARSAL_ROOM.supply.transformer.model_copy(update={"v_primary_rms": 115.0})  # type: ignore[union-attr]
    supply = REHEARSAL_ROOM.supply.model_copy(update={"transformer": part})
    wrong = REHEARSAL_ROOM.model_copy(update={"supply": supply})
    first = variable_transformer.SCHOOL.steps(wrong, wrong.channels[0], 60.0, {})[0]
    assert "set for 115 V" in first.blocked


def test_a_collapsed_rail_behind_the_lamp_holds_all_that_follows() -> None:
    outlook = lamp_outlook(REHEARSAL_ROOM)
    kept, steps = through(series_lamp.SCHOOL, REHEARSAL_ROOM)
    at = [step.key for step in steps].index("lamp_rail")
    low = reading_for_step(steps[at], f"{0.3 * outlook.least.rail_v:.2f}", shelf.BENCH, AT)
    assert low.state is State.OVER
    found = stands(steps, RecordBook([*kept[:at], low]))
    assert found[at].stand is Stand.OUTSIDE
    assert all(one.stand is Stand.HELD for one in found[at + 1 :])


@pytest.mark.parametrize("build", [STAGE_PAIR, FOYER], ids=lambda build: build.name)
def test_behind_the_lamp_at_most_half_of_the_bias_is_set(build: Build) -> None:
    assert build.module.bias is not None
    step = next(one for one in steps_of(series_lamp.SCHOOL, build) if one.key == "lamp_bias")
    whole = next(one for one in steps_of(series_lamp.SCHOOL, build) if one.key == "bias")
    target = build.module.bias.i_pair_a * build.module.bias.r_fitted_ohm
    assert step.window is not None
    assert step.window.high is not None
    assert 0.2 * target < step.window.high <= 0.5 * target * 1.0001
    assert whole.window is not None
    assert whole.window.low is not None
    assert step.window.high < whole.window.low
    # The listing's or the whole setting, made behind the lamp, is refused.
    reading = reading_for_step(step, f"{1000 * target:.4g} mV", shelf.BENCH, AT)
    assert reading.state is State.OVER


@pytest.mark.parametrize("school", [series_lamp.SCHOOL, variable_transformer.SCHOOL], ids=lambda school: school.key)
@pytest.mark.parametrize("build", [STAGE_PAIR, FOYER], ids=lambda build: build.name)
def test_a_board_whose_bias_is_set_already_is_healthy_and_told_so(school: School, build: Build) -> None:
    """Its rails, by the full engine, lie inside the window; below where they usually are, with what to do."""
    lamp_w = lamp_outlook(build).lamp_w
    seen = 0
    for step in steps_of(school, build):
        if step.reads != "rail" or step.window is None or float(step.conditions.get("mains_v", 230.0)) < 110.0:
            # With so little mains no module works, and the whole engine says so.
            continue
        behind = Situation(
            lamp_w=lamp_w if "lamp_w" in step.conditions else None,
            mains_v_rms=float(step.conditions["mains_v"]) if "mains_v" in step.conditions else None,
        )
        volts = solved(one_channel(build), behind)["rail_idle_v"].value
        before = ", set before" if step.window.usual_low is not None and volts < step.window.usual_low else ""
        reading = reading_for_step(step, f"{volts:.2f} V{before}", shelf.BENCH, AT)
        assert reading.state in (State.CLEAR, State.CLOSE), (step.key, volts, step.window.words())
        if step.window.usual_low is not None and volts < step.window.usual_low:
            seen += 1
            assert reading.state is State.CLOSE
            assert "trimmer is not at its least" in verdict_at(step, reading).sentence
            least = reading_for_step(step, f"{step.window.usual_low * 1.03:.2f} V", shelf.BENCH, AT)
            assert least.state is State.CLEAR
    assert seen or build is STAGE_PAIR


def test_a_bias_that_follows_the_rail_is_set_lower_still() -> None:
    plain = lamp_outlook(STAGE_PAIR)
    module = STAGE_PAIR.module.model_copy(update={"idle_follows_rail": 1.0})
    grown = lamp_outlook(STAGE_PAIR.model_copy(update={"module": module}))
    assert plain.full.idle_share == plain.least.idle_share
    # The rails sag with the bias that is set there, more than with what a trimmer at its least leaves.
    assert grown.whole.rail_v < grown.part.rail_v < grown.least.rail_v
    grows = grown.full.idle_share / grown.part.idle_share
    assert grows == pytest.approx(grown.full.rail_v / grown.part.rail_v, rel=0.02)
    steps = steps_of(series_lamp.SCHOOL, STAGE_PAIR.model_copy(update={"module": module}))
    window = next(one for one in steps if one.key == "lamp_bias").window
    before = next(one for one in steps_of(series_lamp.SCHOOL, STAGE_PAIR) if one.key == "lamp_bias").window
    assert window is not None
    assert before is not None
    assert (window.high or 0.0) == pytest.approx((before.high or 0.0) / grows, rel=0.02)


def test_what_both_schools_ask_for_is_read_once() -> None:
    kept, _ = through(series_lamp.SCHOOL, STAGE_PAIR)
    book = RecordBook(kept)
    bench = limited_supply.SCHOOL.stands(STAGE_PAIR, STAGE_PAIR.channels[0], idle_rail_v(STAGE_PAIR), book)
    settled = {one.step.key for one in bench if one.record is not None}
    assert {"insulation", "rails_open", "emitter_resistor", "trimmer", "full_dc", "bias", "loudspeaker"} <= settled
    assert "low_current" not in settled


def test_steps_of_a_variable_transformer_rise_with_it() -> None:
    steps = [one for one in steps_of(variable_transformer.SCHOOL, REHEARSAL_ROOM) if one.key.startswith("turned_")]
    assert len(steps) >= 3
    volts = [float(one.conditions["mains_v"]) for one in steps]
    assert volts == sorted(volts)
    middles = [(one.window.low + one.window.high) / 2.0 for one in steps if one.window and one.window.low is not None
               and one.window.high is not None]  # fmt: skip
    assert middles == sorted(middles)
    # Rails follow the mains once the diodes open: a step's rail lies below its share of the crest.
    part = linear(REHEARSAL_ROOM).transformer
    for v, middle in zip(volts, middles, strict=True):
        oc = part.v_secondary_rms * (1.0 + (part.regulation or 0.2)) * v / part.v_primary_rms
        assert middle < math.sqrt(2.0) * oc


def test_schools_that_want_a_transformer_say_so() -> None:
    for build in (MARKET_BOX, STREET_BOX):
        assert [bool(school.why_not(build)) for school in SCHOOLS] == [False, True, True, True]
    assert not any(school.why_not(STAGE_PAIR) for school in SCHOOLS)


def test_a_supply_bleeds_down_as_its_bleeder_says() -> None:
    found = supply_bleed_down(REHEARSAL_ROOM, 30.0)
    r, c = REHEARSAL_ROOM.supply.reservoir.r_bleeder_ohm, found.c_f
    assert r is not None
    assert found.resistance_ohm == r
    assert c >= REHEARSAL_ROOM.supply.reservoir.c_f
    assert found.seconds == pytest.approx(r * c * math.log(30.0 / 5.0), rel=0.01, abs=1.0)
    assert not found.estimated
    reservoir = REHEARSAL_ROOM.supply.reservoir.model_copy(update={"r_bleeder_ohm": None})
    supply = REHEARSAL_ROOM.supply.model_copy(update={"reservoir": reservoir})
    none = REHEARSAL_ROOM.model_copy(update={"supply": supply})
    assert supply_bleed_down(none, 30.0).estimated
    assert supply_bleed_down(none, 30.0).seconds > 0.0


def test_what_is_said_to_be_held_is_that_of_the_highest_mains() -> None:
    idle = idle_rail_v(REHEARSAL_ROOM)
    assert REHEARSAL_ROOM.mains is not None
    found = series_lamp.SCHOOL.bleed_down(REHEARSAL_ROOM, idle)
    assert found.v_start == pytest.approx((1.0 + REHEARSAL_ROOM.mains.tolerance) * idle)
    assert found.seconds > supply_bleed_down(REHEARSAL_ROOM, idle).seconds


@pytest.mark.parametrize(("name", "school"), crossed(FAMILY, SCHOOLS, 7, column_name=lambda school: school.key))
def test_the_supply_alone_comes_before_any_board_under_power_and_regulated_rails_before_the_bias(
    name: str, school: School
) -> None:
    build = FAMILY[name]
    if school.why_not(build):
        return
    steps = school.steps(build, build.channels[0], idle_rail_v(build), {})
    keys = [step.key for step in steps]
    powered_boards = [k for k, step in enumerate(steps) if step.power and step.about.channel == build.channels[0]]
    alone = [k for k, key in enumerate(keys) if key in ("alone_rail", "lamp_alone_rail")]
    if build.supply.set_by_hand:
        assert not alone
        return
    assert alone, "its own supply is read alone"
    if not build.one_supply_per_channel:
        assert alone[0] < min(powered_boards)
    board = [keys.index(key) for key in ("low_current", "full_current", "lamp_rail", "mains_rail") if key in keys]
    assert alone[0] < min(board)
    assert ("input_rails" in keys) == (build.supply.transformer is not None and build.supply.input_supply is not None)
    if "input_rails" in keys:
        for bias in ("lamp_bias", "bias"):
            assert bias not in keys or keys.index("input_rails") < keys.index(bias)


@pytest.mark.parametrize("school", [series_lamp.SCHOOL, variable_transformer.SCHOOL], ids=lambda school: school.key)
def test_relays_of_their_own_and_a_soft_start_are_tried_once_on_whole_mains(school: School) -> None:
    entry = STAGE_PAIR.entry.model_copy(update={"r_soft_ohm": 22.0, "soft_bypass_s": 2.0})
    mono = FAMILY["class AB, mono on linear"]
    relays = FAMILY["class AB on dual mono"].relay_supply
    build = mono.model_copy(update={"entry": entry, "relay_supply": relays})
    steps = steps_of(school, build)
    keys = [step.key for step in steps]
    assert keys.count("relay_rail") == keys.count("soft_bridged") == 1
    by_key = {step.key: step for step in steps}
    fed, bridged = by_key["relay_rail"].window, by_key["soft_bridged"].window
    assert fed is not None
    assert bridged is not None
    # 12 V within a twentieth; two seconds within a third and a hand of 0.3 s at either end.
    assert (fed.low, fed.high) == pytest.approx((11.4, 12.6))
    assert (bridged.low, bridged.high) == pytest.approx((2.0 * 0.65 - 0.3, 2.0 * 1.35 + 0.3))
    for key in ("relay_rail", "soft_bridged"):
        assert by_key[key].power
        assert by_key[key].caution == MAINS_CAUTION
    if school is series_lamp.SCHOOL:
        # Behind a lamp the mains are not what they will be.
        assert keys.index("soft_bridged") > keys.index("mains_rail")
    bare = [step.key for step in steps_of(school, mono)]
    assert not {"relay_rail", "soft_bridged"} & set(bare)
