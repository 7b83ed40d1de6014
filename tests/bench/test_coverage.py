"""What next: the test that would narrow most on every kind of build, what is untested, what went stale."""

import pytest

from plinth.bench.coverage import gone_stale, narrows_most, untested
from plinth.bench.every_sheet import SHEETS, read_by_test
from plinth.builds.situation import Situation
from plinth.demo.builds import STAGE_PAIR
from plinth.predict.solve import solve
from plinth.record.book import RecordBook
from tests.bench.typed_bench import TypedBench
from tests.family import DEMO, FAMILY, FEW

NAMES = {one.name for one in SHEETS} | {"Clipping power", "Response"}


@pytest.mark.parametrize("name", [*FEW, *DEMO])
def test_on_every_kind_a_test_is_named_that_would_narrow_most(name: str) -> None:
    prediction = solve({**FAMILY, **DEMO}[name], Situation())
    found = narrows_most(prediction)
    figure = prediction["clip_worst_power_w"]
    largest = max((one.u_figure / figure.u) ** 2 for one in figure.contributions)
    assert found is not None, [(one.label, (one.u_figure / figure.u) ** 2) for one in figure.contributions[:3]]
    assert found.test in NAMES
    assert found.share == pytest.approx(largest), "the largest share has a test of its own"
    assert f"{found.share:.0%}".replace("%", " %") in found.words
    assert found.words.endswith("would narrow it most.")


def test_what_has_no_spread_and_what_no_test_tells_is_not_narrowed() -> None:
    prediction = solve(STAGE_PAIR, Situation())
    assert narrows_most(prediction, "no such figure") is None


def test_untested_names_what_was_never_read() -> None:
    assert untested([("Rails", 2), ("Heat run", 0), ("Mains side", 0)]) == "Not read yet: heat run, mains side."
    assert untested([("Rails", 1)]) == ""


def test_stale_readings_are_counted_by_what_was_exchanged() -> None:
    bench = TypedBench("rails", STAGE_PAIR)
    for key, typed in (("none_plus", "36.2"), ("none_minus", "36.1"), ("full_plus", "31.8")):
        assert bench.type_in(key, typed) is not None
    assert gone_stale(bench.book, STAGE_PAIR) == ""
    assert read_by_test(bench.book) == {"rails": 3}
    other = STAGE_PAIR.with_mark("supply.transformer", "2")
    assert gone_stale(bench.book, other) == "Stale: 3 since the supply was exchanged."
    board = STAGE_PAIR.with_mark("module", "2")
    assert gone_stale(bench.book, board) == "Stale: 1 since the module was exchanged."
    assert gone_stale(RecordBook(), other) == ""


@pytest.mark.parametrize("name", [*FEW, *DEMO])
def test_no_test_is_named_for_what_it_does_not_read(name: str) -> None:
    """Neither the supply of the input stages nor a line filter is told by the rails or by an output's load."""
    prediction = solve({**FAMILY, **DEMO}[name], Situation())
    for figure in prediction.figures:
        found = narrows_most(prediction, figure)
        if found is not None:
            keys = {row.key for row in prediction[figure].contributions if row.label == found.label}
            assert not any(key.startswith("input_") or key.endswith("_line") for key in keys), (figure, found.words)


def test_a_sink_s_warmth_is_narrowed_by_a_heat_run() -> None:
    found = narrows_most(solve(STAGE_PAIR, Situation()), "sink_c")
    assert found is not None
    assert (found.label, found.test) == ("heat sink", "Heat run")
