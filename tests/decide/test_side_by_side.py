"""Differences against closed forms, what may be held against what, and every figure over the family of builds."""

import dataclasses
import datetime as dt
import math

import pytest

from plinth.bench import frequency_response as response
from plinth.builds.situation import Situation
from plinth.decide.cell import Cell, Value
from plinth.decide.changes import changes_between
from plinth.decide.difference import DifferenceWord, difference_of
from plinth.decide.heard import ListeningNote
from plinth.decide.response import response_series
from plinth.decide.side import Side
from plinth.decide.side_by_side import SideBySide, side_by_side
from plinth.decide.verdict import rests_on
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.solve import solve
from plinth.record.book import RecordBook
from plinth.record.reading import Reading
from plinth.units.bounds import Bound
from tests.family import FAMILY
from tests.turns import in_turn

AT = dt.datetime(2026, 4, 3, 14, 2, tzinfo=dt.UTC)
EMPTY = RecordBook()


def reading(
    value: float, u: float | None, minute: int = 0, *, floor: float = 0.0, meter: str = "m", **more: object
) -> Reading:
    facts = {"meter_floor": floor} if floor else {}
    return Reading(
        "test/left/gain:out_left", "Left, output", f"{value}", value=value, unit="V", u=u, instrument=meter,
        taken_at=AT + dt.timedelta(minutes=minute), state=State.CLEAR, facts=facts, **more,  # type: ignore[arg-type]
    )  # fmt: skip


def read(value: float, u: float | None, minute: int = 0, **more: object) -> Cell:
    return Cell(reading=reading(value, u, minute, **more))  # type: ignore[arg-type]


def test_two_instruments_add_their_uncertainties_in_squares() -> None:
    told = difference_of(read(10.0, 0.3, meter="a"), read(11.0, 0.4, 1, meter="b"))
    assert told.value == pytest.approx(1.0)
    assert told.spread == pytest.approx(1.0)
    # At the limit, twice its uncertainty, it is not told apart.
    assert told.word is DifferenceWord.ALIKE
    more = difference_of(read(10.0, 0.3, meter="a"), read(11.001, 0.4, 1, meter="b"))
    assert more.word is DifferenceWord.DIFFERENCE


def test_one_instrument_is_off_by_the_same_share_on_both() -> None:
    # 3 % of the reading as a rectangle: of a difference of 0.5 V that is 8.7 mV.
    share = 0.03 / math.sqrt(3.0)
    told = difference_of(read(10.0, 10.0 * share), read(10.5, 10.5 * share, 1))
    assert told.spread == pytest.approx(2.0 * share * 0.5)
    assert told.word is DifferenceWord.DIFFERENCE
    # Its digits and offset count twice: 20 mV as a rectangle each.
    fixed = 0.02 / math.sqrt(3.0)
    with_floor = difference_of(
        read(10.0, 10.0 * share + fixed, floor=0.02), read(10.5, 10.5 * share + fixed, 1, floor=0.02)
    )  # fmt: skip
    assert with_floor.spread == pytest.approx(2.0 * math.hypot(fixed, fixed, share * 0.5))


def test_what_cannot_be_held_against_each_other_is_not() -> None:
    predicted = Cell(predicted=Value(10.0, 0.2))
    assert difference_of(predicted, read(11.0, 0.1)).word is DifferenceWord.MIXED
    assert difference_of(read(11.0, 0.1), predicted).value is None
    told = difference_of(predicted, Cell(predicted=Value(10.5, 0.1)))
    assert told.word is DifferenceWord.PREDICTED
    assert told.spread == pytest.approx(2.0 * math.hypot(0.2, 0.1))
    assert difference_of(read(10.0, None), read(11.0, 0.1, 1)).word is DifferenceWord.UNKNOWN_SPREAD
    assert difference_of(read(10.0, 0.1), read(10.0, 0.1)).word is DifferenceWord.SAME
    assert difference_of(Cell(claim=45.0), Cell(claim=45.0)).word is DifferenceWord.CLAIMED
    assert difference_of(Cell(claim=45.0), read(44.0, 1.0)).word is DifferenceWord.NOTHING
    assert difference_of(Cell(), Cell()).word is DifferenceWord.NOTHING
    # A bound is no value.
    bound = read(11.0, 0.1, bound=Bound.ABOVE)
    assert bound.read is None
    assert difference_of(bound, read(11.0, 0.1)).value is None


