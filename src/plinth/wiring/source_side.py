"""From the wall, a battery or the bench to what makes the rails."""

from plinth.builds.build import Build
from plinth.builds.supplies import LinearSupply, SwitcherSupply
from plinth.builds.supply_parts import Transformer
from plinth.units.shown import shown
from plinth.wiring.board import NOT_PREDICTED, NOTHING, Board
from plinth.wiring.drawing import Point, WireKind, WiringBox, sides

LIVE_Y, NEUTRAL_Y, EARTH_Y = 90.0, 150.0, 250.0
DANGER_SWITCH = "A switch in the neutral leaves all of it live when off."
DANGER_FUSE = "A fuse in the neutral leaves all of it live when it blows."


def source_side(board: Board) -> None:
    """Draw the left half."""
    supply = board.build.supply
    if supply.from_the_wall:
        _mains(board)
    elif supply.converter is not None:
        _battery(board)
    else:
        board.box("supply", supply.box_words, (500, 40, 190, 220), sides(right=_rail_pins(board.build)))


def _rail_pins(build: Build) -> str:
    return "+,0" if build.supply.single_rail else "+,0,-"


def _mains(board: Board) -> None:
    build, hookup = board.build, board.build.hookup
    inlet = board.box("inlet", ("Inlet",), (20, 60, 76, 220), sides(right="L,N,E"))
    flow = board.flow("primary_rms_a")
    fuse_in, switch_in = hookup.fuse_in or "live", hookup.switch_in or "both"
    fuse = _fuse(board, fuse_in)
    switch = _switch(board, switch_in)
    primary = _primary(board)
    bad_fuse = DANGER_FUSE if fuse_in == "neutral" else ""
    bad_switch = DANGER_SWITCH if switch_in == "neutral" else ""
    live, neutral = inlet.pin("L"), inlet.pin("N")
    if fuse_in == "neutral":
        board.wire(
            "neutral to fuse", "neutral", neutral, end=fuse.pin("in"), words="Neutral to the fuse", flow=flow,
            lane=116, warning=bad_fuse,
        )  # fmt: skip
        neutral = fuse.pin("out")
    else:
        board.wire(
            "live to fuse", "live", live, end=fuse.pin("in"), words="Live to the fuse: always live", flow=flow, lane=116
        )
        live = fuse.pin("out")
    if switch_in in ("live", "both"):
        words = "Live to the switch: with what lies before it, all that stays live when off"
        board.wire("live to switch", "live", live, end=switch.pin("a in"), words=words, flow=flow, lane=238)
        live = switch.pin("a out")
        _empty_throw(board, switch)
    if switch_in in ("neutral", "both"):
        pin = "b" if switch_in == "both" else "a"
        board.wire(
            "neutral to switch", "neutral", neutral, end=switch.pin(f"{pin} in"), words="Neutral to the switch",
            flow=flow, lane=244, warning=bad_switch,
        )  # fmt: skip
        neutral = switch.pin(f"{pin} out")
    if build.entry.r_soft_ohm is not None:
        stays = "bridged by a relay" if build.entry.soft_bypass_s is not None else "stays in"
        named = (f"Soft start {build.entry.r_soft_ohm:g} Ω", stays)
        soft = board.box("soft start", named, (352, LIVE_Y - 22, 112, 44), sides("in", "out"))
        board.wire(
            "live to soft start", "live", live, end=soft.pin("in"), words="Switched live to the soft start",
            flow=flow, lane=343, warning=bad_switch,
        )  # fmt: skip
        live = soft.pin("out")
    wrong = bad_switch or bad_fuse
    own = board.primary_flow()
    board.wire(
        "live to primary", "live", live, end=primary.pin("L"), words="Switched live to the primary", flow=own,
        lane=472, warning=bad_switch,
    )  # fmt: skip
    board.wire(
        "neutral to primary", "neutral", neutral, end=primary.pin("N"), words="Neutral to the primary", flow=own,
        lane=480, warning=wrong,
    )  # fmt: skip
    _other_primaries(board, live, neutral, bad_switch, wrong)
    _earth(board, inlet)


