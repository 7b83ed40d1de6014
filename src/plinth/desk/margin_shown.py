"""A margin in a few words, and as a ruler shows it."""

from plinth.desk.ruler import RulerContent, scale_for
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.units.shown import shown, shown_with_spread, unit_sign


def margin_words(margin: Margin) -> str:
    """Value against limit, short: ``40.1 ±1.3 V of 50 V``; ``~`` marks what rests on an estimate."""
    if margin.figure is None:
        return margin.said or "not stated"
    estimated = "~ " if margin.figure.estimated else ""
    value = estimated + shown_with_spread(margin.figure.value, margin.figure.spread, margin.unit)
    if margin.limit is None:
        return f"{value}, no limit stated"
    against = "above" if margin.floor else "of"
    return f"{value} {against} {margin.limit:g} {unit_sign(margin.unit)}".strip()


def short_margin_words(margin: Margin) -> str:
    """The same where there is little room: ``40.1 of 50 V``."""
    if margin.figure is None or margin.limit is None:
        return margin_words(margin)
    estimated = "~ " if margin.figure.estimated else ""
    value = shown(margin.figure.value, margin.unit).removesuffix(unit_sign(margin.unit)).strip()
    limit = f"{margin.limit:.3g} {unit_sign(margin.unit)}".strip()
    return f"{estimated}{value} {'above' if margin.floor else 'of'} {limit}"


def ruler_content(margin: Margin) -> RulerContent:
    """A margin as a ruler shows it."""
    figure = margin.figure
    values = (margin.limit, figure.low if figure else None, figure.high if figure else None)
    # Several times the limit still fits; the band then stands at the far end.
    return RulerContent(
        scale=scale_for(*values),
        state=margin.state,
        sentence=(
            f"{margin.label}: {margin_words(margin)}, {margin.limit_words}. {margin.sentence} {margin.fix}".strip()
        ),
        band=(figure.low, figure.high) if figure is not None and margin.limit is not None else None,
        estimated=bool(figure and figure.estimated),
        limit=margin.limit,
        choice=bool(margin.said) and margin.state is not State.UNKNOWN,
    )
