"""From the rails to reservoirs, ground, modules, loudspeakers and input."""

from plinth.builds.supply_parts import Reservoir
from plinth.units.shown import shown
from plinth.wiring.board import NOTHING, Board
from plinth.wiring.currents import channels_drawn
from plinth.wiring.drawing import Point, WireKind, WiringBox, sides

# Shown in full up to so many; the others are said to be alike.
MOST_DRAWN = 2
GROUND_Y = 430.0
RAILS: tuple[tuple[str, str, WireKind, float], ...] = (("+", "plus", "plus", 310.0), ("-", "minus", "minus", 550.0))


def output_side(board: Board) -> None:
    """Draw the right half."""
    build = board.build
    plane = build.hookup.ground == "plane"
    words = ("Ground plane", "one wide sheet") if plane else ("Star point", "between the reservoirs")
    at = (750.0, GROUND_Y - 24.0, 150.0, 48.0)
    star = board.box("star", words, at, sides("in", "out 1,out 2,back", "up", "down"))
    rails = [rail for rail in RAILS if not (build.supply.single_rail and rail[0] == "-")]
    for sign, name, kind, y in rails:
        _reservoir(board, star, sign, name, kind, y)
    _ground_of_supply(board, star)
    here = channels_drawn(build)
    for k, channel in enumerate(here[:MOST_DRAWN]):
        _module(board, star, channel, k, rails)
    if len(here) > MOST_DRAWN:
        board.notes.append(f"{', '.join(here[MOST_DRAWN:])}: wired like {here[0]}, each with wires of its own.")
    _coil_supply(board)
    if "case" in board.boxes and build.hookup.earth not in ("none", "insulated"):
        _ground_to_case(board, star)


def _coil_supply(board: Board) -> None:
    """How the relays' coils are fed, where that is known: said, for it would cross everything that is drawn."""
    part, volts = board.build.protection, board.figure("coil_v")
    if part.coil_ohm is None or volts is None:
        return
    in_series = part.coil_wiring == "series" or part.coils == 1
    amperes = volts.value / part.coil_ohm * (1 if in_series else part.coils)
    which = "1 coil" if part.coils == 1 else f"{part.coils} coils in {part.coil_wiring}"
    feed = board.build.relay_supply
    source = "the + rail" if not feed.fitted else f"{feed.v_out:g} V of its own, taken from the {feed.taken_from},"
    dropper = " through its dropper" if part.r_dropper_ohm else ""
    board.notes.append(
        f"Relay: {which} from {source} to ground{dropper}, {shown(volts.value, 'V')} each and "
        f"{shown(amperes, 'A')}, predicted at this level."
    )


def _can_words(can: Reservoir) -> tuple[str, str]:
    bleeder = "no bleeder" if can.r_bleeder_ohm is None else f"bleeder {shown(can.r_bleeder_ohm, 'ohm', 3)}"
    return f"{shown(can.c_f, 'F', 2)}, {can.v_rated:g} V", bleeder


def _reservoir(board: Board, star: WiringBox, sign: str, name: str, kind: WireKind, y: float) -> None:
    supply = board.build.supply
    can = supply.reservoir if sign == "+" else getattr(supply, "reservoir_minus", None) or supply.reservoir
    pins = sides("in", "out", bottom="0") if sign == "+" else sides("in", "out", top="0")
    box = board.box(f"reservoir {sign}", _can_words(can), (750, y - 24, 150, 48), pins)
    pulses, flows = board.pulse_flow(name), board.currents.rails[name]
    # Conventional current: out of the source on +, back into it on the - rail.
    way = 1.0 if sign == "+" else -1.0
    words = f"{sign} to the reservoir".replace("-", "−")
    lane = 742.0 if sign == "+" else 736.0
    board.wire(
        f"{sign} to reservoir", kind, _rail_source(board, sign), end=box.pin("in"), words=words, flow=pulses,
        lane=lane, mean_a=way * flows.source,
    )  # fmt: skip
    to = star.pin("up" if sign == "+" else "down")
    words = "Reservoir to ground: it carries the charging pulses, nothing else may share it"
    board.lay(f"{sign} reservoir to ground", "ground", (box.pin("0"), to), words, pulses, mean_a=way * flows.bleeder)
    _second_stage(board, star, sign, kind)