def _other_primaries(board: Board, live: Point, neutral: Point, bad_switch: str, wrong: str) -> None:
    """Supplies that hang on the same mains and are not drawn: those of the other channels, the input stages' own."""
    supply = board.build.supply
    if supply.transformer is None:
        return
    alike, small = board.currents.supplies - 1, supply.input_supply is not None
    if not alike and not small:
        return
    words = tuple(
        primaries
        for primaries, there in (
            (f"{alike} more supply alike" if alike == 1 else f"{alike} more supplies alike", alike),
            ("input stages' supply", small),
        )
        if there
    )
    box = board.box("others", words, (340, 186, 124, 44), sides(right="live,neutral"))
    all_a, own = board.figure("primary_rms_a"), board.currents.own_primary_a
    flow = NOT_PREDICTED
    if all_a is not None and own is not None:
        flow = f"What the wall gives ({shown(all_a.value, 'A')} rms) besides this primary's {shown(own, 'A')} rms."
    ways: tuple[tuple[str, WireKind, Point, float, str], ...] = (
        ("live", "live", live, 486.0, bad_switch), ("neutral", "neutral", neutral, 478.0, wrong),
    )  # fmt: skip
    for pin, kind, start, lane, warning in ways:
        (x, y), name = box.pin(pin), "Switched live" if pin == "live" else "Neutral"
        points = (start, (lane, start[1]), (lane, y), (x, y))
        board.lay(f"{kind} to others", kind, points, f"{name} to what is not drawn", flow, warning)


def _fuse(board: Board, where: str) -> WiringBox:
    entry = board.build.entry
    y = NEUTRAL_Y if where == "neutral" else LIVE_Y
    words = (f"Fuse {entry.fuse_kind} {entry.fuse_a_rms:g} A", f"in {where}")
    missing = board.build.hookup.fuse_in is None
    return board.box("fuse", words, (132, y - 22, 96, 44), sides("in", "out"), missing=missing)


def _switch(board: Board, where: str) -> WiringBox:
    words, missing = ("Switch", f"in {where}"), board.build.hookup.switch_in is None
    if where == "both":
        # Two poles stand on both lines, so that its pins meet them.
        at = (256.0, 2.0 * LIVE_Y - NEUTRAL_Y, 76.0, 3.0 * (NEUTRAL_Y - LIVE_Y))
        return board.box("switch", words, at, sides("a in,b in", "a out,b out"), missing=missing)
    y = NEUTRAL_Y if where == "neutral" else LIVE_Y
    return board.box("switch", words, (256, y - 22, 76, 44), sides("a in", "a out"), missing=missing)


BARE = "Off puts the live conductor on this bare terminal. Live belongs on a throw, the load on the common."


def _empty_throw(board: Board, switch: WiringBox) -> None:
    """The throw of a two-way switch that nothing hangs on: dead where live is on the other one."""
    way = board.build.hookup.switch_way
    if way in (None, "one-way"):
        return
    bad = way == "two-way, live on common"
    box = board.box("empty throw", ("empty", "throw"), (348, 26, 70, 34), sides("in"), missing=bad)
    start = (switch.x + switch.w / 2.0, switch.y)
    end = box.pin("in")
    flow = "The mains, onto nothing, when it is off." if bad else "Nothing: dead when on and when off."
    board.lay("switch to empty throw", "live", (start, (start[0], end[1]), end), "Empty throw of the two-way switch",
              flow, BARE if bad else "")  # fmt: skip


def _earth(board: Board, inlet: WiringBox) -> None:
    said = board.build.hookup.earth
    words = {"none": ("Case", "NOT bonded"), "insulated": ("Case", "insulated twice")}.get(said or "", ("Case bolt",))
    if said is None:
        words = ("Case bolt", "not said")
    missing = said in (None, "none")
    bolt = board.box("case", words, (132, EARTH_Y - 22, 110, 44), sides("in", "out"), missing=missing)
    if said == "none":
        board.notes.append("Danger: the case is not bonded to protective earth. Bond it before anything else.")
    elif said != "insulated":
        board.wire(
            "earth to case", "earth", inlet.pin("E"), end=bolt.pin("in"),
            words="Protective earth to a bolt of its own", flow=NOTHING, lane=118,
        )  # fmt: skip


def _primary(board: Board) -> WiringBox:
    supply = board.build.supply
    if isinstance(supply, SwitcherSupply):
        part = supply.switcher
        jumper = "jumper: look at it" if part.v_mains_jumper is None else f"jumper at {part.v_mains_jumper:g} V"
        board.notes.append(
            "Inside the switcher hundreds of volts stand on its capacitor for minutes after it is unplugged."
        )
        words = (part.name, "mains switcher", jumper)
        return board.box("supply", words, (500, 40, 190, 220), sides("L,N", _rail_pins(board.build)))
    assert supply.transformer is not None, "only these hang on the mains"
    return _transformer(board, supply)


