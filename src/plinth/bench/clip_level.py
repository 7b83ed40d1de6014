"""A level typed in a cell of the clipping table: the form it is meant in, and the watts that it puts into the load."""

import dataclasses
import math

from plinth.bench import onset_read
from plinth.bench.clip_cell import ClipCell, claim_of
from plinth.bench.clip_verdict import claim_facts
from plinth.bench.clipping import expected_band, judge_clipping, most_v_peak_read, request_for
from plinth.builds.instruments import BenchKit, Role
from plinth.judge.state import State
from plinth.judge.window import ABOUT_SHARE
from plinth.physics.stages import levels
from plinth.predict.input import from_tolerance
from plinth.record.meaning import Meaning
from plinth.record.slips import Understood
from plinth.units.bounds import Bound
from plinth.units.errors import QuantityError
from plinth.units.level import Form, TypedLevel
from plinth.units.shown import shown, shown_with_spread

NEAR_SHARE = 0.15


def understand(typed: TypedLevel, cell: ClipCell, kit: BenchKit) -> Understood:
    """How a typed level is to be taken in this cell, as watts with what goes with them, and whether to ask first.

    Asked where no form was typed and more than one is possible, or where the form typed does not fit the
    prediction and another one would. Raises QuantityError where its height tells no power.
    """
    if cell.definition != "onset" and typed.form in (Form.PEAK_TO_PEAK, Form.PEAK):
        raise QuantityError(
            f"found {typed.typed!r}, whose height tells no power where the wave is cut, expected what a true rms meter "
            "says: 9.3 rms"
        )
    if cell.definition != "onset" and typed.form is None:
        typed = dataclasses.replace(typed, form=Form.RMS)
    meanings = {form: meaning_in(form, typed, cell, kit) for form in Form}
    if typed.form is None:
        return _of_any_form(cell, meanings)
    taken = meanings[typed.form]
    if not is_possible(taken, cell):
        return _of_impossible(typed, taken, cell, kit)
    if not _is_near(taken, cell):
        others = tuple(other for form, other in meanings.items() if form is not typed.form and _is_near(other, cell))
        if others:
            predicted = shown_with_spread(cell.power.value, cell.power.spread, "W")
            return Understood(
                None, (*others, taken),
                f"Taken as {_form(taken).words} this is {shown(taken.value, 'W')}, which is far from the {predicted} "
                f"predicted; as {_form(others[0]).words} it would fit. Which did it say?",
            )  # fmt: skip
    highest = max((other for form, other in meanings.items() if form is not typed.form), key=lambda other: other.value)
    beyond = f"Taken as {_form(highest).words}: {shown(highest.value, 'W')}, beyond these rails."
    return Understood(taken, (), "" if is_possible(highest, cell) else beyond)


def _of_any_form(cell: ClipCell, meanings: dict[Form, Meaning]) -> Understood:
    """A bare number: taken in the only form that is possible, else asked about."""
    possible = [meaning for meaning in meanings.values() if is_possible(meaning, cell)]
    if len(possible) == 1:
        only = possible[0]
        return Understood(only, (), f"Taken as {_form(only).words}: anything else is beyond these rails.")
    if not possible:
        question = "Beyond these rails whichever way it is meant. Which was it?"
        return Understood(None, tuple(meanings.values()), question)
    return Understood(None, _nearest_first(possible, cell), "Peak to peak, peak or rms? Each is possible here.")


def _of_impossible(typed: TypedLevel, taken: Meaning, cell: ClipCell, kit: BenchKit) -> Understood:
    """A level beyond what these rails can give: asked about, with what each usual slip would mean."""
    form = _form(taken)
    tenth = meaning_in(form, dataclasses.replace(typed, volts=0.1 * typed.volts), cell, kit)
    slips = [
        *(meaning_in(other, typed, cell, kit) for other in Form if other is not form),
        dataclasses.replace(tenth, slip="a tenth of it"),
    ]
    fitting = _nearest_first([slip for slip in slips if is_possible(slip, cell)], cell)
    v_rms = v_rms_of(taken, cell)
    others = "; ".join(
        f"into {load.r_ohm:g} Ω it would be {shown(levels.power_w(v_rms, load.r_ohm), 'W')}"
        for load in cell.prediction.build.loads
        if load.name != cell.load.name
    )
    return Understood(
        None, (*fitting, taken),
        f"{shown(levels.peak_from_rms(v_rms), 'V')} of peak is beyond these rails, which leave at most "
        f"{shown(cell.most_v_peak, 'V')} on the highest mains. Which did it say?"
        + (f" The load may be another one: {others}." if others else ""),
    )  # fmt: skip


