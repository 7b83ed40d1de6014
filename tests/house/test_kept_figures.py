"""No figure changes unnoticed: where one is meant to, it is written anew and stands in the change for all to see."""

import math

import pytest

from tests.house.kept_figures import BUILDS, figures_of, kept
from tests.turns import in_turn


@pytest.mark.parametrize("name", in_turn(BUILDS, 2))
def test_every_figure_window_limit_outcome_and_cause_is_as_it_was(name: str) -> None:
    now, before = figures_of(BUILDS[name]), kept()[name]
    assert set(now) == set(before)
    changed = [
        f"{place}: {before[place]} -> {now[place]}"
        for place in now
        if len(now[place]) != len(before[place])
        # What is said is rounded to three digits.
        or any(
            not _alike(a, b, 1.2e-2 if "/says" in place else 2e-3)
            for a, b in zip(now[place], before[place], strict=True)
        )
    ]
    assert not changed, "meant? python -m tests.house.kept_figures writes them anew:\n" + "\n".join(changed)


def _alike(now: float | None, before: float | None, near: float) -> bool:
    if now is None or before is None:
        return now is before
    if math.isnan(before) or math.isinf(before):
        return str(now) == str(before)
    return math.isclose(now, before, rel_tol=near, abs_tol=1e-9)
