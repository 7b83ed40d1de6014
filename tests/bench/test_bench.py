import datetime as dt
import math

import pytest

from plinth.bench import clipping, frequency_response
from plinth.bench.clip_cell import ClipCell, clip_cells
from plinth.bench.clip_level import how_taken, is_possible, level_words, meaning_in, understand
from plinth.bench.clipping import judge_clipping, most_v_peak_read, set_up
from plinth.builds.instruments import unknown_kit
from plinth.builds.situation import Situation
from plinth.demo.shelf import BENCH
from plinth.judge.state import State
from plinth.record.meaning import Meaning, reading_of
from plinth.units.level import Form, read_level
from tests.bench.clip_readings import watts_read
from tests.sample_builds import SHARED_PAIR

AT = dt.datetime(2026, 10, 10, tzinfo=dt.UTC)


@pytest.fixture(scope="module")
def cells() -> dict[str, ClipCell]:
    return {f"{c.driven}/{c.load.name}": c for c in clip_cells(SHARED_PAIR, "left", Situation())}


def test_there_is_a_cell_for_each_load_alone_and_together(cells: dict[str, ClipCell]) -> None:
    assert set(cells) == {"one/Dummy 8", "one/Dummy 4", "all/Dummy 8", "all/Dummy 4"}
    assert cells["one/Dummy 4"].power.value > cells["all/Dummy 4"].power.value


