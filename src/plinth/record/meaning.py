"""From a typed or given value to what it means as an answer to a request: understood, with its uncertainty, judged.

One way for every reading, whoever asks for it and whoever gives it.
"""

import dataclasses
import datetime as dt
import math
import re
from collections.abc import Mapping

from plinth.builds.instruments import BenchKit, Instrument, Role
from plinth.judge.state import State
from plinth.judge.unit_question import hold_to_unit
from plinth.judge.window import judge_reading
from plinth.physics.mains.lamp import glow, seen_k
from plinth.record.origin import ReadingOrigin
from plinth.record.reading import Reading
from plinth.record.request import Request
from plinth.units.bounds import Bound
from plinth.units.errors import QuantityError
from plinth.units.level import Form, TypedLevel, read_level
from plinth.units.shown import shown
from plinth.units.typed import Quantity, read_quantity, understand_quantity

# What an eye reads off a scope's screen besides volts: within this share, and overshoot within so many points;
# practice.
BY_EYE_SHARE, BY_EYE_POINTS = 0.05, 1.0
# An eye says what a filament looks like to some two hundred kelvin (as a +- bound).
EYE_K = 350.0
# The least top range that ohmmeters have: what an overload says at the least, on the highest range.
OVERLOAD_OHM = 2e6
# Heard or seen: nothing, which is a reading.
NOTHING = frozenset({"none", "nothing", "nil", "silent", "silence"})
_BARE = re.compile(r"[<>≈~]?\s*[\d.,]+\s*(?:pp|p-p|p p|pk|pk-pk|rms|eff|ac|peak|p)?", re.IGNORECASE)
_AFTER = re.compile(r"(?P<value>.+?)\s*(?:at|@|after)\s*(?P<time>\d.*)$", re.IGNORECASE)
_PEAK_TO_PEAK = re.compile(r"\s*p-?p\s*$", re.IGNORECASE)


@dataclasses.dataclass(frozen=True)
class Meaning:
    """One way to take a value: the request that it answers, it in the unit asked for, and the facts that go with it.

    ``instrument`` what it was read with, ``instrument_id`` the very one; ``slip`` what would have been mistaken, empty
    for the value as given.
    """

    request: Request
    value: float
    u: float | None
    bound: Bound
    state: State
    instrument: str
    instrument_id: str = ""
    slip: str = ""
    form: Form | None = None
    facts: Mapping[str, float | str] = dataclasses.field(default_factory=dict)

    @property
    def words(self) -> str:
        """The value, and how it was taken."""
        form = "" if self.form is None else f" {self.form.words}"
        return f"{self.bound.sign}{shown(self.value, self.request.unit)}{form}"


def meaning_of(typed: str, request: Request, kit: BenchKit, since_s: float = 0.0) -> Meaning:
    """What a value means as it stands. Raises QuantityError for what is no reading.

    AmbiguousError, with what to type instead, where its unit is not told and matters. ``since_s`` how long a course has
    run.
    """
    facts: dict[str, float | str] = {}
    text = typed
    if request.form == "course":
        after = _AFTER.fullmatch(typed.strip())
        facts["since_s"] = since_s
        if after is not None:
            text = after["value"]
            facts["since_s"] = _time_s(after["time"])
    if request.form in ("level", "ripple"):
        meaning = _of_level(text, request, kit, facts)
    elif request.form == "glow":
        meaning = _of_glow(text, request)
    else:
        meaning = _of_quantity(text, typed, request, kit, facts)
    if request.least is not None and meaning.value < request.least:
        how = "type it without a sign" if meaning.value < 0.0 <= -meaning.value - request.least else (
            "nothing here can be less"
        )  # fmt: skip
        raise QuantityError(
            f"found {typed.strip()!r}, expected {shown(request.least, request.unit)} or more: {how}"
        )  # fmt: skip
    return judged(meaning)


def _of_level(text: str, request: Request, kit: BenchKit, facts: dict[str, float | str]) -> Meaning:
    if text.strip().lower() in NOTHING:
        raise QuantityError(f"found {text.strip()!r}, expected what the instrument shows, or a bound such as <0.1")
    level, own = level_of(text, request), own_form(request)
    form = level.form or own
    share = form.rms_per_unit / own.rms_per_unit
    instrument = kit.of(Role.SCOPE) if form in (Form.PEAK, Form.PEAK_TO_PEAK) else kit.of(request.role)
    facts["form"] = str(form)
    return _read_with(instrument, request, level.volts, share=share, bound=level.bound, facts=facts, form=form)


def _of_quantity(
    text: str, typed: str, request: Request, kit: BenchKit, facts: dict[str, float | str]
) -> Meaning:  # fmt: skip
    if text.strip().lower() in NOTHING and request.least == 0.0 and request.unit in ("V", "A", "W"):
        text, facts["understood"] = "0", f"{text.strip()} taken as 0"
    if request.form == "swing":
        # Peak to peak is what is asked for, and may be said.
        text = _PEAK_TO_PEAK.sub("", text)
    quantity = understand_quantity(text, request.unit, request.bare_prefix)
    if quantity.overload:
        quantity = _of_overload(quantity, typed, request)
    elif request.doubts_unit and request.window is not None:
        hold_to_unit(quantity, text, request.unit, request.bare_prefix, request.wide or request.window, request.most)
    if quantity.note:
        facts["understood"] = quantity.note
    value = abs(quantity.value) if request.form == "magnitude" else quantity.value
    meaning = _read_with(kit.of(request.role), request, value, 1.0, quantity.bound, facts)
    return dataclasses.replace(meaning, u=None) if quantity.overload and quantity.bound is Bound.ABOVE else meaning


