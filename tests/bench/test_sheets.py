"""Every test that is a sheet, on every kind of build: what it asks, how it is understood, what it says."""

import dataclasses
import datetime as dt
import math

import pytest

from plinth.bench import heat_run, mains_side
from plinth.bench.every_sheet import SHEETS, conditions_differ, kind_of
from plinth.bench.reading_sentence import sentence_of
from plinth.bench.sheet import Measured, apart, derived, jitter_of
from plinth.bench.test_conditions import load_warning
from plinth.builds.build import Build
from plinth.builds.instruments import Role, unknown_kit
from plinth.builds.parts import Load, VoiceCoil
from plinth.builds.situation import Situation
from plinth.demo.builds import MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR
from plinth.judge.state import State
from plinth.predict.solve import solve
from plinth.record.reading import Reading
from plinth.record.slips import understand
from plinth.record.subject import Kind, read_subject
from plinth.units.errors import QuantityError
from tests.bench.typed_bench import NO_NUMBER, TypedBench, middle, spoken
from tests.family import DEMO, FAMILY, FEW

ANY = {**{name: FAMILY[name] for name in FEW}, "Stage pair": DEMO["Stage pair"]}


@pytest.mark.parametrize("name", ANY)
@pytest.mark.parametrize("test", [one.key for one in SHEETS])
def test_what_is_as_predicted_is_clear_on_every_kind(test: str, name: str) -> None:
    """Typed as predicted: nothing is asked about, nothing is called over, every sentence is one."""
    bench = TypedBench(test, ANY[name])
    sheet = bench.sheet
    assert sheet.title
    assert all(words and not NO_NUMBER.search(words) for pair in sheet.settings for words in pair)
    assert len({one.subject for one in bench.asked}) == len(bench.asked) > 0
    for one in bench.asked:
        about = read_subject(one.subject)
        assert (about.kind, about.channel) == (Kind.TEST, one.channel)
        assert about.what == f"{test}:{one.key}"
        assert one.ask.endswith((".", "?"))
        window = bench.one(one.key).window
        assert window is not None or one.why_open, one.key
        if window is None:
            continue
        assert all(edge is None or math.isfinite(edge) for edge in (window.low, window.high))
        assert window.low is None or window.high is None or window.low < window.high, one.key
        if test == "protection" and one.key == "off" and window.high is not None and window.high > 1e3:
            continue
        found = bench.understand(one.key, spoken(one, middle(window)))
        assert found.taken is not None, (one.key, found.sentence)
        assert found.taken.state in (State.CLEAR, State.CLOSE), (one.key, window.words(), found.taken.value)
        reading = bench.keep(found.taken, spoken(one, middle(window)))
        assert not NO_NUMBER.search(sentence_of(reading))
        assert "nside" in sentence_of(reading)
    # In the middle of every window not every two readings go together: only none may be called over by its figures.
    if test in ("rails", "gain", "mains"):
        assert [one.label for one in bench.outcomes().values() if one.state is State.OVER] == []
    else:
        bench.outcomes()
    graph = sheet.graph(bench.readings)
    if graph is not None:
        (left, right), (low, high) = graph.extent()
        assert left < right
        assert low < high


@pytest.mark.parametrize("test", [one.key for one in SHEETS])
def test_with_a_loudspeaker_alone_each_is_made_and_says_that_a_load_is_missing(test: str) -> None:
    speaker = Load(
        name="Box", r_ohm=8.0,
        voice_coil=VoiceCoil(r_dc_ohm=6.2, f_resonance_hz=45.0, q_mechanical=4.0, q_electrical=0.5, l_coil_h=0.6e-3),
    )  # fmt: skip
    build = STAGE_PAIR.model_copy(update={"load": speaker, "loads": ()})
    bench = TypedBench(test, build)
    assert bench.asked
    assert "There is no dummy load" in load_warning(build)
    assert load_warning(STAGE_PAIR) == ""
    for kept in STAGE_PAIR.loads:
        assert load_warning(build.model_copy(update={"loads": (kept,)})) == ""


