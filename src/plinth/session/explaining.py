"""Where a figure comes from: its inputs, how each is known and since when, its model's limits, what would narrow it."""

import dataclasses
import math
from collections.abc import Callable, Sequence

from plinth.bench.coverage import Narrowing, narrows_most
from plinth.builds.build import Build
from plinth.predict.figure import Contribution, Figure
from plinth.predict.inputs import inputs_of
from plinth.predict.model_limits import limits_of
from plinth.predict.prediction import Prediction
from plinth.session.core import Core
from plinth.session.records import Records
from plinth.units.shown import shown

# Older ones than so many versions back are only said to be older.
VERSIONS_LOOKED_AT = 30
_SAME = 1e-9
# Further inputs move a figure by less than is shown of it.
PUT_IN = 5


@dataclasses.dataclass(frozen=True)
class InputKnown:
    """An input of a figure: ``known`` how and by what, ``since`` which version it has had this value."""

    row: Contribution
    known: str
    since: str


@dataclasses.dataclass(frozen=True)
class Explained:
    """A figure with what it rests on; ``narrowing`` the reading that would narrow it most, None where none would."""

    figure: Figure
    inputs: tuple[InputKnown, ...]
    limits: str
    narrowing: Narrowing | None

    @property
    def formula(self) -> str:
        """The formula, and what comes of it with the numbers that matter most put in."""
        rows = [known.row for known in self.inputs[:PUT_IN]]
        numbers = ", ".join(f"{row.label} {shown(row.value, row.unit)}" for row in rows)
        with_them = f"; with {numbers}" if numbers else ""
        return f"{self.figure.origin.formula}{with_them}: {shown(self.figure.value, self.figure.unit)}"


class Explaining:
    """Figures of the current build explained."""

    def __init__(self, core: Core, records: Records) -> None:
        self._core, self._records = core, records

    def explainer(self, prediction: Prediction) -> Callable[[str], Explained]:
        """What explains any figure of a prediction by its name; older versions are read once for all of them."""
        older = self._older_values(prediction)
        return lambda name: _explained(prediction, name, older)

    def explained(self, prediction: Prediction, name: str) -> Explained:
        """The figure of that name in a prediction. Raises KeyError where it has none."""
        return self.explainer(prediction)(name)

    def _older_values(self, prediction: Prediction) -> list[tuple[int, dict[str, float]]]:
        """Number and input values of the last versions, the newest first."""
        versions = [version for version in self._records.versions() if version.build is not None]
        return [
            (version.number, _values(version.build, prediction))
            for version in reversed(versions[-VERSIONS_LOOKED_AT:])
            if version.build is not None
        ]


def _explained(prediction: Prediction, name: str, older: Sequence[tuple[int, dict[str, float]]]) -> Explained:
    figure = prediction[name]
    rows = [
        InputKnown(row, _known_words(prediction, row), _since(prediction, row.key, older))
        for row in figure.contributions
    ]
    return Explained(figure, tuple(rows), limits_of(name), narrows_most(prediction, name))


def _values(build: Build, prediction: Prediction) -> dict[str, float]:
    return {key: quantity.value for key, quantity in inputs_of(build, prediction.situation).items()}


def _known_words(prediction: Prediction, row: Contribution) -> str:
    """``measured: the can itself``, ``not stated; usual for ...``, ``stated``."""
    quantity = prediction.inputs.get(row.key)
    words = "" if quantity is None else quantity.why
    return words or ("estimated" if row.estimated else "stated")


def _since(prediction: Prediction, key: str, older: Sequence[tuple[int, dict[str, float]]]) -> str:
    """``v2`` where an older version had another value; ``since v1`` is as it was begun."""
    quantity = prediction.inputs.get(key)
    if quantity is None or not older:
        return ""
    since = ""
    for number, values in older:
        value = values.get(key)
        if value is None or not math.isclose(value, quantity.value, rel_tol=_SAME, abs_tol=0.0):
            return since or "now"
        since = f"v{number}"
    return since
