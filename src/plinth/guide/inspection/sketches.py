"""A sketch for the checks that one helps with, drawn for the very build."""

from collections.abc import Callable

from plinth.builds.build import Build
from plinth.drawing.sketch import Box, Disc, Line, Mark, Sketch, SketchRole, Words
from plinth.units.shown import shown

_LIVE_Y, _NEUTRAL_Y, _EARTH_Y = 58.0, 124.0, 190.0


def sketch_of(key: str, build: Build) -> Sketch | None:
    """The sketch for a check of a build, None where words serve as well."""
    make = _SKETCHES.get(key)
    return None if make is None else make(build)


def _mains_side(build: Build) -> Sketch:
    """From the inlet to the primary, switch open: what stays live, what is dead."""
    fuse_in, switch_in = build.hookup.fuse_in or "live", build.hookup.switch_in or "live"
    fuse = f"{build.entry.fuse_kind} {build.entry.fuse_a_rms:g} A"
    behind = _behind(build)
    fuse_live, switch_live = fuse_in != "neutral", switch_in != "neutral"
    # Up to the open switch in the live conductor everything is live; without one there, all of it.
    live_end = 262.0 if switch_live else 390.0
    marks: list[Mark] = [
        Words(14, _LIVE_Y - 16, "live", anchor="left"), Words(14, _NEUTRAL_Y - 16, "neutral", anchor="left"),
        Words(14, _EARTH_Y - 16, "earth", anchor="left"),
        Line(14, _LIVE_Y, live_end, _LIVE_Y, "over", 5), Line(14, _NEUTRAL_Y, 390, _NEUTRAL_Y, "minus", 3),
        Line(14, _EARTH_Y, 500, _EARTH_Y, "pred", 3),
        Words(500, _EARTH_Y + 16, "case, first, by itself", anchor="right"),
    ]  # fmt: skip
    fuse_y = _LIVE_Y if fuse_live else _NEUTRAL_Y
    marks.append(Box(96, fuse_y - 14, 74, 28, (fuse,)))
    if switch_live:
        marks += _open_switch(_LIVE_Y)
        marks += [Line(306, _LIVE_Y, 390, _LIVE_Y, "ink2", 2), Words(348, _LIVE_Y - 14, "dead", "pred")]
    if not switch_live or switch_in == "both":
        marks += [Box(258, _NEUTRAL_Y - 8, 52, 16), *_open_switch(_NEUTRAL_Y)]
    marks.append(Words(
        14, 16, "switch off: this stays live, cover all of it" if switch_live else
        "switch off: all of this stays live. Fix it before the plug goes in", "over", "left", bold=True,
    ))  # fmt: skip
    marks.append(Box(390, 24, 126, 130, behind))
    if not fuse_live:
        marks.append(Words(133, _NEUTRAL_Y + 30, "a blown fuse here leaves all of it live", "over"))
    where = "up to the switch" if switch_live else "as far as the transformer, although the switch is off"
    return Sketch(tuple(marks), f"The live conductor stays live {where}; fuse {fuse} in the {fuse_in} conductor.")


def _behind(build: Build) -> tuple[str, ...]:
    volts = build.supply.made_for_v_rms
    if build.supply.transformer is not None:
        return ("primary", f"{volts:g} V")
    return ("switcher",) if volts is None else ("switcher", f"set for {volts:g} V")


def _open_switch(y: float) -> list[Mark]:
    return [
        Line(262, y, 302, y - 18, "ink", 3), Disc(262, y, 5, "ink", open=True), Disc(306, y, 5, "ink", open=True),
        Words(284, y + 16, "open"),
    ]  # fmt: skip