def _nearest_first(meanings: list[Meaning], cell: ClipCell) -> tuple[Meaning, ...]:
    return tuple(sorted(meanings, key=lambda meaning: abs(meaning.value - cell.power.value)))


def meaning_in(form: Form, typed: TypedLevel, cell: ClipCell, kit: BenchKit) -> Meaning:
    """A level taken in one form: watts, judged, with the facts that the verdict rests on."""
    power = levels.power_w(typed.rms(form), cell.load.r_ohm)
    # Peaks come from the scope, rms from the meter.
    instrument = kit.of(Role.METER if form is Form.RMS else Role.SCOPE)
    u_volts = instrument.u(typed.volts)
    if typed.bound is Bound.ABOUT:
        u_volts = math.hypot(u_volts or 0.0, from_tolerance(typed.volts, ABOUT_SHARE))
    u_power = None
    if u_volts is not None:
        u_power = power * math.hypot(2.0 * u_volts / typed.volts, from_tolerance(1.0, cell.load.r_tol))
    facts: dict[str, float | str] = {
        "form": str(form),
        "most_v_peak": most_v_peak_read(cell, form),
        "load_ohm": cell.load.r_ohm,
        "definition": cell.definition,
    }
    band = expected_band(cell, form)
    if band.how:
        facts |= {"expected_how": band.how, "reads_times": onset_read.middle_ratio(form)}
    meaning = Meaning(
        request_for(cell, form),
        power,
        u_power,
        bound=typed.bound,
        state=State.UNKNOWN,
        instrument=instrument.name,
        instrument_id=instrument.identity,
        form=form,
        facts={**facts, **claim_facts(claim_of(cell), cell.prediction.build.module)},
    )
    return dataclasses.replace(meaning, state=judge_clipping(cell, meaning).state)


def v_rms_of(meaning: Meaning, cell: ClipCell) -> float:
    """The RMS volts across the load that a meaning's watts stand for."""
    return math.sqrt(meaning.value * cell.load.r_ohm)


def is_possible(meaning: Meaning, cell: ClipCell) -> bool:
    """Whether these rails can give it, as it is read; of a level that is less than was typed always."""
    v_rms = v_rms_of(meaning, cell)
    doubtful_v = 3.0 * math.sqrt(2.0) * _u_v_rms(meaning, v_rms)
    most_v_peak = most_v_peak_read(cell, _form(meaning))
    return meaning.bound is Bound.BELOW or levels.peak_from_rms(v_rms) - doubtful_v <= most_v_peak


def _is_near(meaning: Meaning, cell: ClipCell) -> bool:
    """Whether it lies near what is predicted; a bound does where the levels that it leaves open do."""
    v_rms, predicted = v_rms_of(meaning, cell), cell.v_peak
    room = max(NEAR_SHARE * predicted.value, 3.0 * math.hypot(predicted.u, _u_v_rms(meaning, v_rms))) / math.sqrt(2.0)
    reads_times = onset_read.middle_ratio(_form(meaning)) if cell.definition == "onset" else 1.0
    over = v_rms - levels.rms_from_peak(predicted.value) * math.sqrt(reads_times)
    return {Bound.ABOVE: over <= room, Bound.BELOW: over >= -room}.get(meaning.bound, abs(over) <= room)


def _u_v_rms(meaning: Meaning, v_rms: float) -> float:
    """Standard uncertainty of the RMS volts: half of that of the watts, by share; 0 where none is stated."""
    return 0.0 if meaning.u is None else meaning.u / meaning.value / 2.0 * v_rms


def how_taken(meaning: Meaning) -> str:
    """The slip that it would have been, else its form, for who is to choose."""
    return meaning.slip or _form(meaning).words


def level_words(typed: TypedLevel, meaning: Meaning, cell: ClipCell) -> str:
    """``26.4 V peak to peak = 9.33 V rms = 10.9 ±0.3 W``: as typed, in RMS volts, in watts."""
    v_rms = shown(v_rms_of(meaning, cell), "V")
    level = f"{meaning.bound.sign}{shown(typed.volts, 'V')} {_form(meaning).words} = {v_rms} rms"
    if meaning.bound.one_sided:
        return f"{level} = {shown(meaning.value, 'W')}, as a bound"
    if meaning.u is None:
        return f"{level} = {shown(meaning.value, 'W')}, accuracy of the instrument not stated"
    return f"{level} = {shown_with_spread(meaning.value, 2.0 * meaning.u, 'W')}"


def _form(meaning: Meaning) -> Form:
    assert meaning.form is not None, "a level is always taken in a form"
    return meaning.form
