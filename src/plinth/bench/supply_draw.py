"""What the supply gives while a cell clips: watts as read, and the efficiency and heat that follow."""

import dataclasses
import math
import re

from plinth.bench.clip_cell import ClipCell
from plinth.bench.clip_verdict import Band, against_prediction, band_kept, band_of, bound_against_prediction
from plinth.builds.instruments import BenchKit, Instrument, Role
from plinth.judge.state import State
from plinth.judge.window import ABOUT_SHARE, Window
from plinth.predict.figure import Figure
from plinth.predict.input import from_tolerance
from plinth.record.meaning import Meaning
from plinth.record.probe import Point, Probe, Quantity
from plinth.record.reading import Reading
from plinth.record.request import Request
from plinth.record.slips import Understood
from plinth.record.subject import Kind, Subject
from plinth.units.bounds import Bound
from plinth.units.errors import QuantityError
from plinth.units.shown import shown, shown_with_spread
from plinth.units.typed import read_number, read_quantity, understand_quantity, without_bound

LEAST_EFFICIENCY = 0.01
# What watts are read from: nobody describes a wattmeter in the kit.
POWER_METER = "power meter"
_PRODUCTS = (
    re.compile(r"(?:(?P<rails>\d+)\s*[x×*]\s*)?(?P<volts>[^VA]+V)\s*(?:[x×*,@]|at)?\s*(?P<amperes>[^VA]+A)"),
    re.compile(r"(?:(?P<rails>\d+)\s*[x×*]\s*)?(?P<amperes>[^VA]+A)\s*(?:[x×*,@]|at)?\s*(?P<volts>[^VA]+V)"),
)


def _about(cell: ClipCell) -> Subject:
    channel = cell.prediction.build.key_of(cell.channel)
    return Subject(Kind.CLIP_DRAW, channel, cell.load.identity, cell.driven)


def subject(cell: ClipCell) -> str:
    """The subject of readings of the draw in a cell."""
    return _about(cell).text


def predicted(cell: ClipCell) -> Figure:
    """The draw predicted at clipping: at the wall, from the battery, or from the bench supply."""
    return cell.prediction[cell.prediction.build.supply.drawn_figure]


def source(cell: ClipCell) -> str:
    """Where the draw is read."""
    return cell.prediction.build.supply.drawn_from


def request_for(cell: ClipCell) -> Request:
    """What is asked of the supply while a cell clips: the watts drawn, or what tells them."""
    expected, where = predicted(cell), source(cell)
    return Request(
        about=_about(cell), title=f"Draw from {where} at clipping, {cell.label}",
        ask=f"What {where} gives while the cell clips: watts, volts and amperes, or an efficiency.",
        conditions=cell.conditions, unit="W", window=Window(expected.low, expected.high, "W", expected.label),
        form="draw", doubts_unit=False, role=Role.MAINS_METER if where == "the wall" else Role.SUPPLY, optional=True,
        needs="all" if cell.driven == "all" else "channel", example="142 W" if where == "the wall" else "35 V 1.4 A",
        probe=Probe(Point.WALL, Quantity.WATTS) if where == "the wall" else Probe(Point.SUPPLY, Quantity.WATTS),
    )  # fmt: skip


def understand(typed: str, cell: ClipCell, output_w: float | None, kit: BenchKit) -> Understood:
    """Watts (``142 W``, ``>100``), volts and amperes (``2x35 V 1.4 A``, not at the wall), or an efficiency (``62 %``).

    ``output_w`` of each driven channel, which an efficiency is of. Raises QuantityError for what cannot be understood.
    """
    text = " ".join(typed.split())
    bound, rest = without_bound(text)
    if rest.endswith("%"):
        return _from_efficiency(rest, bound, cell, output_w)
    for form in _PRODUCTS:
        product = form.fullmatch(rest)
        if product is not None:
            return _from_product(product, bound, cell, output_w, kit)
    if rest.lower().endswith("va"):
        raise QuantityError(f"found {text!r}, which is apparent power, expected watts: 142 W")
    if re.search(r"[aA]$", rest) or re.search(r"V$", rest):
        raise QuantityError(
            f"found {text!r}, expected volts and amperes together (35.2 V 1.4 A), watts, or an efficiency"
        )
    watts = understand_quantity(text, "W")
    if watts.overload:
        raise QuantityError(f"found {text!r}, expected a value, or a bound such as >100 W: take the next range")
    if watts.value <= 0.0:
        raise QuantityError(f"found {text!r}, expected more than 0 W: the stage plays")
    return Understood(drawn(watts.value, None, watts.bound, cell, output_w), (), "")


def drawn(
    power_w: float,
    u_w: float | None,
    bound: Bound,
    cell: ClipCell,
    output_w: float | None,
    instrument: Instrument | None = None,
) -> Meaning:
    """Watts drawn, with what "about" adds to their spread, judged; of a power meter where no instrument is named."""
    if bound is Bound.ABOUT:
        u_w = math.hypot(u_w or 0.0, from_tolerance(power_w, ABOUT_SHARE))
    name, identity = (POWER_METER, "") if instrument is None else (instrument.name, instrument.identity)
    facts: dict[str, float | str] = {} if output_w is None else {"output_w": _playing(cell) * output_w}
    state = _judged(band_of(predicted(cell)), power_w, u_w, bound, _all_out(cell, output_w)).state
    return Meaning(
        request_for(cell), power_w, u_w, bound=bound, state=state, instrument=name, instrument_id=identity, facts=facts
    )


