"""Records of nothing, of one thing, too short, out of all scale: figures or a sentence, never a fall."""

import itertools
import math

import numpy as np
import pytest

from plinth.captures.analysis import analyse_capture
from plinth.captures.capture import CaptureError
from plinth.captures.kinds.guess import guessed
from plinth.captures.options import KINDS, Options, Sweep
from tests.captures.made import Wave, capture_of
from tests.turns import crossed

RATE = 48_000.0


def odd_waves(rows: int) -> dict[str, Wave]:
    t = np.arange(rows) / RATE
    rng = np.random.default_rng(rows)
    sine = np.sin(2.0 * math.pi * 1000.0 * t)
    return {
        "silence": np.zeros(rows), "level": np.full(rows, 3.3), "impulse": np.eye(1, rows, rows // 2)[0],
        "step": np.where(np.arange(rows) < rows // 3, 0.0, 5.0), "ramp": 10.0 * t, "noise": rng.standard_normal(rows),
        "sine": sine, "half the rate": np.where(np.arange(rows) % 2 == 0, 1.0, -1.0),
        "two levels": np.where(rng.random(rows) < 0.5, 0.0, 1.0), "late": np.where(t > 0.7 * t[-1], sine, 0.0),
    }  # fmt: skip


@pytest.mark.parametrize(
    ("kind", "rows"), crossed([kind for kind in KINDS if kind != "impedance"], [16, 17, 200, 3000], 3)
)
def test_odd_records_end_in_figures_or_a_sentence(kind: str, rows: int) -> None:
    waves = odd_waves(rows)
    stated = Options(load_ohm=8.0, sweep=Sweep(20.0, 20_000.0, rows / RATE) if kind == "sweep" else None)
    pairs = list(itertools.product(waves.values(), waves.values()))
    for channels in [(wave,) for wave in waves.values()] + pairs[:: 7 if rows < 3000 else 17]:
        try:
            analysis = analyse_capture(capture_of(*channels, rate=RATE), kind, stated)
        except CaptureError:
            continue
        for channel in analysis.channels:
            assert all(math.isfinite(figure.value) and figure.spread >= 0.0 for figure in channel.figures)


@pytest.mark.parametrize("rows", [16, 300, 20_000])
def test_anything_looks_like_some_kind(rows: int) -> None:
    waves = odd_waves(rows)
    for channels in [(wave,) for wave in waves.values()] + list(itertools.product(waves.values(), waves.values()))[::4]:
        assert guessed(capture_of(*channels, rate=RATE)) in KINDS


@pytest.mark.parametrize("scale", [1e300, 1e13, 1e-20, 1e-310])
def test_values_that_no_recorder_writes_are_refused(scale: float) -> None:
    wave = scale * odd_waves(3000)["sine"]
    for kind in KINDS:
        with pytest.raises(CaptureError, match="state its scale"):
            analyse_capture(capture_of(wave, rate=RATE), kind, Options(load_ohm=8.0))
