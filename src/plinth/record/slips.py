"""A value far from what is expected: what each usual slip would mean, asked about and never corrected silently."""

import dataclasses
from collections.abc import Sequence

from plinth.builds.instruments import BenchKit, Role
from plinth.judge.window import Window
from plinth.record.meaning import Meaning, judged, level_of, meaning_of, own_form
from plinth.record.request import Request
from plinth.units.bounds import Bound
from plinth.units.level import Form
from plinth.units.shown import shown

# A reading further outside its window than the window is wide, or than this share of it, is asked about.
FAR_SHARE = 0.25
# Below by so many times is asked about too, however wide the window is: a slip is by ten or by a thousand.
FAR_TIMES = 3.0
# How far from a window a slip may end and still be what was meant.
NEAR_SHARE = 0.10


@dataclasses.dataclass(frozen=True)
class Understood:
    """``taken`` None: the question in ``sentence`` must be answered first, by one of ``choices``."""

    taken: Meaning | None
    choices: tuple[Meaning, ...]
    sentence: str


def understand(
    typed: str, request: Request, others: Sequence[Request], kit: BenchKit, since_s: float = 0.0
) -> Understood:
    """How a typed reading is taken, and whether to ask first. Raises QuantityError for what is no reading.

    ``others`` what else the sheet asks for: a reading may belong there. ``since_s`` how long a course has run.
    """
    as_typed = meaning_of(typed, request, kit, since_s)
    beyond = request.most is not None and _size(as_typed) > request.most and as_typed.bound is not Bound.BELOW
    if as_typed.bound.one_sided or not (beyond or _far(as_typed)):
        return Understood(as_typed, (), "")
    slips = [slip for slip in _slips(typed, as_typed, others, kit) if _fits(slip)]
    if not slips and not beyond:
        return Understood(as_typed, (), "")
    why = (
        f"more than there can be: {request.most_words or shown(request.most or 0.0, request.unit)}"
        if beyond
        else f"far from the {'value' if request.window is None else request.window.words()} expected"
    )
    question = "Which was it?" if slips else "Look at range, probe and place, and read it again; or keep it as it is."
    return Understood(None, (*slips, as_typed), f"{as_typed.words} is {why}. {question}")


def _size(meaning: Meaning) -> float:
    return abs(meaning.value)


def _outside(value: float, window: Window) -> float:
    below = 0.0 if window.low is None else window.low - value
    above = 0.0 if window.high is None else value - window.high
    return max(below, above, 0.0)


def _reach(window: Window) -> float:
    edges = [abs(edge) for edge in (window.low, window.high) if edge is not None]
    width = abs(window.high - window.low) if window.high is not None and window.low is not None else 0.0
    return max(width, FAR_SHARE * max(edges, default=0.0))


def _far(meaning: Meaning) -> bool:
    window = meaning.request.window
    if window is None or meaning.bound.one_sided:
        return False
    return _outside(meaning.value, window) > _reach(window) or _times_below(abs(meaning.value), window) > FAR_TIMES


def _times_below(value: float, window: Window) -> float:
    """By which factor a value lies below its window; 1 inside and above, where a window's width tells already."""
    low = window.low or 0.0
    return max(low / value, 1.0) if low > 0.0 and value > 0.0 else 1.0


def _fits(meaning: Meaning) -> bool:
    """Whether a slip would bring the reading to where it is expected."""
    window = meaning.request.window
    if window is None or (meaning.request.most is not None and _size(meaning) > meaning.request.most):
        return False
    edges = [abs(edge) for edge in (window.low, window.high) if edge is not None]
    return _outside(meaning.value, window) <= NEAR_SHARE * max(edges, default=0.0)


def _tells(window: Window | None) -> bool:
    """Whether a window is one that not every small reading lies in."""
    return window is not None and window.low is not None and window.low > 0.0


def _scaled(meaning: Meaning, factor: float, slip: str) -> Meaning:
    u = None if meaning.u is None else meaning.u * factor
    facts = {**meaning.facts, "slip": slip}
    return judged(dataclasses.replace(meaning, value=meaning.value * factor, u=u, slip=slip, facts=facts))


def _slips(typed: str, as_typed: Meaning, others: Sequence[Request], kit: BenchKit) -> list[Meaning]:
    meanings: list[Meaning] = []
    request = as_typed.request
    if request.form in ("level", "ripple"):
        level, own = level_of(typed, request), own_form(request)
        for form in Form:
            if form is as_typed.form:
                continue
            instrument = kit.of(Role.METER if form is Form.RMS else Role.SCOPE)
            share = form.rms_per_unit / own.rms_per_unit
            u = instrument.u(level.volts)
            slip = form.words
            facts = {**as_typed.facts, "form": str(form), "slip": slip}
            meanings.append(
                judged(
                    dataclasses.replace(
                        as_typed, value=level.volts * share, u=None if u is None else u * share, slip=slip, form=form,
                        facts=facts, instrument=instrument.name, instrument_id=instrument.identity,
                    )
                )
            )  # fmt: skip
    elif request.unit in ("V", "A"):
        meanings += [
            _scaled(as_typed, 2.0**-0.5, "its peak, for rms"),
            _scaled(as_typed, 0.5, "twice it: both rails, or p-p for peak"),
        ]
    meanings += [
        _scaled(as_typed, 0.1, "a tenth: 10:1 probe or decimal point"),
        _scaled(as_typed, 10.0, "ten times: 10:1 probe or decimal point"),
        _scaled(as_typed, 1e-3, "in thousandths"),
        _scaled(as_typed, 1e3, "in thousands"),
    ]
    for other in others:
        if (
            other.key != request.key
            and (other.unit, other.form) == (request.unit, request.form)
            and _tells(other.window)
        ):
            there = dataclasses.replace(
                as_typed,
                request=other,
                slip=f"read at: {other.title}",
                facts={**as_typed.facts, "slip": "another place"},
            )
            meanings.append(judged(there))
    # What tells the same value of the same place is one choice.
    distinct: dict[tuple[str, str], Meaning] = {}
    for meaning in meanings:
        distinct.setdefault((meaning.request.key, f"{meaning.value:.3g}"), meaning)
    return list(distinct.values())
