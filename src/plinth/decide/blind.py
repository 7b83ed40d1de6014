"""A blind comparison: levels matched by reading, an order sealed until the end, the chance by guessing."""

import dataclasses
import hashlib
import math
import random
import secrets
from collections.abc import Sequence
from typing import Literal

# Levels further apart than this are heard as one being better (ITU-R BS.1116 asks for less; 0.1 dB is practice).
MATCHED_DB = 0.1
LEAST_TRIALS, MOST_TRIALS = 5, 50
# With fewer than this even a perfect round says little of a small difference.
FEW_TRIALS = 10
# What is taken as more than guessing.
UNLIKELY = 0.05
Answer = Literal["A", "B"]


class BlindError(ValueError):
    """Something that would spoil the comparison; one sentence with how to mend it."""


@dataclasses.dataclass(frozen=True)
class Levels:
    """Volts at 1 kHz of both, of each channel, read at the same place: ``first`` and ``second`` in the same order."""

    first: tuple[float, ...]
    second: tuple[float, ...]

    def __post_init__(self) -> None:
        if len(self.first) != len(self.second) or not self.first:
            raise BlindError("found levels of other channels on both sides, expected each channel of both")
        if min(*self.first, *self.second) <= 0.0:
            raise BlindError("found a level of nothing, expected volts above 0 at 1 kHz")

    @property
    def apart_db(self) -> float:
        """The largest difference of a channel between both, in decibels."""
        return max(abs(20.0 * math.log10(a / b)) for a, b in zip(self.first, self.second, strict=True))

    @property
    def matched(self) -> bool:
        """Whether no channel is further apart than can be heard as loudness; at the limit it is matched."""
        return self.apart_db <= MATCHED_DB * (1.0 + 1e-9)


@dataclasses.dataclass(frozen=True)
class SealedOrder:
    """What plays at each trial, drawn at random, and its seal: whoever kept the seal can tell that it was not changed.

    ``salt`` makes the seal of a short order impossible to look up.
    """

    order: tuple[Answer, ...]
    salt: str

    @property
    def seal(self) -> str:
        """SHA-256 of salt and order, shown before the first trial."""
        return hashlib.sha256(f"{self.salt}:{''.join(self.order)}".encode()).hexdigest()


def drawn_order(trials: int, source: random.Random | None = None) -> SealedOrder:
    """An order of A and B, each as likely at every trial. Raises BlindError for too few or too many."""
    if not LEAST_TRIALS <= trials <= MOST_TRIALS:
        raise BlindError(f"found {trials} trials, expected {LEAST_TRIALS} to {MOST_TRIALS}")
    chance = source or secrets.SystemRandom()
    return SealedOrder(tuple(chance.choice(("A", "B")) for _ in range(trials)), secrets.token_hex(16))


@dataclasses.dataclass(frozen=True)
class BlindOutcome:
    """What came of a comparison: ``right`` of ``answered`` trials, of ``planned`` ones."""

    right: int
    answered: int
    planned: int

    @property
    def by_guessing(self) -> float:
        """Chance that as many or more come right by guessing alone (exact binomial, p = 1/2)."""
        return chance_of_at_least(self.right, self.answered)

    @property
    def stopped_early(self) -> bool:
        """Whether it ended before what was planned, which lets one stop when it looks good."""
        return self.answered < self.planned

    @property
    def told_apart(self) -> bool:
        """Whether it is more than guessing would often give, in a round that went to its end."""
        return not self.stopped_early and self.answered > 0 and self.by_guessing <= UNLIKELY

    @property
    def needed(self) -> int:
        """How many right answers of those planned would be more than guessing often gives."""
        return next(
            right
            for right in range(self.planned + 2)
            if right > self.planned or chance_of_at_least(right, self.planned) <= UNLIKELY
        )

    @property
    def sentence(self) -> str:
        """The outcome in words, with what limits it."""
        if self.answered == 0:
            return "No trial was answered: nothing can be said."
        chance = 100.0 * self.by_guessing
        guessed = f"By guessing as many or more come right in {chance:.2g} % of such rounds."
        words = [f"{self.right} of {self.answered} right. {guessed}"]
        if self.stopped_early:
            words.append(
                f"It was stopped after {self.answered} of {self.planned}: stopping when it looks good spoils the "
                "chance, so this is no result. Do all of them, or begin anew."
            )
        elif self.told_apart:
            words.append("They were told apart.")
        else:
            words.append("They were not told apart; that does not say that they are alike.")
        if self.answered < FEW_TRIALS:
            words.append(f"{self.answered} trials are few: only a plain difference would show.")
        return " ".join(words)


def chance_of_at_least(right: int, trials: int) -> float:
    """Chance of at least ``right`` of ``trials`` by tossing a coin, exactly."""
    if right <= 0:
        return 1.0
    return sum(math.comb(trials, k) for k in range(right, trials + 1)) / 2.0**trials


def outcome_of(sealed: SealedOrder, answers: Sequence[Answer]) -> BlindOutcome:
    """What came of the answers so far. Raises BlindError where there are more of them than trials."""
    if len(answers) > len(sealed.order):
        raise BlindError(f"found {len(answers)} answers to {len(sealed.order)} trials")
    right = sum(answer == played for answer, played in zip(answers, sealed.order, strict=False))
    return BlindOutcome(right, len(answers), len(sealed.order))
