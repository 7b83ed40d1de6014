"""Every kind of build is wired: each wire from pin to pin, live where it must be, its flow that of the prediction."""

import re
import xml.etree.ElementTree as ET
from typing import Any

import numpy as np
import pytest

from plinth.builds.build import Build
from plinth.builds.hookup import Hookup
from plinth.builds.situation import Situation
from plinth.builds.supplies import BatterySupply, LinearSupply, SwitcherSupply
from plinth.demo.builds import FOYER, MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.predict.solve import solve
from plinth.units.shown import shown, shown_with_spread
from plinth.wiring.currents import channels_drawn
from plinth.wiring.drawing import Point, Wiring
from plinth.wiring.regions import REGIONS, region_for
from plinth.wiring.svg import CONDUCTORS, note_lines, svg_of
from plinth.wiring.wired import wiring_of
from tests.family import FAMILY
from tests.sample_builds import SHARED_PAIR, linear

EVERY = {**FAMILY, **{one.name: one for one in (STAGE_PAIR, REHEARSAL_ROOM, MARKET_BOX, STREET_BOX, FOYER)}}


def wired(build: Build) -> Wiring:
    return wiring_of(build, solve(build), REGIONS[0])


def hooked(build: Build, **said: Any) -> Build:
    return build.model_copy(update={"hookup": Hookup.model_validate({"name": "Mine", **said})})


def pins(wiring: Wiring) -> dict[Point, str]:
    return {box.pin(name): f"{box.key}.{name}" for box in wiring.boxes for name, _ in box.pins}


def ends(wiring: Wiring, key: str) -> tuple[str, str]:
    at = pins(wiring)
    wire = next(one for one in wiring.wires if one.key == key)
    return at.get(wire.points[0], ""), at.get(wire.points[-1], "")


@pytest.mark.parametrize("build", EVERY.values(), ids=EVERY)
def test_every_wire_goes_from_pin_to_pin_and_says_what_flows(build: Build) -> None:
    wiring = wired(build)
    at = pins(wiring)
    keys = [one.key for one in wiring.wires]
    assert len(set(keys)) == len(keys)
    for wire in wiring.wires:
        # A centre tap made of two windings begins where they are joined, an empty throw at the switch's edge.
        assert wire.points[0] in at or wire.key in ("tap to ground", "switch to empty throw"), wire.key
        assert wire.points[-1] in at, wire.key
        for (x0, y0), (x1, y1) in zip(wire.points, wire.points[1:], strict=False):
            assert x0 == x1 or y0 == y1, wire.key
            assert 0.0 <= x1 <= wiring.width
            assert 0.0 <= y1 <= wiring.height
        assert wire.flow.endswith(".")
        assert "nan" not in wire.flow
    reached = {end for key in keys for end in ends(wiring, key)}
    unused = [name for name in at.values() if name not in reached]
    # What may end nowhere: the third return of a star, an earth that is not to be joined.
    assert all(name.split(".")[0] in ("star", "inlet", "case") for name in unused), unused
    steady_currents_sum_to_zero_in_every_box(wiring)
    outputs_that_are_both_live_never_reach_ground(build, wiring)
    mains_are_drawn_where_there_are_some(build, wiring)


def outputs_that_are_both_live_never_reach_ground(build: Build, wiring: Wiring) -> None:
    for channel in channels_drawn(build)[:2]:
        if build.both_outputs_live:
            assert ends(wiring, f"{channel} second") == (f"module {channel}.out 2", f"posts {channel}.-")
            assert f"{channel} return" not in [one.key for one in wiring.wires]
            assert any("no ground clip" in note for note in wiring.notes)
        else:
            assert ends(wiring, f"{channel} return") == (f"posts {channel}.-", "star.back")


def steady_currents_sum_to_zero_in_every_box(wiring: Wiring) -> None:
    """What flows in flows out: at every can, choke and board, and where all grounds meet."""
    at, sums, largest = pins(wiring), dict[str, float](), 0.0
    for wire in wiring.wires:
        if wire.mean_a is None:
            continue
        largest = max(largest, abs(wire.mean_a))
        for point, sign in ((wire.points[0], -1.0), (wire.points[-1], 1.0)):
            box = at.get(point, "").split(".")[0]
            sums[box] = sums.get(box, 0.0) + sign * wire.mean_a
    inner = [name for name in sums if name.startswith(("reservoir", "choke", "module", "star"))]
    assert {"reservoir +", "star"} <= set(inner)
    assert largest > 0.01
    for name in inner:
        assert sums[name] == pytest.approx(0.0, abs=1e-6 * largest), (name, sums)