@pytest.mark.parametrize("name", FEW)
def test_rails_are_asked_for_as_this_supply_has_them(name: str) -> None:
    build = FAMILY[name]
    keys = {one.key for one in TypedBench("rails", build).asked}
    assert ("none_minus" in keys) != build.supply.single_rail
    assert ("full_a_plus" in keys) == (build.supply.kind == "direct")
    assert {"low_plus", "high_plus"} <= keys or build.supply.kind == "direct"
    assert ("regulated_plus" in keys) == ("dual mono" in name)
    needs = {one.key: one.needs for one in TypedBench("rails", build).asked}
    assert needs["none_plus"] == "nothing"
    assert needs["full_plus"] == ("channel" if "dual mono" in name else "all")


def test_a_sag_and_what_is_behind_it_are_those_of_the_figures() -> None:
    bench = TypedBench("rails", REHEARSAL_ROOM)
    bench.type_in("none_plus", "27.50")
    bench.type_in("full_plus", "23.10")
    found = bench.outcomes()
    assert found["+ rail sags"].words.startswith("16.0")
    assert pytest.approx(16.0) == 100 * (27.5 - 23.1) / 27.5
    load = REHEARSAL_ROOM.load
    full = solve(REHEARSAL_ROOM.model_copy(update={"load": load}), Situation())
    none = solve(REHEARSAL_ROOM.model_copy(update={"load": load}), Situation(rail_load_a=0.0))
    drawn = full["rail_plus_load_mean_a"].value - none["rail_plus_load_mean_a"].value
    ohm = (27.5 - 23.1) / drawn
    assert f"{ohm:.2f} ±" in found["Behind the + rail"].words
    assert "rail" in found["Behind the + rail"].say


@pytest.mark.parametrize("factor", [0.5, 1.6])
def test_ripple_tells_of_the_capacitance_that_makes_it(factor: float) -> None:
    bench = TypedBench("rails", REHEARSAL_ROOM)
    window = bench.one("full_ripple_plus").window
    assert window is not None
    found = bench.understand("full_ripple_plus", f"{factor * middle(window):.4g}pp")
    meaning = found.taken or next(one for one in found.choices if not one.slip)
    bench.keep(meaning, f"{factor * middle(window):.4g}pp")
    said = bench.outcomes()["+ rail ripple"]
    assert f"As from {100 / factor:.0f} %" in said.say
    assert ("aged" in said.say) == (factor > 1.0)
    assert said.state is State.OVER


@pytest.mark.parametrize(("source_v", "state"), [(None, State.UNKNOWN), (0.5, State.OVER), (2.0, State.CLEAR)])
def test_what_a_source_must_give_is_held_against_what_it_gives(source_v: float | None, state: State) -> None:
    bench = TypedBench("gain", STAGE_PAIR, situation=Situation(source_v_rms=source_v))
    bench.type_in("in_left", "0.0900")
    bench.type_in("out_left", "2.016")
    found = bench.outcomes()
    clip = solve(STAGE_PAIR, Situation())["clip_v_rms"].value
    assert found["Gain, left"].words.startswith("× 22.40")
    assert float(found["To clip, left"].words.split(" ")[0]) == pytest.approx(1e3 * clip / 22.4, abs=2.0)
    assert found["To clip, left"].state is state


# Slips


@pytest.mark.parametrize(
    ("typed", "slip", "value"),
    [("3.62", "ten times", 36.2), ("362", "a tenth", 36.2), ("36.2m", "thousands", 36.2)],
)
def test_a_slip_is_offered_with_what_it_would_mean_and_never_made_silently(typed: str, slip: str, value: float) -> None:
    bench = TypedBench("rails", STAGE_PAIR)
    found = bench.understand("none_plus", typed)
    assert found.taken is None
    choice = next(one for one in found.choices if slip in one.slip)
    assert choice.value == pytest.approx(value)
    assert choice.state is State.CLEAR
    as_typed = found.choices[-1]
    assert as_typed.slip == ""
    assert as_typed.value == pytest.approx(float(typed.rstrip("m")) * (1e-3 if typed.endswith("m") else 1.0))
    kept = bench.keep(choice, typed)
    assert kept.typed == typed
    assert f"Typed as {typed}" in sentence_of(kept)


