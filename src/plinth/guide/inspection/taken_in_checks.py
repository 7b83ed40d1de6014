"""What is looked at first in an amplifier that somebody else built: charge, what was meddled with, what age did."""

import math
from collections.abc import Iterator, Sequence

from plinth.builds.build import Build
from plinth.builds.properties import how_known
from plinth.builds.supply_parts import Reservoir
from plinth.guide.inspection.check import EYES, Check
from plinth.physics.numbers.preferred import nearest
from plinth.physics.rails.transients import SAFE_V
from plinth.units.shown import shown

# What a wire-wound resistor of 5 W bears for the seconds that a reservoir takes, W.
BURST_W = 25.0
# Paper capacitors across the mains were common until about then; they crack with age and burn.
PAPER_UNTIL = 2000


def discharging(cans: Sequence[Reservoir]) -> tuple[float, float]:
    """The resistor across each reservoir that takes all of them to safe volts, ohms, and for how many seconds.

    From the volts that they are made for, as nobody knows what stands there: t = R C ln(V / V_safe). One resistor for
    all, that the highest of them does not overload.
    """
    r = nearest(max(SAFE_V, *(can.v_rated for can in cans)) ** 2 / BURST_W)
    # A can may hold more than its label says, and the resistor be a little larger.
    logs = (can.c_f * (1.0 + can.c_tol) * math.log(max(can.v_rated / SAFE_V, 1.0)) for can in cans)
    return r, 1.1 * r * max(logs)


def taken_in_checks(build: Build) -> Iterator[Check]:
    """These checks, before any other; none for a build of one's own."""
    if build.taken_in is None:
        return
    supply = build.supply
    cans = [supply.reservoir, *([supply.reservoir_minus] if supply.reservoir_minus is not None else [])]
    at_most = max(cans, key=lambda can: can.v_rated)
    r, seconds = discharging(cans)
    read = all(how_known(can, field).trusted for can in cans for field in ("v_rated", "c_f"))
    guessed = "" if read else (
        f" Resistor and time are for cans of {shown(at_most.c_f, 'F')} and {at_most.v_rated:g} V, which is assumed: "
        "read their labels first, and put them into Plan."
    )  # fmt: skip
    held = f"These cans may hold up to {at_most.v_rated:g} V for days." if read else (
        "Cans that nobody has read may hold their charge for days, whatever it is."
    )  # fmt: skip
    at_supply = {"supply": build.mark("supply")}
    kind_cautions = "".join(f" {caution}" for caution in supply.cautions)
    yield Check(
        "taken_in_charge", "reservoir", f"Less than {SAFE_V:g} V on every can",
        look=f"Plug out, ten minutes. Meter on DC across each reservoir, then from each rail to 0 V. Above {SAFE_V:g} "
        f"V: {shown(r, 'ohm')}, 5 W, on insulated leads across it for {max(math.ceil(seconds), 5)} s, and meter "
        f"again.{guessed}{kind_cautions}",
        why=f"Nobody says that its bleeders are whole. {held}",
        tool="voltmeter on DC", bad="No screwdriver: it welds, spits, and opens the can. The resistor again.",
        safety=True, conditions=at_supply,
    )  # fmt: skip
    if build.mains is not None:
        yield from _mains_side(build)
    yield Check(
        "taken_in_bridged", "protection", "No protection is bridged",
        look="Relay contacts, thermal switches, fuses and fusible resistors: no wire, no solder blob, no foil across "
        "any of them.",
        why="Whoever wanted music once more took away what stood in its way.", tool=EYES,
        bad="Take the bridge out before any power, and find what made somebody put it there.", safety=True,
        conditions={"module": build.mark("module"), "protection": build.mark("protection")},
    )  # fmt: skip
    yield Check(
        "taken_in_burnt", "module", "Nothing browned, cracked or burst",
        look="Print browned around resistors, cracked emitter resistors, burst small cans, soot; and what smells. "
        "Photograph it, and write which part it is.",
        why="It shows where to measure first. What burnt was seldom the cause of it.", tool="lens",
        bad="Measure what hangs on that part, plug out. Change nothing before the cause is known.",
        conditions={"module": build.mark("module")},
    )  # fmt: skip
    yield Check(
        "taken_in_changed", "module", "What was changed before is known",
        look="Solder of another colour, parts newer than the rest, one output device unlike its mates, cut tracks.",
        why="A wrong part put in by somebody behaves like no fault that is known.", tool="lens",
        bad="Write down what differs, and put in Plan what is truly fitted.",
        conditions={"module": build.mark("module")},
    )  # fmt: skip
    yield Check(
        "taken_in_labels", "transformer", "What its labels say stands in Plan",
        look=f"{_labels(build)} What Plan marks as assumed and a label tells: type it there.",
        why="Every window ahead is computed from it. A guess makes a sound part look faulty, or the other way round.",
        tool=EYES, bad="Go to Plan: Enter on the part, and type what its label says.", conditions=at_supply,
    )  # fmt: skip


def _mains_side(build: Build) -> Iterator[Check]:
    taken = build.taken_in
    assert taken is not None, "only of one taken in"
    yield Check(
        "taken_in_cord", "entry", "Cord, inlet and switch are whole",
        look="Insulation neither brittle nor taped, no second cord spliced in. With a metal case: three conductors, "
        "and earth on the case.",
        why="Old rubber crumbles where it bends, and the case is what one touches.", tool=EYES,
        bad="A new cord, of the kind your code asks for. Where it was built without an earth, ask somebody licensed.",
        safety=True, conditions={"entry": build.mark("entry"), "hookup": build.mark("hookup")},
    )  # fmt: skip
    yield Check(
        "taken_in_fuses", "entry", "Every fuse is the one printed beside it",
        look="Mains and rail fuses: volts, amperes, T or F as printed. Blown and blackened: a short; merely parted: "
        "age or a surge. Keep it, and write which one it was.",
        why="A larger one lets the fault burn the transformer in its place.", tool=EYES,
        bad="The right ones. Where nothing is printed, what Plan asks for, and not more.", safety=True,
        conditions={"entry": build.mark("entry"), "supply": build.mark("supply")},
    )  # fmt: skip
    if taken.year is None or taken.year <= PAPER_UNTIL:
        yield Check(
            "taken_in_paper", "entry", "No cracked capacitor across the mains",
            look="At inlet and switch: capacitors in clear or amber casing with fine cracks; also those across the "
            "switch.",
            why="Paper ones draw damp through the cracks, short and burn, some minutes after the first power in years.",
            tool="lens", bad="Take it out, or fit a new safety capacitor of the class printed on it (X2, Y2).",
            safety=True, conditions={"entry": build.mark("entry")},
        )  # fmt: skip


def _labels(build: Build) -> str:
    return (
        f"Of the {build.supply.source_name}: volts, power. Of the cans: microfarads, volts, date. Of the boards: volts "
        "printed on them, output devices, emitter resistors."
    )