def _second_stage(board: Board, star: WiringBox, sign: str, kind: WireKind) -> None:
    """A choke or resistor behind the reservoir, with the can that stands after it."""
    supply = board.build.supply
    if supply.transformer is None or supply.smoothing is None:
        return
    part, name = supply.smoothing, "plus" if sign == "+" else "minus"
    what = f"Choke {shown(part.l_h, 'H', 2)}" if part.l_h else f"Resistor {shown(part.r_ohm, 'ohm', 2)}"
    upper = sign == "+"
    pins = sides("0", "out", bottom="in") if upper else sides("0", "out", top="in")
    y = 196.0 if upper else 600.0
    box = board.box(f"choke {sign}", (what, f"then {shown(part.c_f, 'F', 2)}, {part.v_rated:g} V"),
                    (770.0, y, 130.0, 44.0), pins)  # fmt: skip
    reservoir = board.boxes[f"reservoir {sign}"].pin("out")
    (x, level), beyond = box.pin("in"), 262.0 if upper else 588.0
    points = (reservoir, (908.0, reservoir[1]), (908.0, beyond), (x, beyond), (x, level))
    total = sum(board.currents.rails[name].channels)
    way = 1.0 if upper else -1.0
    words = f"{sign} reservoir to its second stage".replace("-", "−")
    board.lay(f"{sign} to choke", kind, points, words, board.rail_flow(name, total), mean_a=way * total)
    ripple = "What ripple the second can takes; no steady current."
    ground = f"Second can of the {sign} rail to ground".replace("-", "−")
    board.wire(
        f"{sign} choke to ground", "ground", box.pin("0"), end=star.pin("in"), words=ground, flow=ripple, lane=747.0,
        mean_a=0.0,
    )  # fmt: skip


def _rail_source(board: Board, sign: str) -> Point:
    if "supply" in board.boxes:
        return board.boxes["supply"].pin(sign)
    if "bridge 2" in board.boxes:
        return board.boxes["bridge 1"].pin("+") if sign == "+" else board.boxes["bridge 2"].pin("-")
    return board.boxes["bridge 1"].pin(sign)


def _ground_of_supply(board: Board, star: WiringBox) -> None:
    """What makes the 0: a tap, two bridges joined, a supply's own, or the − of a single rail."""
    boxes, to, rails = board.boxes, star.pin("in"), board.currents.rails
    plus = rails["plus"].source
    minus = rails["minus"].source if "minus" in rails else 0.0
    pulses, left = board.pulse_flow("plus"), minus - plus
    if "supply" in boxes:
        flow = board.steady_flow(left, "what both rails do not share") if "minus" in rails else pulses
        board.wire(
            "supply to ground", "ground", boxes["supply"].pin("0"), end=to, words="0 of the supply", flow=flow,
            lane=712, mean_a=left,
        )  # fmt: skip
    elif "bridge 2" in boxes:
        board.wire(
            "bridge 1 to ground", "ground", boxes["bridge 1"].pin("-"), end=to, words="− of bridge 1", flow=pulses,
            lane=724, mean_a=-plus,
        )  # fmt: skip
        board.wire("bridge 2 to ground", "ground", boxes["bridge 2"].pin("+"), end=to, words="+ of bridge 2",
                   flow=board.pulse_flow("minus"), lane=718, mean_a=minus)  # fmt: skip
    elif board.build.supply.single_rail:
        board.wire(
            "bridge to ground", "ground", boxes["bridge 1"].pin("-"), end=to, words="− of the bridge is ground",
            flow=pulses, lane=740, mean_a=-plus,
        )  # fmt: skip
    else:
        box = boxes["transformer"]
        middle = (box.pin("a2")[1] + box.pin("b1")[1]) / 2.0 if ("a2", "right") in box.pins else box.pin("0")[1]
        start = (622.0, middle) if ("a2", "right") in box.pins else box.pin("0")
        board.wire(
            "tap to ground", "ground", start, end=to, words="Centre tap to ground", flow=board.tap_flow(), lane=646,
            mean_a=left,
        )  # fmt: skip