def test_drive_and_load_time_are_computed(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    given = set_up(cell)
    assert given.drive_v_rms.value == pytest.approx(math.sqrt(cell.power.value * 4.03) / 22.4)
    assert given.start_v_rms < given.drive_v_rms.value < given.most_v_rms
    assert given.allowed_s == pytest.approx(-95 * math.log(1 - 50 / cell.power.high))
    assert math.isinf(set_up(cells["all/Dummy 8"]).allowed_s)


def form_of(text: str, cell: ClipCell) -> tuple[Form | None, str, list[Form]]:
    found = understand(read_level(text), cell, BENCH)
    return (
        found.taken.form if found.taken else None,
        found.sentence,
        [c.form for c in found.choices if c.form is not None],
    )


def test_one_reading_typed_four_ways_gives_one_power(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    powers = []
    for text in ("49.4pp", "49,4 Vpp", "17.466 rms", "24.7pk"):
        found = understand(read_level(text), cell, BENCH)
        assert found.taken is not None
        powers.append(found.taken.value)
    assert powers == pytest.approx([49.4**2 / 8 / 4.03] * 4, rel=1e-3)


def test_an_explicit_form_that_fits_is_taken_and_the_other_way_is_named(cells: dict[str, ClipCell]) -> None:
    form, sentence, choices = form_of("49.4pp", cells["one/Dummy 4"])
    assert (form, choices) == (Form.PEAK_TO_PEAK, [])
    assert "Taken as rms" in sentence
    assert "beyond these rails" in sentence


def test_a_peak_to_peak_value_typed_as_rms_is_asked_about(cells: dict[str, ClipCell]) -> None:
    form, sentence, choices = form_of("49.4 rms", cells["one/Dummy 4"])
    assert form is None
    assert choices[0] is Form.PEAK_TO_PEAK
    assert Form.RMS in choices
    assert "beyond these rails" in sentence
    assert "Which did it say?" in sentence


def test_a_bare_number_is_asked_about_unless_only_one_meaning_is_possible(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    form, _, choices = form_of("17.5", cell)
    assert form is None
    assert choices[0] is Form.RMS
    only, sentence, _ = form_of("60", cell)
    assert only is Form.PEAK_TO_PEAK
    assert "anything else is beyond these rails" in sentence
    none, sentence, choices = form_of("400", cell)
    assert none is None
    assert len(choices) == 3
    assert "Beyond these rails" in sentence


def test_a_tenth_of_it_is_offered_where_a_ten_to_one_probe_would_explain_it(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    rms = math.sqrt(cell.power.value * cell.load.r_ohm)
    asked = understand(read_level(f"{10.0 * rms:.5g} rms"), cell, BENCH)
    assert asked.taken is None
    tenth = next(choice for choice in asked.choices if choice.slip)
    assert tenth.value == pytest.approx(cell.power.value, rel=1e-3)
    assert how_taken(tenth) == "a tenth of it"


def test_a_level_is_possible_as_far_as_three_times_its_uncertainty_reaches(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]

    def level(volts: float) -> Meaning:
        return meaning_in(Form.RMS, read_level(f"{volts:.6g} rms"), cell, BENCH)

    most = most_v_peak_read(cell, Form.RMS) / math.sqrt(2.0)
    there = level(most)
    assert there.u is not None
    # Half of the watts' share is that of the volts.
    limit = most / (1.0 - 3.0 * there.u / there.value / 2.0)
    assert limit > 1.005 * most
    assert is_possible(level(0.998 * limit), cell)
    assert not is_possible(level(1.002 * limit), cell)


def test_a_level_far_from_what_is_predicted_is_asked_about_where_another_form_fits(cells: dict[str, ClipCell]) -> None:
    """What a meter says in rms, typed as a peak: a third less than predicted, which these rails can give as well."""
    cell = cells["one/Dummy 4"]
    rms = math.sqrt(cell.power.value * cell.load.r_ohm)
    form, sentence, choices = form_of(f"{rms:.5g}pk", cell)
    assert form is None
    assert choices[0] is Form.RMS
    assert "far from" in sentence
    # A tenth less is what a wall does in an hour: nothing is asked.
    assert form_of(f"{0.9 * rms:.5g} rms", cell)[0] is Form.RMS


def test_power_carries_the_uncertainty_of_meter_and_load(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    found = understand(read_level("17.466 rms"), cell, BENCH)
    assert found.taken is not None
    relative = math.hypot(2 * (0.008 * 17.466 + 0.0002) / 17.466, 0.008) / math.sqrt(3)
    assert found.taken.u == pytest.approx(found.taken.value * relative)
    level = read_level("17.466 rms")
    blind = understand(level, cell, unknown_kit())
    assert blind.taken is not None
    assert blind.taken.u is None
    assert "not stated" in level_words(level, blind.taken, cell)


def test_readings_are_judged_against_prediction_and_listing(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    inside = judge_clipping(cell, watts_read(cell, cell.power.value, 1.0))
    assert inside.state is State.CLEAR
    assert "not reached: 79 % of it" in inside.against_claim
    far = judge_clipping(cell, watts_read(cell, 0.6 * cell.power.value, 1.0))
    assert far.state is State.OVER
    assert "below the predicted" in far.against_prediction
    assert "reached." in judge_clipping(cells["one/Dummy 8"], watts_read(cells["one/Dummy 8"], 48.0, 1.0)).against_claim
    above = judge_clipping(cell, watts_read(cell, 1.5 * cell.power.value, 1.0))
    assert "probe factor" in above.sentence


def test_the_reading_to_keep_names_instrument_and_band(cells: dict[str, ClipCell]) -> None:
    cell = cells["one/Dummy 4"]
    found = understand(read_level("49.4pp"), cell, BENCH)
    assert found.taken is not None
    reading = reading_of(found.taken, "49.4pp", AT)
    assert reading.instrument == "Two-trace scope"
    assert reading.unit == "W"
    band = clipping.expected_band(cell, Form.PEAK_TO_PEAK)
    assert (reading.low, reading.high) == (band.value - 2.0 * band.u, band.value + 2.0 * band.u)


def test_response_is_relative_to_one_kilohertz_with_corners_where_they_fall() -> None:
    f = [10.0, 20.0, 50.0, 1000.0, 10_000.0, 20_000.0, 50_000.0]
    volts = {x: 2.0 / math.sqrt(1 + (30.0 / x) ** 2) / math.sqrt(1 + (x / 25_000.0) ** 2) for x in f}
    measured = frequency_response.evaluate(volts)
    at_one = next(p for p in measured.points if p.f_hz == 1000.0)
    assert at_one.db == 0.0
    assert len(measured.minus_3_db) == 2
    assert measured.minus_3_db[0].f_hz == pytest.approx(30.0, rel=0.005)
    assert measured.minus_3_db[1].f_hz == pytest.approx(25_000.0, rel=0.005)
    assert measured.flatness_db == pytest.approx(20 * math.log10(math.sqrt(1 + 2.25)), rel=0.02)
    assert "−3 dB at" in measured.sentence


def test_response_without_reference_or_corners_says_so() -> None:
    assert "Read 1 kHz first" in frequency_response.evaluate({20.0: 1.0}).sentence
    flat = frequency_response.evaluate({100.0: 1.0, 1000.0: 1.0, 10_000.0: 1.0})
    assert flat.flatness_db is None
    assert "No −3 dB point between 100 Hz and 10 kHz" in flat.sentence


def test_response_points_are_judged_against_the_module_s_corners() -> None:
    set_up_ = frequency_response.set_up(SHARED_PAIR, SHARED_PAIR.load)
    assert set_up_.power_w == 1.0
    assert set_up_.v_out_rms == pytest.approx(math.sqrt(4.03))

    def state(f_hz: float, volts: str) -> State:
        return frequency_response.reading_for_point(
            SHARED_PAIR, "left", f_hz, volts, 2.0, BENCH, AT
        ).state  # fmt: skip

    assert state(20.0, "1.98") is State.CLEAR
    assert state(20.0, "1.5") is State.OVER
    assert state(1000.0, "2.0") is State.CLEAR
    low, high = frequency_response.predicted_band_db(SHARED_PAIR, 10.0)
    assert low < frequency_response.predicted_db(SHARED_PAIR, 10.0) < high
