"""What is drawn so far, and the words for what flows."""

import math

from plinth.builds.build import Build
from plinth.predict.estimates import A_PER_MM2
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.units.shown import shown, shown_with_spread
from plinth.wiring.currents import currents_of
from plinth.wiring.drawing import Pins, Point, Wire, WireKind, WiringBox, route
from plinth.wiring.regions import Region

# Thinner than this no wire of a case is.
LEAST_MM2 = 0.1
NOT_PREDICTED = "Not predicted."
NOTHING = "Nothing, as long as nothing fails; then what blows the fuse."


class Board:
    """A drawing that grows."""

    def __init__(self, build: Build, prediction: Prediction, region: Region) -> None:
        self.build, self.prediction, self.region = build, prediction, region
        self.boxes: dict[str, WiringBox] = {}
        self.wires: list[Wire] = []
        self.notes: list[str] = []
        self.currents = currents_of(build, prediction)

    def box(self, key: str, words: tuple[str, ...], at: tuple[float, float, float, float], pins: Pins,
            *, missing: bool = False) -> WiringBox:  # fmt: skip
        """Put a box at x, y, with its width and height."""
        self.boxes[key] = WiringBox(key, words, *at, pins, missing)
        return self.boxes[key]

    def wire(self, key: str, kind: WireKind, start: Point, end: Point, words: str, flow: str,
             lane: float | None = None, warning: str = "", mean_a: float | None = None) -> None:  # fmt: skip
        """Lay a wire from pin to pin, over an upright lane."""
        self.lay(key, kind, route(start, end, lane), words=words, flow=flow, warning=warning, mean_a=mean_a)

    def lay(self, key: str, kind: WireKind, points: tuple[Point, ...], words: str, flow: str, warning: str = "",
            mean_a: float | None = None) -> None:  # fmt: skip
        """Lay a wire along points."""
        colours = {"live": self.region.live, "neutral": self.region.neutral, "earth": self.region.earth}
        self.wires.append(
            Wire(
                key, kind, points, words=words, flow=flow, colour=colours.get(kind, ""), warning=warning, mean_a=mean_a
            )
        )

    def figure(self, name: str) -> Figure | None:
        """A predicted figure; None where this build has none of that name."""
        return self.prediction.get(name)

    def flow(self, name: str, words: str = "rms") -> str:
        """What a predicted current is, and the copper for it."""
        figure = self.figure(name)
        if figure is None:
            return NOT_PREDICTED
        amperes = shown_with_spread(figure.value, figure.spread, "A")
        return f"{amperes} {words}, predicted at this level; {copper(figure.value)}."

    def rail_flow(self, name: str, amperes: float) -> str:
        """What of a rail's current a wire carries."""
        low, high = (self.figure(f"rail_{name}_{what}") for what in ("min_v", "max_v"))
        if low is None or high is None:
            return NOT_PREDICTED
        volts = f"{shown(low.value, 'V')} to {shown(high.value, 'V')}"
        return f"{shown(amperes, 'A')} mean at {volts}, predicted at this level; {copper(amperes)}."

    def steady_flow(self, amperes: float, words: str) -> str:
        """A mean current, and what it is."""
        return f"{shown(abs(amperes), 'A')} mean: {words}, predicted at this level."

    def tap_flow(self) -> str:
        """What a centre tap carries: where both rails draw alike, little is left of their pulses."""
        rms, peak = self.currents.tap_rms_a, self.currents.tap_peak_a
        if rms is None or peak is None:
            return NOT_PREDICTED
        return (
            f"The pulses of one rail less those of the other: {shown(rms, 'A', 2)} rms, {shown(peak, 'A', 2)} peak, "
            f"predicted at this level; {copper(self.currents.rails['plus'].source)} for a rail that draws alone."
        )

    def primary_flow(self) -> str:
        """What the primary of the transformer that is drawn carries."""
        own = self.currents.own_primary_a
        if own is None:
            return self.flow("primary_rms_a")
        return f"{shown(own, 'A')} rms, predicted at this level; {copper(own)}."

    def pulse_flow(self, name: str) -> str:
        """The charging pulses of a rectified rail; of a stiff one, what it gives."""
        peak, rms = self.figure(f"diode_{name}_peak_a"), self.figure(f"diode_{name}_rms_a")
        if peak is None or rms is None:
            return self.rail_flow(name, self.currents.rails[name].source)
        return (
            f"Charging pulses of {shown(peak.value, 'A')} peak, {shown(rms.value, 'A')} rms, predicted at this level; "
            f"{copper(rms.value)}."
        )

    def output_flow(self) -> str:
        """What a loudspeaker's wire carries at clip."""
        peak = self.figure("clip_v_peak")
        if peak is None:
            return NOT_PREDICTED
        load = self.prediction.situation.load(self.build)
        rms = peak.value / math.sqrt(2.0) / load
        return (
            f"{shown(rms, 'A')} rms, {shown(peak.value / load, 'A')} peak into {load:g} Ω at clip, predicted; "
            f"{copper(rms)}."
        )

    def input_flow(self) -> str:
        """What the source drives."""
        drive = self.figure("drive_v_rms")
        if drive is None:
            return NOT_PREDICTED
        amperes = drive.value / self.build.module.r_input_ohm
        return f"{shown(drive.value, 'V')} rms at clip, predicted: {shown(amperes, 'A')}."


def copper(amperes: float) -> str:
    """The copper that a current asks for, in words."""
    return f"at {A_PER_MM2:g} A per mm² at least {max(amperes / A_PER_MM2, LEAST_MM2):.2g} mm²"