def mains_are_drawn_where_there_are_some(build: Build, wiring: Wiring) -> None:
    kinds = {one.kind for one in wiring.wires}
    from_wall = isinstance(build.supply, LinearSupply | SwitcherSupply)
    assert ("live" in kinds) == from_wall
    assert ("battery" in kinds) == isinstance(build.supply, BatterySupply)
    assert any("Mains can kill" in note for note in wiring.notes) == from_wall
    if from_wall:
        assert ends(wiring, "live to fuse") == ("inlet.L", "fuse.in")
        assert ends(wiring, "live to switch") == ("fuse.out", "switch.a in")
        assert {one.colour for one in wiring.wires if one.kind == "live"} == {"brown"}


@pytest.mark.parametrize(
    ("switch", "wires", "warned"),
    [
        ("live", {"live to switch"}, False),
        ("both", {"live to switch", "neutral to switch"}, False),
        ("neutral", {"neutral to switch"}, True),
    ],
)
def test_a_switch_stands_where_it_is_said_to(switch: str, wires: set[str], warned: bool) -> None:
    wiring = wired(hooked(REHEARSAL_ROOM, fuse_in="live", switch_in=switch, earth="bonded"))
    assert {one.key for one in wiring.wires if one.key.endswith("to switch")} == wires
    assert any(one.warning for one in wiring.wires) == warned
    primary = ends(wiring, "live to primary")
    assert primary[0] == ("fuse.out" if switch == "neutral" else "switch.a out")
    assert not wiring.box("switch").missing
    assert wired(REHEARSAL_ROOM).box("switch").missing


def test_a_fuse_in_the_neutral_is_warned_of() -> None:
    wiring = wired(hooked(REHEARSAL_ROOM, fuse_in="neutral", switch_in="both"))
    assert ends(wiring, "neutral to fuse") == ("inlet.N", "fuse.in")
    assert ends(wiring, "live to switch")[0] == "inlet.L"
    assert any("fuse in the neutral" in one.warning for one in wiring.wires)


@pytest.mark.parametrize(
    ("earth", "there", "gone"),
    [
        ("bonded", {"earth to case", "ground to case"}, {"case to lifter"}),
        ("lifter", {"earth to case", "case to lifter", "lifter to ground"}, {"ground to case"}),
        ("none", set(), {"earth to case", "ground to case"}),
        ("insulated", set(), {"earth to case", "ground to case"}),
    ],
)
def test_earth_goes_where_it_is_said_to(earth: str, there: set[str], gone: set[str]) -> None:
    wiring = wired(hooked(REHEARSAL_ROOM, earth=earth))
    keys = {one.key for one in wiring.wires}
    assert there <= keys
    assert not gone & keys
    assert (wiring.notes[1].startswith("Danger")) == (earth == "none")


def flows_of(build: Build, **situation: Any) -> dict[str, str]:
    prediction = solve(build, Situation.model_validate(situation))
    return {one.key: one.flow for one in wiring_of(build, prediction, REGIONS[0]).wires}


def test_a_channel_at_rest_carries_what_it_rests_at() -> None:
    alone = flows_of(SHARED_PAIR, channels_driven="one")
    rest = solve(SHARED_PAIR, Situation(level=0.0))["rail_plus_load_mean_a"].value / 2.0
    assert alone["+ to right"].startswith(f"{shown(rest, 'A')} mean")
    total = solve(SHARED_PAIR, Situation(channels_driven="one"))["rail_plus_load_mean_a"].value
    assert alone["+ to left"].startswith(f"{shown(total - rest, 'A')} mean")


