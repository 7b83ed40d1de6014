"""Steps that every school of first power asks for: of a board by itself, and at the end."""

import dataclasses
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.builds.modules import Module
from plinth.guide import board_windows as expect
from plinth.guide.board_windows import SupplySetting
from plinth.guide.judging import wait_words
from plinth.guide.step import Hint, Step, Watch
from plinth.judge.claims import bias_claim
from plinth.judge.window import Window
from plinth.predict.estimates import USUAL_AIR_C
from plinth.predict.warnings import RIGHT_PRIMARY
from plinth.record.conditions import Conditions
from plinth.record.request import Request, Task
from plinth.record.subject import Kind, Subject

# Less from an output to 0 V is a load or a short.
OUTPUT_OPEN_OHM = 50.0
# Metal up to here a finger can stay on.
HELD_C = 45.0
# By which factor the time in which a bias drifts may be off.
DRIFT_TAU = 1.6


def subject(channel: str, key: str) -> Subject:
    """The subject of readings of that step; ``channel`` what records know it by."""
    return Subject(Kind.BRINGUP, channel, key)


def under(step: Step, conditions: Conditions) -> Step:
    """The step with the conditions under which a record of it counts."""
    return step.asking(conditions=conditions)


def place_of(channel: str) -> str:
    """How the title of a step names a channel."""
    return channel.capitalize()


def insulation(channel: str) -> Step:
    """Output devices insulated from the sink, unpowered."""
    return Step(
        asks=Request(
            about=subject(channel, "insulation"), place=place_of(channel), title="tab to heat sink, open?",
            ask="Nothing connected. Ohmmeter from a bare spot of the heat sink to the metal tab of each output "
                "device. Type the lowest of them.",
            unit="ohm", window=Window(1e6, None, "ohm", "A sound pad insulates; a meter shows open or many megohms."),
            form="resistance", role=Role.OHMMETER,
        ),
        power=False,
        hints=(Hint(-1, "some ohms", "A pad is torn or a bushing is missing. Take the device off and look."), Hint(-1,
            "some kilohms", "Through the circuit: lift one meter lead, try the other polarity."), Hint(0,
            "the meter shows OL", "On its highest range that is open: type OL, or >20M with the range's top.")),
        reads="tab_ohm",
    )  # fmt: skip


def rails_open(channel: str, build: Build, first: SupplySetting) -> Step:
    """No short from a rail to 0 V, unpowered."""
    where = (
        "from the rail to 0 V; wait until it stops climbing. Type what it then shows."
        if build.supply.single_rail
        else "from + rail to 0 V, then from − rail to 0 V; wait until it stops climbing. Type the lower one."
    )
    return Step(
        asks=Request(
            about=subject(channel, "rails_open"), place=place_of(channel), title="no short from rail to 0 V",
            ask=f"No power. Ohmmeter {where}", unit="ohm", window=expect.rail_resistance(build, first),
            form="resistance", role=Role.OHMMETER,
        ),
        power=False,
        hints=(Hint(-1, "near 0 Ω", "A solder bridge, a device in backwards, or a shorted capacitor."), Hint(-1,
            "climbs slowly", "The reservoirs charge from the meter. Wait, then read again.")),
        reads="rail_ohm",
    )  # fmt: skip


def rails_output(channel: str, build: Build, first: SupplySetting) -> Step:
    """No shorted output device, unpowered: from a rail to 0 V one does not show while the other is sound."""
    outputs = "each output" if build.both_outputs_live else "the output"
    rails = "the rail" if build.supply.single_rail else "each rail"
    window = expect.rail_resistance(build, first)
    return Step(
        asks=Request(
            about=subject(channel, "rails_output"), place=place_of(channel), title="no short from rail to output",
            ask=f"No power, no load. Ohmmeter from {rails} to {outputs}, then with its leads the other way round; "
                f"of each pair of points the higher counts. Type the lowest of those.",
            unit="ohm",
            window=dataclasses.replace(window, why=f"One shorted output device shows near 0 Ω here. {window.why}"),
            form="resistance", role=Role.OHMMETER,
        ),
        power=False,
        hints=(Hint(-1, "near 0 Ω", "That output device is shorted: take it out and read it by itself."), Hint(-1,
            "some hundred ohms", "A junction: the other way round it must be far higher.")),
        reads="rail_output_ohm",
    )  # fmt: skip


def output_open(channel: str, build: Build) -> Step:
    """Nothing between the output's live terminal and 0 V, unpowered: neither a load nor swapped terminals."""
    which = "each output terminal" if build.both_outputs_live else "the output terminal marked +"
    return Step(
        asks=Request(
            about=subject(channel, "output_open"), place=place_of(channel), title="nothing from output to 0 V",
            ask=f"No power, no load. Ohmmeter from {which} to 0 V. Type the lowest of them.", unit="ohm",
            window=Window(OUTPUT_OPEN_OHM, None, "ohm",
                "A sound board shows its feedback there, hundreds of ohms or far more."),
            form="resistance", role=Role.OHMMETER,
        ),
        power=False,
        hints=(Hint(-1, "near 0 Ω", "Swapped terminals, a load still connected, or the live one touches the case."),),
        reads="output_ohm",
    )  # fmt: skip


