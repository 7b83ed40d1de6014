"""Rules of wiring and signal: each with what trips it and, just beside, what does not."""

import math
from typing import Any

import pytest

from plinth.builds.build import Build
from plinth.builds.hookup import Hookup, Insulator, Preamplifier, SpeakerCable, VolumeControl
from plinth.builds.situation import Situation
from plinth.judge.margin import Margin
from plinth.judge.rules import RULES, judge
from plinth.judge.state import State
from plinth.predict.solve import solve
from tests.family import FAMILY

LINEAR = FAMILY["class AB on linear"]
CLEAR, CLOSE, OVER, UNKNOWN = State.CLEAR, State.CLOSE, State.OVER, State.UNKNOWN


def margins(build: Build, **situation: object) -> dict[str, Margin]:
    return {one.key: one for one in judge(solve(build, Situation.model_validate(situation)))}


def hooked(**said: object) -> Build:
    return LINEAR.model_copy(update={"hookup": Hookup.model_validate({"name": "Mine", **said})})


def of_module(build: Build, **said: object) -> Build:
    return build.model_copy(update={"module": build.module.model_copy(update=said)})


def test_there_are_sixty_rules_and_more_each_with_a_name_of_its_own() -> None:
    assert len(RULES) >= 60
    keys = [one.key for build in list(FAMILY.values())[:6] for one in judge(solve(build))]
    assert len(set(keys)) > 20


@pytest.mark.parametrize(
    ("said", "key", "state"),
    [
        ({}, "wiring_said", UNKNOWN),
        ({"fuse_in": "live", "switch_in": "both"}, "wiring_said", UNKNOWN),
        ({"fuse_in": "live", "switch_in": "both", "earth": "bonded"}, "wiring_said", None),
        ({"fuse_in": "live"}, "fuse_conductor", CLEAR),
        ({"fuse_in": "both"}, "fuse_conductor", CLOSE),
        ({"fuse_in": "neutral"}, "fuse_conductor", OVER),
        ({}, "fuse_conductor", None),
        ({"switch_in": "live"}, "switch_conductor", CLEAR),
        ({"switch_in": "both"}, "switch_conductor", CLEAR),
        ({"switch_in": "neutral"}, "switch_conductor", OVER),
        ({"earth": "bonded"}, "earth", CLEAR),
        ({"earth": "lifter"}, "earth", CLEAR),
        ({"earth": "insulated"}, "earth", CLOSE),
        ({"earth": "none"}, "earth", OVER),
        ({"ground": "star"}, "ground_school", CLEAR),
        ({"ground": "plane"}, "ground_school", CLOSE),
        ({"reverse": "keyed"}, "reverse_polarity", CLEAR),
        ({"reverse": "diodes"}, "reverse_polarity", CLOSE),
        ({"reverse": "none"}, "reverse_polarity", OVER),
        ({"coupling": "film"}, "input_coupling", CLEAR),
        ({"coupling": "electrolytic"}, "input_coupling", CLEAR),
        ({"coupling": "direct"}, "input_coupling", CLOSE),
        ({"mounting": "vertical"}, "mounted", CLEAR),
    ],
)
def test_what_is_said_of_the_wiring(said: dict[str, object], key: str, state: State | None) -> None:
    found = margins(hooked(**said)).get(key)
    assert (None if found is None else found.state) is state
    if found is not None and state in (CLOSE, OVER, UNKNOWN):
        assert found.fix


def test_nothing_of_the_mains_is_asked_where_there_is_none() -> None:
    bench = FAMILY["class AB on bench"]
    assert bench.mains is None or bench.supply.kind == "direct"
    assert "wiring_said" not in margins(bench)
    assert "wiring_said" in margins(FAMILY["class AB on switcher"])
    assert "wiring_said" not in margins(FAMILY["class AB on battery"])


def test_an_unused_leg_is_a_matter_of_differential_inputs() -> None:
    for inputs, leg, state in (
        ("differential", "open", OVER),
        ("differential", "tied", CLEAR),
        ("single", "open", None),
    ):
        found = margins(of_module(hooked(unused_leg=leg), inputs=inputs)).get("unused_leg")
        assert (None if found is None else found.state) is state


def test_a_board_that_stands_swapped_rails_needs_no_key() -> None:
    assert margins(of_module(LINEAR, reverse_protected=True))["reverse_polarity"].state is CLEAR
    assert margins(of_module(LINEAR, reverse_protected=False))["reverse_polarity"].state is OVER
    assert "reverse_polarity" not in margins(LINEAR)


def test_a_bridge_of_the_boards_own_is_named() -> None:
    board = of_module(LINEAR, own_rectifier=True)
    assert margins(board)["own_bridge"].state is UNKNOWN
    kept = board.model_copy(update={"hookup": Hookup(name="Mine", own_bridge="kept")})
    assert margins(kept)["own_bridge"].state is CLOSE
    assert "own_bridge" not in margins(LINEAR)


