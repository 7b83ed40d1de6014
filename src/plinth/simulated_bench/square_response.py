"""A square wave through an amplifier's band, in its steady state: one pole below, one or two above."""

import functools

import numpy as np
from numpy.typing import NDArray

from plinth.builds.build import Build
from plinth.physics.stages.output_filter import corner_hz, quality

Array = NDArray[np.float64]
# Instants of a period; half as many harmonics.
INSTANTS = 1 << 15


def square(turns: Array) -> Array:
    """+1 in the first half of each turn, -1 in the other."""
    return np.where(np.mod(turns, 1.0) < 0.5, 1.0, -1.0)


def response(build: Build, load_ohm: float, hz: float, turns: Array) -> Array:
    """What becomes of it at a gain of one, into ``load_ohm``, at ``turns`` of its period.

    By its harmonics: each times j f / (f_low + j f), and 1 / (1 + j f / f_high), or the two poles of an output filter.
    """
    module, coil = build.module, build.module.output_filter
    if coil is None:
        upper, q = module.f_high_hz, 0.0
    else:
        legs = 2.0 if build.both_outputs_live else 1.0
        upper, q = corner_hz(coil.l_h, coil.c_f), quality(coil.l_h, coil.c_f, load_ohm / legs)
    period = _period(hz, module.f_low_hz, upper, q)
    return np.asarray(np.interp(np.mod(turns, 1.0) * INSTANTS, np.arange(INSTANTS + 1), period))


@functools.lru_cache(maxsize=8)
def _period(hz: float, f_low: float, f_high: float, q: float) -> Array:
    lines = np.fft.rfft(square(np.arange(INSTANTS) / INSTANTS))
    f = hz * np.arange(len(lines))
    below = 1j * f / (f_low + 1j * f + (f == 0.0))
    ratio = f / f_high
    above = 1.0 / (1.0 + 1j * ratio) if q == 0.0 else 1.0 / (1.0 - ratio**2 + 1j * ratio / q)
    wave = np.fft.irfft(lines * below * above, INSTANTS)
    return np.append(wave, wave[0])
