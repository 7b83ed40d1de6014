"""What would tell most next, and what is laid over each other."""

import datetime as dt
import math

import numpy as np
import pytest

from plinth.bench import output_impedance, rails
from plinth.builds.instruments import Role
from plinth.builds.situation import Situation
from plinth.captures.capture import Capture, Channel
from plinth.decide.cell import Cell, Value
from plinth.decide.changes import Changes
from plinth.decide.difference import difference_of
from plinth.decide.next_step import next_change, next_reading
from plinth.decide.overlays import IMPEDANCE, RAILS, RESPONSE, SPECTRUM, overlays_of, with_spectra
from plinth.decide.side import Side
from plinth.decide.side_by_side import FigureRow, SideBySide
from plinth.judge.state import State
from plinth.record.book import RecordBook
from plinth.record.reading import Reading
from tests.family import FAMILY
from tests.turns import in_turn

AT = dt.datetime(2026, 4, 3, 14, 2, tzinfo=dt.UTC)


def read(value: float, u: float | None) -> Cell:
    made = Reading("s", "x", "x", value=value, unit="V", u=u, instrument="m", taken_at=AT, state=State.CLEAR)
    return Cell(predicted=Value(value, 0.5), reading=made)


def predicted(value: float) -> Cell:
    return Cell(predicted=Value(value, 0.5))


def row(label: str, first: Cell, second: Cell, role: Role | None = Role.METER) -> FigureRow:
    return FigureRow(
        label, label, "V", cells=(first, second), difference=difference_of(first, second), role=role, subject=label
    )


def beside(*rows: FigureRow) -> SideBySide:
    return SideBySide((), rows, (0, 1))


def share(_role: Role, value: float) -> float | None:
    """A meter that is unsure of a hundredth."""
    return 0.01 * value


def test_what_stands_out_most_of_its_meter_is_read_next() -> None:
    rows = (
        row("Small", predicted(10.0), predicted(10.1)), row("Large", predicted(10.0), predicted(11.0)),
        row("Read of both", read(1.0, 0.01), read(9.0, 0.01)), row("Nobody's", predicted(1.0), predicted(9.0), None),
    )  # fmt: skip
    told = next_reading(beside(*rows), (True, True), share)
    assert told is not None
    assert told.row.label == "Large"
    assert told.places == (0, 1)
    assert told.expected == pytest.approx(1.0)
    assert told.stands_out == pytest.approx(1.0 / (math.sqrt(2.0) * 0.11))
    assert told.sentence == (
        "Would tell most: large, read of A and B; the 1.00 V between them would stand 6 times over what the meter is "
        "unsure of."
    )


def test_what_is_read_already_is_read_of_the_other_alone_with_its_own_uncertainty() -> None:
    told = next_reading(beside(row("Gain", read(10.0, 0.2), predicted(11.0))), (False, True), lambda *_given: None)
    assert told is not None
    assert told.places == (1,)
    assert told.stands_out == pytest.approx(1.0 / (math.sqrt(2.0) * 0.2))


@pytest.mark.parametrize(
    ("first", "second", "can"),
    [
        # The side that lacks it is gone: an older version, a listing.
        (read(10.0, 0.2), predicted(11.0), (True, False)), (predicted(10.0), predicted(11.0), (False, True)),
        # Nothing is expected to differ; nothing is known of one of them.
        (read(10.0, 0.2), predicted(10.0), (True, True)), (read(10.0, 0.2), Cell(), (True, True)),
        # The meter's accuracy is stated by nobody, so nothing is promised.
        (read(10.0, None), predicted(11.0), (True, True)),
    ],
)  # fmt: skip
def test_nothing_is_proposed_that_cannot_be_read_or_would_tell_nothing(
    first: Cell, second: Cell, can: tuple[bool, bool]
) -> None:
    assert next_reading(beside(row("Gain", first, second)), can, lambda *_given: None) is None


def test_a_difference_that_would_hardly_be_seen_is_said_to() -> None:
    told = next_reading(beside(row("Gain", predicted(10.0), predicted(10.1))), (True, True), share)
    assert told is not None
    assert told.stands_out < 2.0
    assert "would hardly stand out" in told.sentence


