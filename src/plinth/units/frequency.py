"""Frequencies in words: as they are set, and as they are read to two figures."""

import math


def hertz_as_set(f_hz: float) -> str:
    """All its figures: ``20 Hz``, ``12.5 kHz``."""
    return f"{f_hz / 1e3:g} kHz" if f_hz >= 1e3 else f"{f_hz:g} Hz"


def hertz_words(f_hz: float) -> str:
    """To two figures: ``1.0 kHz``, ``25 Hz``, ``480 Hz``."""
    shown = f_hz if f_hz < 1e3 else f_hz / 1e3
    digits = max(0, 1 - math.floor(math.log10(shown)))
    return f"{shown:.{digits}f} {'kHz' if f_hz >= 1e3 else 'Hz'}"