def test_a_reading_of_another_place_is_offered_there() -> None:
    bench = TypedBench("rails", REHEARSAL_ROOM)
    low = next(one for one in bench.asked if one.key == "low_plus")
    assert low.window is not None
    found = bench.understand("high_plus", f"{middle(low.window):.3f}")
    # A rail that is a tenth too low is not so far off that one has to ask.
    assert found.taken is not None
    assert found.taken.state is State.OVER
    both = TypedBench("gain", STAGE_PAIR)
    found = both.understand("in_left", "2.00")
    assert found.taken is None
    assert {one.request.key for one in found.choices} >= {"in_left", "out_left"}
    there = next(one for one in found.choices if one.request.key == "out_left")
    assert both.keep(there, "2.00").subject == "test/left/gain:out_left"


def test_peak_to_peak_typed_for_rms_is_asked_about_and_the_other_way_round() -> None:
    bench = TypedBench("gain", STAGE_PAIR)
    found = bench.understand("out_left", "5.68 rms")
    assert found.taken is None
    meant = next(one for one in found.choices if one.slip == "peak to peak")
    assert meant.value == pytest.approx(5.68 / (2 * math.sqrt(2)))
    straight = bench.understand("out_left", "5.68pp")
    assert straight.taken is not None
    assert straight.taken.value == pytest.approx(meant.value)
    assert straight.taken.instrument == bench.kit.of(Role.SCOPE).name
    ripple = TypedBench("rails", REHEARSAL_ROOM)
    window = ripple.one("full_ripple_plus").window
    assert window is not None
    rms = ripple.understand("full_ripple_plus", f"{middle(window) / (2 * math.sqrt(2)):.4g} rms")
    assert rms.taken is not None
    assert rms.taken.value == pytest.approx(middle(window), rel=1e-3)


def test_what_cannot_be_is_asked_about_even_where_no_slip_explains_it() -> None:
    bench = TypedBench("mains", STAGE_PAIR)
    found = bench.understand("rest_pf", "1.4")
    assert found.taken is None
    assert "at most 1" in found.sentence
    assert [one.slip for one in found.choices] == [""]
    # 0.2 F for 200 µF on a build whose rail has 10 mF: never a silent farad.
    found = bench.understand("c", "0.2F")
    assert found.taken is None
    small = bench.understand("c", "10m")
    assert small.taken is not None
    assert small.taken.value == pytest.approx(0.010)


@pytest.mark.parametrize(
    ("test", "key", "typed", "words"),
    [
        ("rails", "none_plus", "abc", "expected"), ("rails", "none_plus", "", "nothing"),
        ("rails", "none_plus", "OL", "higher range"), ("gain", "out_left", "-2.0", "above 0 V"),
        ("protection", "mute", "-1", "lies outside"), ("mains", "rest_va", "12 W", "VA"),
        ("mains", "rest_a", "-1", "without a sign"),
        ("heat", "sink", "41 at lunch", "expected"), ("square", "rise", "3 kg", "expected"),
        ("hum", "whole", "x mV", "expected"), ("impedance", "mid_open", "4..0", "expected"),
    ],
)  # fmt: skip
def test_nonsense_is_explained(test: str, key: str, typed: str, words: str) -> None:
    bench = TypedBench(test, STAGE_PAIR)
    with pytest.raises(QuantityError, match=words):
        bench.understand(key, typed)


def test_a_window_s_edge_counts_as_inside_and_just_beyond_does_not() -> None:
    bench = TypedBench("rails", STAGE_PAIR)
    window = bench.one("none_plus").window
    assert window is not None
    assert window.high is not None
    asked = bench.one("none_plus")
    assert understand(f"{window.high:.9f}", asked, (), bench.kit).taken is not None
    at_edge = understand(f"{window.high:.9f}", asked, (), bench.kit).taken
    beyond = understand(f"{window.high + 0.02:.4f}", asked, (), bench.kit).taken
    assert at_edge is not None
    assert beyond is not None
    assert at_edge.state is State.CLOSE
    assert beyond.state is State.OVER