def test_a_sink_inside_a_case_is_judged_hotter_by_what_it_takes_less_away() -> None:
    build = hooked(mounting="inside")
    found = margins(build)["mounted"]
    prediction = solve(build)
    hottest = max(prediction["sink_c"].value, prediction["sink_idle_c"].value)
    assert found.figure is not None
    assert found.figure.value == pytest.approx(25.0 + 1.6 * (hottest - 25.0))
    for limit, state in ((found.figure.value * 0.99, OVER), (found.figure.value * 1.2, CLEAR)):
        sink = build.sink.model_copy(update={"t_limit_c": limit})
        assert margins(build.model_copy(update={"sink": sink}))["mounted"].state is state


def test_a_gap_of_paste_is_none_and_a_washer_is_one() -> None:
    for gap, state in ((20e-6, CLEAR), (60e-6, OVER)):
        sink = LINEAR.sink.model_copy(update={"air_gap_m": gap, "a_device_m2": 3e-4})
        assert margins(LINEAR.model_copy(update={"sink": sink}))["air_gap"].state is state
    assert "air_gap" not in margins(LINEAR)


def test_a_pad_holds_five_times_the_rail_and_warms_the_junction() -> None:
    rail = solve(LINEAR)["rail_no_load_high_v"].value
    bare = solve(LINEAR)["junction_c"].value
    for volts, state in ((5.0 * rail * 0.99, OVER), (5.0 * rail * 1.2, CLEAR), (None, UNKNOWN)):
        pad = Insulator(name="Pad", maker="M", r_k_per_w=1.0, v_rated=volts)
        build = LINEAR.model_copy(update={"insulator": pad})
        assert margins(build)["insulation"].state is state
        prediction = solve(build)
        points = prediction.solution.points
        each_w = points.programme.p_heat_w / points.programme.driven
        assert prediction["junction_c"].value == pytest.approx(bare + each_w * 1.0, rel=1e-6)
    assert "insulation" not in margins(LINEAR)


def test_speech_only_is_judged_for_speech() -> None:
    build = hooked(use="speech")
    assert margins(build, crest_db=9.0)["speech_only"].state is OVER
    assert margins(build, crest_db=17.0)["speech_only"].state is CLEAR
    assert "speech_only" not in margins(hooked(use="music"))


def test_a_second_stage_may_cost_five_per_cent_of_the_rail() -> None:
    smoothed = FAMILY["class AB on linear with chokes"]
    found = margins(smoothed)["filter_school"]
    assert found.figure is not None
    prediction = solve(smoothed)
    r = smoothed.supply.smoothing.r_ohm  # type: ignore[union-attr]
    assert found.figure.value == pytest.approx(prediction["rail_plus_load_mean_a"].value * r)
    assert found.limit == pytest.approx(0.05 * prediction["rail_no_load_v"].value)
    assert margins(LINEAR)["filter_school"].state is CLEAR


def with_volume(**said: Any) -> Build:
    return LINEAR.model_copy(update={"volume": VolumeControl(name="Knob", maker="M", **said)})


def test_a_volume_control_against_the_input_behind_it() -> None:
    half = LINEAR.module.r_input_ohm / 2.0
    for ohms, state in ((half * 1.01, OVER), (half * 0.95, CLOSE), (half * 0.5, CLEAR)):
        assert margins(with_volume(r_ohm=ohms))["volume_loading"].state is state
    assert "volume_loading" not in margins(LINEAR)
    # 60 kHz through a quarter of the track and 200 pF.
    edge = 4.0 / (2.0 * math.pi * 60e3 * 200e-12)
    for ohms, state in ((edge * 1.01, OVER), (edge * 0.5, CLEAR)):
        assert margins(with_volume(r_ohm=ohms))["volume_corner"].state is state
    assert margins(with_volume(r_ohm=1e4, law="linear"))["volume_law"].state is CLOSE
    assert margins(with_volume(r_ohm=1e4, law="log"))["volume_law"].state is CLEAR
    for apart, state in ((2.1, OVER), (1.9, CLOSE), (0.5, CLEAR)):
        assert margins(with_volume(r_ohm=1e4, tracking_db=apart))["tracking"].state is state


def test_gain_is_missing_or_to_spare() -> None:
    drive = solve(LINEAR)["drive_v_rms"].value
    for source, state in ((drive * 10 ** (12.1 / 20), OVER), (drive * 10 ** (11.9 / 20), CLOSE), (drive, CLEAR)):
        assert margins(LINEAR, source_v_rms=source)["gain_to_spare"].state is state
    assert "gain_to_spare" not in margins(LINEAR)
    pre = LINEAR.model_copy(update={"preamplifier": Preamplifier(name="Pre", maker="M", gain=4.0)})
    found = margins(pre, source_v_rms=drive)["gain_to_spare"].figure
    assert found is not None
    assert found.value == pytest.approx(20.0 * math.log10(4.0), abs=1e-6)
    # What is missing without it is there with it.
    assert margins(LINEAR, source_v_rms=drive / 2.0)["source_drive"].state is OVER
    assert margins(pre, source_v_rms=drive / 2.0)["source_drive"].state is CLEAR


