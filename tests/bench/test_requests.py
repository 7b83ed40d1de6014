"""What each test asks to be set: quantities within their limits, over every kind of build."""

import math

import pytest

from plinth.bench import clipping, supply_draw, test_conditions
from plinth.bench.every_sheet import SHEETS
from plinth.bench.frequency_response import FREQUENCIES_HZ, REFERENCE_HZ, request_for_point
from plinth.builds.instruments import Role
from plinth.builds.situation import Situation
from plinth.builds.supplies import BatterySupply, DirectSupply
from plinth.demo.shelf import BENCH
from plinth.judge.state import State
from plinth.predict.solve import solve
from plinth.record.meaning import meaning_of
from plinth.record.request import Request, Setting
from plinth.record.subject import read_subject
from plinth.units.errors import AmbiguousError, QuantityError
from tests.family import FAMILY
from tests.session.scripted_source import expected, spoken
from tests.turns import in_turn

NAMES = in_turn(FAMILY, 9)


def value_of(request: Request, name: str) -> float | None:
    setting = request.setting(name)
    return None if setting is None else setting.value


@pytest.mark.parametrize("name", NAMES)
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
    who, load = clipping.clip_places(build)[-1]
    cell = clipping.clip_cell(build, build.channels[0], Situation(), who, load)
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
        about=read_subject("part/x/1"), title="x", ask="", unit=unit, window=None, role=role, doubts=()
    )  # fmt: skip
    meaning = meaning_of(f"{value} {unit}", request, BENCH)
    assert meaning.u == pytest.approx(bound / math.sqrt(3.0))
    assert ("meter_floor" in meaning.facts) == (unit == role.unit)


def test_what_reads_farads_is_no_voltmeter() -> None:
    request = Request(
        about=read_subject("part/reservoir_c/1"), title="Reservoir", ask="", unit="F", window=None,
        role=Role.CAPACITANCE_METER, doubts=(),
    )  # fmt: skip
    assert meaning_of("9.8m", request, BENCH).u is None, "nobody describes one in this kit"