def test_a_sign_is_dropped_where_only_the_height_is_asked_for() -> None:
    bench = TypedBench("rails", STAGE_PAIR)
    kept = bench.type_in("none_minus", "-36.1")
    assert kept is not None
    assert kept.value == 36.1


def test_conditions_tell_when_a_reading_goes_stale() -> None:
    bench = TypedBench("rails", STAGE_PAIR)
    bench.type_in("full_plus", "32.0")
    assert bench.readings.keys() == {"full_plus"}
    other = kind_of("rails").make(STAGE_PAIR.with_mark("supply.transformer", "2"), "left", Situation())
    full = next(one for one in other.asked({}) if one.key == "full_plus")
    assert "the supply is another one now" in conditions_differ(full, bench.book)
    low = kind_of("rails").make(STAGE_PAIR, "left", Situation(mains_v_rms=205.0))
    assert "the mains" in conditions_differ(next(o for o in low.asked({}) if o.key == "full_plus"), bench.book)


@pytest.mark.parametrize(
    ("test", "key", "share"),
    [("mains", "c", 1e-3), ("mains", "c", 0.1), ("square", "rise", 0.1), ("square", "rise", 1e-3),
     ("protection", "mute", 0.1), ("protection", "threshold_plus", 0.1), ("protection", "threshold_plus", 1e-3),
     ("gain", "in_left", 0.1), ("rails", "full_plus", 0.1), ("rails", "full_plus", 10.0)],
)  # fmt: skip
@pytest.mark.parametrize("build", [STAGE_PAIR, REHEARSAL_ROOM], ids=lambda b: b.name)
def test_a_tenth_and_a_thousandth_are_asked_about_however_wide_the_window_is(
    build: Build, test: str, key: str, share: float
) -> None:
    bench = TypedBench(test, build)
    asked = bench.one(key)
    if asked.window is None:
        assert "not stated" in asked.why_open, "nothing to hold it against, and that is said"
        return
    value = share * middle(asked.window)
    understood = bench.understand(key, f"{value:.6g} {'rms' if asked.form == 'level' else asked.unit}")
    assert understood.taken is None
    meant = [one.value for one in understood.choices]
    assert any(one == pytest.approx(middle(asked.window), rel=1e-3) for one in meant), meant
    assert bench.type_in(key, f"{middle(asked.window):.6g} {'rms' if asked.form == 'level' else asked.unit}")


@pytest.mark.parametrize(("typed", "value"), [("none", 0.0), ("Nothing", 0.0)])
def test_nothing_is_a_reading_where_there_can_be_none(typed: str, value: float) -> None:
    bench = TypedBench("mains", STAGE_PAIR)
    found = bench.understand("rest_a", typed)
    kept = found.taken or found.choices[-1]
    assert kept.value == value
    assert kept.facts["understood"] == f"{typed} taken as 0"
    with pytest.raises(QuantityError, match=r"such as <0\.1"):
        TypedBench("hum", STAGE_PAIR).understand("whole", "none")


# Mains side


def reading(key: str, typed: str, value: float, unit: str) -> Reading:
    at = dt.datetime(2026, 10, 10, tzinfo=dt.UTC)
    return Reading(f"test/build/mains:{key}", key, typed, value, unit, None, "power meter", at, State.CLEAR)


def test_two_that_disagree_are_named_with_what_they_make() -> None:
    """122 V and 1.35 A are 164.7 VA, not 162; 163 can be a mains that moved between two screens."""
    have = {"v": reading("v", "122", 122.0, "V"), "a": reading("a", "1.35", 1.35, "A")}
    wrong = mains_side.disagreements({**have, "va": reading("va", "162", 162.0, "VA")}, "at rest")
    assert [(one.words, one.state) for one in wrong] == [("122 V and 1.35 A are 164.7 VA, not 162 VA", State.CLOSE)]
    assert mains_side.disagreements({**have, "va": reading("va", "163", 163.0, "VA")}, "at rest") == []
    far = mains_side.disagreements({**have, "va": reading("va", "150", 150.0, "VA")}, "at rest")
    assert [one.state for one in far] == [State.OVER]
    assert mains_side.disagreements({**have, "va": reading("va", "165", 165.0, "VA")}, "at rest") == []
    assert mains_side.disagreements({**have, "va": reading("va", "164", 164.0, "VA")}, "at rest") == []
    more = mains_side.disagreements({**have, "w": reading("w", "190", 190.0, "W")}, "at rest")
    assert "more than 164.7 VA" in more[0].words


