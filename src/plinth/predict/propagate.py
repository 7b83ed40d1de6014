"""Carry input uncertainty to every figure: one-at-a-time differences, summed as squares (GUM 5.1.2)."""

import math
from collections.abc import Callable, Mapping

from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.figure import Contribution
from plinth.predict.input import Input

Compute = Callable[[Mapping[str, float]], Mapping[str, float]]


def contributions(compute: Compute, inputs: Mapping[str, Input]) -> dict[str, list[tuple[Input, float]]]:
    """For each figure that ``compute`` names, what one standard uncertainty of each input changes it by.

    ``compute`` takes input values by key and gives figures by name.
    """
    nominal = {key: quantity.value for key, quantity in inputs.items()}
    base = compute(nominal)
    shares: dict[str, list[tuple[Input, float]]] = {name: [] for name in base}
    for key, quantity in inputs.items():
        if quantity.u == 0.0:
            continue
        try:
            sign, moved = 1.0, compute({**nominal, key: quantity.value + quantity.u})
        except PhysicsError:
            # At the edge of what can run, the other side tells the slope as well.
            sign, moved = -1.0, compute({**nominal, key: quantity.value - quantity.u})
        for name, value in base.items():
            change = sign * (moved[name] - value)
            if change != 0.0 and math.isfinite(change):
                shares[name].append((quantity, change))
    return shares


def as_contributions(changes: list[tuple[Input, float]]) -> tuple[Contribution, ...]:
    """The changes as records, the largest first."""
    rows = [
        Contribution(i.label, i.value, i.unit, u_input=i.u, u_figure=change, estimated=i.estimated, key=i.key)
        for i, change in changes
    ]
    return tuple(sorted(rows, key=lambda row: -abs(row.u_figure)))


def combined(changes: list[tuple[Input, float]]) -> float:
    """Standard uncertainty: root of the sum of squares of independent contributions."""
    return math.sqrt(sum(change * change for _, change in changes))