def emitter_resistor(channel: str, module: Module) -> Step:
    """The resistor that the bias is read across, as it is."""
    assert module.bias is not None
    label = module.bias.label
    return Step(
        asks=Request(
            about=subject(channel, "emitter_resistor"), place=place_of(channel), title=f"{label}, as it is",
            ask=f"Ohmmeter across {label}. First touch the leads together and take their own resistance off.",
            unit="ohm", window=expect.bias_resistor(module), form="resistance", role=Role.OHMMETER,
        ),
        power=False,
        hints=(Hint(-1, "too low", "Another value is fitted, or the leads' own resistance was taken off twice."),
            Hint(1, "too high", "Lead resistance is in the reading, or another value is fitted: read its stripes.")),
        becomes="The bias window is computed from this value.", claim=module.bias.r_listed_ohm,
        claim_words=f"listing: {module.bias.r_listed_ohm:g} Ω", reads="bias_ohm",
    )  # fmt: skip


def trimmer(channel: str) -> Step:
    """The bias trimmer at its least, before any power."""
    return Step(
        asks=Task(
            about=subject(channel, "trimmer"), place=place_of(channel), title="bias trimmer to its least",
            ask="Turn the bias trimmer to the end at which the quiescent current is least. Check with the ohmmeter "
                "which end that is: a trimmer drawn the wrong way round burns the output devices.",
        ),
        power=False,
        hints=(Hint(0, "no end is marked",
            "Follow the trimmer to the bias transistor: which way makes its drop least?"),),
    )  # fmt: skip


def trimmer_step(channel: str, *, bias_set: bool) -> Step:
    """What is done with the trimmer before any power: at its least, or left where the works set it."""
    return _trimmer_left(channel) if bias_set else trimmer(channel)


def _trimmer_left(channel: str) -> Step:
    return Step(
        asks=Task(
            about=subject(channel, "trimmer_left"), place=place_of(channel), title="bias trimmer marked, left as it is",
            ask="The bias was set at the works: leave the trimmer alone. Mark where it stands, with a dot of paint or "
                "a photo, so that a later turn can be told and taken back.",
        ),
        power=False,
        hints=(Hint(0, "it looks turned", "A mark across slot and case that no longer meets: take bias set out of the "
            "equipment, and begin with the trimmer at its least."),),
    )  # fmt: skip


def output_dc(channel: str, build: Build, key: str, v_rail: float) -> Step:
    """Output DC once it has settled, without a loudspeaker."""
    module, words = build.module, f"at {build.rails_words(v_rail)}"
    where = "from output + to output −, neither of which is 0 V" if build.both_outputs_live else "from output to 0 V"
    moves = "sits on a rail" if module.starts_on_rail else "may sit anywhere"
    watch = max(10.0, 3.0 * module.settling_s)
    return Step(
        asks=Request(
            about=subject(channel, key), place=place_of(channel), title=f"output DC {words}",
            ask=f"Meter on DC {where}, still no loudspeaker. It {moves} for {module.settling_s:g} "
                f"s{if_assumed(module)} after switching on: watch it for {watch:.0f} s, then type it with its sign.",
            unit="V", window=expect.output_dc(module), bare_prefix="m", most=v_rail,
        ),
        power=True,
        hints=(Hint(1, "at the + rail", "Stop. Upper output device shorted, or the feedback is open.", 0.7 * v_rail),
            Hint(1, "too high", "Wait until it has settled. Is the input shorted, and its coupling capacitor sound?"),
            Hint(-1, "at the − rail", "Stop. Lower output device shorted, or the input pair is in backwards.",
            0.7 * v_rail), Hint(-1, "too low",
            "Wait until it has settled. Is the input shorted, and its coupling capacitor sound?"), Hint(0,
            "creeps for minutes", "The feedback capacitor leaks: change it.")),
        caution="No loudspeaker yet: DC from a faulty stage burns a voice coil in a second.", wait_s=watch,
        watch=Watch(max(module.settling_s / 3.0, 0.3), 2.0, max(0.2 * module.offset_max_v, 1e-3)), reads="output_dc",
    )  # fmt: skip