def test_two_of_them_give_the_rest() -> None:
    bench = TypedBench("mains", STAGE_PAIR)
    for key, typed in (("rest_v", "230"), ("rest_a", "0.222"), ("rest_w", "26.0")):
        assert bench.type_in(key, typed) is not None
    found = bench.outcomes()
    assert found["Volt-amperes, at rest"].words == "51.1 VA"
    assert found["Power factor, at rest"].words == "0.509"
    assert found["Power factor, at rest"].state is not State.OVER


@pytest.mark.parametrize("build", [STAGE_PAIR, REHEARSAL_ROOM, MARKET_BOX], ids=lambda b: b.name)
def test_stored_energy_is_that_of_all_rails(build: Build) -> None:
    bench = TypedBench("mains", build)
    c, rails = build.supply.reservoir.c_f, 1 if build.supply.single_rail else 2
    bench.type_in("c", f"{1e3 * c:g}m")
    assert "At the rail predicted" in bench.outcomes()["Stored energy"].say
    window = bench.one("c_v").window
    assert window is not None
    v = round(middle(window), 1)
    bench.type_in("c_v", f"{v:g}")
    joule = 0.5 * rails * c * v * v
    assert "predicted" not in bench.outcomes()["Stored energy"].say
    assert bench.outcomes()["Stored energy"].words.split()[0].startswith(f"{joule:.3g}"[:3])


# Protection, hum


def test_threshold_and_trip_time_give_the_time_constant_back() -> None:
    part = REHEARSAL_ROOM.protection
    assert part.dc_threshold_v is not None
    assert part.dc_time_constant_s is not None
    bench = TypedBench("protection", REHEARSAL_ROOM)
    bench.type_in("threshold_plus", f"{part.dc_threshold_v:g}")
    t = -part.dc_time_constant_s * math.log(1.0 - part.dc_threshold_v / 9.0)
    bench.type_in("trip_plus", f"{t:.6f}")
    found = bench.outcomes()
    assert found["+ time constant"].state is State.CLEAR
    # Read off the fit, not off the shown digits: a hand at a stop watch leaves few of those.
    tau = t / -math.log(1.0 - part.dc_threshold_v / 9.0)
    assert tau == pytest.approx(part.dc_time_constant_s)
    assert "your hand" in found["+ time constant"].say


def test_a_relay_that_closes_before_the_output_rests_is_over_and_one_that_hangs_on_too() -> None:
    bench = TypedBench("protection", STAGE_PAIR)
    for key, typed in (("mute", "0.9"), ("off", "60")):
        meant = bench.understand(key, typed)
        bench.keep(meant.taken or meant.choices[-1], typed)
    found = bench.outcomes()
    assert found["Muting against settling"].state is State.OVER
    hold = bench.one("off").window
    assert hold is not None
    assert ("Order at switch-off" in found) == (hold.high is not None and hold.high < 60.0)


def test_lines_that_are_more_than_the_whole_are_named() -> None:
    bench = TypedBench("hum", STAGE_PAIR)
    for key, typed in (("whole", "1.0"), ("one", "0.9"), ("two", "0.9")):
        assert bench.type_in(key, typed) is not None
    assert bench.outcomes()["The lines"].state is State.OVER


@pytest.mark.parametrize(("key", "words"), [("one", "turn the transformer"), ("two", "Charging pulses"),
                                            ("three", "core's field")])  # fmt: skip