def test_of_two_supplies_alike_one_is_drawn_with_its_own_primary() -> None:
    wiring = wired(STAGE_PAIR)
    assert [box.key for box in wiring.boxes if box.key.startswith("module")] == ["module left"]
    assert wiring.box("others").words[0] == "1 more supply alike"
    flows, prediction = flows_of(STAGE_PAIR), solve(STAGE_PAIR)
    whole = prediction["primary_rms_a"].value
    spread = prediction["primary_rms_a"].spread
    assert flows["live to fuse"].startswith(f"{shown_with_spread(whole, spread, 'A')} rms")
    own = float(flows["live to primary"].split()[0]) * (1e-3 if " mA" in flows["live to primary"] else 1.0)
    # Two alike, both playing, and the input stages' small one: a little less than half.
    assert 0.40 * whole < own < 0.51 * whole
    one_supply = STAGE_PAIR.model_copy(
        update={
            "supply": linear(STAGE_PAIR).model_copy(update={"input_supply": None, "per_channel": False}),
            "channels": ("left",),
            "channel_keys": ("left",),
        }
    )
    assert own == pytest.approx(solve(one_supply)["primary_rms_a"].value, rel=0.01)


def test_a_tap_carries_what_is_left_of_both_rails_pulses() -> None:
    even = solve(REHEARSAL_ROOM).solution.points.at_level.rails
    left = even[0].i_diode_a - even[1].i_diode_a
    rms = float(np.sqrt(np.mean(left[:-1] ** 2)))
    flow = flows_of(REHEARSAL_ROOM)["tap to ground"]
    assert f"{shown(rms, 'A', 2)} rms" in flow
    assert rms < 0.5 * even[0].rms(even[0].i_diode_a)


@pytest.mark.parametrize("sign", ["+", "-"])
def test_a_choke_stands_between_reservoir_and_module(sign: str) -> None:
    build = FAMILY["class AB on linear with chokes"]
    wiring = wired(build)
    assert ends(wiring, f"{sign} to choke") == (f"reservoir {sign}.out", f"choke {sign}.in")
    assert ends(wiring, f"{sign} to left") == (f"choke {sign}.out", f"module left.{sign}")
    assert wiring.box(f"choke {sign}").words[0] == "Choke 2.2 mH"
    assert ends(wired(FAMILY["class AB on linear"]), f"{sign} to left")[0] == f"reservoir {sign}.out"


@pytest.mark.parametrize(
    ("way", "drawn", "warned"),
    [(None, False, False), ("one-way", False, False), ("two-way, live on throw", True, False),
     ("two-way, live on common", True, True)],
)  # fmt: skip
def test_a_two_way_switch_is_drawn_with_its_empty_throw(way: str | None, drawn: bool, warned: bool) -> None:
    build = hooked(REHEARSAL_ROOM, fuse_in="live", switch_in="live", switch_way=way, earth="bonded")
    wiring = wired(build)
    found = [one for one in wiring.wires if one.key == "switch to empty throw"]
    assert bool(found) is drawn
    assert any("two-way" in note for note in wiring.notes) is (way is None)
    if drawn:
        assert ("bare terminal" in found[0].warning) is warned
    margin = {one.key: one.state for one in judge(solve(build))}.get("switch_way")
    assert margin is (None if way is None else State.OVER if warned else State.CLEAR)


def test_flows_are_those_of_the_prediction() -> None:
    prediction = solve(STAGE_PAIR)
    flows = {one.key: one.flow for one in wired(STAGE_PAIR).wires}
    assert shown(prediction["diode_plus_peak_a"].value, "A") in flows["+ to reservoir"]
    # Of two channels on one supply each takes its own half; on a supply of its own, all.
    assert shown(prediction["rail_minus_load_mean_a"].value, "A") in flows["- to left"]
    shared = solve(SHARED_PAIR)
    half = shared["rail_plus_load_mean_a"].value / 2.0
    assert flows_of(SHARED_PAIR)["+ to left"].startswith(f"{shown(half, 'A')} mean")
    assert flows_of(SHARED_PAIR)["+ to left"] == flows_of(SHARED_PAIR)["+ to right"]
    peak = prediction["clip_v_peak"].value / STAGE_PAIR.load.r_ohm
    assert shown(peak, "A") in flows["left return"]
    # At 4 A per mm2.
    winding = prediction["winding_rms_a"].value
    assert f"at least {winding / 4.0:.2g} mm²" in flows["winding a1"]