def test_a_preamplifier_reaches_the_drive_or_not() -> None:
    drive = solve(LINEAR)["drive_v_rms"]
    for most, state in ((drive.value * 0.99, OVER), (drive.high * 1.2, CLEAR), (None, UNKNOWN)):
        part = Preamplifier(name="Pre", maker="M", v_out_max_rms=most)
        assert margins(LINEAR.model_copy(update={"preamplifier": part}))["preamplifier_reach"].state is state
    assert "preamplifier_reach" not in margins(LINEAR)


def test_hum_is_the_ripple_at_rest_through_the_rejection() -> None:
    ripple = solve(LINEAR)["rail_idle_ripple_v_pp"].value
    # A sawtooth's rms; 0.5 mV is heard.
    edge = 20.0 * math.log10(ripple / (2.0 * math.sqrt(3.0)) / 0.5e-3)
    for more, state in ((-0.2, OVER), (6.0, CLEAR)):
        assert margins(of_module(LINEAR, rejection_db=edge + more))["hum"].state is state
    assert "hum" not in margins(LINEAR)
    assert "hum" not in margins(of_module(FAMILY["class AB on switcher"], rejection_db=40.0))


def test_noise_of_module_and_preamplifier_add_by_their_squares() -> None:
    for volts, state in ((0.51e-3, OVER), (0.2e-3, CLEAR)):
        assert margins(of_module(LINEAR, noise_v_rms=volts))["noise"].state is state
    gain = LINEAR.module.gain
    pre = Preamplifier(name="Pre", maker="M", noise_v_rms=0.3e-3 / gain)
    found = margins(of_module(LINEAR, noise_v_rms=0.4e-3).model_copy(update={"preamplifier": pre}))["noise"].figure
    assert found is not None
    assert found.value == pytest.approx(0.5e-3)


def test_bass_through_the_input_capacitor() -> None:
    edge = 1.0 / (2.0 * math.pi * LINEAR.module.r_input_ohm * 7.0)
    for c, state in ((edge * 0.99, OVER), (edge * 2.0, CLEAR)):
        assert margins(hooked(coupling="film", c_input_f=c))["input_corner"].state is state
    assert "input_corner" not in margins(hooked(coupling="direct", c_input_f=1e-6))


def with_cable(**said: Any) -> Build:
    return LINEAR.model_copy(update={"cable": SpeakerCable(name="Lead", maker="M", **said)})


def test_a_loudspeaker_cable_takes_its_share() -> None:
    # Copper, there and back, 5 % of the load.
    edge = 2.0 * 1.72e-8 * 10.0 / (0.05 * LINEAR.load.r_ohm)
    for area, state in ((edge * 0.99, OVER), (edge * 2.0, CLEAR)):
        assert margins(with_cable(length_m=10.0, a_m2=area))["cable_resistance"].state is state
    amperes = solve(LINEAR)["clip_v_peak"].value / math.sqrt(2.0) / LINEAR.load.r_ohm
    for most, state in ((amperes * 0.99, OVER), (amperes * 1.2, CLEAR)):
        assert margins(with_cable(i_connector_a=most))["connector_current"].state is state


def test_capacitance_at_the_output_unsettles_it() -> None:
    assert margins(with_cable(length_m=4.0, c_per_m_f=1.8e-9))["capacitive_load"].state is CLEAR
    assert margins(with_cable(length_m=8.0, c_per_m_f=1.8e-9))["capacitive_load"].state is OVER
    stable = of_module(with_cable(length_m=8.0, c_per_m_f=1.8e-9), c_load_max_f=100e-9)
    assert margins(stable)["capacitive_load"].state is CLEAR
    assert "capacitive_load" not in margins(LINEAR)


def test_an_indicator_on_a_rail_neither_burns_nor_burns_its_resistor() -> None:
    rail = solve(LINEAR)["rail_no_load_high_v"].value
    watts = (rail - 2.0) ** 2 / 4700.0
    assert margins(hooked(r_led_ohm=4700, p_led_w=2.3 * watts))["led_heat"].state is CLEAR
    assert margins(hooked(r_led_ohm=4700, p_led_w=1.9 * watts))["led_heat"].state is OVER
    assert margins(hooked(r_led_ohm=4700))["led_heat"].state is UNKNOWN
    least = (rail - 2.0) / 0.020
    assert margins(hooked(r_led_ohm=1.2 * least))["led_current"].state is CLEAR
    assert margins(hooked(r_led_ohm=1.02 * least))["led_current"].state is CLOSE
    assert margins(hooked(r_led_ohm=0.98 * least))["led_current"].state is OVER
    assert not {"led_heat", "led_current"} & set(margins(LINEAR))