def test_two_predictions_are_off_together_by_what_they_share() -> None:
    first = Value(50.0, 5.0, {"mains": 3.0, "cans": 4.0})
    second = Value(52.0, math.sqrt(3.2**2 + 2.0**2 + 1.0), {"mains": 3.2, "sink": 2.0})
    told = difference_of(Cell(predicted=first), Cell(predicted=second))
    # 0.2 of the mains is left; cans and sink are each one's own, and 1.0 of the second has no name.
    assert told.spread == pytest.approx(2.0 * math.sqrt(0.2**2 + 4.0**2 + 2.0**2 + 1.0))
    same = difference_of(Cell(predicted=first), Cell(predicted=dataclasses.replace(first, value=50.0 + 1e-6)))
    assert same.word is DifferenceWord.NO_CHANGE
    assert same.value == 0.0


def test_the_surest_and_largest_come_first() -> None:
    differences = [
        difference_of(Cell(predicted=Value(1.0, 0.1)), Cell(predicted=Value(9.0, 0.1))),
        difference_of(read(10.0, 0.1, meter="a"), read(10.1, 0.1, 1, meter="b")),
        difference_of(read(10.0, 0.1, meter="a"), read(11.0, 0.1, 1, meter="b")),
        difference_of(read(10.0, 0.1, meter="a"), read(14.0, 0.1, 1, meter="b")),
        difference_of(Cell(), Cell()),
    ]
    order = sorted(range(5), key=lambda k: differences[k].rank)
    assert order == [3, 2, 1, 0, 4]


def both(name: str, share: float = 1.4) -> SideBySide:
    """A build, and the same with other outputs' losses: what a variant is."""
    build = FAMILY[name]
    other = build.model_copy(
        update={"module": build.module.model_copy(update={"gain": build.module.gain * share})}
    )  # fmt: skip
    at = Situation(load_ohm=build.load.r_ohm)
    return side_by_side([Side("this", "", build, at, EMPTY, of="1"), Side("other", "", other, at, EMPTY, of="1")])


@pytest.mark.parametrize("name", in_turn(FAMILY, 40))
def test_every_build_stands_beside_another(name: str) -> None:
    told = both(name)
    assert told.problems == ()
    rows = {row.key: row for row in told.rows}
    assert len(rows) > 20
    assert all(len(row.cells) == 2 for row in told.rows)
    drive = rows["figure/drive_v_rms"]
    # Another gain needs another drive, and nothing else of the rails.
    expected = solve(FAMILY[name], Situation(load_ohm=FAMILY[name].load.r_ohm))["drive_v_rms"].value
    first, second = (cell.predicted for cell in drive.cells)
    assert first is not None
    assert second is not None
    assert first.value == pytest.approx(expected, rel=1e-3)
    assert second.value == pytest.approx(expected / 1.4, rel=2e-2)
    assert drive.difference.value == pytest.approx(second.value - first.value)
    assert drive.differs
    # All but the gain is the same thing in both: the difference is known better than of two strangers.
    assert first.spread is not None
    assert second.spread is not None
    assert drive.difference.spread is not None
    assert drive.difference.spread < math.hypot(first.spread, second.spread)
    for row in told.rows:
        for cell in row.cells:
            if cell.window is not None and cell.predicted is not None:
                # The bar is as wide as the window that readings are expected in.
                assert cell.predicted.spread == pytest.approx(0.5 * (cell.window[1] - cell.window[0]))
        low, high = row.scale
        assert all(low < end < high for cell in row.cells for end in cell.ends)
        assert row.label
        if row.key.startswith("clip/"):
            assert row.difference.word is DifferenceWord.NO_CHANGE
            assert not row.differs


