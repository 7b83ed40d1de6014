"""What each test asks to be set: quantities within their limits, over every kind of build."""

import math
from typing import Any

import pytest

from plinth.bench import clipping, heat_run, supply_draw, test_conditions
from plinth.bench.clip_cell import clip_cell, clip_places
from plinth.bench.every_sheet import SHEETS
from plinth.bench.frequency_response import FREQUENCIES_HZ, REFERENCE_HZ, request_for_point
from plinth.builds.instruments import Role
from plinth.builds.situation import Situation
from plinth.builds.supplies import BatterySupply, DirectSupply
from plinth.demo.shelf import BENCH
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.predict.solve import solve
from plinth.record.meaning import meaning_of
from plinth.record.request import Request, Setting
from plinth.record.slips import understand
from plinth.record.subject import read_subject
from plinth.units.errors import AmbiguousError, QuantityError
from tests.family import FAMILY
from tests.session.scripted_source import expected, spoken
from tests.turns import in_turn

NAMES = in_turn(FAMILY, 18)


def value_of(request: Request, name: str) -> float | None:
    setting = request.setting(name)
    return None if setting is None else setting.value


@pytest.mark.parametrize("name", in_turn(FAMILY, 27))
def test_what_is_set_keeps_a_cool_load_cool_and_reaches_clipping_where_that_is_asked(name: str) -> None:
    build, here = FAMILY[name], Situation()
    gain = build.module.gain * build.modules_per_channel
    load = test_conditions.dummy(build)
    whole = solve(build.model_copy(update={"load": load}), Situation(channels_driven="all"))
    clips = whole["clip_v_rms"].value
    seen = set()
    for kind in SHEETS:
        for request in kind.make(build, build.channels[0], here).asked({}):
            level, into = value_of(request, "generator level"), value_of(request, "load")
            if level is None:
                continue
            watts = None if into is None else (level * gain) ** 2 / into
            if kind.key in ("gain", "impedance", "square"):
                # A watt or a few, and never a tenth of the rating of what it goes into.
                rated = min(one.p_carried_w or math.inf for one in build.loads or (load,))
                assert watts is None or 0.0 < watts <= min(4.0 * (1 + 1e-9), 0.11 * rated), (request.key, watts)
                seen.add("cool")
            elif kind.key in ("rails", "mains") and request.key.startswith("full"):
                assert level * gain == pytest.approx(clips, rel=2e-3), request.key
                high = request.setting("generator level")
                assert high is not None
                assert high.high is not None
                assert level <= high.high <= 1.5 * level
                seen.add("clips")
            elif kind.key == "heat":
                assert 0.0 < level * gain < clips
            elif kind.key == "hum" or request.key.startswith("rest"):
                assert level == 0.0
                assert request.setting("generator level") == Setting("generator level", 0.0, "V", 0.0, 0.0)
                seen.add("silent")
            if kind.key == "rails":
                volts = [value_of(request, source) for source in ("mains", "battery", "bench supply")]
                assert sum(one is not None for one in volts) == 1, "it says from what source"
    assert seen == {"cool", "clips", "silent"}


@pytest.mark.parametrize("name", NAMES)
def test_a_request_is_answered_by_what_it_expects_and_refused_by_nonsense(name: str) -> None:
    build = FAMILY[name]
    for kind in SHEETS:
        for request in kind.make(build, build.channels[0], Situation()).asked({}):
            assert read_subject(request.subject) == request.about
            assert request.about.what == f"{kind.key}:{request.key}"
            with pytest.raises(QuantityError):
                meaning_of("twelve and a bit", request, BENCH)
            value = expected(request)
            if not value:
                continue
            meaning = meaning_of(spoken(request, value), request, BENCH)
            assert meaning.value == pytest.approx(value, rel=1e-4)
            assert meaning.state is not State.OVER, request.key