def test_windings_meet_their_bridges() -> None:
    two = wired(STAGE_PAIR)
    assert ends(two, "winding a1") == ("transformer.a1", "bridge 1.~1")
    assert ends(two, "winding b2") == ("transformer.b2", "bridge 2.~2")
    assert ends(two, "bridge 1 to ground") == ("bridge 1.-", "star.in")
    assert ends(two, "bridge 2 to ground") == ("bridge 2.+", "star.in")
    tapped = wired(REHEARSAL_ROOM)
    assert ends(tapped, "tap to ground") == ("transformer.0", "star.in")
    assert ends(tapped, "- to reservoir")[0] == "bridge 1.-"
    single = wired(FAMILY["class D full bridge on linear"])
    assert ends(single, "bridge to ground") == ("bridge 1.-", "star.in")
    assert "reservoir -" not in [box.key for box in single.boxes]


def test_primaries_for_this_mains() -> None:
    def notes(volts: float) -> str:
        supply = REHEARSAL_ROOM.supply
        assert isinstance(supply, LinearSupply)
        part = supply.transformer.model_copy(update={"v_primary_rms": volts})
        build = REHEARSAL_ROOM.model_copy(update={"supply": supply.model_copy(update={"transformer": part})})
        return "\n".join(wired(build).notes)

    assert "two of 115 V stand in series for 230 V" in notes(230.0)
    assert "Danger: a primary of 115 V on 230 V" in notes(115.0)
    assert "is not for a mains" in notes(400.0)


def test_colours_by_region_are_those_of_the_mains() -> None:
    assert [region_for(volts).name for volts in (230.0, 240.0, 120.0, 100.0)] == [
        REGIONS[0].name, REGIONS[0].name, REGIONS[1].name, REGIONS[2].name,
    ]  # fmt: skip
    wiring = wiring_of(STAGE_PAIR, solve(STAGE_PAIR), REGIONS[1])
    assert {one.colour for one in wiring.wires if one.kind == "neutral"} == {"white"}
    assert {"live, black", "neutral, white"} <= {words for words, _ in wiring.legend}
    svg, other = svg_of(wiring), svg_of(wired(STAGE_PAIR))
    assert CONDUCTORS["brown"] not in svg
    assert CONDUCTORS["black"] in svg
    assert CONDUCTORS["brown"] in other


@pytest.mark.parametrize("build", [STAGE_PAIR, MARKET_BOX, STREET_BOX], ids=lambda build: build.name)
def test_the_svg_is_whole_and_holds_every_box_wire_and_note(build: Build) -> None:
    odd = build.model_copy(update={"name": 'A <b> & "c"'})
    wiring = wired(odd)
    root = ET.fromstring(svg_of(wiring))
    space = "{http://www.w3.org/2000/svg}"
    assert len(root.findall(f"{space}polyline")) == len(wiring.wires) + len(wiring.legend)
    assert len(root.findall(f"{space}rect")) == len(wiring.boxes) + 1
    texts = [one.text for one in root.findall(f"{space}text")]
    assert texts[0] == wiring.title
    for line in note_lines(wiring.notes):
        assert line in texts
    titles = [one.text for one in root.iter(f"{space}title")]
    assert any(wire.flow in (title or "") for wire in wiring.wires for title in titles)


@pytest.mark.parametrize("how", ["series", "parallel"])
def test_how_the_relay_s_coils_are_fed_is_said(how: str) -> None:
    part = STAGE_PAIR.protection.model_copy(
        update={"coil_v": 12.0, "coil_ohm": 270.0, "coils": 2, "coil_wiring": how, "r_dropper_ohm": 330.0}
    )
    build = STAGE_PAIR.model_copy(update={"protection": part})
    note = next(one for one in wired(build).notes if one.startswith("Relay: "))
    prediction = solve(build)
    rail = (prediction["rail_plus_min_v"].value + prediction["rail_plus_max_v"].value) / 2.0
    amperes = rail / (2 * 270.0 + 330.0) if how == "series" else rail / (135.0 + 330.0)
    assert f"2 coils in {how}" in note
    said = re.search(r"and ([\d.]+) mA", note)
    assert said is not None
    assert float(said[1]) == pytest.approx(1000.0 * amperes, rel=0.03)
    unknown = part.model_copy(update={"coil_ohm": None})
    without = STAGE_PAIR.model_copy(update={"protection": unknown})
    assert not [one for one in wired(without).notes if one.startswith("Relay: ")]
