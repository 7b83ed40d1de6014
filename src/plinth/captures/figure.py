"""A figure drawn from a capture, with its spread and definition; what was drawn from each channel."""

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class CaptureFigure:
    """``value`` with ``spread`` (half width of about 95 %), in ``unit`` ("" where it is a count or a ratio)."""

    name: str
    value: float
    spread: float
    unit: str
    definition: str


@dataclass(frozen=True)
class ChannelFigures:
    """The figures of one channel, in order."""

    name: str
    figures: tuple[CaptureFigure, ...]

    def __getitem__(self, name: str) -> CaptureFigure:
        for figure in self.figures:
            if figure.name == name:
                return figure
        raise KeyError(name)

    def __contains__(self, name: str) -> bool:
        return any(figure.name == name for figure in self.figures)


@dataclass(frozen=True)
class Analysis:
    """All that one capture tells: its kind, the figures of each channel, what is to be said beside them."""

    kind: str
    channels: tuple[ChannelFigures, ...]
    remarks: tuple[str, ...]

    def as_document(self) -> dict[str, object]:
        """As plain data, ready for JSON."""
        return {
            "kind": self.kind,
            "channels": [
                {
                    "name": channel.name,
                    "figures": {
                        figure.name: {
                            "value": figure.value,
                            "spread": figure.spread,
                            "unit": figure.unit,
                            "definition": figure.definition,
                        }
                        for figure in channel.figures
                    },
                }
                for channel in self.channels
            ],
            "remarks": list(self.remarks),
        }


class FigureList:
    """Figures of one channel as they are drawn, and the remarks on those that this record cannot give."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.remarks: list[str] = []
        self._figures: dict[str, CaptureFigure] = {}

    def add(self, name: str, value: float, spread: float, unit: str, definition: str) -> None:
        """Take one more; what is not finite is left out with a remark."""
        if not (math.isfinite(value) and math.isfinite(spread)):
            self.miss(name, "it does not come out as a number")
            return
        self._figures[name] = CaptureFigure(name, float(value), abs(float(spread)), unit, definition)

    def miss(self, names: str, reason: str) -> None:
        """Say why ``names`` are not among the figures."""
        self.remarks.append(f"{self.name}: no {names}: {reason}.")

    def say(self, sentence: str) -> None:
        """Something else that is to be said of this channel."""
        self.remarks.append(f"{self.name}: {sentence}")

    def __contains__(self, name: str) -> bool:
        return name in self._figures

    def __getitem__(self, name: str) -> CaptureFigure:
        return self._figures[name]

    def done(self) -> ChannelFigures:
        """What was drawn."""
        return ChannelFigures(self.name, tuple(self._figures.values()))