_SECONDARY_PINS = {"two": "a1,a2,b1,b2", "centre_tap": "a1,0,b2", "one": "a1,a2"}


def _transformer(board: Board, supply: LinearSupply) -> WiringBox:
    part, rectifier = supply.transformer, supply.rectifier
    volts = f"{part.v_secondary_rms:g}"
    wound = {"two": f"2 × {volts} V", "centre_tap": f"{volts}-0-{volts} V", "one": f"{volts} V"}[part.secondaries]
    words = (part.name, f"primary {part.v_primary_rms:g} V", wound)
    box = board.box("transformer", words, (496, 30, 116, 240), sides("L,N", _SECONDARY_PINS[part.secondaries]))
    _primaries(board, part)
    flow = board.flow("winding_rms_a")
    if rectifier.bridges == "two":
        for k, first, second in ((0, "a1", "a2"), (1, "b1", "b2")):
            at = (654.0, 40.0 + 120.0 * k, 76.0, 96.0)
            bridge = board.box(f"bridge {k + 1}", (rectifier.name, f"bridge {k + 1}"), at, sides("~1,~2", "+,-"))
            for n, (pin, to) in enumerate(((first, "~1"), (second, "~2"))):
                words_of = f"Secondary {'AB'[k]} to bridge {k + 1}"
                board.wire(
                    f"winding {pin}", "winding", box.pin(pin), end=bridge.pin(to), words=words_of, flow=flow,
                    lane=624.0 + 10.0 * n,
                )  # fmt: skip
        return box
    bridge = board.box("bridge 1", (rectifier.name, "bridge"), (654, 80, 76, 140), sides("~1,~2", "+,-"))
    last = "a2" if part.secondaries == "one" else "b2"
    board.wire(
        "winding a1", "winding", box.pin("a1"), end=bridge.pin("~1"), words="Secondary to the bridge", flow=flow,
        lane=632,
    )  # fmt: skip
    board.wire(
        f"winding {last}", "winding", box.pin(last), end=bridge.pin("~2"), words="Secondary to the bridge", flow=flow,
        lane=640,
    )  # fmt: skip
    if part.secondaries == "two":
        (x, upper), (_, lower) = box.pin("a2"), box.pin("b1")
        joined = ((x, upper), (622.0, upper), (622.0, lower), (x, lower))
        board.lay("tap made", "winding", joined, "End of A joined to the beginning of B: the centre tap", flow)
    return box


def _primaries(board: Board, part: Transformer) -> None:
    mains = board.build.mains.v_nominal_rms if board.build.mains is not None else 0.0
    volts = part.v_primary_rms
    if abs(volts - mains) <= 0.2 * mains:
        board.notes.append(
            f"Primaries: two of {volts / 2.0:g} V stand in series for {volts:g} V, the end of one joined to the "
            f"beginning of the other; two of {volts:g} V stand in parallel, beginnings together."
        )
    elif abs(2.0 * volts - mains) <= 0.2 * mains:
        board.notes.append(f"Danger: a primary of {volts:g} V on {mains:g} V. Two of them belong in series.")
    else:
        board.notes.append(f"Danger: a primary of {volts:g} V is not for a mains of {mains:g} V.")


def _battery(board: Board) -> None:
    supply, entry = board.build.supply, board.build.entry
    assert supply.converter is not None, "asked for one"
    words = (supply.battery.name, f"{supply.battery.v_nominal:g} V")
    battery = board.box("battery", words, (30, 60, 140, 120), sides(right="+,-"))
    fuse = board.box("fuse", (f"Fuse {entry.fuse_a_rms:g} A", "at the battery"), (230, 78, 120, 44), sides("in", "out"))
    pins = sides("in +,in -", _rail_pins(board.build))
    box = board.box("supply", (supply.converter.name, "push-pull converter"), (500, 40, 190, 220), pins)
    flow = board.flow("battery_i_mean_a", "mean")
    to_fuse = "Battery to its fuse, as short as can be"
    board.wire("battery to fuse", "battery", battery.pin("+"), end=fuse.pin("in"), words=to_fuse, flow=flow, lane=200)
    board.wire(
        "fuse to converter", "battery", fuse.pin("out"), end=box.pin("in +"), words="Fused + to the converter",
        flow=flow, lane=420,
    )  # fmt: skip
    board.wire(
        "battery return", "battery", battery.pin("-"), end=box.pin("in -"), words="Battery − to the converter",
        flow=flow, lane=400,
    )  # fmt: skip
    board.notes.append(
        "A battery gives hundreds of amperes into a short: fuse at its post, tools and rings away from it."
    )
