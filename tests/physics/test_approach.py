"""Where a reading comes to rest, from a few readings on the way: against closed forms and over simulated benches."""

import numpy as np
import pytest

from plinth.physics.numbers.approach import approach


def course(t: np.ndarray, end: float, start: float, tau: float) -> np.ndarray:
    return end + (start - end) * np.exp(-t / tau)


@pytest.mark.parametrize(("end", "start", "tau"), [(51.0, 21.0, 620.0), (0.035, 0.021, 400.0), (-0.004, 0.9, 3.0)])
def test_exact_readings_give_the_end_and_the_time(end: float, start: float, tau: float) -> None:
    t = np.linspace(0.0, 1.5 * tau, 9)
    u = 1e-4 * abs(end - start)
    found = approach(t, course(t, end, start, tau), u, 0.8 * tau, 1.6)
    assert found.end == pytest.approx(end, abs=3.0 * u + 3e-3 * abs(end - start))
    assert found.tau_s == pytest.approx(tau, rel=0.03)
    within = 0.02 * abs(end - start)
    # From the last reading: tau ln(off / within).
    off = abs(course(t[-1:], end, start, tau)[0] - end)
    assert found.left_s(within) == pytest.approx(tau * np.log(off / within), rel=0.05)
    assert found.slope_per_s == pytest.approx((end - course(t[-1:], end, start, tau)[0]) / tau, rel=0.05)


def test_two_readings_tell_as_much_as_the_known_time_constant_does() -> None:
    t = np.array([0.0, 300.0])
    y = course(t, 50.0, 20.0, 600.0)
    sure = approach(t, y, 0.1, 600.0, 1.02)
    unsure = approach(t, y, 0.1, 600.0, 1.6)
    assert sure.end == pytest.approx(50.0, abs=1.5)
    assert unsure.u_end > 4.0 * sure.u_end


def test_one_time_is_refused_with_a_sentence() -> None:
    with pytest.raises(ValueError, match="expected two"):
        approach(np.array([5.0, 5.0]), np.array([1.0, 2.0]), 0.1, 10.0, 1.5)


@pytest.mark.parametrize("count", [3, 5, 8])
def test_the_spread_holds_the_truth_in_95_of_100_benches(count: int) -> None:
    """Time constants off by their stated spread, meters by theirs."""
    dice = np.random.default_rng(11)
    inside = 0
    for _ in range(400):
        tau = 600.0 * np.exp(dice.normal() * np.log(1.4))
        end, start, u = 25.0 + 40.0 * dice.random(), 21.0, 0.4
        t = np.sort(dice.random(count)) * 1200.0 + np.arange(count)
        y = course(t, end, start, tau) + dice.normal(size=count) * u
        found = approach(t, y, u, 600.0, 1.4)
        inside += abs(found.end - end) <= 2.0 * found.u_end
    assert 0.90 <= inside / 400 <= 0.995
