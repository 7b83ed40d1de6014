"""Values that resistors are made in: the E series of IEC 60063."""

import math

E12 = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
E24 = tuple(sorted((*E12, 1.1, 1.3, 1.6, 2.0, 2.4, 3.0, 3.6, 4.3, 5.1, 6.2, 7.5, 9.1)))
# Three digits of 10^(k / n), as the standard rounds them.
E48 = tuple(round(10.0 ** (k / 48), 2) for k in range(48))
E96 = tuple(round(10.0 ** (k / 96), 2) for k in range(96))
SERIES = {"E12": E12, "E24": E24, "E48": E48, "E96": E96}


def nearest(value: float, series: tuple[float, ...] = E12) -> float:
    """The value of a series nearest to ``value`` (> 0), by their ratio."""
    decade = math.floor(math.log10(value))
    near = [step * 10.0**power for power in (decade - 1, decade, decade + 1) for step in series]
    return float(f"{min(near, key=lambda standard: abs(math.log(standard / value))):.3g}")
