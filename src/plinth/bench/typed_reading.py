"""From what is typed at a test to a reading: understood in its unit, judged, and a slip asked about.

A slip is never corrected silently: what each usual one would mean is offered beside the reading as it was typed.
"""

import dataclasses
import datetime as dt
import math
import re
from collections.abc import Mapping, Sequence

from plinth.bench.sheet import Asked
from plinth.builds.instruments import BenchKit, Instrument
from plinth.judge.state import State
from plinth.judge.window import Window, judge_reading
from plinth.record.conditions import conditions_words
from plinth.record.reading import Reading
from plinth.units.bounds import Bound
from plinth.units.errors import QuantityError
from plinth.units.level import Form, TypedLevel, read_level
from plinth.units.shown import shown
from plinth.units.typed import read_quantity, understand_quantity

# A reading further outside its window than the window is wide, or than this share of it, is asked about.
FAR_SHARE = 0.25
# Below by so many times is asked about too, however wide the window is: a slip is by ten or by a thousand.
FAR_TIMES = 3.0
# How far from a window a slip may end and still be what was meant.
NEAR_SHARE = 0.10
# What an eye reads off a scope's screen besides volts: within this share, and overshoot within so many points;
# practice.
BY_EYE_SHARE, BY_EYE_POINTS = 0.05, 1.0
# Heard or seen: nothing, which is a reading.
NOTHING = frozenset({"none", "nothing", "nil", "silent", "silence"})
_BARE = re.compile(r"[<>≈~]?\s*[\d.,]+\s*(?:pp|p-p|p p|pk|pk-pk|rms|eff|ac|peak|p)?", re.IGNORECASE)
_AFTER = re.compile(r"(?P<value>.+?)\s*(?:at|@|after)\s*(?P<time>\d.*)$", re.IGNORECASE)


@dataclasses.dataclass(frozen=True)
class Meaning:
    """One way to take what was typed: where it is kept, its value in the unit asked for and the facts that go with it.

    ``slip`` what would have been mistaken; empty for the reading as typed.
    """

    asked: Asked
    value: float
    u: float | None
    bound: Bound
    state: State
    slip: str = ""
    form: Form | None = None
    facts: Mapping[str, float | str] = dataclasses.field(default_factory=dict)

    @property
    def words(self) -> str:
        """The value, and how it was taken."""
        form = "" if self.form is None else f" {self.form.words}"
        return f"{self.bound.sign}{shown(self.value, self.asked.unit)}{form}"


@dataclasses.dataclass(frozen=True)
class Understood:
    """``taken`` None: the question in ``sentence`` must be answered first, by one of ``choices``."""

    taken: Meaning | None
    choices: tuple[Meaning, ...]
    sentence: str


def understand(typed: str, asked: Asked, others: Sequence[Asked], kit: BenchKit, since_s: float = 0.0) -> Understood:
    """How a typed reading is taken, and whether to ask first. Raises QuantityError for what is no reading.

    ``others`` what else the sheet asks for: a reading may belong there. ``since_s`` how long a course has run.
    """
    as_typed = _as_typed(typed, asked, kit, since_s)
    beyond = asked.most is not None and _size(as_typed) > asked.most and as_typed.bound is not Bound.BELOW
    if as_typed.bound.one_sided or not (beyond or _far(as_typed)):
        return Understood(as_typed, (), "")
    slips = [one for one in _slips(typed, as_typed, others, kit) if _fits(one)]
    if not slips and not beyond:
        return Understood(as_typed, (), "")
    why = (
        f"more than there can be: {asked.most_words or shown(asked.most or 0.0, asked.unit)}"
        if beyond
        else f"far from the {_expected(asked)} expected"
    )
    question = "Which was it?" if slips else "Look at range, probe and place, and read it again; or keep it as it is."
    return Understood(None, (*slips, as_typed), f"{as_typed.words} is {why}. {question}")


