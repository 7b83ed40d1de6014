"""Ratios in decibels with their spreads."""

import math


def decibels(ratio: float) -> float:
    """Of an amplitude ratio above 0."""
    return 20.0 * math.log10(ratio)


def spread_db(share: float) -> float:
    """Half width in decibels of an amplitude known to ``share`` (half width, relative): its wider side, bounded."""
    return -20.0 * math.log10(max(1.0 - share, 0.05))
