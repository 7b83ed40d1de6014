"""The smallest changes that clear a limit: a property turned no further than needed, or a part of the shelf."""

import dataclasses
import math
from collections.abc import Callable, Iterator, Sequence

import pydantic

from plinth.builds.build import Build
from plinth.builds.fields import WORDS as FIELD_WORDS
from plinth.builds.fields import in_sentence, part_fields
from plinth.builds.parts import Part
from plinth.builds.properties import How, Told, value_at, with_told
from plinth.builds.short_words import short_words
from plinth.builds.stations import part_in, stations, with_part
from plinth.judge.making import said_margin
from plinth.judge.margin import Margin
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.prediction import Prediction
from plinth.predict.quick_estimate import WellKnown, glance
from plinth.predict.solve import solve
from plinth.shelf.fix_places import PLACES, Place
from plinth.shelf.item import ShelfItem
from plinth.shelf.slots import KINDS, WORDS, joined
from plinth.units.shown import shown

GoOn = Callable[[float], bool]
# A change beyond this is another build.
FURTHEST, FIRST = 8.0, 1.05
PARTS_EACH = 2
# What clears at a glance may only nearly clear in full: so far it is turned on, in so many steps.
_STEP, _FURTHER = 1.02, 8
_GONE_IS_CLEAR = {
    "wiring_said": ("Mains wiring", "Fuse, switch and earth are said."),
    "speech_only": ("For speech only", "It is meant for music, and judged for it."),
}
_RANK = {State.CLEAR: 0, State.CLOSE: 1, State.OVER: 2, State.UNKNOWN: 2}


@dataclasses.dataclass(frozen=True)
class Fix:
    """``part`` in ``slot``: one of the shelf (``item``), or the one that stands there with one property turned.

    ``margin`` as the limit then stands; ``watts`` at clip before and after; ``worse`` what is over then and was not.
    ``same`` whether it is the same thing, of which something else is then said; else another one.
    """

    slot: str
    part: Part
    words: str
    margin: Margin
    watts: tuple[float, float]
    worse: tuple[str, ...] = ()
    same: bool = False
    item: ShelfItem | None = None

    @property
    def cost(self) -> float | None:
        """What it costs: nothing for a thing in the drawer; None where nobody says."""
        if self.item is None:
            return None
        return 0.0 if self.item.stock.in_drawer else self.item.stock.each_at(1)

    @property
    def clears(self) -> bool:
        """Whether the limit is then clear, and not only near."""
        return self.margin.state is State.CLEAR


@dataclasses.dataclass(frozen=True)
class _Seen:
    margin: Margin
    over: frozenset[str]
    watts: float


def fixes(known: WellKnown, key: str, items: Sequence[ShelfItem], go_on: GoOn = lambda _: True) -> list[Fix]:
    """Ways to clear the limit of that key, the smallest change first; empty where none was found.

    ``go_on`` is told the share done and ends the search where it says no.
    """
    build = known.prediction.build
    before = _seen_of(known.prediction, key)
    if before is None or before.margin.state is State.CLEAR:
        return []
    slots = {slot for station in stations(build) for slot in station.slots}
    places = [place for place in PLACES.get(key, ()) if place.slot in slots]
    offered: list[Fix] = []
    for k, place in enumerate(places):
        offered += _turned(known, key, place, before)
        if not go_on(0.4 * (k + 1) / len(places)):
            return _in_order(offered)
    candidates = [
        (slot, item) for slot in dict.fromkeys(place.slot for place in places) for item in _others(build, slot, items)
    ]
    for k, (slot, item) in enumerate(candidates):
        fix = _exchanged(known, key, slot, item, before)
        offered += [] if fix is None else [fix]
        if not go_on(0.4 + 0.5 * (k + 1) / len(candidates)):
            return _in_order(offered)
    shown_first = _in_order(offered)
    held = []
    for k, fix in enumerate(shown_first):
        seen = _seen_in_full(known, key, fix)
        held += [] if seen is None else [seen]
        if not go_on(0.9 + 0.1 * (k + 1) / len(shown_first)):
            return _in_order([*held, *shown_first[k + 1 :]])
    return _in_order(held)


