"""The blind comparison: chances against the exact distribution, levels at their limit, an order that stays sealed."""

import hashlib
import math
import random

import pytest
import scipy.stats

from plinth.decide.blind import (
    BlindError,
    BlindOutcome,
    Levels,
    SealedOrder,
    chance_of_at_least,
    drawn_order,
    outcome_of,
)


@pytest.mark.parametrize("trials", [5, 12, 16, 50])
def test_the_chance_by_guessing_is_the_binomials(trials: int) -> None:
    for right in range(trials + 1):
        expected = scipy.stats.binom.sf(right - 1, trials, 0.5)
        assert chance_of_at_least(right, trials) == pytest.approx(expected, rel=1e-12)


def test_worked_by_hand() -> None:
    # 9 of 12: (220 + 66 + 12 + 1) / 4096.
    assert chance_of_at_least(9, 12) == pytest.approx(299 / 4096)
    assert not BlindOutcome(9, 12, 12).told_apart
    # 10 of 12: 79 / 4096 = 1.9 %.
    assert BlindOutcome(10, 12, 12).told_apart
    assert BlindOutcome(0, 12, 12).needed == 10
    assert "1.9 %" in BlindOutcome(10, 12, 12).sentence
    assert "They were told apart" in BlindOutcome(10, 12, 12).sentence
    assert "not told apart; that does not say that they are alike" in BlindOutcome(9, 12, 12).sentence


def test_a_round_that_was_stopped_is_no_result_however_good_it_looks() -> None:
    early = BlindOutcome(7, 7, 12)
    assert early.by_guessing < 0.01
    assert not early.told_apart
    assert "stopped after 7 of 12" in early.sentence
    assert "7 trials are few" in early.sentence
    assert "few" not in BlindOutcome(9, 12, 12).sentence
    assert "nothing can be said" in BlindOutcome(0, 0, 12).sentence


def test_guessing_seldom_passes() -> None:
    source, passed = random.Random(3), 0
    for _ in range(2000):
        sealed = drawn_order(12, source)
        passed += outcome_of(sealed, [source.choice(("A", "B")) for _ in range(12)]).told_apart
    # 79 of 4096 rounds do.
    assert passed / 2000 == pytest.approx(79 / 4096, abs=0.008)


def test_levels_are_matched_to_a_tenth_of_a_decibel() -> None:
    at = 2.0 * math.pow(10.0, 0.1 / 20.0)
    assert Levels((2.0, 2.0), (at, 2.0)).matched
    assert Levels((2.0, 2.0), (at, 2.0)).apart_db == pytest.approx(0.1)
    assert not Levels((2.0, 2.0), (2.0, 2.0 * math.pow(10.0, 0.101 / 20.0))).matched
    with pytest.raises(BlindError, match="each channel of both"):
        Levels((2.0,), (2.0, 2.0))
    with pytest.raises(BlindError, match="volts above 0"):
        Levels((2.0,), (0.0,))


def test_the_order_is_random_and_its_seal_holds_it() -> None:
    sealed = drawn_order(16)
    assert set(sealed.order) <= {"A", "B"}
    assert sealed.seal == hashlib.sha256(f"{sealed.salt}:{''.join(sealed.order)}".encode()).hexdigest()
    other = SealedOrder((*sealed.order[:-1], "A" if sealed.order[-1] == "B" else "B"), sealed.salt)
    assert other.seal != sealed.seal
    counts = [drawn_order(50).order.count("A") for _ in range(200)]
    assert sum(counts) / 10_000 == pytest.approx(0.5, abs=0.03)
    assert outcome_of(sealed, sealed.order).right == 16
    for trials in (4, 51):
        with pytest.raises(BlindError, match="expected 5 to 50"):
            drawn_order(trials)
    with pytest.raises(BlindError, match="17 answers to 16 trials"):
        outcome_of(sealed, (*sealed.order, "A"))
