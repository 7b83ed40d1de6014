"""A sine cut off flat at a rail: how much more power than at onset it carries at a stated distortion."""

import math

from plinth.physics.numbers.roots import bracketed

MOST_SHARE = 0.4
_MOST_DRIVE = 60.0


def clipped(drive: float) -> tuple[float, float]:
    """Power over that at onset, and harmonics over the fundamental (0.1 for 10 %), of a sine ``drive`` times the rail.

    ``drive`` 1 or more. Closed form of the Fourier integral of a flat-topped sine, by its clip angle asin(1/drive).
    """
    if drive <= 1.0:
        return 1.0, 0.0
    angle = math.asin(1.0 / drive)
    mean_square = (2.0 / math.pi) * (
        drive**2 * (angle / 2.0 - math.sin(2.0 * angle) / 4.0) + math.pi / 2.0 - angle
    )  # fmt: skip
    fundamental = (2.0 * drive / math.pi) * (angle + math.sin(angle) * math.cos(angle))
    return 2.0 * mean_square, math.sqrt(max(2.0 * mean_square / fundamental**2 - 1.0, 0.0))


def power_ratio_at(share: float) -> float:
    """Power over that at onset where harmonics are ``share`` of the fundamental (0 to 0.4). Raises ValueError."""
    if not 0.0 <= share <= MOST_SHARE:
        raise ValueError(f"found a distortion of {share:g}, expected 0 to {MOST_SHARE:g}")
    if share == 0.0:
        return 1.0

    def past(drive: float) -> float:
        return clipped(drive)[1] - share

    drive = bracketed(past, (1.0, past(1.0)), (_MOST_DRIVE, past(_MOST_DRIVE)), 1e-9)
    return clipped(drive)[0]
