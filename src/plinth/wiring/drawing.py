"""What a wiring is made of: boxes with pins, wires between them, words beside; in units of a drawing 1280 wide."""

import dataclasses
from typing import Literal

WireKind = Literal["live", "neutral", "earth", "winding", "plus", "minus", "ground", "signal", "output", "battery"]
Side = Literal["left", "right", "top", "bottom"]
Point = tuple[float, float]


# Longer names are for us alone.
LONGEST_PIN = 3
Pins = tuple[tuple[str, Side], ...]


def sides(left: str = "", right: str = "", top: str = "", bottom: str = "") -> Pins:
    """Pins by side, their names with commas between."""
    named: tuple[tuple[str, Side], ...] = ((left, "left"), (right, "right"), (top, "top"), (bottom, "bottom"))
    return tuple((name, side) for names, side in named for name in names.split(",") if name)


@dataclasses.dataclass(frozen=True)
class WiringBox:
    """A thing at ``x``, ``y`` (upper left), ``w`` by ``h``; ``pins`` by side, in order from top or left.

    ``words`` its name and, under it, what is worth knowing. ``missing`` where nobody says that it is as drawn.
    """

    key: str
    words: tuple[str, ...]
    x: float
    y: float
    w: float
    h: float
    pins: Pins = ()
    missing: bool = False

    def pin(self, name: str) -> Point:
        """Where a pin stands. Raises KeyError where the box has none of that name."""
        side = dict(self.pins)[name]
        names = [pin for pin, where in self.pins if where == side]
        share = (names.index(name) + 1) / (len(names) + 1)
        return {
            "left": (self.x, self.y + share * self.h), "right": (self.x + self.w, self.y + share * self.h),
            "top": (self.x + share * self.w, self.y), "bottom": (self.x + share * self.w, self.y + self.h),
        }[side]  # fmt: skip

    def shown_pins(self) -> tuple[tuple[str, Point], ...]:
        """The pins whose names are worth reading, each with where its name stands inside the box."""
        pins = []
        for name, side in self.pins:
            if len(name) > LONGEST_PIN or name in ("in", "out") or side in ("top", "bottom"):
                continue
            x, y = self.pin(name)
            inside = {"left": (4.0, 3.0), "right": (-5.0 * len(name) - 4.0, 3.0)}
            dx, dy = inside[side]
            shown = name[0] if name.startswith("~") else name.replace("-", "−")
            pins.append((shown, (x + dx, y + dy)))
        return tuple(pins)


@dataclasses.dataclass(frozen=True)
class Wire:
    """A wire along ``points``; ``words`` what it is, ``flow`` what flows in it (predicted), ``colour`` of a conductor.

    ``warning`` where it is not as it should be; ``mean_a`` the mean current from its first point to its last, where it
    carries one that is known (what alternates has none).
    """

    key: str
    kind: WireKind
    points: tuple[Point, ...]
    words: str
    flow: str
    colour: str = ""
    warning: str = ""
    mean_a: float | None = None


KIND_WORDS: dict[WireKind, str] = {
    "live": "live", "neutral": "neutral", "earth": "protective earth", "battery": "battery", "winding": "secondary",
    "plus": "+ rail", "minus": "− rail", "ground": "audio ground", "output": "loudspeaker", "signal": "input, screened",
}  # fmt: skip
LEGEND_AT = (24.0, 470.0)


@dataclasses.dataclass(frozen=True)
class Wiring:
    """A whole drawing of ``width`` by ``height``; ``notes`` sentences under it, cautions first."""

    title: str
    width: float
    height: float
    boxes: tuple[WiringBox, ...]
    wires: tuple[Wire, ...]
    notes: tuple[str, ...]

    @property
    def legend(self) -> tuple[tuple[str, Wire], ...]:
        """Every kind of wire in the drawing, with a piece of it, for the corner that is free."""
        kinds = [kind for kind in KIND_WORDS if any(wire.kind == kind for wire in self.wires)]
        x, y = LEGEND_AT
        colours = {wire.kind: wire.colour for wire in self.wires}
        return tuple(
            (
                f"{KIND_WORDS[kind]}{', ' if colours[kind] else ''}{colours[kind]}",
                Wire(f"legend {kind}", kind, ((x, y + 20.0 * k), (x + 44.0, y + 20.0 * k)), "", "", colours[kind]),
            )
            for k, kind in enumerate(kinds)
        )  # fmt: skip

    def box(self, key: str) -> WiringBox:
        """The box of that key. Raises KeyError."""
        return {box.key: box for box in self.boxes}[key]


def route(start: Point, end: Point, lane: float | None = None) -> tuple[Point, ...]:
    """A path of level and upright pieces: over ``lane`` (an x), or half way."""
    if abs(start[1] - end[1]) < 0.5:
        return start, end
    middle = (start[0] + end[0]) / 2.0 if lane is None else lane
    return start, (middle, start[1]), (middle, end[1]), end