def test_of_several_changes_one_is_taken_back_alone() -> None:
    shown = beside(row("Rail", read(10.0, 0.1), read(12.0, 0.1)))
    two = Changes((("Reservoir: capacitance", "10 mF", "22 mF"), ("Module: gain", "24", "26")), ())
    assert next_change(two, shown) == "To tell them apart, take back reservoir alone, and read rail again."
    one = Changes((("Reservoir: capacitance", "10 mF", "22 mF"), ("Reservoir: ESR", "24 mΩ", "12 mΩ")), ())
    assert next_change(one, shown) == ""
    assert next_change(None, shown) == ""


@pytest.mark.parametrize("name", in_turn(FAMILY, 40))
def test_rails_over_load_are_those_of_the_test_of_the_rails(name: str) -> None:
    build = FAMILY[name]
    at = Situation(load_ohm=build.load.r_ohm)
    sides = (
        Side("listing", "", build, at, RecordBook(), listing=True), Side("a", "", build, at, RecordBook()),
        Side("b", "", build, at, RecordBook()),
    )  # fmt: skip
    by_title = {graph.title: graph for graph in overlays_of(sides)}
    assert list(by_title) == [RESPONSE, RAILS, IMPEDANCE]
    own = rails.sheet(build, build.channels[0], at).graph({})
    curves = by_title[RAILS].curves
    assert [curve.label for curve in curves] == ["B", "C"]
    assert own is not None
    assert all(np.array_equal(curve.y, own.curves[0].y) for curve in curves)
    assert by_title[IMPEDANCE].curves == ()
    (low, high), _ = by_title[RAILS].extent()
    assert low < float(curves[0].x[0])
    assert high > float(curves[0].x[-1])


def test_an_output_impedance_that_was_read_lies_at_its_frequencies_with_its_spread() -> None:
    build = next(iter(FAMILY.values()))
    at = Situation(load_ohm=build.load.r_ohm)
    channel = build.channels[0]
    sheet = output_impedance.sheet(build, channel, at)
    (load, *_) = output_impedance.loads_of(build)
    readings = []
    for request in sheet.asked({}):
        place = request.key.partition("_")[0]
        if place in ("mid", "low") and (request.key.endswith("_open") or request.key.endswith(load.identity)):
            # 0.2 ohm behind it at 1 kHz, 0.1 ohm at 40 Hz.
            behind = 0.2 if place == "mid" else 0.1
            volts = 4.0 if request.key.endswith("_open") else 4.0 * load.r_ohm / (load.r_ohm + behind)
            readings.append(
                Reading(
                    request.subject, request.title, "x", value=volts, unit="V", u=1e-4, instrument="m", taken_at=AT,
                    state=State.CLEAR, conditions=dict(request.conditions),
                )
            )  # fmt: skip
    side = Side("a", "", build, at, RecordBook(readings))
    (curve,) = next(graph for graph in overlays_of((side, side)) if graph.title == IMPEDANCE).curves[:1]
    assert list(curve.x) == [40.0, 1000.0]
    assert list(curve.y) == pytest.approx([0.1, 0.2], rel=1e-3)
    assert curve.discs
    own = sorted(output_impedance.impedances(build, {r.subject.partition(":")[2]: (r,) for r in readings}))
    # 0.1 mV of 4 V, twice, against the current of the load: half a milliohm and more.
    assert list(np.asarray(curve.spread)) == pytest.approx([2.0 * u for _, _, u in own])
    assert own[0][2] > math.sqrt(2.0) * 1e-4 * load.r_ohm / 4.0 * 0.9
    (low, high), _ = next(graph for graph in overlays_of((side, side)) if graph.title == IMPEDANCE).extent()
    assert 0.0 < low < 40.0
    assert high > 1000.0


def test_spectra_stand_below_their_strongest_line_each_by_its_letter() -> None:
    rate = 48_000.0
    t = np.arange(48_000) / rate

    def tone(third: float) -> Capture:
        wave = np.sin(2.0 * math.pi * 1000.0 * t) + third * np.sin(2.0 * math.pi * 3000.0 * t)
        return Capture("x", (Channel("in", 0.0 * t, "V"), Channel("out", wave, "V")), rate)

    graph = with_spectra((), {2: tone(0.001), 0: tone(0.01)})[-1]
    assert graph.title == SPECTRUM
    assert [curve.label for curve in graph.curves] == ["A", "C"]
    for curve, third in zip(graph.curves, (-40.0, -60.0), strict=True):
        near = (curve.x > 2900.0) & (curve.x < 3100.0)
        assert float(np.max(curve.y)) == pytest.approx(0.0, abs=1e-9)
        assert float(np.max(curve.y[near])) == pytest.approx(third, abs=0.1)
