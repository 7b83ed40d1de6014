"""From the rails to reservoirs, ground, modules, loudspeakers and input."""

from plinth.builds.supply_parts import Reservoir
from plinth.units.shown import shown
from plinth.wiring.board import NOTHING, Board
from plinth.wiring.drawing import Box, Point, WireKind, sides

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
    for k, channel in enumerate(build.channels[:MOST_DRAWN]):
        _module(board, star, channel, k, rails)
    if len(build.channels) > MOST_DRAWN:
        others = ", ".join(build.channels[MOST_DRAWN:])
        board.notes.append(f"{others}: wired like {build.channels[0]}, each with wires of its own.")
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
    board.notes.append(
        f"Relay: {which} from the + rail to ground through its dropper, {shown(volts.value, 'V')} each and "
        f"{shown(amperes, 'A')}, predicted at this level."
    )


def _can_words(can: Reservoir) -> tuple[str, str]:
    bleeder = "no bleeder" if can.r_bleeder_ohm is None else f"bleeder {shown(can.r_bleeder_ohm, 'ohm', 3)}"
    return f"{shown(can.c_f, 'F', 2)}, {can.v_rated:g} V", bleeder


def _reservoir(board: Board, star: Box, sign: str, name: str, kind: WireKind, y: float) -> None:
    supply = board.build.supply
    can = supply.reservoir if sign == "+" else getattr(supply, "reservoir_minus", None) or supply.reservoir
    pins = sides("in", "out", bottom="0") if sign == "+" else sides("in", "out", top="0")
    box = board.box(f"reservoir {sign}", _can_words(can), (750, y - 24, 150, 48), pins)
    pulses = board.pulse_flow(name)
    words = f"{sign} to the reservoir".replace("-", "−")
    lane = 742.0 if sign == "+" else 736.0
    board.wire(f"{sign} to reservoir", kind, _rail_source(board, sign), box.pin("in"), words, pulses, lane)
    to = star.pin("up" if sign == "+" else "down")
    words = "Reservoir to ground: it carries the charging pulses, nothing else may share it"
    board.lay(f"{sign} reservoir to ground", "ground", (box.pin("0"), to), words, pulses)


def _rail_source(board: Board, sign: str) -> Point:
    if "supply" in board.boxes:
        return board.boxes["supply"].pin(sign)
    if "bridge 2" in board.boxes:
        return board.boxes["bridge 1"].pin("+") if sign == "+" else board.boxes["bridge 2"].pin("-")
    return board.boxes["bridge 1"].pin(sign)


def _ground_of_supply(board: Board, star: Box) -> None:
    """What makes the 0: a tap, two bridges joined, a supply's own, or the − of a single rail."""
    boxes, flow, to = board.boxes, board.pulse_flow("plus"), star.pin("in")
    if "supply" in boxes:
        board.wire("supply to ground", "ground", boxes["supply"].pin("0"), to, "0 of the supply", flow, 712)
    elif "bridge 2" in boxes:
        board.wire("bridge 1 to ground", "ground", boxes["bridge 1"].pin("-"), to, "− of bridge 1", flow, 724)
        board.wire("bridge 2 to ground", "ground", boxes["bridge 2"].pin("+"), to, "+ of bridge 2", flow, 718)
    elif board.build.supply.single_rail:
        board.wire("bridge to ground", "ground", boxes["bridge 1"].pin("-"), to, "− of the bridge is ground", flow, 740)
    else:
        box = boxes["transformer"]
        middle = (box.pin("a2")[1] + box.pin("b1")[1]) / 2.0 if ("a2", "right") in box.pins else box.pin("0")[1]
        start = (622.0, middle) if ("a2", "right") in box.pins else box.pin("0")
        board.wire("tap to ground", "ground", start, to, "Centre tap to ground", flow, 646)


def _module(board: Board, star: Box, channel: str, k: int, rails: list[tuple[str, str, WireKind, float]]) -> None:
    build = board.build
    live, single = build.both_outputs_live, build.supply.single_rail
    y = 292.0 + 172.0 * k
    name = build.module.name if build.wiring == "single" else f"2 × {build.module.name}"
    words = (name, channel, "both outputs live" if live else "module")
    above = k == 0 and len(build.channels) > 1
    left, right = "+,0" if single else "+,0,-", "out,out 2" if live else "out"
    pins = sides(left, right, top="in") if above else sides(left, right, bottom="in")
    box = board.box(f"module {channel}", words, (970, y, 122, 128), pins)
    for sign, name, kind, _ in rails:
        lane = {"+": 926.0, "-": 950.0}[sign] - 5.0 * k
        start = board.boxes[f"reservoir {sign}"].pin("out")
        words_of = f"{sign} rail to {channel}".replace("-", "−")
        board.wire(f"{sign} to {channel}", kind, start, box.pin(sign), words_of, board.rail_flow(name), lane)
    small = "The currents of input and drivers; not the loudspeaker's."
    ground = f"Ground of {channel}, a wire of its own"
    board.wire(f"0 to {channel}", "ground", star.pin(f"out {k + 1}"), box.pin("0"), ground, small, 938.0 - 5.0 * k)
    _loudspeaker(board, box, star, channel, k)
    _input(board, box, channel, above=above)


def _loudspeaker(board: Board, module: Box, star: Box, channel: str, k: int) -> None:
    flow, y = board.output_flow(), module.y + 8.0
    guard = board.box(f"relay {channel}", ("Relay",), (1116, y + 12, 66, 36), sides("in", "out"))
    post = board.box(f"posts {channel}", ("Posts",), (1206, y, 62, 112), sides("+,-"))
    first, then = f"Output of {channel} to its contact", f"Contact to the + post of {channel}"
    board.wire(f"{channel} to relay", "output", module.pin("out"), guard.pin("in"), first, flow, 1104)
    board.wire(f"relay to {channel}", "output", guard.pin("out"), post.pin("+"), then, flow, 1194)
    if board.build.both_outputs_live:
        warning = "Both posts are live: no ground clip, no common return."
        words = f"Second output of {channel} to the − post: live, never to ground"
        board.wire(f"{channel} second", "output", module.pin("out 2"), post.pin("-"), words, flow, 1100, warning)
        return
    back, side, low = star.pin("back"), 1198.0, module.y + module.h + 20.0
    lane = 914.0 - 5.0 * k
    points = (post.pin("-"), (side, post.pin("-")[1]), (side, low), (lane, low), (lane, back[1]), back)
    words = f"Return of {channel}'s loudspeaker to the star, not to the module"
    board.lay(f"{channel} return", "ground", points, words, flow)


def _input(board: Board, module: Box, channel: str, *, above: bool) -> None:
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


def _ground_to_case(board: Board, star: Box) -> None:
    start = board.boxes["case"].pin("out")
    if board.build.hookup.earth == "lifter":
        words = ("Ground lifter", "diodes, 10 Ω, 100 nF")
        box = board.box("lifter", words, (300, GROUND_Y - 24, 150, 48), sides("in", "out"))
        board.wire("case to lifter", "earth", start, box.pin("in"), "Case to the lifter", NOTHING, 262)
        board.wire("lifter to ground", "ground", box.pin("out"), star.pin("in"), "Lifter to ground", NOTHING, 700)
        return
    board.wire("ground to case", "earth", start, star.pin("in"), "Ground to the case bolt, in one place only", NOTHING,
               262)  # fmt: skip
