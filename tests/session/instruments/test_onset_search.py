import math
from collections.abc import Callable

import numpy as np
import pytest

from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.session.instruments.onset_search import Array, OnsetFigures, search, tops_of
from tests.turns import crossed

RATE_HZ, HZ, OHM, GAIN = 100_000.0, 1000.0, 8.0, 20.0
TIME = np.arange(9600) / RATE_HZ


def held_at(limit: float, ripple: float) -> Array:
    """What holds an output at the instants of a record: ``ripple`` of it at 100 Hz, from its least up."""
    return np.asarray(limit * (1.0 + ripple * np.abs(np.sin(2.0 * np.pi * 50.0 * TIME))))


def amplifier(
    limit: float, ripple: float = 0.0, sag_per_v: float = 0.0, phase: float = 0.3
) -> Callable[[float], Array]:
    """Takes a level, V rms, and gives the output: a sine that is cut where the rails, which sag with it, hold it."""
    dice = np.random.default_rng(3)

    def take(level: float) -> Array:
        peak = math.sqrt(2.0) * GAIN * level
        held = held_at(limit, ripple) - sag_per_v * peak
        wave = peak * np.sin(2.0 * np.pi * HZ * TIME + phase)
        return np.asarray(np.clip(wave, -held, held) + dice.normal(0.0, 1e-4, len(TIME)))

    return take


def searched(
    take: Callable[[float], Array], most_v: float = 10.0, until: float = 0.012, start_v: float = 0.25,
    stands: float = 1e9,
) -> OnsetFigures:  # fmt: skip
    """The search, into a load that stands so many joules."""
    return search(
        take, start_v=start_v, most_v=most_v, until=until, rate_hz=RATE_HZ, hz=HZ, load_ohm=OHM,
        may_take=lambda watts, spent: "it is warm" if spent + 0.1 * watts > stands else "", seconds_each=0.1,
    )  # fmt: skip


@pytest.mark.parametrize(("limit", "phase"), crossed([14.0, 20.15, 27.3], [0.0, 0.3, 1.1], 3))
def test_a_hard_limit_is_found_where_it_is(limit: float, phase: float) -> None:
    result = searched(amplifier(limit, phase=phase))
    # Three samples of a hundred a period stand at a top: within 0.2 %.
    assert result.touch_v == pytest.approx(limit, rel=2e-3)
    assert abs(result.touch_v - limit) < 2.0 * result.u_touch_v
    assert result.gain == pytest.approx(GAIN, rel=1e-3)


def test_a_rail_with_ripple_is_touched_where_it_is_lowest() -> None:
    # A top of the tone comes just where the ripple is at its least.
    result = searched(amplifier(20.0, ripple=0.06, phase=math.pi / 2.0))
    assert result.touch_v == pytest.approx(20.0, rel=4e-3)


def test_a_rail_that_sags_with_the_signal_is_touched_where_both_meet() -> None:
    # limit - sag p = p at the touch: p = limit / (1 + sag).
    result = searched(amplifier(22.0, sag_per_v=0.1))
    assert result.touch_v == pytest.approx(22.0 / 1.1, rel=4e-3)


def test_it_goes_up_from_low_counts_what_goes_into_the_load_and_goes_little_beyond() -> None:
    result = searched(amplifier(20.0))
    levels = np.array(result.levels_v)
    assert np.all(np.diff(levels) > 0.0)
    onset = 20.0 / math.sqrt(2.0) / GAIN
    assert levels[0] == 0.25
    # 1.2 % distortion comes at some 9 % beyond the onset.
    assert levels[-1] < 1.15 * onset
    # Of a sine below its limit v^2/R; what is cut gives a little less than a sine of that size.
    least = sum(min(GAIN * v, 20.0 / math.sqrt(2.0)) ** 2 for v in levels) / OHM * 0.1
    most = sum((GAIN * v) ** 2 for v in levels) / OHM * 0.1
    assert least * 0.999 <= result.energy_j <= most * 1.001


def test_ten_per_cent_is_sought_further_up() -> None:
    near, far = searched(amplifier(20.0)), searched(amplifier(20.0), until=0.105)
    assert far.levels_v[-1] > 1.3 * near.levels_v[-1]
    assert "level_at_10pct_thd_rms_v" in far.figures
    assert "level_at_10pct_thd_rms_v" not in near.figures


def test_what_the_load_does_not_stand_is_not_given() -> None:
    with pytest.raises(InstrumentError, match="it is warm") as fault:
        searched(amplifier(20.0), stands=8.0)
    assert fault.value.kind is ErrorKind.BEYOND_LIMITS
    asked: list[float] = []
    take = amplifier(20.0)

    def noted(level: float) -> Array:
        asked.append(level)
        return np.asarray(take(level))

    with pytest.raises(InstrumentError):
        searched(noted, stands=8.0)
    # What went in by then, and the next that would have been too much.
    spent = sum((GAIN * v) ** 2 / OHM * 0.1 for v in asked)
    assert spent <= 8.0 * 1.001
    assert spent + (GAIN * asked[-1] * 1.06) ** 2 / OHM * 0.1 > 8.0


def test_no_clipping_below_the_most_that_the_generator_may_is_said() -> None:
    with pytest.raises(InstrumentError, match="found no clipping up to") as fault:
        searched(amplifier(200.0), most_v=1.0)
    assert fault.value.kind is ErrorKind.BEYOND_LIMITS


def test_no_tone_at_the_output_is_said() -> None:
    with pytest.raises(InstrumentError, match="found no tone of 1000 Hz"):
        searched(lambda _level: np.zeros(9600))


def test_tops_are_the_peak_of_a_sine_and_what_cuts_it() -> None:
    sine = 10.0 * np.sin(2.0 * np.pi * HZ * TIME + 0.2)
    assert tops_of(sine, 100.0).whole == pytest.approx(10.0, rel=2e-3)
    assert tops_of(np.clip(sine, -7.0, 7.0), 100.0).least == pytest.approx(7.0, rel=1e-3)
    assert tops_of(np.clip(sine, -7.0, 9.0), 100.0).least == pytest.approx(7.0, rel=0.15)
