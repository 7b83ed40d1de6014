"""What is told of any channel: rows, cells without a number, rate, mean and alternating part as they stand."""

import math

import numpy as np

from plinth.captures.capture import Capture, Channel
from plinth.captures.figure import FigureList


def add_every(figures: FigureList, capture: Capture, channel: Channel) -> None:
    """Count, rate, mean and rms about the mean, over all samples as recorded."""
    rows = len(channel.samples)
    figures.add("rows", capture.rows_read or rows, 0.0, "", "samples of this channel")
    if capture.rows_read is not None:
        figures.add("rows_used", rows, 0.0, "", "samples that the figures are drawn from")
    figures.add("missing", channel.missing, 0.0, "", "cells that were no number")
    u_rate = capture.u_rate * capture.sample_rate_hz
    figures.add(
        "sample_rate_hz", capture.sample_rate_hz, 2.0 * u_rate, "Hz", "samples a second, by the recorder's own clock"
    )
    sound = channel.samples if channel.gaps is None else channel.samples[~channel.gaps]
    mean = float(np.mean(sound))
    rms = float(np.std(sound))
    # The record ends anywhere in its last cycle: what half of one would move the mean by is not known.
    part = _last_cycle_share(channel)
    u_noise = _step_noise(channel) / math.sqrt(rows)
    figures.add("mean", mean, 3.3 * part * rms + 2.0 * u_noise, channel.unit, "arithmetic mean of all samples")
    figures.add(
        "rms_ac", rms, 2.0 * (0.5 * part * rms + u_noise), channel.unit,
        "root mean square about the mean, all samples, whole bandwidth of the recorder",
    )  # fmt: skip


def _last_cycle_share(channel: Channel) -> float:
    """Half a cycle of what alternates, as a share of the record; cycles counted by crossings of the mean."""
    values = channel.samples - np.mean(channel.samples)
    stride = max(1, len(values) // 200_000)
    signs = np.signbit(values[::stride])
    crossings = int(np.count_nonzero(signs[1:] != signs[:-1]))
    return min(0.5, 0.5 / math.pi / max(0.5 * crossings, 0.5))


def _step_noise(channel: Channel) -> float:
    """Scatter from sample to sample, or a third of a step where that is less."""
    stretch = channel.samples[: min(len(channel.samples), 60_000)]
    scatter = float(np.median(np.abs(np.diff(stretch, 2)))) / 1.65 if len(stretch) > 3 else 0.0
    return max(scatter, channel.step / math.sqrt(12.0))
