"""Another capture beside the one shown: its curves in the pale line, figures with their difference."""

import dataclasses

from plinth.captures.comparison import FigureDifference
from plinth.captures.figure_words import OF_ANY, value_words
from plinth.captures.words import label_of, shown_unit
from plinth.drawing.series import Series
from plinth.session.capture_pictures import Picture
from plinth.units.shown import shown_with_spread

HEADS = ("", "Figure", "Difference", "", "This", "Beside")


def difference_rows(differences: tuple[FigureDifference, ...]) -> list[tuple[str, ...]]:
    """Channel, figure, difference with spread, word, its value, the other's: a row each; phases are left out."""
    many = len({row.channel for row in differences}) > 1
    return [
        (
            row.channel if many else "", label_of(row.first.name),
            shown_with_spread(row.difference, row.spread, shown_unit(row.first.name, row.first.unit)), row.word,
            value_words(row.first), value_words(row.second),
        )
        for row in sorted(differences, key=lambda row: row.first.name in OF_ANY)
        if row.first.unit != "deg"
    ]  # fmt: skip


def with_beside(pictures: tuple[Picture, ...], others: tuple[tuple[str, tuple[Picture, ...]], ...]) -> tuple[
    Picture, ...
]:  # fmt: skip
    """The pictures with the curves of others (name and pictures) of the same title behind them, in the pale line.

    Waves lie from the beginning of what is shown of each; other curves at their own places.
    """
    return tuple(_laid(picture, others) for picture in pictures)


def _laid(picture: Picture, others: tuple[tuple[str, tuple[Picture, ...]], ...]) -> Picture:
    behind: list[Series] = []
    low, high = picture.y
    for name, theirs in others:
        same = next((other for other in theirs if other.what is picture.what), None)
        if same is None or same.x_unit != picture.x_unit:
            continue
        shift = picture.x[0] - same.x[0] if picture.x_unit == "s" else 0.0
        low, high = min(low, same.y[0]), max(high, same.y[1])
        # Of several channels the output, which comes first.
        series = same.series[0] if same.series[0].name != "predicted" else same.series[1]
        behind.append(
            dataclasses.replace(
                series, name=f"{series.name} of {name}", role="ink2", x=series.x + shift, label=name, label_at="above",
                wide=False, discs=False,
            )
        )  # fmt: skip
    return dataclasses.replace(picture, series=(*behind, *picture.series), y=(low, high)) if behind else picture
