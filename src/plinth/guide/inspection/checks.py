"""The checks of a build, made from its very parts and wiring, station by station."""

import math
from collections.abc import Iterator

from plinth.builds.build import Build
from plinth.builds.supplies import SwitcherSupply
from plinth.guide.inspection.check import EYES, Check
from plinth.guide.inspection.taken_in_checks import taken_in_checks
from plinth.physics.rails.transients import SAFE_V
from plinth.predict.estimates import A_PER_MM2
from plinth.units.shown import shown

OHM = "ohmmeter, plug out"
EARTH_OHM = 0.2


def checks_of(build: Build) -> tuple[Check, ...]:
    """All checks, in the order of the power path, those of one taken in before them; no two of one key."""
    return (
        *taken_in_checks(build), *_wall(build), *_source(build), *_reservoir(build), *_wiring(build),
        *_boards(build), *_output(build),
    )  # fmt: skip


def _of(build: Build, *places: str) -> dict[str, float | str]:
    return {place.replace(".", "_"): build.mark(place) for place in places}


def _wall(build: Build) -> Iterator[Check]:
    if build.mains is None or build.supply.battery is not None:
        return
    here, fuse = _of(build, "entry", "hookup"), f"{build.entry.fuse_a_rms:g} A {build.entry.fuse_kind}"
    yield Check(
        "fuse_and_switch", "entry", "Fuse and switch in the live conductor",
        look=f"From the live pin of the inlet through fuse ({fuse}) and switch to the primary: some "
        "ohms. With the fuse "
        "out, and again with the switch off: open.",
        why="In the neutral they leave everything inside live while it looks dead.", tool=OHM,
        bad="Move them into the live conductor, the fuse first; let somebody licensed do it where your code says so.",
        safety=True, conditions=here,
    )  # fmt: skip
    yield Check(
        "nothing_bare", "entry", "No bare terminal stays live",
        look="With the switch off in mind: follow the live conductor from the inlet. Every terminal "
        "up to the switch is "
        "covered, and the inlet's back as well.",
        why="A finger finds what is bare, a switch that is off notwithstanding.", tool=EYES,
        bad="Sleeve, boot or cover it before the plug goes in.", safety=True, conditions=here,
    )  # fmt: skip
    if build.hookup.earth != "insulated":
        yield Check(
            "earth_bond", "entry", f"Case bonded to earth, under {EARTH_OHM:g} Ω",
            look=f"From the earth pin to the bolt, to each panel and to the sink: under {EARTH_OHM:g} "
            "Ω with the leads' own "
            "taken off. The wire has a lug of its own, a toothed washer, and nothing else under its nut.",
            why="A case that is not bonded becomes live with the first fault, and no fuse blows.", tool=OHM,
            bad="Bare metal under the lug, tighten, measure again. Anodised panels need a wire each.", safety=True,
            conditions=_of(build, "hookup", "sink"),
        )  # fmt: skip
    yield Check(
        "strain_relief", "entry", "Strain relief holds",
        look="Pull at the cord as a falling case would. Inside nothing moves.",
        why="A cord that comes loose brings the live conductor to the case.", tool=EYES,
        bad="Clamp it, or take an inlet.", safety=True, conditions=_of(build, "entry"),
    )  # fmt: skip

    yield from _mains_relays(build)


def _mains_relays(build: Build) -> Iterator[Check]:
    """Relays whose contacts stand in the mains: the trigger's, and what bridges a soft start."""
    if build.trigger.fitted:
        yield Check(
            "trigger_apart", "entry", "Trigger socket apart from the mains",
            look=f"From each contact of the trigger socket to live, to neutral and to the primary: open in the highest "
            f"range. Its wires stay 8 mm from everything on mains and cannot slip there; {build.trigger.name} is made "
            "for mains on its contact side.",
            why="A preamplifier hangs on that socket: mains on it reaches every hand at the shelf.", tool=OHM,
            bad="Part them, sleeve both, or leave the trigger out.", safety=True,
            conditions=_of(build, "entry", "trigger", "hookup"),
        )  # fmt: skip
        yield Check(
            "trigger_diode", "entry", "A diode across the trigger's coil",
            look="Cathode to + of the trigger, straight at the coil.",
            why="Without it the coil's kick goes into whatever switches it.", tool="diode test",
            bad="Solder one across the coil.", safety=False, conditions=_of(build, "trigger"),
        )  # fmt: skip
    entry = build.entry
    if entry.r_soft_ohm is not None and entry.soft_bypass_s is not None:
        yield Check(
            "soft_bridge", "entry", "The soft start's relay bridges all of it",
            look=f"Relay at rest: {shown(entry.r_soft_ohm, 'ohm')} from its input to its output. Its coil on a bench "
            "supply, plug out: under half an ohm, and open again to the coil.",
            why="A contact that does not close leaves the resistor in the mains: it burns under load. One that has "
            "welded is no soft start any more.", tool=OHM,
            bad="Another relay; a thermal fuse on the resistor.", safety=True, conditions=_of(build, "entry"),
        )  # fmt: skip