def _as_typed(typed: str, asked: Asked, kit: BenchKit, since_s: float) -> Meaning:
    facts: dict[str, float | str] = {}
    form = None
    text = typed
    if asked.reads == "course":
        after = _AFTER.fullmatch(typed.strip())
        facts["since_s"] = since_s
        if after is not None:
            text = after["value"]
            facts["since_s"] = _time_s(after["time"])
    if asked.reads in ("level", "ripple"):
        if text.strip().lower() in NOTHING:
            raise QuantityError(f"found {text.strip()!r}, expected what the instrument shows, or a bound such as <0.1")
        level = _level(text, asked)
        own = _own_form(asked)
        form = level.form or own
        share = form.rms_per_unit / own.rms_per_unit
        value, bound, instrument_value = level.volts * share, level.bound, level.volts
        facts["form"] = str(form)
    else:
        if text.strip().lower() in NOTHING and asked.least == 0.0 and asked.unit in ("V", "A", "W"):
            text, facts["understood"] = "0", f"{text.strip()} taken as 0"
        found = understand_quantity(text, asked.unit, asked.bare_prefix)
        if found.overload:
            raise QuantityError(f"found {typed.strip()!r}, expected a value: choose a higher range")
        value, bound = found.value, found.bound
        if found.note:
            facts["understood"] = found.note
        if asked.reads == "magnitude":
            value = abs(value)
        instrument_value, share = value, 1.0
    if asked.least is not None and value < asked.least:
        how = "type it without a sign" if value < 0.0 <= -value - asked.least else "nothing here can be less"
        raise QuantityError(f"found {typed.strip()!r}, expected {shown(asked.least, asked.unit)} or more: {how}")
    instrument = None if asked.instrument is None else kit.of(asked.instrument)
    if form in (Form.PEAK, Form.PEAK_TO_PEAK):
        instrument = kit.scope
    u = asked.u_own if instrument is None else _u(instrument, asked.unit, instrument_value)
    if instrument is not None and instrument.floor and instrument.accuracy is not None:
        facts["meter_floor"] = instrument.floor * share
    facts["read_with"] = asked.instrument_name if instrument is None else instrument.name
    meaning = Meaning(asked, value, None if u is None else u * share, bound, State.UNKNOWN, form=form, facts=facts)
    return _judged(meaning)


def _own_form(asked: Asked) -> Form:
    return Form.PEAK_TO_PEAK if asked.reads == "ripple" else Form.RMS


def _level(text: str, asked: Asked) -> TypedLevel:
    """A level; where a bare number means millivolts, that is so with ``pp`` or ``rms`` behind it too."""
    level = read_level(text)
    if asked.bare_prefix == "m" and _BARE.fullmatch(text.strip()):
        return dataclasses.replace(level, volts=1e-3 * level.volts)
    return level


def _u(instrument: Instrument, unit: str, value: float) -> float | None:
    """Standard uncertainty; times, shares and frequencies on a scope's screen are read by eye."""
    if instrument.kind != "scope" or unit == "V":
        return instrument.u(value)
    bound = BY_EYE_POINTS if unit == "%" else BY_EYE_SHARE * abs(value)
    return bound / math.sqrt(3.0)


def _time_s(text: str) -> float:
    """A time as typed: ``12 min``, ``90 s``, ``1.5 h``; a bare number is minutes."""
    spoken = text.strip().lower()
    for ending, seconds in (("minutes", 60.0), ("min", 60.0), ("hours", 3600.0), ("h", 3600.0), ("m", 60.0)):
        if spoken.endswith(ending) and not spoken.endswith("ms"):
            return seconds * read_quantity(spoken.removesuffix(ending).strip(), "")
    if spoken[-1:].isdigit():
        return 60.0 * read_quantity(spoken, "")
    return read_quantity(spoken, "s")


def _judged(meaning: Meaning) -> Meaning:
    window = meaning.asked.window
    if window is None:
        return meaning
    return dataclasses.replace(meaning, state=judge_reading(meaning.value, meaning.u, window, meaning.bound).state)


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
    window = meaning.asked.window
    if window is None or meaning.bound.one_sided:
        return False
    return _outside(meaning.value, window) > _reach(window) or _times_below(abs(meaning.value), window) > FAR_TIMES


def _times_below(value: float, window: Window) -> float:
    """By which factor a value lies below its window; 1 inside and above, where a window's width tells already."""
    low = window.low or 0.0
    return max(low / value, 1.0) if low > 0.0 and value > 0.0 else 1.0


def _fits(meaning: Meaning) -> bool:
    """Whether a slip would bring the reading to where it is expected."""
    window = meaning.asked.window
    if window is None or (meaning.asked.most is not None and _size(meaning) > meaning.asked.most):
        return False
    edges = [abs(edge) for edge in (window.low, window.high) if edge is not None]
    return _outside(meaning.value, window) <= NEAR_SHARE * max(edges, default=0.0)


