"""Rules of the plain shape, a figure against one limit that a part states or that everybody knows: a row each."""

import dataclasses
from collections.abc import Callable

from plinth.builds.build import Build
from plinth.builds.properties import PartModel, doubt_words
from plinth.judge.making import make_margin
from plinth.judge.margin import Margin, state_against
from plinth.judge.state import State
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction

_MISSING = object()


@dataclasses.dataclass(frozen=True)
class LimitRow:
    """``figures`` whose worse one is judged, ``limit`` a number or where a build states it (``supply.rectifier.…``).

    ``scale`` what of the stated limit may be used; ``limit_words`` with ``{stated}`` in it, ``not_stated`` where nobody
    states it. ``close`` and ``unknown`` left out say what ``clear`` says. ``fix_unknown`` what to do where the limit
    is not stated; a figure near the ``assumed`` limit or past it warns all the same, with ``over_assumed``, one below
    stays unknown. The rule applies where the part is in the build, one of its figures is predicted (or it is
    ``unknown_without_figure``), and ``when`` holds.
    """

    key: str
    label: str
    station: str
    figures: tuple[str, ...]
    limit: float | str
    limit_words: str
    clear: str
    over: str
    fix: str
    close: str = ""
    unknown: str = ""
    fix_unknown: str = ""
    not_stated: str = "not stated"
    assumed: float | None = None
    over_assumed: str = ""
    scale: float = 1.0
    floor: bool = False
    unit: str = ""
    unknown_without_figure: bool = False
    when: Callable[[Build], bool] = lambda _build: True

    def __call__(self, build: Build, prediction: Prediction) -> Margin | None:
        """The margin of a build; None where the rule does not apply to it."""
        limit = self.limit if isinstance(self.limit, float) else _at(build, self.limit)
        figure = self._figure(prediction)
        if limit is _MISSING or not self.when(build) or (figure is None and not self.unknown_without_figure):
            return None
        stated = limit if isinstance(limit, float | int) else None
        doubt = "" if isinstance(self.limit, float) else _doubt(build, self.limit)
        words = (
            self.not_stated if stated is None else f"{self.limit_words.format(stated=stated, sign=_sign(build))}{doubt}"
        )
        texts = {State.CLEAR: self.clear, State.CLOSE: self.close, State.UNKNOWN: self.unknown, State.OVER: self.over}
        if stated is None and self.assumed is not None and figure is not None:
            against = state_against(figure, self.assumed, self.floor)
            if against in (State.OVER, State.CLOSE):
                stated, words = self.assumed, f"{self.limit_words.format(stated=self.assumed, sign='')} (assumed)"
                texts |= dict.fromkeys((State.OVER, State.CLOSE), f"{self.unknown} {self.over_assumed}")
        return make_margin(
            self.key,
            self.label,
            self.station,
            figure=figure,
            limit=None if stated is None else self.scale * stated,
            words=words,
            sentences=texts,
            fix=self.fix_unknown if None in (stated, figure) and self.fix_unknown else self.fix,
            floor=self.floor,
            unit=self.unit,
        )

    def _figure(self, prediction: Prediction) -> Figure | None:
        known_figures = [known for name in self.figures if (known := prediction.get(name)) is not None]
        pick = min if self.floor else max
        return pick(known_figures, key=lambda figure: figure.value) if known_figures else None


def _at(build: Build, path: str) -> object:
    """What a build states at a dotted place; ``_MISSING`` where it has no such part."""
    held: object = build
    for name in path.split("."):
        if held is None or held is _MISSING:
            return _MISSING
        held = getattr(held, name, _MISSING)
    return held


def _doubt(build: Build, path: str) -> str:
    """`` (assumed)`` where nobody stands for what a build states at a dotted place."""
    held: object = build
    part, field = None, ""
    for name in path.split("."):
        if isinstance(held, PartModel):
            part, field = held, name
        held = getattr(held, name, None)
    return "" if part is None or held is None else doubt_words(part, field)


def _sign(build: Build) -> str:
    return "" if build.supply.single_rail else "±"