def _source(build: Build) -> Iterator[Check]:
    supply = build.supply
    mains = 0.0 if build.mains is None else build.mains.v_nominal_rms
    if supply.transformer is not None:
        part, here = supply.transformer, _of(build, "supply.transformer")
        yield Check(
            "primary", "transformer", f"Primary for {mains:g} V",
            look=f"Read the label of {part.name}, planned as {part.v_primary_rms:g} V. Two primaries of half the volts "
            "stand in series, end to beginning; two of the whole in parallel, beginnings together.",
            why="Set for half of these mains it doubles every rail, and the reservoirs burst.", tool=EYES,
            bad="Join them anew, and ask the ohmmeter: in series four times the ohms of in parallel.", safety=True,
            conditions=here,
        )  # fmt: skip
        if part.secondaries != "one":
            yield Check(
                "secondaries", "transformer", "Secondaries in phase, none shorted",
                look=f"Each half of {part.name} shows the same ohms, and open to the other, to the "
                "primary and to the core.",
                why="Half a winding reversed gives rails that look right without load and hum with it.", tool=OHM,
                bad="Change the ends of one half; look at the colours on the label.", safety=False, conditions=here,
            )  # fmt: skip
        if part.core == "toroid":
            yield Check(
                "bolt", "transformer", "The bolt makes no turn",
                look="The bolt through the toroid touches the case at one end only, lid on as well.",
                why="Touching at both ends it is a shorted turn: it gets red hot in a minute.", tool=EYES,
                bad="A shorter bolt, or insulation at the upper end.", safety=True, conditions=here,
            )  # fmt: skip
    if isinstance(supply, SwitcherSupply):
        jumper, here = supply.switcher.v_mains_jumper, _of(build, "supply.switcher")
        if jumper is not None:
            yield Check(
                "jumper", "transformer", f"Jumper for {mains:g} V",
                look=f"It is planned as {jumper:g} V: look at it.",
                why="On the lower setting, the higher mains destroys it in a flash.", tool=EYES,
                bad="Set it before any power.", safety=True, conditions=here,
            )  # fmt: skip
        yield Check(
            "switcher_covered", "transformer", "Switcher covered",
            look="Its high side cannot be touched with the lid off; its screws and spacers are those it came with.",
            why="Several hundred volts stand there, and stay for minutes after the plug is out.", tool=EYES,
            bad="Cover it. Do not work on its high side.", safety=True, conditions=here,
        )  # fmt: skip
    if supply.battery is not None:
        part_a = build.entry.fuse_a_rms
        yield Check(
            "battery_fuse", "wall", f"Fuse of {part_a:g} A at the battery",
            look="It stands within a hand's breadth of the + pole, ahead of any length of cable.",
            why="A battery gives hundreds of amperes into a chafed cable, and nothing else stops it.", tool=EYES,
            bad="Put it there before the cable is connected.", safety=True,
            conditions=_of(build, "entry", "supply.battery"),
        )  # fmt: skip
        yield Check(
            "battery_polarity", "wall", "Battery the right way round",
            look="Colour, plug and pole agree at both ends; the plug cannot be turned.",
            why="The wrong way round the converter's switches short the battery.", tool="voltmeter on DC",
            bad="A keyed plug. Measure at its end before it is put in.", safety=True,
            conditions=_of(build, "supply.battery"),
        )  # fmt: skip


