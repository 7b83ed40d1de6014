"""What lies between two cursors of a capture, in words."""

import numpy as np

from plinth.captures.capture import Capture
from plinth.units.shown import shown


def span_words(capture: Capture, start_s: float, stop_s: float) -> str:
    """How long it is, and of each channel rms about the mean, mean, peak to peak, and the change from end to end."""
    rate = capture.sample_rate_hz
    start, stop = max(0, round(start_s * rate)), min(capture.rows, round(stop_s * rate) + 1)
    seconds = stop_s - start_s
    if stop - start < 2 or seconds <= 0.0:
        return "Between them lies no sample: move one of them."
    parts = [f"{shown(seconds, 's', 5)} ({shown(1.0 / seconds, 'Hz', 5)})"]
    for channel in capture.channels:
        values, unit = channel.samples[start:stop], channel.unit
        rms, mean, across, change = (
            shown(float(each), unit, 4)
            for each in (np.std(values), np.mean(values), np.ptp(values), values[-1] - values[0])
        )
        parts.append(f"{channel.name}: rms {rms}, mean {mean}, {across} peak to peak, {change} from end to end")
    return "; ".join(parts)