def _earth(_build: Build) -> Sketch:
    """The lug at the case: bare metal, toothed washer, a nut of its own."""
    marks: tuple[Mark, ...] = (
        Box(60, 150, 420, h=18, words=(), role="ink2", fill="sunk"),
        Words(500, 176, "case", anchor="right"),
        Box(248, 138, 44, h=12, words=(), role="ink", fill="rule"),
        Words(300, 144, "lug, on bare metal", anchor="left"),
        Box(240, 126, 60, h=12, words=(), role="ink", fill="sunk"),
        Words(308, 130, "toothed washer", anchor="left"),
        Line(270, 60, 270, 196, "ink2", 3),
        Box(250, 100, 40, h=26, words=(), role="ink", fill="sunk"),
        Words(300, 110, "nut", anchor="left"),
        Line(60, 40, 258, 140, "pred", 4),
        Words(70, 28, "from the earth pin, nothing else under this nut", "pred", "left"),
        Words(60, 204, "pin to bolt, to each panel, to the sink: under 0.2 Ω", "ink", "left", bold=True),
    )
    return Sketch(marks, "An earth lug on bare metal of the case under a toothed washer and a nut of its own.")


def _primary(build: Build) -> Sketch | None:
    """Two primaries in series or in parallel, for the mains of this build."""
    if build.supply.transformer is None:
        return None
    mains = 0.0 if build.mains is None else build.mains.v_nominal_rms
    series = mains > 160.0
    half = mains / 2.0 if series else mains
    marks: list[Mark] = [
        Words(270, 18, f"two primaries of {half:.0f} V for {mains:g} V: in {'series' if series else 'parallel'}", "ink",
              bold=True),
        Box(170, 50, 200, 40, (f"primary 1, {half:.0f} V",)), Box(170, 130, 200, 40, (f"primary 2, {half:.0f} V",)),
        Disc(180, 58, 4), Disc(180, 138, 4), Words(170, 198, "the dot marks the beginning of each", anchor="left"),
        Line(60, 70, 170, 70, "over", 3), Words(56, 54, "live", anchor="left"),
    ]  # fmt: skip
    if series:
        marks += [
            Line(370, 70, 420, 70, "ink", 3), Line(420, 70, 420, 110, "ink", 3), Line(420, 110, 120, 110, "ink", 3),
            Line(120, 110, 120, 150, "ink", 3), Line(120, 150, 170, 150, "ink", 3),
            Line(370, 150, 480, 150, "minus", 3), Words(484, 134, "neutral", anchor="right"),
            Words(270, 100, "end to beginning"),
        ]  # fmt: skip
    else:
        marks += [
            Line(120, 70, 120, 150, "over", 3), Line(120, 150, 170, 150, "over", 3), Line(370, 70, 420, 70, "minus", 3),
            Line(420, 70, 420, 150, "minus", 3), Line(370, 150, 480, 150, "minus", 3),
            Words(484, 134, "neutral", anchor="right"), Words(270, 110, "beginnings together, ends together"),
        ]  # fmt: skip
    how = "in series, end to beginning" if series else "in parallel, beginnings together"
    return Sketch(tuple(marks), f"Two primaries of {half:.0f} V {how}. One primary of {mains:g} V needs none of it.")


def _can(x: float, name: str, upper: str, upper_role: SketchRole, lower: str, lower_role: SketchRole) -> list[Mark]:
    """A can with its stripe below: + above, - below."""
    return [
        Box(x, 62, 96, 96, (name,), "ink"), Box(x, 138, 96, h=20, words=("− stripe −",), role="ink", fill="sunk"),
        Line(x + 48, 34, x + 48, 62, upper_role, 4), Words(x + 60, 46, upper, upper_role, "left", bold=True),
        Line(x + 48, 158, x + 48, 188, lower_role, 4), Words(x + 60, 178, lower, lower_role, "left", bold=True),
        Words(x + 14, 76, "+", "ink", bold=True),
    ]  # fmt: skip


def _polarity(build: Build) -> Sketch:
    can = build.supply.reservoir
    name = f"{shown(can.c_f, 'F', 2)} {can.v_rated:g} V"
    if build.supply.single_rail:
        marks = _can(220, name, "+ rail", "plus", "0 V", "zero")
        words = "The stripe to 0 V, + to the rail."
    else:
        marks = [
            *_can(110, name, "+ rail", "plus", "0 V", "zero"), *_can(330, name, "0 V", "zero", "− rail", "minus"),
            Words(270, 206, "on the − rail it is the + that goes to 0 V", "ink", bold=True),
        ]  # fmt: skip
        words = "On the + rail the stripe goes to 0 V; on the − rail the stripe goes to the rail and + to 0 V."
    return Sketch(tuple(marks), words)