def test_the_largest_line_names_the_next_change(key: str, words: str) -> None:
    bench = TypedBench("hum", STAGE_PAIR)
    for place in ("one", "two", "three"):
        bench.type_in(place, "0.8" if place == key else "0.1")
    bench.type_in("whole", "0.85")
    found = bench.outcomes()
    assert words in found["Most of it"].say
    clip = solve(STAGE_PAIR.model_copy(update={"load": STAGE_PAIR.load}), Situation())["clip_v_rms"].value
    assert found["Below full output"].words == f"{20 * math.log10(clip / 0.85e-3):.0f} dB"


def test_a_bare_number_is_millivolts_where_hum_is_read_with_its_form_too() -> None:
    bench = TypedBench("hum", STAGE_PAIR)
    for typed, volts in (
        ("0.8", 0.8e-3),
        ("0.8 mV", 0.8e-3),
        ("2.2pp", 2.2e-3 / (2 * math.sqrt(2))),
        ("0.001 V", 1e-3),
    ):
        found = bench.understand("whole", typed)
        assert found.taken is not None
        assert found.taken.value == pytest.approx(volts), typed


# The heat run


def run(bench: TypedBench, *typed: str) -> None:
    for key, text in zip(("air", "start", *["sink"] * len(typed)), typed, strict=False):
        assert bench.type_in(key, text) is not None, text


def test_a_heat_run_finds_the_rest_of_an_exact_approach() -> None:
    bench = TypedBench("heat", STAGE_PAIR)
    tau, end = heat_run.time_constant(STAGE_PAIR)[0], 63.0
    course = [f"{end - (end - 23.0) * math.exp(-60.0 * m / tau):.3f} at {m} min" for m in (3, 6, 10, 15, 20)]
    run(bench, "22.0", "23.0", *course)
    said = bench.outcomes()
    assert float(said["Comes to rest at"].words.split(" ")[0]) == pytest.approx(end, abs=1.0)
    hot = float(said["In air of 35 °C"].words.split(" ")[0])
    assert hot == pytest.approx(end + 35.0 - 22.0, abs=1.1)
    assert said["In air of 35 °C"].state is (State.OVER if end + 13.0 > STAGE_PAIR.sink.t_limit_c else State.CLOSE)


def test_a_thermometer_of_unknown_accuracy_is_not_taken_for_an_exact_one() -> None:
    tau, end = heat_run.time_constant(STAGE_PAIR)[0], 63.0
    course = [f"{end - (end - 23.0) * math.exp(-60.0 * m / tau):.3f} at {m} min" for m in (3, 6, 10, 15, 20)]
    bench = TypedBench("heat", STAGE_PAIR, kit=unknown_kit())
    run(bench, "22.0", "23.0", *course)
    said = bench.outcomes()
    assert said["The thermometer"].words == "accuracy not stated"
    spread = float(said["Here, limit 75 °C"].words.split("±")[1].split(" ")[0])
    assert spread >= 2.0 * heat_run.UNKNOWN_METER_K - 0.01
    assert "The thermometer" not in _known_run(course).outcomes()


def _known_run(course: list[str]) -> TypedBench:
    bench = TypedBench("heat", STAGE_PAIR)
    run(bench, "22.0", "23.0", *course)
    return bench


def test_one_reading_tells_when_to_read_again_and_a_new_start_begins_anew() -> None:
    bench = TypedBench("heat", STAGE_PAIR)
    run(bench, "22.0", "23.0")
    assert "Read again in" in bench.outcomes()["The run"].say
    run(bench, "22.0", "23.0", "40 at 10 min", "48 at 20 min")
    assert len(heat_run.run_of(bench.readings).t_s) == 3  # type: ignore[union-attr]
    bench.type_in("start", "30")
    again = heat_run.run_of(bench.readings)
    assert again is not None
    assert (again.t_s, again.c) == ((0.0,), (30.0,))


@pytest.mark.parametrize(("typed", "seconds"), [("40 at 12", 720.0), ("40 @ 1.5 h", 5400.0), ("40 after 90 s", 90.0),
                                                ("40 at 12 min", 720.0), ("40", 33.0)])  # fmt: skip