def bias(
    channel: str, build: Build, v_rail: float, readings: Mapping[str, float], first: str, *, bias_set: bool = False
) -> Step:
    """The quiescent current set, cold; ``first`` what comes before; ``bias_set``: at the works, so it is only read."""
    module = build.module
    assert module.bias is not None
    measured = readings.get("emitter_resistor")
    r = measured if measured is not None else module.bias.r_fitted_ohm
    differs = bias_claim(module)
    title, how = f"set the bias across {module.bias.label}", "Turn up slowly from the least; stop inside the window and"
    if bias_set:
        title, how = f"read the bias across {module.bias.label}", "Leave the trimmer alone, and"
    return Step(
        asks=Request(
            about=subject(channel, "bias"), place=place_of(channel), title=title,
            ask=f"{first} Meter on millivolts across {module.bias.label}. {how} "
                f"type what it shows.{' ' + differs if differs else ''}",
            unit="V", window=expect.bias_setting(module, r, measured is not None, bias_set=bias_set), bare_prefix="m",
            most=v_rail,
        ),
        power=True,
        hints=(Hint(1, "above", "Turn down first; then check the value of the resistor."), Hint(1,
            "climbs on its own", "Stop. Trimmer open, or the sensing transistor is off the sink."), Hint(-1,
            "stays at 0", "Bias transistor shorted, or the wrong resistor is probed."), Hint(0, "jumps about",
            "The stage oscillates: look at the output with the scope.")),
        claim=module.bias.listed_mv / 1000.0, claim_words=f"listing: {module.bias.listed_mv:g} mV", across_ohm=r,
        reads="bias",
    )  # fmt: skip


def warm_bias(channel: str, build: Build, v_rail: float, readings: Mapping[str, float]) -> Step:
    """The same reading once it has warmed up."""
    module = build.module
    assert module.bias is not None
    r = readings.get("emitter_resistor", module.bias.r_fitted_ohm)
    cold = readings.get("bias", module.bias.i_pair_a * r)
    warm = expect.warm_bias(build, v_rail, cold)
    return Step(
        asks=Request(
            about=subject(channel, "warm_bias"), place=place_of(channel), title="bias once warm",
            ask=f"Leave it at rest for {wait_words(warm.wait_s)} with the lid as it will be, and read the same "
                f"millivolts now and again: note them on the way, keep them once they stay.",
            unit="V", window=warm.window, bare_prefix="m", most=v_rail,
        ),
        power=True,
        hints=(Hint(1, "still climbing",
            "Stop if it passes twice the setting: thermal run-away. Sensor to the sink?"), Hint(1, "above",
            "Turn down to the cold target and wait again."), Hint(-1, "below",
            "Harmless. Turn up to the target while warm and wait again.")),
        caution=_warm_caution(build, warm.rise_k), wait_s=warm.wait_s,
        watch=Watch(warm.wait_s / 3.0, DRIFT_TAU, 0.02 * abs(cold), cold, 0.1), across_ohm=r, reads="warm_bias",
    )  # fmt: skip


def _warm_caution(build: Build, rise_k: float) -> str:
    """What a hand may expect of the sink, by the temperature that it comes to."""
    warm_c = USUAL_AIR_C + rise_k
    if warm_c <= HELD_C:
        return "The sink gets warm to the touch, no more. If you cannot keep a finger on it, stop."
    return (
        f"At rest the sink comes to about {warm_c:.0f} °C, too hot to hold, and that is healthy here: go by the "
        f"thermometer, not by a finger. Stop where it passes {build.sink.t_limit_c:g} °C."
    )


def if_assumed(module: Module) -> str:
    """Words where the settling time is nobody's statement."""
    return "" if module.settle_s is not None else " (assumed, nobody states it)"


def wrong_primary(build: Build) -> str:
    """Why this build may not go on its own supply: what it is set for is not the mains it is planned for."""
    wound_for = build.supply.made_for_v_rms
    if wound_for is None:
        return ""
    mains = 0.0 if build.mains is None else build.mains.v_nominal_rms
    if RIGHT_PRIMARY[0] <= mains / wound_for <= RIGHT_PRIMARY[1]:
        return ""
    return (
        f"waits for the mains: the supply is set for {wound_for:g} V and the mains has {mains:g} V. Fix the primary "
        "or the jumper in Plan first"
    )


def loudspeaker(channel: str, build: Build) -> Step:
    """The permission, last of all."""
    mute, settle = build.protection.mute_s, build.module.settling_s
    guard = (
        f"The relay mutes for {mute:g} s and the output settles in {settle:g} s{if_assumed(build.module)}."
        if mute > settle
        else f"The relay mutes for only {mute:g} s and the output needs {settle:g} s: fix that first."
    )
    return Step(
        asks=Task(
            about=subject(channel, "loudspeaker"), place=place_of(channel), title="loudspeaker allowed",
            ask=f"Every reading above is inside its window, or was passed over in writing. {guard} Connect a cheap "
                f"loudspeaker through the protection board, volume down, and keep a hand on the switch.",
        ),
        power=False,
        hints=(Hint(0, "a thump", "Some DC at switch-on: the muting delay is too short for this module."),),
        caution="Start quiet. Full power from a metre away harms hearing within minutes.",
        blocked=wrong_primary(build),
    )  # fmt: skip