def _seen_in_full(known: WellKnown, key: str, fix: Fix) -> Fix | None:
    """A part of the shelf that was found at a glance, as it stands in full; a turned value was seen so already."""
    if fix.item is None:
        return fix
    tried = joined(known.prediction.build, fix.slot, fix.item.part)
    before = _seen_of(known.prediction, key)
    then = None if isinstance(tried, str) else solved_in_full(known, tried, key)
    if before is None or then is None or not _better(then, before):
        return None
    return dataclasses.replace(
        fix, margin=then.margin, watts=(before.watts, then.watts), worse=tuple(sorted(then.over - before.over))
    )


def _seen_of(prediction: Prediction, key: str) -> _Seen | None:
    margins = judge(prediction)
    margin = next((margin for margin in margins if margin.key == key), None)
    if margin is None:
        return None
    over = frozenset(margin.label for margin in margins if margin.state is State.OVER and margin.key != key)
    return _Seen(margin, over, prediction["clip_worst_power_w"].value)


def _seen(known: WellKnown, build: Build, key: str) -> _Seen | None:
    """How the limit stands in another build; None where it cannot run or has no such limit any more."""
    try:
        prediction = glance(build, known)
    except PhysicsError:
        return None
    return _gone_or(prediction, _seen_of(prediction, key), key)


def _gone_or(prediction: Prediction, seen: _Seen | None, key: str) -> _Seen | None:
    if seen is None and key in _GONE_IS_CLEAR:
        # These are only there to say what is missing, or what it is meant for.
        label, sentence = _GONE_IS_CLEAR[key]
        said = said_margin(key, label, "rails", state=State.CLEAR, said="said", words="", sentence=sentence, fix="")
        over = frozenset(margin.label for margin in judge(prediction) if margin.state is State.OVER)
        return _Seen(said, over, prediction["clip_worst_power_w"].value)
    return seen


def _better(then: _Seen | None, before: _Seen) -> bool:
    return then is not None and _RANK[then.margin.state] < _RANK[before.margin.state]


def _turned(known: WellKnown, key: str, place: Place, before: _Seen) -> list[Fix]:
    build = known.prediction.build
    if place.way == "set":
        return [remedy for word in place.words if (remedy := _set(known, key, place, word, before)) is not None]
    part = part_in(build, place.slot)
    now = value_at(part, place.path)
    if not isinstance(now, int | float) or isinstance(now, bool) or now == 0.0:
        return []
    sign = 1.0 if place.way == "up" else -1.0

    def tried(factor: float) -> tuple[Part, _Seen] | None:
        changed = _with_value(part, place.path, type(now)(_neat(now * factor**sign, sign)), key)
        if changed is None:
            return None
        try:
            then = _seen(known, with_part(build, place.slot, changed, changed=True), key)
        except pydantic.ValidationError:
            return None
        return None if then is None else (changed, then)

    clear = _least(tried, before)
    if clear is None:
        return []
    changed, then = clear
    clear = _held(known, key, place, sign, changed, then)
    if clear is None:
        return []
    changed, then = clear
    unit = next(field.unit for field in part_fields(part) if field.path == place.path)
    became = value_at(changed, place.path)
    turned = f"{_said(now, unit)} → {_said(became, unit)}"
    # A load of other ohms is another load, a rating that is higher stands on another part: nobody turns those.
    other = changed.model_copy(update={"name": f"Like {part.name}"[:120], "key": ""})
    words = f"Like {part.name}, {in_sentence(FIELD_WORDS[place.path])} {turned}"
    return [_fix(place.slot, other, words, then, before)]


def _held(
    known: WellKnown, key: str, place: Place, sign: float, changed: Part, then: _Seen
) -> tuple[Part, _Seen] | None:
    """A value found at a glance, seen in full: a step further as long as it only nearly clears there."""
    build, glanced = known.prediction.build, then.margin.state
    for step in range(_FURTHER):
        in_full = solved_in_full(known, with_part(build, place.slot, changed, changed=True), key)
        if in_full is None:
            return None
        if in_full.margin.state is State.CLEAR or glanced is not State.CLEAR or step == _FURTHER - 1:
            return changed, in_full
        now = value_at(changed, place.path)
        further = _with_value(changed, place.path, type(now)(_neat(now * _STEP**sign, sign)), key)
        if further is None or value_at(further, place.path) == now:
            return changed, in_full
        changed = further
    return None


def solved_in_full(known: WellKnown, build: Build, key: str) -> _Seen | None:
    """As ``_seen``, predicted in full."""
    try:
        prediction = solve(build, known.prediction.situation)
    except PhysicsError:
        return None
    return _gone_or(prediction, _seen_of(prediction, key), key)