def _from_efficiency(rest: str, bound: Bound, cell: ClipCell, output_w: float | None) -> Understood:
    share = read_number(rest[:-1].strip()) / 100.0
    if not LEAST_EFFICIENCY <= share <= 1.0:
        raise QuantityError(f"found {rest!r}, expected an efficiency of 1 to 100 %")
    if output_w is None:
        raise QuantityError(f"found {rest!r}, which is of a power not read yet, expected that first: type the level")
    all_out = _playing(cell) * output_w
    power = all_out / share
    how = f"{rest} of {shown(all_out, 'W')} is {shown(power, 'W')}"
    return Understood(drawn(power, None, bound.turned, cell, output_w), (), how)


def _from_product(
    product: re.Match[str], bound: Bound, cell: ClipCell, output_w: float | None, kit: BenchKit
) -> Understood:  # fmt: skip
    if source(cell) == "the wall":
        raise QuantityError(
            f"found {product.group(0)!r}, whose product at the wall is apparent power, expected watts: a power meter "
            "shows them, volts times amperes does not"
        )
    volts, amperes = read_quantity(product["volts"], "V"), read_quantity(product["amperes"], "A")
    rails, rails_there = int(product["rails"] or 1), 1 if cell.prediction.build.supply.single_rail else 2
    if not 1 <= rails <= rails_there:
        raise QuantityError(
            f"found {product.group(0)!r}, expected at most {rails_there} x: so many rails this supply has"
        )
    if volts <= 0.0 or amperes <= 0.0:
        raise QuantityError(f"found {product.group(0)!r}, expected volts and amperes above 0")
    instrument = kit.of(Role.SUPPLY if source(cell) == "the bench supply" else Role.METER)
    power = rails * volts * amperes
    shares = [u / x for x in (volts, amperes) if (u := instrument.u(x)) is not None]
    u = power * math.hypot(*shares) if len(shares) == 2 else None
    times = f"{rails} × " if rails > 1 else ""
    how = f"{times}{shown(volts, 'V')} × {shown(amperes, 'A')} = {shown(power, 'W')}"
    return Understood(drawn(power, u, bound, cell, output_w, instrument), (), how)


def _all_out(cell: ClipCell, output_w: float | None) -> float | None:
    """What comes out of all that play, of what comes out of each."""
    return None if output_w is None else _playing(cell) * output_w


def _playing(cell: ClipCell) -> int:
    return 1 if cell.driven == "one" else len(cell.prediction.build.channels)


@dataclasses.dataclass(frozen=True)
class DrawVerdict:
    """The draw against its prediction; ``follows`` efficiency and heat, where the output is known."""

    state: State
    sentence: str
    follows: str


def judge_draw(cell: ClipCell, draw: Meaning, output_w: float | None) -> DrawVerdict:
    """A draw against prediction and against what comes out; ``output_w`` of each driven channel."""
    return _judged(band_of(predicted(cell)), draw.value, draw.u, draw.bound, _all_out(cell, output_w))


def _judged(band: Band, drawn_w: float, u_w: float | None, bound: Bound, out_w: float | None) -> DrawVerdict:
    follows = "" if out_w is None else _follows(out_w, drawn_w, bound)
    if out_w is not None and out_w > drawn_w + 2.0 * (u_w or 0.0) and bound is not Bound.ABOVE:
        return DrawVerdict(
            State.OVER, f"{shown(out_w, 'W')} cannot come out of {shown(drawn_w, 'W')}: read both again.", ""
        )
    if bound.one_sided:
        state, words = bound_against_prediction(band, drawn_w, bound)
        return DrawVerdict(state, words, follows)
    checks = (
        "Does every channel play that should, into its load?",
        "Is something else on the same meter, or the bias too high?",
    )
    state, words = against_prediction(band, drawn_w, u_w, checks)
    return DrawVerdict(state, words, follows)


def _follows(out_w: float, drawn_w: float, bound: Bound) -> str:
    efficiency = f"{bound.turned.sign}{100.0 * out_w / drawn_w:.0f} %"
    heat = f"{bound.sign}{shown(max(drawn_w - out_w, 0.0), 'W')}"
    return f"Efficiency {efficiency}, heat in supply and modules {heat}."


def drawn_words(cell: ClipCell, power: Reading | None, draw: Reading) -> str:
    """A draw as kept, in a few words, with the efficiency where the power was read too."""
    words = f"draws {draw.bound.sign}{shown(draw.value, 'W')}"
    if power is None or power.bound.one_sided:
        return words
    return f"{words}, {draw.bound.turned.sign}{100.0 * _playing(cell) * power.value / draw.value:.0f} % out"


def expectation(cell: ClipCell) -> str:
    """What to expect, in a line: the draw, and the efficiency that goes with it."""
    figure = predicted(cell)
    efficiency = 100.0 * _playing(cell) * cell.power.value / figure.value
    return f"{shown_with_spread(figure.value, figure.spread, 'W')} from {source(cell)}, {efficiency:.0f} % of it out"


def sentence_of(reading: Reading) -> str:
    """What was said of a draw when it was read, from what was kept of it."""
    band = band_kept(reading)
    if band is None or reading.said:
        return reading.said
    verdict = _judged(band, reading.value, reading.u, reading.bound, reading.number("output_w"))
    return " ".join(part for part in (verdict.sentence, verdict.follows) if part)
