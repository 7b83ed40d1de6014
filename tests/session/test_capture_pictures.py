"""What is drawn of a capture: response, group delay and orders of a sweep, distortion over level, one over another."""

import dataclasses
import math
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from plinth.bench.every_sheet import kind_of
from plinth.builds.situation import Situation
from plinth.captures.capture import VOLTS, Capture, Channel
from plinth.captures.options import Options, Sweep
from plinth.captures.signal.sweep_shape import sweep_wave
from plinth.demo.builds import STAGE_PAIR
from plinth.session.capture_against import against_now
from plinth.session.capture_pictures import Drawn, Picture, against_each_other, pictures_of
from plinth.session.capture_prediction import Against, over_prediction
from plinth.session.capture_span import span_words
from plinth.session.procedure.sheet_test import SheetListener, SheetProcedure
from plinth.session.session import Session
from tests.demo_copy import demo_copy
from tests.session.running import AtOnce
from tests.session.test_procedures import nobody

RATE = 96_000.0
SWEEP = Sweep(10.0, 40_000.0, 3.0)


@pytest.fixture(scope="module")
def swept() -> Capture:
    """Twenty times as large, half a millisecond late, a thousandth of its square in it."""
    played = np.concatenate((np.zeros(9600), sweep_wave(10.0, 40_000.0, 3.0, RATE), np.zeros(48_000)))
    answer = 20.0 * (played + 0.002 * played**2)
    late = np.concatenate((np.zeros(48), answer[:-48]))
    noise = 1e-6 * np.random.default_rng(1).standard_normal((2, len(played)))
    channels = (Channel("in", played + noise[0], VOLTS), Channel("out", late + noise[1], VOLTS))
    return Capture("sweep", channels, RATE)


@pytest.fixture(scope="module")
def drawn(swept: Capture) -> tuple[Picture, ...]:
    """All that is drawn of it."""
    return tuple(pictures_of(swept, "sweep", Options(sweep=SWEEP)))


def picture(pictures: list[Picture], what: Drawn) -> Picture:
    return next(each for each in pictures if each.what is what)


def at(drawn: Picture, hz: float, which: int = 0) -> float:
    curve = drawn.series[which]
    return float(np.interp(math.log(hz), np.log(curve.x), curve.y))


def test_a_sweep_is_drawn_as_response_group_delay_and_orders(drawn: tuple[Picture, ...]) -> None:
    pictures = list(drawn)
    response = picture(pictures, Drawn.RESPONSE)
    for hz in (50.0, 1000.0, 15_000.0):
        assert at(response, hz) == pytest.approx(20.0 * math.log10(20.0), abs=0.02)
    # 48 samples at 96 kHz.
    for hz in (200.0, 1000.0, 10_000.0):
        assert at(picture(pictures, Drawn.DELAY), hz) == pytest.approx(0.5, abs=0.02)
    orders = picture(pictures, Drawn.ORDERS)
    assert orders.series[0].name == "order 2"
    # Half of 0.002 of the fundamental: the square of a sine of 1 holds 1/2 of its double.
    assert at(orders, 1000.0) == pytest.approx(20.0 * math.log10(0.001), abs=0.2)
    # Of the fourth there is nothing but what the others leave, far below.
    assert all(float(np.max(series.y)) < -90.0 for series in orders.series if series.name == "order 4")


def test_a_sweep_lies_over_the_stated_corners_and_the_kept_points(swept: Capture, drawn: tuple[Picture, ...]) -> None:
    module = STAGE_PAIR.module.model_copy(update={"f_low_hz": 5.0, "f_high_hz": 20_000.0})
    build = STAGE_PAIR.model_copy(update={"module": module})
    pictures = drawn
    against = Against(build, Situation(), points=((20.0, -0.4), (10_000.0, -0.7)))
    laid = over_prediction(swept, "sweep", pictures, against)
    response = picture(list(laid.pictures), Drawn.RESPONSE)
    predicted, points, _ = response.series
    assert (predicted.name, points.discs) == ("predicted", True)
    level = 20.0 * math.log10(20.0)
    # First order at 20 kHz: 3.01 dB below, and 1 kHz itself 0.011 dB below its middle.
    assert at(response, 20_000.0) == pytest.approx(level - 10.0 * math.log10(2.0), abs=0.02)
    assert at(response, 1000.0) == pytest.approx(level, abs=0.01)
    assert list(points.y) == pytest.approx([level - 0.4, level - 0.7], abs=0.01)
    assert "corners" in laid.words
    assert "kept readings" in laid.words


def test_distortion_over_level_is_that_of_each_level() -> None:
    t = np.arange(19_200) / RATE
    parts = []
    shares = (0.05, 0.02, 0.01, 0.03, 0.002, 0.005)
    for k, share in enumerate(shares):
        size = 2.0 + k
        parts.append(size * (np.sin(2.0 * math.pi * 1000.0 * t) + share * np.sin(6.0 * math.pi * 1000.0 * t)))
    wave = np.concatenate(parts) + 1e-6 * np.random.default_rng(1).standard_normal(6 * len(t))
    capture = Capture("levels", (Channel("out", wave, VOLTS),), RATE)
    drawn = picture(pictures_of(capture, "levels", Options(kind="levels", step_s=0.2)), Drawn.LEVELS)
    (curve,) = drawn.series
    assert list(curve.y) == pytest.approx([20.0 * math.log10(share) for share in shares], abs=0.05)
    expected = [(2.0 + k) / math.sqrt(2.0) * math.sqrt(1.0 + share**2) for k, share in enumerate(shares)]
    assert list(curve.x) == pytest.approx(expected, rel=1e-4)


