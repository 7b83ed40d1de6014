"""Steps that try the protection before anything is worth protecting: muting, DC trip, release."""

import dataclasses

from plinth.builds.build import Build
from plinth.guide.schools.board_steps import if_assumed, place_of, subject
from plinth.guide.step import Hint, Step
from plinth.judge.window import Window
from plinth.physics.protection.dc_and_coils import dc_trip_s
from plinth.physics.protection.tried_by_hand import BLOCK_V, HAND_U_S, RC_SHARE
from plinth.record.conditions import Conditions
from plinth.record.request import Request, Task
from plinth.units.shown import shown

# What a hand on a stop watch adds at either edge of a window, s.
HAND_S = 2.0 * HAND_U_S


def tried(channel: str, build: Build, v_rail: float, caution: str, conditions: Conditions) -> list[Step]:
    """Muting delay, trip by a battery in place of a faulty output, release. ``caution`` of what else is live."""
    steps = [_mute(channel, build), _trip(channel, build, v_rail), _release(channel, build)]
    return [
        dataclasses.replace(step.asking(conditions=conditions), caution=f"{step.caution} {caution}".strip())
        for step in steps
    ]


def _mute(channel: str, build: Build) -> Step:
    mute, settles = build.protection.mute_s, build.module.settling_s
    low, high = (1.0 - RC_SHARE) * mute - HAND_S, (1.0 + RC_SHARE) * mute + HAND_S
    why = f"Stated as {mute:g} s."
    if settles < high:
        # What clicks before the output has settled lets its jump through.
        low = max(low, settles)
        why += f" The output settles in {settles:g} s{if_assumed(build.module)}: earlier is too early."
    return Step(
        asks=Request(
            about=subject(channel, "mute_delay"), place=place_of(channel), title="muting, timed",
            ask="No loudspeaker. Switch on and start the stop watch; type the seconds until the relay clicks.",
            unit="s", window=Window(max(low, 0.05), high, "s", why),
        ),
        power=True,
        hints=(Hint(-1, "too short", "The jump at switch-on gets through. A larger capacitor at its timer."), Hint(1,
            "too long, or never", "Is its coil fed? Does it see DC at an input that floats?")),
    )  # fmt: skip


def _trip(channel: str, build: Build, v_rail: float) -> Step:
    part = build.protection
    ask = (
        "No loudspeaker. Take the module's output off the protection board's input, and nothing else. Switch on, wait "
        "for the click. Touch a 9 V block battery through 100 Ω to that input and 0 V; then the other way round. "
    )
    place, title = place_of(channel), "DC trip, with a battery"
    hints = (
        Hint(0, "one way round only", "Half of its detector is dead: a loudspeaker is guarded against one rail only."),
        Hint(1, "slow, or never", "Threshold or filter is not as stated; is the detector's own supply there?"),
        Hint(-1, "at once", "It will trip on bass as well: its filter's capacitor is missing."),
    )
    if part.dc_threshold_v is None or part.dc_time_constant_s is None:
        return Step(
            asks=Task(
                about=subject(channel, "dc_trip"), place=place, title=title,
                ask=f"{ask}Nobody states its threshold or its time: it must drop out within a second both ways. Did "
                    f"it?",
            ),
            power=True, hints=hints,
        )  # fmt: skip
    by_battery = dc_trip_s(BLOCK_V, part.dc_threshold_v, part.dc_time_constant_s)
    by_rail = dc_trip_s(v_rail, part.dc_threshold_v, part.dc_time_constant_s)
    if by_battery == float("inf"):
        return Step(
            asks=Task(
                about=subject(channel, "dc_trip"), place=place, title=title,
                ask=f"{ask.replace('9 V block battery', 'bench supply just above its threshold')}It must drop out "
                    f"both ways; at a whole rail in {shown(by_rail, 's', 2)}. Did it?",
            ),
            power=True, hints=hints,
        )  # fmt: skip
    return Step(
        asks=Request(
            about=subject(channel, "dc_trip"), place=place, title=title,
            ask=f"{ask}Type the longer time until it drops out.",
            unit="s",
            window=Window(max(0.5 * by_battery - HAND_S, 0.0), 2.0 * by_battery + HAND_S, "s",
                f"{shown(by_battery, 's', 2)} at {BLOCK_V:g} V from {part.dc_threshold_v:g} V and "
                f"{part.dc_time_constant_s:g} s, and {HAND_S:g} s for your hand; a whole rail trips it in "
                f"{shown(by_rail, 's', 2)}."),
        ),
        power=True, hints=hints,
    )  # fmt: skip


def _release(channel: str, build: Build) -> Step:
    mute = build.protection.mute_s
    return Step(
        asks=Request(
            about=subject(channel, "dc_release"), place=place_of(channel), title="release after a trip",
            ask="Take the battery away. Type the seconds until the relay comes back. Then switch off and watch that "
                "it drops at once; output and input together again, unpowered.",
            unit="s", window=Window(0.3, 3.0 * mute + 2.0, "s", "Not at once, and within some muting delays."),
        ),
        power=True,
        hints=(Hint(-1, "chatters", "It comes back while DC is still there: a contact burns so. Change the board."),
            Hint(1, "stays off", "Some hold until they are switched off: type >60 and pass over with that reason.")),
    )  # fmt: skip