def _module(board: Board, star: WiringBox, channel: str, k: int, rails: list[tuple[str, str, WireKind, float]]) -> None:
    build = board.build
    live, single = build.both_outputs_live, build.supply.single_rail
    y = 292.0 + 172.0 * k
    name = build.module.name if build.wiring == "single" else f"2 × {build.module.name}"
    words = (name, channel, "both outputs live" if live else "module")
    above = k == 0 and len(channels_drawn(build)) > 1
    left, right = "+,0" if single else "+,0,-", "out,out 2" if live else "out"
    pins = sides(left, right, top="in") if above else sides(left, right, bottom="in")
    box = board.box(f"module {channel}", words, (970, y, 122, 128), pins)
    net = 0.0
    for sign, rail, kind, _ in rails:
        lane = {"+": 926.0, "-": 950.0}[sign] - 5.0 * k
        amperes, way = board.currents.rails[rail].channels[k], 1.0 if sign == "+" else -1.0
        net += way * amperes
        behind = board.boxes.get(f"choke {sign}", board.boxes[f"reservoir {sign}"])
        words_of = f"{sign} rail to {channel}".replace("-", "−")
        board.wire(f"{sign} to {channel}", kind, behind.pin("out"), end=box.pin(sign), words=words_of,
                   flow=board.rail_flow(rail, amperes), lane=lane, mean_a=way * amperes)  # fmt: skip
    small = (
        "The currents of input and drivers; not the loudspeaker's." if not single
        else board.steady_flow(net, "all that the module takes comes back here")
    )  # fmt: skip
    ground = f"Ground of {channel}, a wire of its own"
    board.wire(
        f"0 to {channel}", "ground", star.pin(f"out {k + 1}"), end=box.pin("0"), words=ground, flow=small,
        lane=938.0 - 5.0 * k, mean_a=-net,
    )  # fmt: skip
    _loudspeaker(board, box, star, channel, k)
    _input(board, box, channel, above=above)


def _loudspeaker(board: Board, module: WiringBox, star: WiringBox, channel: str, k: int) -> None:
    flow, y = board.output_flow(), module.y + 8.0
    guard = board.box(f"relay {channel}", ("Relay",), (1116, y + 12, 66, 36), sides("in", "out"))
    post = board.box(f"posts {channel}", ("Posts",), (1206, y, 62, 112), sides("+,-"))
    first, then = f"Output of {channel} to its contact", f"Contact to the + post of {channel}"
    board.wire(
        f"{channel} to relay", "output", module.pin("out"), end=guard.pin("in"), words=first, flow=flow, lane=1104
    )
    board.wire(f"relay to {channel}", "output", guard.pin("out"), end=post.pin("+"), words=then, flow=flow, lane=1194)
    if board.build.both_outputs_live:
        warning = "Both posts are live: no ground clip, no common return."
        words = f"Second output of {channel} to the − post: live, never to ground"
        board.wire(
            f"{channel} second", "output", module.pin("out 2"), end=post.pin("-"), words=words, flow=flow, lane=1100,
            warning=warning,
        )  # fmt: skip
        return
    back, side, low = star.pin("back"), 1198.0, module.y + module.h + 20.0
    lane = 914.0 - 5.0 * k
    points = (post.pin("-"), (side, post.pin("-")[1]), (side, low), (lane, low), (lane, back[1]), back)
    words = f"Return of {channel}'s loudspeaker to the star, not to the module"
    board.lay(f"{channel} return", "ground", points, words, flow)


def _input(board: Board, module: WiringBox, channel: str, *, above: bool) -> None:
    build = board.build
    chain = [part.name for part in (build.volume, build.preamplifier) if part.fitted]
    words = (f"Input {channel}", ", ".join(chain) or "socket")
    at = (1040.0, module.y - 66.0 if above else 618.0, 150.0, 40.0)
    box = board.box(f"input {channel}", words, at, sides(bottom="out") if above else sides(top="out"))
    said = build.hookup.coupling
    coupling = "coupling not said" if said is None else "no capacitor" if said == "direct" else f"through {said}"
    (x, y), (to_x, to_y) = box.pin("out"), module.pin("in")
    level = to_y - 10.0 if above else to_y + 10.0
    words_of = f"Screened input of {channel} ({coupling}): the screen ends at the module, not at the case"
    board.lay(f"input of {channel}", "signal", ((x, y), (x, level), (to_x, level), (to_x, to_y)), words_of,
              board.input_flow())  # fmt: skip


def _ground_to_case(board: Board, star: WiringBox) -> None:
    start = board.boxes["case"].pin("out")
    if board.build.hookup.earth == "lifter":
        words = ("Ground lifter", "diodes, 10 Ω, 100 nF")
        box = board.box("lifter", words, (300, GROUND_Y - 24, 150, 48), sides("in", "out"))
        board.wire(
            "case to lifter", "earth", start, end=box.pin("in"), words="Case to the lifter", flow=NOTHING, lane=262
        )
        board.wire(
            "lifter to ground", "ground", box.pin("out"), end=star.pin("in"), words="Lifter to ground", flow=NOTHING,
            lane=700,
        )  # fmt: skip
        return
    board.wire(
        "ground to case", "earth", start, end=star.pin("in"), words="Ground to the case bolt, in one place only",
        flow=NOTHING, lane=262,
    )  # fmt: skip
