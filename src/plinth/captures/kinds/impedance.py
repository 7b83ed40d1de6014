"""Output impedance from the same tone with and without a load."""

import math

import numpy as np

from plinth.captures.capture import Capture, CaptureError
from plinth.captures.figure import FigureList
from plinth.captures.kinds.tone import Tone, fitted_tone
from plinth.captures.options import Options


def add_impedance(figures: FigureList, loaded: Capture, unloaded: Capture, options: Options) -> None:
    """Ohms and damping at the tone's frequency. With two channels the first is the drive, and evens its changes out."""
    if options.load_ohm is None:
        raise CaptureError("found no load stated, expected the ohms that were connected: give --load")
    with_load, u_with = _ratio(loaded)
    without, u_without = _ratio(unloaded)
    fitted = fitted_tone(loaded, loaded.channels[-1])
    if fitted is not None:
        figures.add("frequency_hz", fitted.fundamental_hz, 1e-6 * fitted.fundamental_hz, "Hz", "of the tone under load")
    complex_known = len(loaded.channels) > 1 and len(unloaded.channels) > 1
    quotient = without / with_load if complex_known else abs(without) / abs(with_load)
    u = math.hypot(u_with, u_without) * abs(quotient)
    impedance = options.load_ohm * (quotient - 1.0)
    size = abs(impedance) if complex_known else float(np.real(impedance))
    spread = 2.0 * u * options.load_ohm
    figures.add(
        "zout_ohm", size, spread, "Ω",
        f"volts without over volts with {options.load_ohm:g} ohm, less one, times the load"
        + (", both to their drive" if complex_known else ""),
    )  # fmt: skip
    if size > spread:
        damping = options.load_ohm / size
        figures.add("damping", damping, damping * spread / size, "", "the load over the output's impedance")
    else:
        figures.miss("damping", "the volts with and without load are not told apart by this record")


def _ratio(capture: Capture) -> tuple[complex, float]:
    """Output over drive (or the output alone) at the tone, with its relative standard uncertainty."""
    output = fitted_tone(capture, capture.channels[-1])
    if output is None:
        raise CaptureError(f"{capture.name}: found no tone in it, expected some cycles of one")
    value, u = _of(output)
    if len(capture.channels) > 1:
        drive = fitted_tone(capture, capture.channels[0])
        if drive is None or abs(drive.omega / output.omega - 1.0) > 1e-3:
            raise CaptureError(f"{capture.name}: found no tone of the output's frequency in its drive, expected one")
        base, u_base = _of(drive)
        return value / base, math.hypot(u, u_base)
    return value, u


def _of(tone: Tone) -> tuple[complex, float]:
    return complex(tone.fit.phasors[0]), tone.u_line(tone.fundamental_hz) / tone.amplitude