@pytest.mark.parametrize("name", NAMES)
def test_cells_points_and_draws_say_who_can_read_them_and_from_what(name: str) -> None:
    build = FAMILY[name]
    who, load = clip_places(build)[-1]
    cell = clip_cell(build, build.channels[0], Situation(), who, load)
    request = clipping.request_for(cell)
    assert request.needs == ("all" if who == "all" else "channel")
    assert (request.role, value_of(request, "load"), value_of(request, "frequency")) == (Role.METER, load.r_ohm, 1e3)
    assert expected(request) == pytest.approx(cell.power.value, rel=0.1)
    draw = supply_draw.request_for(cell)
    playing = 1 if who == "one" else len(build.channels)
    assert (expected(draw) or 0.0) > playing * cell.power.value, "more goes in than comes out"
    by_supply = isinstance(build.supply, DirectSupply | BatterySupply)
    assert draw.role is (Role.SUPPLY if by_supply else Role.MAINS_METER)
    for f_hz in FREQUENCIES_HZ:
        point = request_for_point(build, build.channels[0], f_hz, 2.0)
        assert value_of(point, "frequency") == f_hz
        assert (point.window is None) == (f_hz == REFERENCE_HZ)
        assert request_for_point(build, build.channels[0], f_hz, None).window is None
        assert request_for_point(build, build.channels[0], f_hz, 2.0, "controls at zero").window is None


def test_a_setting_lies_within_its_own_limits() -> None:
    assert Setting("bench supply", 12.0, "V", 0.0, 12.0).value == 12.0
    for value in (-0.1, 12.1):
        with pytest.raises(ValueError, match=r"expected 0\.0 to 12\.0"):
            Setting("bench supply", value, "V", 0.0, 12.0)


def test_a_piece_in_another_unit_is_asked_about_by_the_wide_window() -> None:
    request = Request(
        about=read_subject("part/reservoir_esr/3"), title="ESR, piece 3", ask="", unit="ohm", bare_prefix="m",
        window=None, form="resistance",
    )  # fmt: skip
    assert meaning_of("23", request, BENCH).value == pytest.approx(0.023)
    overload = meaning_of("OL", request, BENCH)
    assert overload.value == 2e6
    assert overload.u is None
    with pytest.raises(AmbiguousError):
        meaning_of("1,200", request, BENCH)


@pytest.mark.parametrize(
    ("unit", "value", "role", "bound"),
    [("V", 10.0, Role.METER, 0.008 * 10.0 + 0.0002), ("A", 0.2, Role.METER, 0.008 * 0.2),
     ("ohm", 5.0, Role.OHMMETER, 0.005 * 5.0 + 0.01), ("A", 1.0, Role.SUPPLY, 0.01 * 1.0 + 0.002)],
)  # fmt: skip
def test_a_fixed_part_counts_in_its_own_unit_only(unit: str, value: float, role: Role, bound: float) -> None:
    request = Request(
        about=read_subject("part/x/1"), title="x", ask="", unit=unit, window=None, role=role, doubts_unit=False
    )  # fmt: skip
    meaning = meaning_of(f"{value} {unit}", request, BENCH)
    assert meaning.u == pytest.approx(bound / math.sqrt(3.0))
    assert ("meter_floor" in meaning.facts) == (unit == role.unit)


def test_what_reads_farads_is_no_voltmeter() -> None:
    request = Request(
        about=read_subject("part/reservoir_c/1"), title="Reservoir", ask="", unit="F", window=None,
        role=Role.CAPACITANCE_METER, doubts_unit=False,
    )  # fmt: skip
    assert meaning_of("9.8m", request, BENCH).u is None, "nobody describes one in this kit"


