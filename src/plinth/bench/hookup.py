"""How each test is wired, drawn for the very build: where generator, meters, loads and clips go, and where not.

At a bridge both outputs are live: no clip is drawn to either, and the drawing says so.
"""

from collections.abc import Callable

from plinth.bench import test_conditions
from plinth.builds.build import Build
from plinth.drawing.sketch import Box, Disc, Line, Mark, Sketch, Words

WIDTH, HEIGHT = 252.0, 150.0
LONGEST = 9


def hookup(test: str, build: Build, channel: str) -> Sketch:
    """The wiring of a test (its key; ``clip`` and ``response`` too) for a channel of a build."""
    return _DRAWN.get(test, _signal)(build, channel)


def _sheet(marks: list[Mark], words: str) -> Sketch:
    return Sketch(tuple(marks), words, WIDTH, HEIGHT)


def _ground(x: float, y: float) -> list[Mark]:
    """The sign of ground, hanging from (x, y)."""
    return [Line(x, y, x, y + 6), Line(x - 8, y + 6, x + 8, y + 6), Line(x - 5, y + 9, x + 5, y + 9),
            Line(x - 2, y + 12, x + 2, y + 12)]  # fmt: skip


def _short(name: str) -> str:
    """A channel's name as it fits into its box."""
    return name if len(name) <= LONGEST else f"{name[: LONGEST - 1]}…"


def _load_words(build: Build) -> tuple[str, ...]:
    load = test_conditions.dummy(build)
    return (f"{load.r_ohm:g} Ω",)


def _stage(build: Build, channel: str, source: str, instrument: str) -> list[Mark]:
    """Source, module and load in a row; the instrument across the load, with or without a clip at 0 V."""
    marks: list[Mark] = [
        Box(4, 20, 62, 40, (source,)), Line(66, 32, 92, 32), Line(66, 50, 92, 50, "zero"),
        Box(92, 14, 66, 52, (_short(channel), "module")), Box(202, 14, 47, 52, _load_words(build)),
    ]  # fmt: skip
    if build.both_outputs_live:
        marks += [
            Line(158, 26, 206, 26, "plus"), Line(158, 54, 206, 54, "plus"), Disc(180, 26, 3, "plus"),
            Disc(180, 54, 3, "plus"), Line(180, 26, 150, 96, "ink2"), Line(180, 54, 176, 96, "ink2"),
            Box(116, 96, 92, 30, (instrument,)),
            Words(126, 138, "both live: no clip at either", "over"),
        ]  # fmt: skip
        return marks
    marks += [
        Line(158, 26, 206, 26, "plus"), Line(158, 54, 206, 54, "zero"), Disc(180, 26, 3, "plus"),
        Disc(192, 54, 3, "zero"), Line(180, 26, 150, 96, "ink2"), Line(192, 54, 186, 96, "zero"),
        Box(116, 96, 92, 30, (instrument,)), *_ground(192, 54),
        Words(96, 138, "clip to 0 V only", "pred"),
    ]  # fmt: skip
    return marks


def _words(build: Build, channel: str, source: str, instrument: str) -> str:
    how = "between both outputs, no clip at either" if build.both_outputs_live else "across the load, its clip at 0 V"
    return f"{source} to the {channel} input, {instrument.lower()} {how}."


def _signal(build: Build, channel: str) -> Sketch:
    return _sheet(_stage(build, channel, "generator", "scope or meter"),
                  _words(build, channel, "Generator", "scope or meter"))  # fmt: skip


def _square(build: Build, channel: str) -> Sketch:
    return _sheet(_stage(build, channel, "square", "scope, 10:1"), _words(build, channel, "Square wave", "scope"))


def _impedance(build: Build, channel: str) -> Sketch:
    marks = _stage(build, channel, "generator", "meter")
    marks.append(Words(248, 80, "on and off", "ink2", "right"))
    return _sheet(marks, _words(build, channel, "Generator", "meter at the module's terminals"))


def _hum(build: Build, channel: str) -> Sketch:
    return _sheet(_stage(build, channel, "short", "AC mV"), _words(build, channel, "A shorting plug", "AC millivolts"))