def _bridge(build: Build) -> Sketch:
    single = build.supply.single_rail
    lower = "0 V" if single else "− rail"
    marks: tuple[Mark, ...] = (
        Box(210, 50, 120, 120, ("bridge",), "ink"),
        Words(224, 66, "+", "ink", bold=True), Words(316, 154, "−", "ink", bold=True),
        Words(224, 154, "~", "ink", bold=True), Words(316, 66, "~", "ink", bold=True),
        Line(120, 66, 210, 66, "plus", 4), Words(116, 50, "+ rail", "plus", "left", bold=True),
        Line(330, 154, 430, 154, "zero" if single else "minus", 4),
        Words(436, 170, lower, "zero" if single else "minus", "right", bold=True),
        Line(120, 154, 210, 154, "ink2", 3), Words(116, 170, "winding", anchor="left"),
        Line(330, 66, 430, 66, "ink2", 3), Words(436, 50, "winding", anchor="right"),
        Words(270, 206, "the cut corner or the longer tag is +: look at its print", "ink"),
    )  # fmt: skip
    return Sketch(marks, f"The bridge: + to the + rail, − to {lower}, the winding to the two ~.")


def _pads(_build: Build) -> Sketch:
    marks: tuple[Mark, ...] = (
        Box(40, 150, 460, h=44, words=("heat sink",), role="ink", fill="sunk"),
        Box(120, 140, 300, h=10, words=(), role="plus", fill="plus"),
        Words(52, 132, "pad, whole", "plus", "left"),
        Box(130, 122, 280, h=18, words=("tab",), role="ink", fill="rule"),
        Box(130, 76, 180, 46, ("device",), "ink"),
        Box(352, 104, 26, h=46, words=(), role="ink", fill="sunk"),
        Line(365, 60, 365, 184, "ink", 5),
        Box(345, 92, 40, 12, (), "ink"),
        Words(392, 84, "bushing under the screw", "ink2", "left"),
        Words(270, 28, "each tab to the sink: open on the ohmmeter", "ink", bold=True),
    )
    return Sketch(marks, "In section: sink, pad wider than the tab, device; the screw stands in a bushing.")


def _spacers(build: Build) -> Sketch:
    gap = build.sink.air_gap_m
    lifted = gap is not None and gap > 0.0
    lift = 22.0 if lifted else 0.0
    marks: list[Mark] = [
        Box(40, 160, 460, h=36, words=("heat sink",), role="ink", fill="sunk"),
        Box(70, 84, 24, h=76, words=(), role="ink", fill="rule"),
        Box(446, 84, 24, h=76, words=(), role="ink", fill="rule"),
        Words(82, 210, "spacer"),
        Words(458, 210, "spacer"),
        Box(40, 70, 460, 14, ("board",), "ink"),
        Box(180, 154 - lift, 180, h=6, words=(), role="plus", fill="plus"),
        Box(180, 110 - lift, 180, 44, ("device",), "ink"),
        Line(200, 84, 200, 110 - lift, "ink2", 2),
        Line(340, 84, 340, 110 - lift, "ink2", 2),
    ]
    if lifted:
        marks.append(Words(270, 150, f"{shown(gap or 0.0, 'm', 2)} of air: it cooks", "over", bold=True))
        words = f"The spacers are taller than device and pad: {shown(gap or 0.0, 'm', 2)} of air lies between."
    else:
        marks.append(Words(270, 40, "device and pad touch the sink before the spacers do", "ink", bold=True))
        words = "Device and pad touch the sink before the spacers carry the board."
    return Sketch(tuple(marks), words)


_SKETCHES: dict[str, Callable[[Build], Sketch | None]] = {
    "fuse_and_switch": _mains_side,
    "nothing_bare": _mains_side,
    "earth_bond": _earth,
    "primary": _primary,
    "polarity": _polarity,
    "bridge": _bridge,
    "pads": _pads,
    "spacers": _spacers,
}
