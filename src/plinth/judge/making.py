"""How a rule makes a margin."""

from collections.abc import Callable

from plinth.builds.build import Build
from plinth.builds.properties import PartModel, doubt_words
from plinth.judge.margin import Margin, state_against
from plinth.judge.state import State
from plinth.predict.figure import Figure, Origin
from plinth.predict.prediction import Prediction

# None where the rule does not apply to this kind of build.
Rule = Callable[[Build, Prediction], Margin | None]


def make_margin(
    key: str,
    label: str,
    station: str,
    figure: Figure | None,
    limit: float | None,
    words: str,
    sentences: dict[State, str],
    fix: str,
    *,
    unit: str = "",
    floor: bool = False,
    limit_of: tuple[PartModel, str] | None = None,
) -> Margin:
    """A margin of ``figure`` against ``limit``: its state, the sentence for that state, and what to change.

    ``limit_of`` the part and its field that the limit is: one that is only assumed is said to be.
    """
    state = state_against(figure, limit, floor)
    sentence = sentences.get(state) or sentences[State.CLEAR]
    return Margin(
        key=key,
        label=label,
        station=station,
        figure=figure,
        limit=limit,
        unit=figure.unit if figure else unit,
        floor=floor,
        limit_words=words if limit_of is None else f"{words}{doubt_words(*limit_of)}",
        state=state,
        sentence=sentence,
        fix="" if state is State.CLEAR else fix,
    )


def said_margin(
    key: str, label: str, station: str, state: State, said: str, words: str, sentence: str, fix: str
) -> Margin:
    """A margin of a thing that is one way or another, ``said`` as it is: no figure stands against a limit."""
    return Margin(
        key,
        label,
        station,
        figure=None,
        limit=None,
        unit="",
        floor=False,
        limit_words=words,
        state=state,
        sentence=sentence,
        fix=fix,
        said=said,
    )


def stated(name: str, label: str, value: float, unit: str, source: str) -> Figure:
    """A number that a part states, dressed as a figure so that it can be judged."""
    return Figure(name, label, value, unit, 0.0, Origin("as stated", source))
