"""The live spectrum without a window: lines at their own height, range, mean, hold; two records never mix."""

import dataclasses
import datetime as dt
import math
import threading
import time
from collections.abc import Callable

import numpy as np
import pytest

from plinth.bench.sheet import bench_request
from plinth.captures.bundle import Content
from plinth.captures.options import Options
from plinth.captures.reading.read_capture import read_content
from plinth.instruments.command_map import shipped_maps
from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.kinds import Action
from plinth.instruments.messages import Order, Record, Tell
from plinth.record.kept_capture import CaptureSource
from plinth.record.probe import Point, Probe, Quantity
from plinth.session.capture_answers import TakenAt
from plinth.session.instruments.connected import Bench, Connected
from plinth.session.instruments.live_spectrum import (
    HIGHEST_DB,
    SAMPLES,
    SpectrumFrame,
    SpectrumReader,
    spectrum_reader_of,
)
from plinth.session.instruments.orders import Orders
from plinth.session.instruments.reading import RECORD_RATE_HZ, take_record
from tests.instruments.crooked_server import until

Wave = Callable[[np.ndarray], np.ndarray]


OWN = next(own for own in shipped_maps() if own.name == "Simulated digitiser")


def digitiser(channel: str = "left") -> Connected:
    return Connected("digitiser", "nowhere", OWN, "Plinth, simulated digitiser, 0, 1", (Point.OUTPUT,), channel)


class Recorder:
    """A digitiser that records ``wave`` and cuts at its range; ``orders`` says what came in between."""

    def __init__(self, wave: Wave, noise: float = 0.0) -> None:
        self.wave, self.noise, self.broken = wave, noise, False
        self.told: list[tuple[Action, float | None]] = []
        self._rng = np.random.default_rng(4)

    def ask(self, order: Order) -> object:
        if self.broken:
            raise InstrumentError(ErrorKind.GONE, "digitiser", "found the line broken")
        if isinstance(order, Tell):
            self.told.append((order.action, order.value))
            return None
        assert isinstance(order, Record)
        last = dict(self.told)
        count, range_v = int(last[Action.SET_POINTS] or 0), last[Action.SET_RANGE] or 0.0
        samples = self.wave(np.arange(count) / RECORD_RATE_HZ) + self.noise * self._rng.standard_normal(count)
        return np.clip(samples, -range_v, range_v).astype(">f4").tobytes()

    @property
    def ranges(self) -> list[float]:
        return [value for action, value in self.told if action is Action.SET_RANGE and value is not None]


def sine(volts: float, hz: float) -> Wave:
    return lambda t: math.sqrt(2.0) * volts * np.sin(2.0 * math.pi * hz * t)


def frames_after(reader: SpectrumReader, more: int) -> SpectrumFrame:
    now = reader.frame.number if reader.frame else 0
    assert until(lambda: (reader.frame.number if reader.frame else 0) >= now + more or bool(reader.fault)), reader.fault
    frame = reader.frame
    assert frame is not None
    return frame


@pytest.fixture
def running() -> object:
    begun: list[SpectrumReader] = []

    def begin(recorder: Recorder, **given: object) -> SpectrumReader:
        reader = SpectrumReader(digitiser(), Orders(recorder.ask), every_s=0.0, **given)
        begun.append(reader)
        reader.start()
        return reader

    yield begin
    for reader in begun:
        reader.stop()
        assert not reader.running


Begin = Callable[..., SpectrumReader]


@pytest.mark.parametrize("volts", [0.02, 1.0, 11.0])
@pytest.mark.parametrize("hz", [1000.0, 1003.1, 7777.7])
def test_the_top_of_a_line_is_what_a_meter_reads(running: Begin, hz: float, volts: float) -> None:
    frame = frames_after(running(Recorder(sine(volts, hz), 1e-6)), 2)
    top = int(np.argmax(frame.series.y))
    assert float(frame.series.y[top]) == pytest.approx(20.0 * math.log10(volts), abs=0.02)
    assert float(frame.series.x[top]) == pytest.approx(hz, abs=RECORD_RATE_HZ / SAMPLES[0])
    assert "frequency" in frame.words


def test_a_third_harmonic_stands_where_it_belongs(running: Begin) -> None:
    frame = frames_after(running(Recorder(lambda t: sine(1.0, 1000.0)(t) + sine(0.01, 3000.0)(t), 1e-6)), 2)
    near = (frame.series.x > 2900.0) & (frame.series.x < 3100.0)
    assert float(np.max(frame.series.y[near])) == pytest.approx(-40.0, abs=0.05)
    assert "−40.0" in frame.words


def test_the_range_follows_the_signal_and_opens_where_it_is_cut(running: Begin) -> None:
    recorder = Recorder(sine(1.0, 1000.0))
    reader = running(recorder)
    frames_after(reader, 2)
    assert recorder.ranges[0] == 100.0
    assert recorder.ranges[-1] == pytest.approx(1.3 * math.sqrt(2.0), rel=0.01)
    recorder.wave = sine(30.0, 1000.0)
    assert until(lambda: recorder.ranges[-1] == pytest.approx(1.3 * 30.0 * math.sqrt(2.0), rel=0.01))
    # What was cut went through the widest range first.
    assert 400.0 in recorder.ranges
    assert max(frames_after(reader, 1).series.y) <= HIGHEST_DB


