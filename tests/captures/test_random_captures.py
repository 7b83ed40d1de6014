"""Figures of captures with a known truth: the share whose truth lies within the stated spread."""

import collections
import functools
import sys

import numpy as np
import pytest

from plinth.captures.analysis import analyse_capture
from plinth.captures.figure import CaptureFigure
from plinth.captures.kinds.guess import guessed
from plinth.captures.options import Options
from tests.captures.made import KINDS, Made
from tests.turns import in_turn

# How many draws in the ordinary run, and names that a draw may lack (with their share of draws at most).
DRAWS = {
    "tone": 8, "intermodulation": 6, "rail": 20, "edge": 30, "levels": 3, "mains": 15, "switch_on": 10, "relay": 12,
    "sweep": 2,
}  # fmt: skip
MAY_LACK = {"bass": 0.1, "settle_1pct": 0.75, "_phase_deg": 0.2, "h": 0.2}


@functools.lru_cache(maxsize=32)
def drawn(kind: str, seed: int) -> tuple[Made, dict[str, CaptureFigure]]:
    made = KINDS[kind](np.random.default_rng([seed, 7]))
    taken_as = "mains" if kind == "switch_on" else kind
    analysis = analyse_capture(made.capture, taken_as, Options(**made.stated))  # type: ignore[arg-type]
    return made, {figure.name: figure for channel in analysis.channels for figure in channel.figures}


def within(kind: str, draws: int) -> tuple[float, dict[str, float], dict[str, float]]:
    """Share of all figures inside their spread, by name, and by name the share of draws that lack it."""
    inside: collections.Counter[str] = collections.Counter()
    given: collections.Counter[str] = collections.Counter()
    lacking: collections.Counter[str] = collections.Counter()
    for seed in range(draws):
        made, figures = drawn(kind, seed)
        for name, true in made.truth.items():
            if name not in figures:
                lacking[name] += 1
                continue
            off = figures[name].value - true
            if name.endswith("_deg"):
                off = (off + 180.0) % 360.0 - 180.0
            given[name] += 1
            inside[name] += abs(off) <= figures[name].spread
    total = sum(inside.values()) / sum(given.values())
    lacks = {name: lacking[name] / (lacking[name] + given[name]) for name in lacking}
    return total, {name: inside[name] / given[name] for name in given}, lacks


@pytest.mark.parametrize("kind", list(KINDS))
def test_the_truth_lies_within_the_spread(kind: str) -> None:
    total, by_name, lacks = within(kind, DRAWS[kind])
    sys.stdout.write(f"{kind}: {total:.3f} inside; {by_name}; lacking {lacks}\n")
    assert total >= 0.93
    for name, share in lacks.items():
        assert share <= max((most for part, most in MAY_LACK.items() if part in name), default=0.0), name


@pytest.mark.slow
@pytest.mark.parametrize("kind", list(KINDS))
def test_the_truth_lies_within_the_spread_500_times(kind: str) -> None:
    total, by_name, lacks = within(kind, 100 if kind in ("sweep", "levels") else 500)
    sys.stdout.write(f"{kind}: {total:.3f} inside; {by_name}; lacking {lacks}\n")
    assert total >= 0.945
    assert min(by_name.values()) >= 0.85


@pytest.mark.parametrize("kind", in_turn(KINDS, 3, offset=1))
def test_a_kind_is_seen_by_its_looks(kind: str) -> None:
    looks = [guessed(KINDS[kind](np.random.default_rng([seed, 7])).capture) for seed in range(2)]
    assert looks == ["mains" if kind == "switch_on" else kind] * 2


@pytest.mark.parametrize(
    ("kind", "name", "widest"),
    [
        # A spread that is wide enough for anything tells nothing: these are what such captures can tell.
        ("tone", "frequency_hz", 1e-7), ("tone", "rms", 1e-4), ("rail", "mean_v", 1e-3), ("rail", "ripple_hz", 1e-4),
        ("edge", "rise_10_90_s", 0.08), ("levels", "onset_rms_v", 0.02), ("levels", "level_at_10pct_thd_rms_v", 0.01),
        ("mains", "i_rms", 3e-3), ("mains", "pf", 5e-3), ("switch_on", "i2t_first_100ms_a2s", 0.01),
        ("relay", "muting_delay_s", 2e-3), ("sweep", "gain_1k_db", 1e-3),
    ],
)  # fmt: skip
def test_spreads_are_no_wider_than_the_record_asks(kind: str, name: str, widest: float) -> None:
    shares = []
    for seed in range(3):
        _, figures = drawn(kind, seed)
        shares.append(figures[name].spread / abs(figures[name].value))
    assert float(np.median(shares)) < widest
