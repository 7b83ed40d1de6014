import math

import numpy as np
import pytest
from scipy import signal

from plinth.builds.files import read_build
from plinth.simulated_bench.square_response import response, square
from tests.simulated_bench.benches import EXAMPLES, Told


def test_a_square_wave_through_one_pole_either_way_is_scipys() -> None:
    build = read_build(EXAMPLES / "stage-pair.json")
    module = build.module
    hz = 1000.0
    t = np.arange(0.0, 1.5, 1e-6)
    w_low, w_high = 2.0 * math.pi * module.f_low_hz, 2.0 * math.pi * module.f_high_hz
    band = signal.TransferFunction([w_high, 0.0], np.polymul([1.0, w_low], [1.0, w_high]))
    _, expected, _ = signal.lsim(band, square(hz * t), t, interp=False)
    last = slice(-1000, None)
    got = response(build, 8.0, hz, hz * t[last])
    # But for the two edges themselves, which fall between instants.
    assert np.percentile(np.abs(got - expected[last]), 98.0) < 0.01


def test_the_generator_of_the_bench_gives_one_whose_rms_is_half_its_height() -> None:
    bench = Told(read_build(EXAMPLES / "stage-pair.json"))
    bench.put("generator", "SOUR:FUNC SQU;FREQ 1000;VOLT 0.2;:OUTP ON")
    assert bench.by_role["generator"].handle("SOUR:FUNC?").strip() == b"SQU"
    t = np.arange(10_000) / 1e6
    wave = bench.bench.input_wave(t)
    assert float(np.sqrt(np.mean(wave**2))) == pytest.approx(0.2, rel=1e-3)
    assert float(np.max(wave)) == pytest.approx(0.2, rel=1e-3)
    bench.power()
    out = bench.bench.output_wave(t)
    assert float(np.max(out) - np.min(out)) == pytest.approx(0.4 * bench.bench.amplifier.build.module.gain, rel=0.03)
    bench.put("generator", "*RST")
    assert bench.by_role["generator"].handle("SOUR:FUNC?").strip() == b"SIN"
    assert bench.error("generator", "SOUR:FUNC TRI") == -141