def _rails(build: Build, _channel: str) -> Sketch:
    single = build.supply.single_rail
    marks: list[Mark] = [
        Box(4, 14, 74, 74, ("supply",)), Box(182, 14, 66, 74, ("boards",)), Line(78, 26, 182, 26, "plus", 3),
        Line(78, 52, 182, 52, "zero"), Words(88, 16, "+", "plus"), Disc(112, 26, 3, "plus"), Disc(124, 52, 3, "zero"),
        Line(112, 26, 104, 104, "ink2"), Line(124, 52, 128, 104, "zero"), Box(84, 104, 92, 28, ("meter, DC",)),
        *_ground(158, 52),
    ]  # fmt: skip
    if not single:
        marks += [Line(78, 78, 182, 78, "minus", 3), Words(88, 88, "−", "minus")]
    marks.append(Words(126, 142, "scope's clip: 0 V only, never a rail", "over"))
    return _sheet(marks, f"Meter on DC from {'the rail' if single else 'each rail'} to 0 V.")


def _mains(build: Build, _channel: str) -> Sketch:
    if build.mains is None:
        source = "bench supplies" if build.supply.set_by_hand else "battery"
        words = tuple(source.split())
        return _sheet(
            [
                Box(4, 24, 66, 44, words), Line(70, 36, 104, 36, "plus"), Line(70, 56, 190, 56, "zero"),
                Box(104, 22, 44, 28, ("A",)), Line(148, 36, 190, 36, "plus"), Box(190, 20, 58, 52, ("build",)),
                Line(158, 36, 150, 96, "ink2"), Line(170, 56, 174, 96, "zero"), Box(128, 96, 70, 28, ("V",)),
            ],
            f"Ammeter in the lead from the {source}, voltmeter across its terminals.",
        )  # fmt: skip
    return _sheet(
        [
            Box(4, 24, 48, 44, ("wall",)), Line(52, 46, 80, 46, "over", 4), Box(80, 18, 88, 56, ("power meter",
            "plug-in")),
            Line(168, 46, 194, 46, "over", 4), Box(194, 24, 54, 44, ("build",)),
            Words(126, 96, "no bare probes at mains", "over"), Words(126, 118, "clamp meter round one lead", "ink2"),
            Words(126, 134, "for the peak at switch-on", "ink2"),
        ],
        "Plug-in power meter between wall and build; for the peak at switch-on a clamp meter round one lead.",
    )  # fmt: skip


def _protection(build: Build, channel: str) -> Sketch:
    return _sheet(
        [
            Box(4, 14, 66, 40, ("bench", "supply")), Line(70, 26, 84, 26, "plus"), Box(84, 16, 40, 20, ("1 kΩ",)),
            Line(124, 26, 140, 26, "plus"), Line(70, 46, 140, 46, "zero"), Box(140, 10, 50, 52, ("relay",)),
            Line(190, 36, 206, 36), Box(202, 14, 47, 44, _load_words(build)), Box(4, 84, 66, 40, (_short(channel),
            "module")),
            Line(70, 104, 106, 104, "over"), Line(112, 96, 124, 112, "over"), Line(112, 112, 124, 96, "over"),
            Words(130, 104, "output wire off", "over", "left"), Words(126, 138, "no loudspeaker", "over"),
        ],
        f"Bench supply through 1 kΩ to the protection's input with the {channel} output wire taken off; load on "
        "the relay.",
    )  # fmt: skip


def _heat(build: Build, channel: str) -> Sketch:
    del channel
    marks: list[Mark] = [Box(30, 22, 128, 30, ("sink",)), Box(60, 52, 68, 22, ("devices",))]
    marks += [Line(38 + 16 * k, 8, 38 + 16 * k, 22, "ink", 4) for k in range(8)]
    marks += [
        Disc(136, 50, 4, "over"), Line(136, 50, 176, 96, "ink2"), Box(160, 96, 88, 28, ("thermometer",)),
        Disc(20, 100, 4, "pred"), Words(30, 100, "another in the air", "pred", "left"),
        Words(30, 118, "that it draws in", "pred", "left"), Words(126, 140, "beside a device, in paste", "ink2"),
    ]  # fmt: skip
    kind = "each supply" if build.supply.transformer is not None and build.supply.per_channel else "the supply"
    return _sheet(marks, f"Thermometer on the sink beside an output device, another in the air; {kind} as it will be.")


_DRAWN: dict[str, Callable[[Build, str], Sketch]] = {
    "rails": _rails, "mains": _mains, "protection": _protection, "heat": _heat, "square": _square,
    "impedance": _impedance, "hum": _hum,
}  # fmt: skip
