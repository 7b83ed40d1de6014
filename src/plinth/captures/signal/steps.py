"""What a recorder's steps do to lines: the error of rounding is no noise where the wave repeats on the sample grid."""

import math

_MOST = 2**40


def repeats_after(ratios: list[float], rows: int) -> int:
    """Samples after which waves of these frequencies (as shares of the rate) stand at the same samples again.

    ``rows`` where they do not within the record: the error of rounding is then spread over all its lines.
    """
    period = 1
    for ratio in ratios:
        own = _denominator(ratio, rows)
        period = period * own // math.gcd(period, own)
        if period >= rows:
            return rows
    return period


def u_of_steps(step: float, period: int, left: float, amplitude: float) -> float:
    """Standard uncertainty of each quadrature of a line (peak) from rounding to ``step``.

    The error's power, step^2 / 12, shared among the lines of a wave that repeats after ``period`` samples; or what a
    sine of this amplitude makes of it where it does not (B. Widrow and I. Kollar, 2008). ``left`` is the mean square
    of what else is recorded: noise of half a step already blurs it away.
    """
    if step <= 0.0:
        return 0.0
    noise = math.sqrt(max(left - step**2 / 12.0, 0.0)) / step
    blur = math.exp(-2.0 * (math.pi * min(noise, 3.0)) ** 2)
    shared = 0.41 * step / math.sqrt(max(period, 2))
    alone = step / math.pi * math.sqrt(step / (math.pi**2 * max(amplitude, step)))
    return blur * max(shared, alone)


def _denominator(ratio: float, rows: int) -> int:
    """The fewest samples that hold whole cycles, as near as the record can tell (by a continued fraction)."""
    before, now = 0, 1
    rest = abs(ratio)
    whole = math.floor(rest)
    rest -= whole
    for _ in range(40):
        turns = now * ratio
        if abs(turns - round(turns)) * rows < 0.5 and now > 0:
            return min(now, rows)
        if rest < 1e-15:
            return min(now, rows)
        inverse = 1.0 / rest
        whole = math.floor(inverse)
        rest = inverse - whole
        before, now = now, whole * now + before
        if now > min(rows, _MOST):
            break
    return rows