def test_a_time_is_understood_as_it_is_spoken(typed: str, seconds: float) -> None:
    bench = TypedBench("heat", STAGE_PAIR)
    found = understand(typed, bench.one("sink"), (), bench.kit, 33.0)
    assert found.taken is not None
    assert found.taken.facts["since_s"] == pytest.approx(seconds)


# What figures are made of


def test_a_formula_s_spread_is_that_of_its_inputs() -> None:
    power = derived(lambda v, r: v * v / r, Measured(20.0, 0.1), Measured(8.0, 0.04))
    assert power.value == 50.0
    assert power.u == pytest.approx(50.0 * math.hypot(2 * 0.1 / 20, 0.04 / 8), rel=0.01)
    assert derived(lambda v: 2 * v, Measured(1.0, None)).u is None


def test_the_last_digit_typed_is_what_readings_of_one_meter_differ_by() -> None:
    for typed, value, step in (("4.000", 4.0, 1e-3), ("3.96", 3.96, 1e-2), ("396m", 0.396, 1e-3), ("122", 122.0, 1.0)):
        assert jitter_of(reading("v", typed, value, "V")) == pytest.approx(0.5 * step / math.sqrt(3)), typed


def test_a_value_is_held_against_a_prediction_by_both_spreads() -> None:
    assert apart(Measured(10.0, 0.3), 11.0, 0.4) is State.CLEAR
    assert apart(Measured(10.0, 0.3), 11.001, 0.4) is State.CLOSE
    assert apart(Measured(10.0, 0.3), 12.0, 0.4) is State.CLOSE
    assert apart(Measured(10.0, 0.3), 12.01, 0.4) is State.OVER
    assert apart(Measured(10.0, None), 20.0, 0.4) is State.UNKNOWN
    assert dataclasses.replace(Measured(1.0, 0.1), u=None).words("V") == "1.00 V ± not stated"


@pytest.mark.parametrize("name", ["class AB on linear", "class D full bridge on switcher"])
def test_channels_turned_against_each_other_or_exchanged_are_named(name: str) -> None:
    build = FAMILY[name]
    first, other = build.channels
    bench = TypedBench("gain", build)
    between = bench.one(f"between_{build.key_of(other)}")
    assert between.window is not None
    assert between.window.high is not None
    assert ("batteries" in between.ask) == build.both_outputs_live
    assert "never a scope" in between.caution
    out = bench.one(f"out_{build.key_of(first)}").window
    assert out is not None
    expected = middle(out)
    # What two channels may differ by: their gains' tolerance twice, and the meter.
    assert between.window.high == pytest.approx(expected * (2.0 * 2.0 * build.module.gain_tol / math.sqrt(3.0) + 0.02))
    label = f"Sense, {first} and {other}"
    for typed in ("0.000", f"{0.999 * between.window.high:.6g}"):
        assert bench.type_in(between.key, typed) is not None, "outputs quite alike leave nothing"
        assert bench.outcomes()[label].state is State.CLEAR
    # Two outputs turned against each other make twice one of them, and no more.
    assert "turned against each other" in bench.understand(between.key, f"{5.0 * expected:.4g}").sentence
    found = bench.understand(between.key, f"{2.0 * expected:.4g}")
    assert "turned against each other" not in found.sentence
    bench.keep(found.taken or found.choices[-1], "x")
    assert bench.outcomes()[label].state is State.OVER
    assert "turned" in bench.outcomes()[label].say
    # The other channel plays while this one is driven: nothing comes out where it is read.
    for share, exchanged in ((0.2, False), (0.05, True)):
        volts = share * 0.1 * build.module.gain * build.modules_per_channel
        for key, typed in ((f"in_{build.key_of(first)}", "0.1"), (f"out_{build.key_of(first)}", f"{volts:.4g} rms")):
            found = bench.understand(key, typed)
            bench.keep(found.taken or found.choices[-1], typed)
        assert ("channels exchanged" in bench.outcomes()[f"Gain, {first}"].say) == exchanged


def test_one_channel_alone_has_no_sense_to_compare() -> None:
    assert not [one for one in TypedBench("gain", FAMILY["class AB, mono on linear"]).asked if "between" in one.key]