def _least(tried: Callable[[float], tuple[Part, _Seen] | None], before: _Seen) -> tuple[Part, _Seen] | None:
    """The smallest factor that clears it; where nothing does, the smallest that brings it from over to close."""
    factor, last, best = FIRST, 1.0, None
    while factor <= FURTHEST:
        seen = tried(factor)
        if seen is not None and seen[1].margin.state is State.CLEAR:
            low, high, clear = last, factor, seen
            while high / low > 1.02:
                middle = math.sqrt(low * high)
                between = tried(middle)
                if between is not None and between[1].margin.state is State.CLEAR:
                    high, clear = middle, between
                else:
                    low = middle
            return clear
        if best is None and seen is not None and _better(seen[1], before):
            best = seen
        last, factor = factor, factor**1.6 if factor < 1.5 else factor * 1.5
    return best


def _neat(value: float, sign: float) -> float:
    """Rounded on to three digits, away from where it came."""
    if value == 0.0:
        return value
    step = 10.0 ** (math.floor(math.log10(abs(value))) - 2)
    return (math.ceil if sign > 0 else math.floor)(round(value / step, 6)) * step


def _said(value: object, unit: str) -> str:
    return shown(float(value), unit) if isinstance(value, int | float) and unit else f"{value}"


def _with_value(part: Part, path: str, value: object, key: str) -> Part | None:
    try:
        if isinstance(value, float | str):
            source = f"wanted: {key.replace('_', ' ')}"
            return with_told(_without(part, path), Told(field=path, how=How.ASSUMED, value=value, source=source))
        return type(part).model_validate(part.model_dump() | {path: value})
    except pydantic.ValidationError:
        return None


def _without(part: Part, path: str) -> Part:
    """What was told of a property does not outrank what is tried."""
    return part.model_copy(update={"told": tuple(fact for fact in part.told if fact.field != path), path: None})


def _set(known: WellKnown, key: str, place: Place, word: str, before: _Seen) -> Fix | None:
    build = known.prediction.build
    part = part_in(build, place.slot)
    now = value_at(part, place.path)
    value = float(word) if isinstance(now, float) else word
    changed = type(part).model_validate(_without(part, place.path).model_dump() | {place.path: value})
    then = _seen(known, with_part(build, place.slot, changed, changed=True), key)
    if then is None or not _better(then, before):
        return None
    words = (
        f"{FIELD_WORDS[place.path]}: {now:g} V → {word} V"
        if isinstance(now, float)
        else (f"{FIELD_WORDS[place.path]}: {now or 'not said'} → {word}")
    )
    return dataclasses.replace(_fix(place.slot, changed, words, then, before), same=True)


def _others(build: Build, slot: str, items: Sequence[ShelfItem]) -> Iterator[ShelfItem]:
    if slot not in KINDS:
        return
    here = part_in(build, slot)
    for item in items:
        if type(item.part) in KINDS[slot] and item.part.identity != here.identity and not item.stock.hidden:
            yield item


def _exchanged(known: WellKnown, key: str, slot: str, item: ShelfItem, before: _Seen) -> Fix | None:
    build = known.prediction.build
    tried = joined(build, slot, item.part)
    if isinstance(tried, str):
        return None
    then = _seen(known, tried, key)
    if then is None or not _better(then, before):
        return None
    words = f"{WORDS[slot].capitalize()}: {short_words(item.part)}"
    return dataclasses.replace(_fix(slot, item.part, words, then, before), item=item)


def _fix(slot: str, part: Part, words: str, then: _Seen, before: _Seen) -> Fix:
    return Fix(slot, part, words, then.margin, (before.watts, then.watts), tuple(sorted(then.over - before.over)))


def _in_order(offered: list[Fix]) -> list[Fix]:
    """What clears it and harms nothing first, then what changes the power least, then what costs least."""

    def change(fix: Fix) -> tuple[object, ...]:
        moved = abs(math.log(max(fix.watts[1], 1e-9) / max(fix.watts[0], 1e-9)))
        cost = math.inf if fix.cost is None else fix.cost
        return (not fix.clears, len(fix.worse), round(moved, 2), cost)

    values = [fix for fix in offered if fix.item is None]
    parts: dict[str, list[Fix]] = {}
    for remedy in sorted((fix for fix in offered if fix.item is not None), key=change):
        kept = parts.setdefault(remedy.slot, [])
        if len(kept) < PARTS_EACH:
            kept.append(remedy)
    return sorted([*values, *(fix for kept in parts.values() for fix in kept)], key=change)