def test_the_mean_of_eight_has_a_smoother_floor(running: Begin) -> None:
    reader = running(Recorder(sine(1.0, 1000.0), 0.01))
    high = frames_after(reader, 3).series
    single = float(np.std(high.y[high.x > 20_000.0]))
    reader.averaged = True
    mean = frames_after(reader, 12).series
    assert float(np.std(mean.y[mean.x > 20_000.0])) < 0.65 * single
    assert float(np.max(mean.y)) == pytest.approx(0.0, abs=0.02)


def test_the_floor_is_that_of_the_noise_in_the_bins_of_a_line(running: Begin) -> None:
    reader = running(Recorder(lambda t: 0.0 * t, 0.01))
    reader.averaged = True
    curve = frames_after(reader, 16).series
    low = (curve.x > 200.0) & (curve.x < 1000.0)
    # White noise of 10 mV in 4096 bins, each as wide as a line under this window counts for: 2.0044 of them.
    expected = 10.0 * math.log10(2.0044 * 0.01**2 / (SAMPLES[0] / 2))
    assert float(np.median(curve.y[low])) == pytest.approx(expected, abs=1.2)


def test_longer_pictures_part_lines_that_are_near(running: Begin) -> None:
    recorder = Recorder(lambda t: sine(1.0, 1000.0)(t) + sine(1.0, 1060.0)(t))
    reader = running(recorder)

    def between(frame: SpectrumFrame) -> float:
        near = (frame.series.x > 1015.0) & (frame.series.x < 1045.0)
        return float(np.min(frame.series.y[near]))

    short = between(frames_after(reader, 2))
    reader.samples = SAMPLES[1]
    assert between(frames_after(reader, 3)) < short - 20.0
    assert (Action.SET_POINTS, float(SAMPLES[1])) in recorder.told


def test_held_nothing_is_read(running: Begin) -> None:
    reader = running(Recorder(sine(1.0, 1000.0)))
    frames_after(reader, 2)
    reader.held = True
    # The one that was under way may still end.
    time.sleep(0.05)
    count = reader.frame.number if reader.frame else 0
    time.sleep(0.1)
    assert (reader.frame.number if reader.frame else 0) <= count + 1
    reader.held = False
    frames_after(reader, 2)


def test_what_ends_it_is_said(running: Begin) -> None:
    recorder = Recorder(sine(1.0, 1000.0))

    reader = running(recorder)
    frames_after(reader, 1)
    recorder.broken = True
    assert until(lambda: "the line broken" in reader.fault)
    # The last picture stays.
    assert reader.frame is not None


def test_no_tone_is_said_to_be_none(running: Begin) -> None:
    words = frames_after(running(Recorder(lambda t: 0.0 * t, 0.001)), 1).words
    assert "frequency" not in words


def test_a_record_is_kept_with_where_it_was_taken(running: Begin) -> None:
    frame = frames_after(running(Recorder(sine(2.5, 1000.0))), 2)
    record = frame.as_record(dt.datetime(2026, 3, 4, 5, 6, 7))
    assert record.content.name == "output 2026-03-04 05-06-07.wav"
    assert record.source is CaptureSource.SIMULATED
    assert record.taken_at == TakenAt(Point.OUTPUT, "left")
    assert isinstance(record.content, Content)
    read = read_content(record.content.data, record.content.name, Options())
    assert read.sample_rate_hz == RECORD_RATE_HZ
    assert read.channels[0].unit == "V"
    assert float(np.std(read.channels[0].samples)) == pytest.approx(2.5, rel=2e-3)


@pytest.mark.parametrize(
    ("probe", "channel", "words"),
    [
        (None, "left", "type it"), (Probe(Point.OUTPUT, Quantity.VOLTS_AC), "left", ""),
        (Probe(Point.OUTPUT, Quantity.VOLTS_AC), "build", ""),
        (Probe(Point.OUTPUT, Quantity.VOLTS_AC), "right", "another channel"),
        (Probe(Point.RAIL_PLUS, Quantity.VOLTS_DC), "left", "the + rail is asked for"),
    ],
)  # fmt: skip
def test_a_record_answers_only_what_is_asked_of_its_own_place(probe: Probe | None, channel: str, words: str) -> None:
    request = bench_request(
        test="t", key="k", channel=channel, group="", label="x", ask="", unit="V", window=None, conditions={}
    )
    said = TakenAt(Point.OUTPUT, "left").elsewhere(dataclasses.replace(request, probe=probe))
    assert said == "" if not words else words in said


def test_only_a_digitiser_at_the_output_of_that_channel_will_do() -> None:
    own = digitiser()
    assert spectrum_reader_of(Bench((own,)), "left") is own
    assert spectrum_reader_of(Bench((own,)), "right") is None
    elsewhere = dataclasses.replace(own, points=(Point.RAIL_PLUS,))
    assert spectrum_reader_of(Bench((elsewhere,)), "left") is None


def test_two_that_record_beside_each_other_do_not_mix_their_settings() -> None:
    recorder = Recorder(sine(1.0, 1000.0))
    lock = threading.Lock()
    told: list[int] = []
    local = threading.local()

    def slow(order: Order) -> object:
        answer = recorder.ask(order)
        time.sleep(0.0005)
        return answer

    orders = Orders(slow, recording=lock)

    def record(count: int) -> None:
        local.count = count
        for _ in range(12):
            told.append(len(take_record(digitiser(), Point.OUTPUT, orders, RECORD_RATE_HZ, count, 10.0)) - count)

    threads = [threading.Thread(target=record, args=(count,)) for count in (512, 2048)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert told == [0] * 24