def test_one_channel_over_another_is_sample_by_sample() -> None:
    t = np.arange(4000) / RATE
    capture = Capture(
        "x", (Channel("in", np.sin(50.0 * t), VOLTS), Channel("out", 24.0 * np.sin(50.0 * t), VOLTS)), RATE
    )
    drawn = against_each_other(capture)
    (curve,) = drawn.series
    assert curve.y == pytest.approx(24.0 * curve.x)
    assert len(curve.x) == 4000


def test_what_lies_between_two_cursors_is_counted() -> None:
    t = np.arange(int(RATE)) / RATE
    capture = Capture("x", (Channel("out", 3.0 + 2.0 * np.sin(2.0 * math.pi * 500.0 * t), VOLTS),), RATE)
    words = span_words(capture, 0.2, 0.21)
    assert "10.000 ms (100.00 Hz)" in words
    assert "rms 1.41" in words
    assert "mean 3.00" in words
    assert "4.000 V peak to peak" in words
    assert "no sample" in span_words(capture, 0.2, 0.2)


@pytest.fixture
def session(tmp_path: Path) -> Iterator[Session]:
    made = Session(demo_copy(tmp_path), AtOnce())
    yield made
    made.close()


def test_a_capture_is_held_against_the_build_at_the_level_that_the_test_asks_for(session: Session) -> None:
    test = SheetProcedure(session, kind_of("rails"), SheetListener(nobody, nobody, nobody))
    test.channel.take("left")
    test.make()
    for key, plays in (("rest_plus", False), ("full_plus", True)):
        test.choose(next(k for k, asked in enumerate(test.asked) if asked.key == key))
        assert test.request is not None
        against = against_now(session, test, "left", Options())
        level = test.request.setting("generator level")
        assert level is not None
        assert against.v_out_rms == pytest.approx(level.value * session.build.module.gain)
        assert (against.v_out_rms > 1.0) == plays
    load = test.request.setting("load") if test.request else None
    assert load is not None
    assert against.situation.load_ohm == load.value
    assert against.load_stated
    stated = against_now(session, None, "left", Options(load_ohm=6.2))
    assert (stated.situation.load_ohm, stated.load_stated) == (6.2, True)
    plain = against_now(session, None, "", Options())
    assert not plain.load_stated
    assert plain.points == ()
    assert dataclasses.replace(plain, build=session.build) == plain


def test_a_spectrum_is_drawn_from_ten_hertz_on_with_every_line_at_its_height() -> None:
    t = np.arange(96_000) / RATE
    wave = 2.0 * np.sin(2.0 * np.pi * 1000.0 * t) + 2e-3 * np.sin(2.0 * np.pi * 3.0 * t)
    wave += 2e-2 * np.sin(2.0 * np.pi * 7000.0 * t)
    drawn = pictures_of(Capture("tone", (Channel("out", wave, VOLTS),), RATE), "tone", Options())
    picture = next(each for each in drawn if each.what is Drawn.SPECTRUM)
    line = picture.series[0]
    assert 10.0 <= picture.x[0] < 12.0
    assert float(line.x[0]) >= 10.0
    assert float(line.x[-1]) > 0.95 * RATE / 2.0
    for hz, decibels in ((1000.0, 0.0), (7000.0, -40.0)):
        near = np.abs(line.x - hz) < 15.0
        assert float(np.max(line.y[near])) == pytest.approx(decibels, abs=0.5)


@pytest.mark.parametrize(
    ("current", "part"),
    [(0.5, 0.02), (2e-3, 1e-4), (300.0, 10.0), (2.6e3, 100.0), (5.1e3, 200.0), (60.0, 1.0), (5.0, 1.0), (140.0, 5.0)],
)
def test_another_unit_is_divided_by_a_round_number_so_that_both_are_seen(current: float, part: float) -> None:
    t = np.arange(4_800) / RATE
    wave = np.sin(2.0 * np.pi * 1000.0 * t)
    capture = Capture("tone", (Channel("current", current * wave, "A"), Channel("out", 20.0 * wave, VOLTS)), RATE)
    drawn = next(each for each in pictures_of(capture, "tone", Options()) if each.what is Drawn.WAVES)
    out, beside = drawn.series[0], drawn.series[1]
    assert (out.name, out.role) == ("out", "ink")
    assert beside.role != "ink"
    shown = float(np.max(np.abs(beside.y)))
    named = 1.0 if "÷" not in beside.name else float(beside.name.rpartition("÷")[2])
    assert named * shown == pytest.approx(current, rel=1e-3)
    assert named == pytest.approx(part)