def test_what_an_eye_reads_is_known_as_far_as_an_eye_sees() -> None:
    def read(text: str, unit: str, **more: Any) -> float | None:
        asked = Request(about=read_subject("part/x/1"), title="x", ask="", unit=unit, window=None, **more)
        return meaning_of(text, asked, BENCH).u

    # Off a screen: a point of overshoot, a twentieth of a time. Of a filament: some two hundred kelvin.
    assert read("12", "%", role=Role.SCOPE) == pytest.approx(1.0 / math.sqrt(3.0))
    assert read("4 us", "s", role=Role.SCOPE) == pytest.approx(0.05 * 4e-6 / math.sqrt(3.0))
    assert read("orange", "K", form="glow", role=Role.EYE) == pytest.approx(350.0 / math.sqrt(3.0))
    assert read("1.5", "s", role=Role.STOP_WATCH, u_own=0.15) == 0.15


def test_a_quarter_of_its_window_s_edge_away_is_far() -> None:
    request = Request(
        about=read_subject("test/left/rails:x"), title="x", ask="", unit="V", window=Window(10.0, 10.5, "V", ""),
        doubts_unit=False,
    )  # fmt: skip
    near, far = (understand(text, request, (), BENCH) for text in ("13.0", "13.3"))
    assert near.taken is not None, "2.5 V outside, and a quarter of 10.5 V is 2.6"
    assert far.taken is None
    assert [choice.slip for choice in far.choices if choice.slip] == ["its peak, for rms"]


def test_limits_of_what_is_set_are_those_that_hurt_nothing() -> None:
    build, here = FAMILY["class AB on linear"], Situation()
    gain, load = build.module.gain * build.modules_per_channel, test_conditions.dummy(build)
    asked = {(kind.key, one.key): one for kind in SHEETS for one in kind.make(build, build.channels[0], here).asked({})}
    assert value_of(asked["square", "rise"], "frequency") == 10e3
    assert value_of(asked["square", "tilt"], "frequency") == 100.0
    first = next(one for (kind, key), one in asked.items() if kind == "gain" and key.startswith("in_"))
    level = first.setting("generator level")
    assert level is not None
    assert first.window is not None
    assert level.high == pytest.approx(first.window.high), "no further than what is expected at the input"
    supply = asked["protection", "threshold_plus"].setting("bench supply")
    assert supply == Setting("bench supply", 0.0, "V", 0.0, 12.0)
    assert value_of(asked["protection", "trip_minus"], "battery") == 9.0
    share = solve(
        build.model_copy(update={"load": load}),
        Situation(level=heat_run.LEVEL, channels_driven="all", frequency_hz=1000.0),
    )
    watts = share["output_power_w"].value
    played = value_of(asked["heat", "sink"], "generator level")
    assert played is not None
    assert (played * gain) ** 2 / load.r_ohm == pytest.approx(watts, rel=1e-2)


def test_a_load_above_its_rating_is_driven_no_longer_than_it_bears() -> None:
    build = FAMILY["class AB on linear"]
    small = build.load.model_copy(update={"p_rated_w": 8.0, "time_constant_s": 90.0})
    cell = clip_cell(build.model_copy(update={"loads": (small,)}), build.channels[0], Situation(), "one", small)
    request = clipping.request_for(cell)
    time, level = request.setting("time in the load"), request.setting("generator level")
    assert time is not None
    assert time.high is not None
    # The rise of a first-order body: at the end of that time it is as warm as its rating would make it.
    assert cell.power.high * (1.0 - math.exp(-time.high / 90.0)) == pytest.approx(8.0, rel=1e-3)
    assert level is not None
    assert level.high is not None
    gain = build.module.gain * build.modules_per_channel
    clips = cell.prediction["clip_v_rms"].value / gain
    assert 1.05 * clips < level.high < 1.4 * clips
    assert 0.4 * clips < level.value < 0.6 * clips
    enough = small.model_copy(update={"p_rated_w": 500.0})
    cool = clip_cell(build, build.channels[0], Situation(), "one", enough)
    assert clipping.request_for(cool).setting("time in the load") is None, "it may stay on"
