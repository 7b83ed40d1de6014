"""What is drawn so far, and the words for what flows."""

import math

from plinth.builds.build import Build
from plinth.predict.estimates import A_PER_MM2
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.units.shown import shown, shown_with_spread
from plinth.wiring.drawing import Box, Pins, Point, Wire, WireKind, route
from plinth.wiring.regions import Region

# Thinner than this no wire of a case is.
LEAST_MM2 = 0.1
NOT_PREDICTED = "Not predicted."
NOTHING = "Nothing, as long as nothing fails; then what blows the fuse."


class Board:
    """A drawing that grows."""

    def __init__(self, build: Build, prediction: Prediction, region: Region) -> None:
        self.build, self.prediction, self.region = build, prediction, region
        self.boxes: dict[str, Box] = {}
        self.wires: list[Wire] = []
        self.notes: list[str] = []

    def box(self, key: str, words: tuple[str, ...], at: tuple[float, float, float, float], pins: Pins,
            *, missing: bool = False) -> Box:  # fmt: skip
        """Put a box at x, y, with its width and height."""
        self.boxes[key] = Box(key, words, *at, pins, missing)
        return self.boxes[key]

    def wire(self, key: str, kind: WireKind, start: Point, end: Point, words: str, flow: str,
             lane: float | None = None, warning: str = "") -> None:  # fmt: skip
        """Lay a wire from pin to pin, over an upright lane."""
        self.lay(key, kind, route(start, end, lane), words, flow, warning)

    def lay(
        self, key: str, kind: WireKind, points: tuple[Point, ...], words: str, flow: str, warning: str = ""
    ) -> None:
        """Lay a wire along points."""
        colours = {"live": self.region.live, "neutral": self.region.neutral, "earth": self.region.earth}
        self.wires.append(Wire(key, kind, points, words, flow, colours.get(kind, ""), warning))

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

    def rail_flow(self, name: str) -> str:
        """What a rail gives to the modules."""
        mean, low, high = (self.figure(f"rail_{name}_{what}") for what in ("load_mean_a", "min_v", "max_v"))
        if mean is None or low is None or high is None:
            return NOT_PREDICTED
        volts = f"{shown(low.value, 'V')} to {shown(high.value, 'V')}"
        return f"{shown(mean.value, 'A')} mean at {volts}, predicted at this level; {copper(mean.value)}."

    def pulse_flow(self, name: str) -> str:
        """The charging pulses of a rectified rail; of a stiff one, what it gives."""
        peak, rms = self.figure(f"diode_{name}_peak_a"), self.figure(f"diode_{name}_rms_a")
        if peak is None or rms is None:
            return self.rail_flow(name)
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