def _tells(window: Window | None) -> bool:
    """Whether a window is one that not every small reading lies in."""
    return window is not None and window.low is not None and window.low > 0.0


def _scaled(meaning: Meaning, factor: float, slip: str) -> Meaning:
    u = None if meaning.u is None else meaning.u * factor
    facts = {**meaning.facts, "slip": slip}
    return _judged(dataclasses.replace(meaning, value=meaning.value * factor, u=u, slip=slip, facts=facts))


def _slips(typed: str, as_typed: Meaning, others: Sequence[Asked], kit: BenchKit) -> list[Meaning]:
    found: list[Meaning] = []
    asked = as_typed.asked
    if asked.reads in ("level", "ripple"):
        level, own = _level(typed, asked), _own_form(asked)
        for form in Form:
            if form is as_typed.form:
                continue
            instrument = kit.meter if form is Form.RMS else kit.scope
            share = form.rms_per_unit / own.rms_per_unit
            u = instrument.u(level.volts)
            slip = form.words
            facts = {**as_typed.facts, "form": str(form), "slip": slip, "read_with": instrument.name}
            found.append(
                _judged(
                    dataclasses.replace(
                        as_typed, value=level.volts * share, u=None if u is None else u * share, slip=slip, form=form,
                        facts=facts,
                    )
                )
            )  # fmt: skip
    elif asked.unit in ("V", "A"):
        found += [
            _scaled(as_typed, 2.0**-0.5, "its peak, for rms"),
            _scaled(as_typed, 0.5, "twice it: both rails, or p-p for peak"),
        ]
    found += [
        _scaled(as_typed, 0.1, "a tenth: 10:1 probe or decimal point"),
        _scaled(as_typed, 10.0, "ten times: 10:1 probe or decimal point"),
        _scaled(as_typed, 1e-3, "in thousandths"),
        _scaled(as_typed, 1e3, "in thousands"),
    ]
    for other in others:
        if other.key != asked.key and (other.unit, other.reads) == (asked.unit, asked.reads) and _tells(other.window):
            there = dataclasses.replace(
                as_typed, asked=other, slip=f"read at: {other.title}", facts={**as_typed.facts, "slip": "another place"}
            )
            found.append(_judged(there))
    # What tells the same value of the same place is one choice.
    distinct: dict[tuple[str, str], Meaning] = {}
    for one in found:
        distinct.setdefault((one.asked.key, f"{one.value:.3g}"), one)
    return list(distinct.values())


def reading_of(meaning: Meaning, typed: str, at: dt.datetime, more: Mapping[str, float | str] | None = None) -> Reading:
    """The reading to keep."""
    asked, window = meaning.asked, meaning.asked.window
    facts = {**meaning.facts, **(more or {})}
    name = str(facts.pop("read_with", "")) or asked.instrument_name
    if asked.why_open:
        facts["why_open"] = asked.why_open
    return Reading(
        subject=asked.subject, label=asked.title, typed=" ".join(typed.split()), value=meaning.value, unit=asked.unit,
        u=meaning.u, instrument=name, taken_at=at, state=meaning.state,
        low=None if window is None else window.low, high=None if window is None else window.high, bound=meaning.bound,
        conditions=dict(asked.conditions), facts=facts,
    )  # fmt: skip


def sentence_of(reading: Reading) -> str:
    """What was said of a reading when it was taken, from what was kept of it."""
    said = []
    slip = reading.word("slip")
    if slip:
        said.append(f"Typed as {reading.typed}, taken on asking: {slip}.")
    since = reading.number("since_s")
    if since is not None:
        said.append(f"{since / 60.0:.0f} min after the start.")
    if reading.low is None and reading.high is None:
        why = reading.word("why_open")
        return " ".join([*said, f"{why[0].upper()}{why[1:]}." if why else ""]).strip()
    window = Window(reading.low, reading.high, reading.unit, "")
    verdict = judge_reading(reading.value, reading.u, window, reading.bound)
    return " ".join([*said, f"{verdict.words}: expected {window.words()}."])


def taken_words(reading: Reading) -> str:
    """With what, when, and under which conditions a reading was taken."""
    at = f"{reading.taken_at:%Y-%m-%d %H:%M}"
    under = conditions_words(reading.conditions)
    return f"Read with {reading.instrument or 'an instrument not named'}, {at}{f', {under}' if under else ''}."


def _expected(asked: Asked) -> str:
    return "value" if asked.window is None else asked.window.words()
