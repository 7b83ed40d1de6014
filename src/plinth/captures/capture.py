"""A capture: even samples of one or more channels, with what is known of their scale."""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

VOLTS, AMPERES, FULL_SCALE = "V", "A", "FS"
LEAST_ROWS = 16
LARGEST_BYTES, MOST_SAMPLES = 400_000_000, 40_000_000
# A sound file up to this is read in parts.
LARGEST_IN_PARTS = 2_000_000_000
# Beyond these no recorder writes, and squares leave the range of numbers.
SMALLEST, LARGEST = 1e-15, 1e12


class CaptureError(ValueError):
    """A file that is refused: the sentence says what was found, what was expected and how to mend it."""


@dataclass(frozen=True)
class Channel:
    """One channel.

    ``samples`` in ``unit`` (V, A, or FS: full scale, peak 1.0); ``step`` is the smallest difference of two values in
    the same unit (0 where none can be seen); ``missing`` the count of cells that were no number (they are bridged by a
    straight line, ``gaps`` tells which); ``unit_stated`` whether somebody said the unit.
    """

    name: str
    samples: NDArray[np.float64]
    unit: str
    step: float = 0.0
    missing: int = 0
    gaps: NDArray[np.bool_] | None = None
    unit_stated: bool = True
    ends_at: float | None = None

    def scaled(self, factor: float, unit: str | None = None) -> "Channel":
        """The same, each value times ``factor``; in ``unit`` from now on, if one is named."""
        return replace(
            self,
            samples=self.samples * factor,
            step=self.step * abs(factor),
            unit=self.unit if unit is None else unit,
            unit_stated=self.unit_stated or unit is not None,
            ends_at=None if self.ends_at is None else self.ends_at * abs(factor),
        )


@dataclass(frozen=True)
class Capture:
    """What one file holds: channels of equal length at ``sample_rate_hz``; ``remarks`` on how it was read.

    ``u_rate`` is the relative standard uncertainty of the rate as the file tells it; ``rows_read`` counts its rows
    where not all of them are used.
    """

    name: str
    channels: tuple[Channel, ...]
    sample_rate_hz: float
    remarks: tuple[str, ...] = field(default=())
    u_rate: float = 0.0
    rows_read: int | None = None

    @property
    def rows(self) -> int:
        """Samples of each channel."""
        return len(self.channels[0].samples)

    @property
    def seconds(self) -> float:
        """Length of the record."""
        return self.rows / self.sample_rate_hz

    def with_remarks(self, *remarks: str) -> "Capture":
        """The same, with more said of it."""
        return replace(self, remarks=(*self.remarks, *remarks))


def refuse_scale(capture: Capture) -> None:
    """Raise CaptureError where a channel's values are beyond all that can be recorded."""
    for channel in capture.channels:
        top = float(np.max(np.abs(channel.samples)))
        if top > LARGEST or 0.0 < top < SMALLEST:
            raise CaptureError(
                f"{channel.name}: found values up to {top:.3g}, expected {SMALLEST:g} to {LARGEST:g}: state its scale"
            )