def test_responses_lie_over_each_other_read_where_points_were_kept_else_predicted() -> None:
    build = next(iter(FAMILY.values()))
    module = build.module.model_copy(update={"f_low_hz": 10.0, "f_high_hz": 40_000.0})
    build = build.model_copy(update={"module": module})
    at = Situation(load_ohm=build.load.r_ohm)
    channel = build.channels[0]
    points = [
        Reading(
            response.subject(build, channel, f_hz), "point", "x", value=volts, unit="V", u=0.01, instrument="m",
            taken_at=AT, state=State.CLEAR, conditions=response.conditions_of(build),
        )
        for f_hz, volts in ((100.0, 2.0), (1000.0, 2.0), (20_000.0, 1.0))
    ]  # fmt: skip
    sides = (
        Side("listing", "", build, at, EMPTY, listing=True), Side("a", "", build, at, EMPTY),
        Side("b", "", build, at, RecordBook(points)),
    )  # fmt: skip
    predicted, read_ = response_series(sides, "ABC")
    assert (predicted.name, read_.name) == ("B predicted", "C read")
    # First order at 10 Hz: 3.01 dB down there, and next to nothing at 1 kHz.
    assert float(predicted.y[0]) == pytest.approx(-10.0 * math.log10(2.0), abs=0.02)
    assert list(read_.y) == pytest.approx([0.0, 0.0, 20.0 * math.log10(0.5)], abs=1e-9)
    assert read_.discs


def test_a_listing_stands_with_its_claims_alone() -> None:
    name = next(name for name in FAMILY if FAMILY[name].module.claims)
    build = FAMILY[name]
    at = Situation(load_ohm=build.load.r_ohm)
    told = side_by_side([Side("listing", "", build, at, EMPTY, listing=True), Side("this", "", build, at, EMPTY)])
    cells = [row.cells[0] for row in told.rows if not row.cells[0].is_empty]
    assert cells
    assert all(cell.predicted is None and cell.reading is None for cell in cells)


def test_a_side_that_cannot_run_stands_there_and_says_so() -> None:
    build = next(iter(FAMILY.values()))
    tiny = build.model_copy(update={"module": build.module.model_copy(update={"v_rail_min": 400.0})})
    at = Situation(load_ohm=build.load.r_ohm)
    told = side_by_side([Side("this", "", build, at, EMPTY), Side("that", "", tiny, at, EMPTY)])
    assert len(told.sides) == 2
    for count in (1, 5):
        with pytest.raises(ValueError, match="expected 2 to 4"):
            side_by_side([Side("this", "", build, at, EMPTY)] * count)
    with pytest.raises(PhysicsError):
        side_by_side([Side("this", "", build, at, EMPTY)] * 2, go_on=lambda _share: False)


def test_one_change_is_told_from_two_at_once() -> None:
    name = next(name for name in FAMILY if "linear" in name)
    build = FAMILY[name]
    at = Situation()
    gain = build.model_copy(update={"module": build.module.model_copy(update={"gain": 1.2 * build.module.gain})})
    one = changes_between((build, at), (gain, at))
    assert len(one.changed) == 1
    assert "One thing was changed" in one.sentence
    reservoir = getattr(build.supply, "reservoir", None)
    assert reservoir is not None
    supply = build.supply.model_copy(
        update={"reservoir": reservoir.model_copy(update={"c_f": 2.0 * reservoir.c_f})}
    )  # fmt: skip
    two = changes_between((build, at), (gain.model_copy(update={"supply": supply}), at))
    assert "cannot be told apart" in two.sentence
    assert "Nothing was changed" in changes_between((build, at), (build, at)).sentence


def test_what_a_verdict_rests_on_says_where_nothing_was_read() -> None:
    told = both(next(iter(FAMILY)))
    words = rests_on(told, [("Rails", 3), ("Clipping power", 0)])
    assert "rests on the prediction" in words
    assert "clipping power" in words.lower()
    row = dataclasses.replace(
        told.rows[0], difference=difference_of(read(10.0, 0.1, meter="a"), read(12.0, 0.1, 1, meter="b"))
    )
    some = rests_on(dataclasses.replace(told, rows=(row, *told.rows[1:])), [])
    assert some.startswith("1 figure was read of both, 1 of them with a difference")


def test_a_listening_note_names_what_it_was_heard_with() -> None:
    note = ListeningNote("firmer, no hum at a metre", "storm scene", "hall pair", "85 dB", "stage manager")
    assert note.line == "Heard (storm scene, hall pair, 85 dB, stage manager): firmer, no hum at a metre"
    assert ListeningNote(" dull ").line == "Heard: dull"