def _of_overload(quantity: Quantity, typed: str, request: Request) -> Quantity:
    if request.form != "resistance":
        raise QuantityError(f"found {typed.strip()!r}, expected a value: choose a higher range of the meter")
    return dataclasses.replace(
        quantity, value=OVERLOAD_OHM,
        note=f"taken as above {shown(OVERLOAD_OHM, 'ohm', 2)}, the least top range of usual meters; on its highest "
        "range only",
    )  # fmt: skip


def _of_glow(text: str, request: Request) -> Meaning:
    """A filament, as an eye says what it sees."""
    t_k = seen_k(text)
    if t_k is None:
        raise QuantityError(
            f"found {text.strip()[:40]!r}, expected what the eye sees: dark, red, orange, yellow, white or bright"
        )
    facts = {"understood": f"{glow(t_k)}, taken as about {shown(t_k, 'K')}"}
    return Meaning(request, t_k, EYE_K / math.sqrt(3.0), Bound.NONE, State.UNKNOWN, "the eye", facts=facts)


def _read_with(
    instrument: Instrument, request: Request, value: float, share: float, bound: Bound,
    facts: Mapping[str, float | str], form: Form | None = None,
) -> Meaning:  # fmt: skip
    """``value`` as the instrument shows it, of which ``share`` is what is asked for."""
    stated = _in_unit(instrument, request.unit)
    u = _u(stated, request.unit, value) if request.u_own is None else request.u_own
    fixed = 0.0 if stated.accuracy is None else stated.fixed(value)
    floor: dict[str, float | str] = {"meter_floor": fixed * share} if fixed else {}
    return Meaning(
        request,
        value * share,
        None if u is None else u * share,
        bound=bound,
        state=State.UNKNOWN,
        instrument=instrument.name,
        instrument_id=instrument.identity,
        form=form,
        facts={**facts, **floor},
    )


def _in_unit(instrument: Instrument, unit: str) -> Instrument:
    """What is stated of it in a unit: a meter's millivolts tell nothing of its farads, nor last watts of its volts."""
    if unit == instrument.role.unit:
        return instrument
    return instrument.model_copy(update={"floor": 0.0, "digits": 0.0, "ranges": ()})


def _u(instrument: Instrument, unit: str, value: float) -> float | None:
    """Standard uncertainty; times, shares and frequencies on a scope's screen are read by eye."""
    if instrument.role is not Role.SCOPE or unit == "V":
        return instrument.u(value)
    bound = BY_EYE_POINTS if unit == "%" else BY_EYE_SHARE * abs(value)
    return bound / math.sqrt(3.0)


def own_form(request: Request) -> Form:
    """The form in which a level is kept."""
    return Form.PEAK_TO_PEAK if request.form == "ripple" else Form.RMS


def level_of(text: str, request: Request) -> TypedLevel:
    """A level; where a bare number means millivolts, that is so with ``pp`` or ``rms`` behind it too."""
    level = read_level(text)
    if request.bare_prefix == "m" and _BARE.fullmatch(text.strip()):
        return dataclasses.replace(level, volts=1e-3 * level.volts)
    return level


def _time_s(text: str) -> float:
    """A time as typed: ``12 min``, ``90 s``, ``1.5 h``; a bare number is minutes."""
    spoken = text.strip().lower()
    for ending, seconds in (("minutes", 60.0), ("min", 60.0), ("hours", 3600.0), ("h", 3600.0), ("m", 60.0)):
        if spoken.endswith(ending) and not spoken.endswith("ms"):
            return seconds * read_quantity(spoken.removesuffix(ending).strip(), "")
    if spoken[-1:].isdigit():
        return 60.0 * read_quantity(spoken, "")
    return read_quantity(spoken, "s")


def judged(meaning: Meaning) -> Meaning:
    """With the state that its window gives it; unknown where there is none."""
    window = meaning.request.window
    if window is None:
        return meaning
    return dataclasses.replace(meaning, state=judge_reading(meaning.value, meaning.u, window, meaning.bound).state)


def reading_of(meaning: Meaning, typed: str, at: dt.datetime, more: Mapping[str, float | str] | None = None) -> Reading:
    """The reading to keep, with the facts of ``more``."""
    request, window = meaning.request, meaning.request.window
    why_open: dict[str, float | str] = {"why_open": request.why_open} if request.why_open else {}
    return Reading(
        subject=request.subject, label=request.full_title, typed=" ".join(typed.split()), value=meaning.value,
        unit=request.unit, u=meaning.u, instrument=meaning.instrument, taken_at=at, state=meaning.state,
        low=None if window is None else window.low, high=None if window is None else window.high, bound=meaning.bound,
        conditions=dict(request.conditions), facts={**meaning.facts, **(more or {}), **why_open},
        origin=ReadingOrigin(instrument_id=meaning.instrument_id),
    )  # fmt: skip
