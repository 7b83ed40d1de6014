"""Builds beside each other: what differs first, parts and what is stated of them, then what each build becomes."""

import dataclasses
from collections.abc import Callable, Sequence

from plinth.builds.build import Build
from plinth.builds.fields import part_fields
from plinth.builds.listed import LISTED
from plinth.builds.parts import Part
from plinth.builds.properties import value_at
from plinth.builds.short_words import short_words
from plinth.builds.situation import Situation
from plinth.builds.stations import is_there, part_in, stations
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.shelf.bill import bill_of
from plinth.shelf.consequence import OF_THE_BENCH, tightest
from plinth.shelf.item import ShelfItem
from plinth.shelf.slots import WORDS
from plinth.units.shown import shown, shown_with_spread

NONE = "–"


@dataclasses.dataclass(frozen=True)
class Row:
    """``words`` what is compared, ``values`` one for each build; ``predicted`` for what is no choice but follows."""

    words: str
    values: tuple[str, ...]
    predicted: bool = False

    @property
    def differs(self) -> bool:
        """Whether the builds differ in it."""
        return len(set(self.values)) > 1


@dataclasses.dataclass(frozen=True)
class Compared:
    """``names`` of the builds; ``rows`` those that differ first, parts before what follows of them."""

    names: tuple[str, ...]
    rows: tuple[Row, ...]

    @property
    def differences(self) -> tuple[Row, ...]:
        """Only what differs."""
        return tuple(row for row in self.rows if row.differs)


def compare(
    builds: Sequence[tuple[str, Build, Situation]], items: Sequence[ShelfItem], go_on: Callable[[float], bool]
) -> Compared:
    """Compare builds, each in its own situation. Raises PhysicsError where ``go_on``, told the share done, says no."""
    predictions: list[Prediction | str] = []
    for k, (_, build, situation) in enumerate(builds):
        try:
            predictions.append(solve(build, situation.model_copy(update={"lamp_w": None})))
        except PhysicsError as error:
            predictions.append(f"cannot run: {error}"[:80])
        if not go_on((k + 1) / len(builds)):
            raise PhysicsError("it was stopped")
    rows = [*_parts([build for _, build, _ in builds]), *_becomes(builds, predictions, items)]
    return Compared(tuple(name for name, _, _ in builds), tuple(sorted(rows, key=lambda row: not row.differs)))


def stated_differences(first: Build, second: Build) -> tuple[tuple[str, str, str], ...]:
    """What is stated otherwise of the parts of two builds: the thing, and what it is in each."""
    rows = [row for row in _parts([first, second]) if row.differs]
    return tuple((row.words, row.values[0], row.values[1]) for row in rows)


def _parts(builds: Sequence[Build]) -> list[Row]:
    slots = dict.fromkeys(slot for build in builds for station in stations(build) for slot in station.slots)
    rows = [
        Row("channels", tuple(", ".join(build.channels) for build in builds)),
        Row("wiring of outputs", tuple(build.wiring for build in builds)),
    ]
    for slot in slots:
        has = [_has(build, slot) for build in builds]
        rows.append(
            Row(
                WORDS.get(slot, slot),
                tuple(short_words(part_in(b, slot)) if h else NONE for b, h in zip(builds, has, strict=True)),
            )
        )
        if all(has):
            rows += _stated(builds, slot)
    return [*rows, *_small(builds)]


def _small(builds: Sequence[Build]) -> list[Row]:
    """The small parts of any of them, each in a row."""
    named = [{part.identity: part for part in build.small_parts} for build in builds]
    every = dict.fromkeys(key for parts in named for key in parts)
    return [
        Row(f"small part {key}", tuple(parts[key].words if key in parts else NONE for parts in named)) for key in every
    ]


def _has(build: Build, slot: str) -> bool:
    return slot in {slot for place in stations(build) for slot in place.slots} and is_there(build, slot)


def _stated(builds: Sequence[Build], slot: str) -> list[Row]:
    """What is stated otherwise of a part of one kind."""
    parts = [part_in(build, slot) for build in builds]
    if len({type(part) for part in parts}) > 1:
        return []
    rows = []
    for field in part_fields(parts[0]):
        if field.path in ("name", "maker"):
            continue
        values = tuple(_text(_value(part, field.path), field.path, field.unit) for part in parts)
        if len(set(values)) > 1:
            rows.append(Row(f"{WORDS.get(slot, slot)}: {field.words.lower()}", values))
    return rows


def _value(part: Part, path: str) -> object:
    """The value of a field; None where what it belongs to is not there (the bias of a board that has none to set)."""
    head, _, _ = path.rpartition(".")
    return None if head and value_at(part, head) is None else value_at(part, path)


def _text(value: object, path: str, unit: str) -> str:
    if value is None:
        return "not stated"
    if path in LISTED:
        return LISTED[path][0](value) or NONE
    if isinstance(value, float) and unit:
        return shown(value, unit)
    return f"{value:g}" if isinstance(value, float) else str(value)


def _becomes(
    builds: Sequence[tuple[str, Build, Situation]], predictions: Sequence[Prediction | str], items: Sequence[ShelfItem]
) -> list[Row]:
    rows = []
    for name in ("rail_no_load_v", "clip_worst_power_w", "sink_c", "mains_power_w"):
        values = [_figure(prediction, name) for prediction in predictions]
        if any(value != NONE for value in values):
            label = next(
                prediction[name].label
                for prediction in predictions
                if isinstance(prediction, Prediction) and name in prediction.figures
            )
            rows.append(Row(label, tuple(values), predicted=True))
    judged = [_judged(prediction) for prediction in predictions]
    rows.append(Row("tightest margin", tuple(margin for margin, _ in judged), predicted=True))
    rows.append(Row("over its limit", tuple(over for _, over in judged), predicted=True))
    bills = [bill_of(build, items) for _, build, _ in builds]
    rows.append(Row("still to pay", tuple(f"{b.total:.2f}{' +' if b.unpriced else ''}" for b in bills), predicted=True))
    return rows


def _figure(prediction: Prediction | str, name: str) -> str:
    if isinstance(prediction, str):
        return prediction
    figure = prediction.get(name)
    return NONE if figure is None else shown_with_spread(figure.value, figure.spread, figure.unit)


def _judged(prediction: Prediction | str) -> tuple[str, str]:
    if isinstance(prediction, str):
        return NONE, NONE
    margins = tuple(margin for margin in judge(prediction) if margin.key not in OF_THE_BENCH)
    least = tightest(margins)
    over = ", ".join(margin.label.lower() for margin in margins if margin.state is State.OVER)
    return NONE if least is None else f"{least.label.lower()}, {least.state}", over or "nothing"
