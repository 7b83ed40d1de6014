"""What takes long is asked by turns in the ordinary run, each side of a crossing once; ``-m slow`` asks all of it."""

from collections.abc import Callable, Iterable
from typing import Any

import pytest


def in_turn(values: Iterable[Any], every: int, offset: int = 0, name: Callable[[Any], str] = str) -> list[Any]:
    """One of so many in the ordinary run, the others slow."""
    return [
        pytest.param(value, id=name(value), marks=() if k % every == offset else pytest.mark.slow)
        for k, value in enumerate(values)
    ]


def rows_in_turn(rows: Iterable[tuple[Any, ...]], every: int, offset: int = 0) -> list[Any]:
    """The same of rows of several values."""
    return [pytest.param(*row, marks=() if k % every == offset else pytest.mark.slow) for k, row in enumerate(rows)]


def crossed(
    rows: Iterable[Any], columns: Iterable[Any], every: int,
    row_name: Callable[[Any], str] = str, column_name: Callable[[Any], str] = str,
) -> list[Any]:  # fmt: skip
    """Every row with every column: along the diagonals one of so many in the ordinary run, the others slow."""
    across = list(columns)
    return [
        pytest.param(
            row, column, id=f"{row_name(row)}-{column_name(column)}",
            marks=() if (i + k) % every == 0 else pytest.mark.slow,
        )
        for i, row in enumerate(rows) for k, column in enumerate(across)
    ]  # fmt: skip