def _reservoir(build: Build) -> Iterator[Check]:
    supply = build.supply
    can, here = supply.reservoir, _of(build, "supply.reservoir", "supply.reservoir_minus")
    yield Check(
        "polarity", "reservoir", "Reservoirs the right way round",
        look=f"Each can of {can.name}: its − stripe to the lower potential, on the − rail as well, "
        "where + is 0 V. It says "
        f"{can.v_rated:g} V or more.",
        why="The wrong way round it explodes within seconds of full power.", tool=EYES,
        bad="Turn it; do not use it again.", safety=True, conditions=here,
    )  # fmt: skip
    yield Check(
        "vents", "reservoir", "No can bulges or leaks",
        look="Tops flat, no crust at the rubber, no smell; older than ten years: re-form it slowly before use.",
        why="A dried one hums, a leaking one eats the board, one that bulges bursts under power.", tool=EYES,
        bad="Another one.", bad_holds=True, doubt_holds_reforming=True, conditions=here,
    )  # fmt: skip
    bleeder = can.r_bleeder_ohm
    yield Check(
        "bleeders", "reservoir", "Bleeders across the reservoirs",
        look=f"From each rail to 0 V, once it has stopped climbing: {shown(bleeder, 'ohm')} or less."
        if bleeder is not None
        else "None is planned. From each rail to 0 V the meter climbs on and on.",
        why=f"Without them what is stored stays for hours; with them it falls below {SAFE_V:g} V in the time said.",
        tool=OHM, bad="Solder one of some kilohms and two watts across each reservoir, and put it into the plan.",
        safety=True, conditions=here,
    )  # fmt: skip
    if supply.transformer is not None:
        own = build.module.own_rectifier
        said = " The board has one of its own: both stand in a row, or its own is bypassed as planned." if own else ""
        yield Check(
            "bridge", "reservoir", "Bridge the right way round",
            look="Windings at ~, + to the + rail, − to the − rail or to 0 V, as "
            f"{supply.rectifier.name} is drawn.{said}",
            why="Turned, it shorts the winding or puts the rails the wrong way round on everything.",
            tool="diode test", bad="Turn it, and test each diode.", safety=True,
            conditions=_of(build, "supply.rectifier", "module"),
        )  # fmt: skip


def _wiring(build: Build) -> Iterator[Check]:
    plane = build.hookup.ground == "plane"
    here = _of(build, "hookup")
    yield Check(
        "returns", "rails", "Every return where it belongs",
        look="Loudspeaker returns and the boards' grounds run to the plane by the shortest way."
        if plane
        else "Loudspeaker returns, the boards' grounds and the reservoirs' middle meet in one point, each by a wire of "
        "its own.",
        why="A return that shares the charging pulses hums.", tool=EYES, bad="Move it; longer wires do no harm.",
        safety=False, conditions=here,
    )  # fmt: skip
    peak = build.module.i_limit_a
    if peak is not None:
        least_mm2 = max(0.5, peak / math.sqrt(2.0) / A_PER_MM2)
        yield Check(
            "wires", "rails", f"Rail and loudspeaker wires of {least_mm2:.2g} mm² or more",
            look=f"The module gives up to {peak:g} A peak; insulation is whole where wires pass metal.",
            why="Thin ones cost power and get hot at the crimp.", tool=EYES, bad="Thicker ones, crimped anew.",
            safety=False, conditions=here,
        )  # fmt: skip


def _boards(build: Build) -> Iterator[Check]:
    module, boards = build.module, build.modules_per_channel * len(build.channels)
    here = _of(build, "module")
    each = f"each of the {boards} boards" if boards > 1 else "the board"
    yield Check(
        "solder", "module", "No bridge of solder, no lead that barely reaches",
        look=f"Both sides of {each}, slanting light, a lens: between pads, at the output devices, at the input pair.",
        why="A bridge at an output device takes the whole rail.", tool="lens", bad="Wick and solder anew.",
        safety=True, conditions=here,
    )  # fmt: skip
    yield Check(
        "orientation", "module", "Everything on it the right way round",
        look=f"Electrolytics, diodes, transistors and ICs of {each} as printed.",
        why="One small electrolytic turned puts DC at the output a week later.", tool=EYES,
        bad="Turn it, or a new one.", safety=True, conditions=here,
    )  # fmt: skip
    devices = 2 * module.pairs * boards
    yield Check(
        "pads", "module", "Pads and screws under the output devices",
        look=f"{devices} devices: pad whole, no burr under it, screw tight with its washer. Each tab "
        "to the sink: open.",
        why="A tab on the sink puts a rail on the case.", tool=OHM, bad="A new pad, the burr filed off.", safety=True,
        conditions=_of(build, "module", "sink", "insulator"),
    )  # fmt: skip
    yield Check(
        "spacers", "module", "Spacers no taller than device and pad",
        look="A thin paper does not slip between device and sink, with the board's screws tight."
        + (" An air gap is planned: look whether it is no more than that." if build.sink.air_gap_m else ""),
        why="A board held up by its spacers leaves air under the device, and air does not carry heat.",
        tool="a strip of paper", bad="Shorter spacers, or slots in the board.", safety=False,
        conditions=_of(build, "module", "sink"),
    )  # fmt: skip
    if not module.reverse_protected:
        yield Check(
            "keyed", "module", "Rails cannot be swapped at the boards",
            look="The plug is keyed, or marked so that no tired hand turns it; its volts are "
            "measured before it is put in.",
            why="Nothing on this module bears swapped rails.", tool=EYES,
            bad="A keyed plug, or a diode across each rail.", safety=True, conditions=_of(build, "module", "hookup"),
        )  # fmt: skip
    if module.inputs == "differential":
        yield Check(
            "unused_leg", "module", "The unused leg of the input is tied",
            look="Driven from one side, the other leg runs to the source's ground, not into the air.",
            why="An open leg hums and swings the output.", tool=EYES, bad="Tie it at the socket.", safety=False,
            conditions=_of(build, "module", "hookup"),
        )  # fmt: skip
    coil = module.output_filter
    if coil is not None:
        yield Check(
            "filter", "module", "Output coils and their capacitors",
            look=f"{shown(coil.l_h, 'H', 2)} and {shown(coil.c_f, 'F', 2)} as planned, coils not "
            "touching each other or steel."
            if coil.l_h and coil.c_f
            else "Coils and capacitors as on the maker's drawing.",
            why="Without them the whole switching frequency runs into the loudspeaker's cable.", tool=EYES,
            bad="Fit them.", safety=False, conditions=here,
        )  # fmt: skip


def _output(build: Build) -> Iterator[Check]:
    if build.both_outputs_live:
        yield Check(
            "outputs_apart", "protection", "Both output legs live, neither common",
            look="No output leg runs to 0 V, to the case or to the other channel; sockets insulated from the panel.",
            why="Either leg on ground shorts an amplifier; a scope's clip is ground as well.", tool=OHM,
            bad="Insulated posts, a wire for each leg.", safety=True, conditions=_of(build, "module", "hookup"),
        )  # fmt: skip
    guard, here = build.protection, _of(build, "protection")
    if guard.coil_v is not None:
        how = "one coil" if guard.coils == 1 else f"{guard.coils} coils in {guard.coil_wiring}"
        dropper = "" if guard.r_dropper_ohm is None else f", through {shown(guard.r_dropper_ohm, 'ohm')}"
        feed = build.relay_supply
        source = f"from {feed.v_out:g} V of {feed.name}" if feed.fitted else "from one rail"
        fed = here | _of(build, "relay_supply") if feed.fitted else here
        yield Check(
            "coil_supply", "protection", "Coils fed as planned",
            look=f"{how[0].upper()}{how[1:]} of {guard.coil_v:g} V{dropper}, {source}; a diode across the coils.",
            why="Coils in parallel where they belong in series burn, the other way round they never pull in.", tool=OHM,
            bad="Join them anew; measure their volts at first power.", safety=False, conditions=fed,
        )  # fmt: skip
    yield Check(
        "contacts", "protection", "Contacts in the live leg, ahead of the posts",
        look="The contact parts amplifier and loudspeaker; with the relay at rest the post shows open to the output.",
        why="A contact in the return leaves the loudspeaker on a rail through another channel's ground.", tool=OHM,
        bad="Move it into the output.", safety=False, conditions=here,
    )  # fmt: skip
    if len(build.channels) > 1:
        order = " and ".join(build.channels) if len(build.channels) == 2 else "each by its name"
        yield Check(
            "channel_order", "protection", "Every input leads to its own output",
            look=f"From each input socket's pin to the input of one board, and from that board's output to the post of "
            f"the same name: {order}. Once it plays: a tone into one input, and only that loudspeaker sounds.",
            why="Swapped channels mislead every later reading: a fault is looked for on the sound board.", tool=OHM,
            bad="Swap the pair at the boards, not at the sockets, so that the marks stay true.", safety=False,
            conditions=_of(build, "module", "hookup"),
        )  # fmt: skip
    yield Check(
        "speaker_polarity", "load", "Loudspeakers all the same way round",
        look="Cable off the amplifier. A cell of 1.5 V across its ends for an instant, + to the marked one: the cone "
        "moves out, at every loudspeaker alike. Never at a tweeter by itself, and not longer than a second.",
        why="One turned round takes the bass away and no instrument at the amplifier shows it.",
        tool="a cell of 1.5 V", bad="Turn it at the loudspeaker, and mark the cable.", safety=False,
        conditions=_of(build, "load", "cable"),
    )  # fmt: skip
