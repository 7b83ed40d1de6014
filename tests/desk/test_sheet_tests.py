"""Every test that is a sheet, through the window: typed as it is read, slipped, left out, corrected, gone stale."""

import re

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from plinth.bench.clip_cell import ClipCell, Driven, clip_cell
from plinth.bench.every_sheet import SHEETS
from plinth.bench.heat_run import TEST as HEAT
from plinth.builds.build import Build
from plinth.builds.parts import Load
from plinth.builds.situation import Situation
from plinth.demo.builds import MARKET_BOX, REHEARSAL_ROOM, STREET_BOX
from plinth.desk.measure.gain_dialog import GainDialog
from plinth.desk.measure.sheet_test import SheetTest
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.judge.state import State
from plinth.physics.numbers.errors import RailCollapseError
from plinth.record.reading import Reading
from plinth.session.procedure import clip_test
from plinth.session.stages import measure_state
from tests.bench.typed_bench import NO_NUMBER, middle, spoken
from tests.desk.driver import type_in
from tests.desk.watching import no_stray_windows
from tests.turns import in_turn


def take(window: PlinthWindow, build: Build) -> None:
    session = window.session
    session.switch(next(one.id for one in session.builds if one.build.name == build.name))
    window.show_stage("measure")


def open_test(window: PlinthWindow, name: str) -> SheetTest:
    """The test with everything brought up, for a reason."""
    window.measure.show_named(name)
    test = window.measure.sheet(name)
    for place in range(len(test.asked)):
        test.choose(place)
        if test.procedure.blocked:
            window.measure.ask_reason()
            window.measure.reason.setText("for this look")
            window.measure.pass_over()
    test.choose(0)
    return test


@pytest.mark.parametrize("build", in_turn([REHEARSAL_ROOM, STREET_BOX], 2, name=lambda build: build.name))
def test_each_is_walked_through_with_enter(window: PlinthWindow, build: Build) -> None:
    take(window, build)
    with no_stray_windows():
        for kind in SHEETS:
            walk_through(window, kind.name)


def walk_through(window: PlinthWindow, name: str) -> None:
    test = open_test(window, name)
    assert test.title.text()
    assert test.asked
    for _ in range(len(test.asked)):
        asked = test.procedure.request
        assert asked is not None
        assert asked.title in test.prompt.text()
        text = "" if asked.window is None else spoken(asked, middle(asked.window))
        type_in(test.field, text)
        assert test.field.text() == "", test.understood.text()
    assert not test.choices
    # What comes after a course, which is read as often as one likes, is gone to by hand.
    for place, asked in enumerate(test.asked):
        if asked.window is not None and not test.readings.get(asked.key):
            test.choose(place)
            type_in(test.field, spoken(asked, middle(asked.window)))
    kept = [one for one in test.asked if test.readings.get(one.key)]
    assert len(kept) == sum(one.window is not None for one in test.asked)
    assert test.counts() == (len(kept), len(test.asked))
    for words in (*test.outcomes.words(), test.against.text(), window.measure.wired.text()):
        assert not NO_NUMBER.search(words), words
    assert test.outcomes.words() or name in ("Output impedance", "Hum and noise", "Protection", "Square wave")
    if test.graph.plot is not None and test.graph.plot.isVisibleTo(test):
        assert test.graph.plot.series
    button = window.measure.tests.checkedButton()
    assert button is not None
    assert button.text() == f"{name}   {len(kept)} of {len(test.asked)}"
    # What was kept is there after looking away, and counted.
    window.measure.show_named("Response")
    window.measure.show_named(name)
    assert test.counts()[0] == len(kept)
    assert measure_state(window.session).endswith("read")


@pytest.fixture
def rails(window: PlinthWindow) -> SheetTest:
    take(window, REHEARSAL_ROOM)
    return open_test(window, "Rails")


def test_a_slip_is_asked_about_and_answered_by_its_key(rails: SheetTest, window: PlinthWindow) -> None:
    type_in(rails.field, "2.75")
    assert rails.field.text() == "2.75", "nothing is kept while the question is open"
    assert not rails.readings
    assert "Which was it?" in rails.understood.text()
    first, *_, last = rails.choices
    assert first.text().startswith("1  ten times")  # type: ignore[attr-defined]
    assert "as typed" in last.text()  # type: ignore[attr-defined]
    assert window.focusWidget() is first, "Enter leads to the first answer"
    QTest.keyClick(first, Qt.Key.Key_Space)
    (kept,) = rails.readings["none_plus"]
    assert (kept.value, kept.typed, kept.state) == (27.5, "2.75", State.CLEAR)
    assert rails.procedure.request is not None
    assert rails.procedure.request.key == "none_minus"
    assert not rails.choices


def test_what_was_read_at_another_place_leaves_this_one_to_be_read(window: PlinthWindow) -> None:
    take(window, REHEARSAL_ROOM)
    test = open_test(window, "Gain, match")
    window_out = test.asked[1].window
    assert window_out is not None
    type_in(test.field, f"{middle(window_out):.3f}")
    there = next(one for one in test.choices if "Left, output" in one.text())  # type: ignore[attr-defined]
    QTest.keyClick(there, Qt.Key.Key_Space)
    assert test.readings.keys() == {"out_left"}
    assert test.procedure.request is not None
    assert test.procedure.request.key == "in_left"
    type_in(test.field, "0.135")
    assert test.procedure.request.key == "in_right", "what is read already is not asked for again"


def test_nonsense_stays_typed_and_says_what_was_expected(rails: SheetTest) -> None:
    for text in ("abc", "12,345", "OL", "99999999", "3 A"):
        type_in(rails.field, text)
        assert rails.field.text() == text
        assert rails.understood.text() == "Not understood"
        assert "xpected" in rails.against.text() or "ambiguous" in rails.against.text().lower(), rails.against.text()
    assert not rails.readings


def test_any_row_can_be_taken_first_left_out_and_corrected(rails: SheetTest, window: PlinthWindow) -> None:
    place = next(k for k, one in enumerate(rails.asked) if one.key == "full_plus")
    rails.table.setCurrentCell(rails.table.places.index(place), 0)
    assert rails.procedure.request is not None
    assert rails.procedure.request.key == "full_plus"
    type_in(rails.field, "23.2")
    type_in(rails.field, "")
    assert rails.procedure.request.key != "full_plus"
    rails.choose(place)
    assert "Kept: 23.2" in rails.understood.text()
    type_in(rails.field, "23.4")
    assert [one.value for one in rails.readings["full_plus"]] == [23.2, 23.4], "the old one stays"
    row = rails.table.places.index(place)
    item = rails.table.item(row, 1)
    assert item is not None
    assert item.text() == "23.4 V"
    lines = [line.words for line in window.session.records.diary_lines() if line.kind == "reading"]
    assert sum("At clipping, + rail" in words for words in lines) == 2 or len(lines) >= 2


def test_what_was_read_on_another_supply_is_shown_as_stale(rails: SheetTest, window: PlinthWindow) -> None:
    type_in(rails.field, "27.5")
    session = window.session
    supply = session.build.supply
    other = supply.transformer.model_copy(update={"name": "Another one", "va": 160.0})  # type: ignore[union-attr]
    session.plan.swap("supply.transformer", other)
    window.show_stage("measure")
    window.measure.show_named("Rails")
    assert not rails.readings.get("none_plus")
    rails.choose(0)
    assert "does not count here: the supply is another one now" in rails.against.text()
    item = rails.table.item(rails.table.places.index(0), 1)
    assert item is not None
    assert item.text() == "stale"
    assert "Stale: " in window.measure.next.text()


def test_readings_wait_for_the_channels_that_they_need(window: PlinthWindow, session: BenchSession) -> None:
    window.show_stage("measure")
    window.measure.show_named("Mains side")
    test = window.measure.sheet("Mains side")
    assert "not brought up yet" in window.measure.held.text()
    assert not test.field.isEnabled()
    window.measure.show_named("Rails")
    rails = window.measure.sheet("Rails")
    assert rails.procedure.request is not None
    assert rails.procedure.request.needs == "nothing"
    assert rails.field.isEnabled(), "without the boards nobody needs to have brought them up"
    window.measure.channels.choose("right")
    rails.choose(next(k for k, one in enumerate(rails.asked) if one.key == "full_plus"))
    assert not rails.field.isEnabled()
    assert session.build.channels == ("left", "right")


def test_a_heat_run_stays_on_its_row_and_tells_where_it_goes(window: PlinthWindow) -> None:
    take(window, REHEARSAL_ROOM)
    test = open_test(window, "Heat run")
    for text in ("22.5", "23.0", "31 at 5 min", "37 at 10 min", "44 at 20 min"):
        type_in(test.field, text)
    assert test.kind.key == HEAT
    assert test.procedure.request is not None
    assert test.procedure.request.key == "sink"
    assert len(test.readings["sink"]) == 3
    words = test.outcomes.words()
    assert words[0].startswith("Comes to rest at: ")
    assert any(one.startswith("Enough?: ") for one in words)
    assert test.graph.plot is not None
    assert [one.name for one in test.graph.plot.series] == ["predicted", "limit", "fitted", "read"]


def test_the_gain_helper_works_out_what_to_solder(qtbot: QtBot, window: PlinthWindow) -> None:
    take(window, REHEARSAL_ROOM)
    prediction = window.session.predictions.prediction
    assert prediction is not None
    dialog = GainDialog(window, window.session.build, prediction["clip_v_rms"].value)
    qtbot.addWidget(dialog)
    dialog.wanted.setText("23")
    dialog.fixed.setText("22k")
    assert dialog.found[0].parts == "1.00 kΩ"
    assert dialog.found[0].gain == pytest.approx(23.0)
    assert "Exactly 1.00 kΩ" in dialog.said.text()
    dialog.wanted.setText("27 dB")
    dialog.pairs.setChecked(True)
    assert abs(dialog.found[0].off_db) < 0.01
    dialog.wanted.setText("0.5 V")
    assert dialog.found[0].to_clip_v_rms == pytest.approx(0.5, rel=2e-3)
    for wrong in ("", "abc", "0", "0.5", "-3 V", "900 dB"):
        dialog.wanted.setText(wrong)
        assert not dialog.found, wrong
        assert "expected" in dialog.said.text()
    dialog.arrangement.setCurrentIndex(3)
    dialog.wanted.setText("12")
    assert dialog.found, "a divider takes away what is too much"
    dialog.fixed.setText("-4k")
    assert not dialog.found
    # The other way round: a trimmer turned to 57 kilohms over 2.2: what it makes, and the nearest that can be bought.
    dialog.arrangement.setCurrentIndex(1)
    dialog.pairs.setChecked(False)
    dialog.fixed.setText("2k2")
    for turned in ("57k", "57 kΩ", "57000 ohm"):
        dialog.wanted.setText(turned)
        gain = 1.0 + 57.0 / 2.2
        level = prediction["clip_v_rms"].value / gain
        assert f"the gain is {gain:.4g}" in dialog.said.text()
        assert float(dialog.said.text().split("and ")[1].split(" ")[0]) == pytest.approx(level * 1000.0, rel=6e-3)
        assert dialog.found[0].parts == "56.0 kΩ"
        assert dialog.found[0].gain == pytest.approx(1.0 + 56.0 / 2.2)
    dialog.wanted.setText("0 ohm")
    assert not dialog.found


# The table over sources, and the dummy load's clock


def test_definitions_and_who_plays_are_kept_apart(window: PlinthWindow, session: BenchSession) -> None:
    take(window, REHEARSAL_ROOM)
    window.measure.show_named("Clipping power")
    window.measure.reason.setText("for this look")
    window.measure.pass_over()
    clip = window.measure.clip
    assert len(clip.procedure.cells) == 12
    shown = [view for view in clip.matrix.views if view.isVisibleTo(clip)]
    assert len(shown) == 6
    clip.choose(0)
    assert clip.cell is not None
    onset = clip.cell
    clip.field.setText(f"{2 * onset.v_peak.value:.4g}pp")
    clip.keep()
    clip.choose(0)
    clip.show_definition("thd_1")
    assert clip.cell.definition == "thd_1"
    assert clip.cell.is_predicted
    assert "distortion meter says 1 %" in clip.state.text()
    window.measure.channels.choose("right")
    assert all(cell.is_predicted and cell.definition == "thd_1" for cell in clip.procedure.cells), (
        "of another channel as well"
    )
    assert len(clip.procedure.cells) == 12
    window.measure.channels.choose("left")
    clip.choose(0)
    clip.field.setText("40pp")
    assert "true rms meter" in clip.against.text()
    clip.field.setText(f"{(clip.cell.power.value * clip.cell.load.r_ohm) ** 0.5:.4g}")
    clip.keep()
    at = session.records.reading(clip.procedure.at_distortion["thd_1"][0].subject, onset.conditions)
    assert isinstance(at, Reading)
    assert at.value > onset.power.value
    clip.show_definition("onset")
    kept = session.records.reading(onset.subject, onset.conditions)
    assert kept is not None
    assert kept.value < at.value
    assert "1 % " in clip.matrix.views[0].toolTip()
    clip.show_driven("all")
    assert clip.cell.driven == "all"
    assert len([view for view in clip.matrix.views if view.isVisibleTo(clip)]) == 6


def test_the_clock_of_a_load_runs_and_says_when_to_stop(window: PlinthWindow) -> None:
    take(window, REHEARSAL_ROOM)
    page = window.measure
    page.show_named("Clipping power")
    page.clip.choose(1)
    assert page.load_warmth.text() == "Cold."
    page.toggle_load()
    assert re.match(r"On for \d+ s at up to", page.load_warmth.text())
    assert page.load_clock.text().startswith("Load off")
    page.toggle_load()
    assert page.load_clock.text().startswith("Load on")
    page.show_named("Response")
    assert not page.load_clock.isVisibleTo(page)
    page.toggle_load()


def test_runs_of_a_response_lie_over_each_other(window: PlinthWindow, qtbot: QtBot) -> None:
    take(window, MARKET_BOX)
    window.measure.show_named("Response")
    window.measure.reason.setText("for this look")
    window.measure.pass_over()
    test = window.measure.response
    test.field.setText("2.00")
    test.keep()
    test.run_field.setText("  bass / up ")
    test.add_run()
    assert test.procedure.run == "bass up"
    for volts in ("2.00", "3.1"):
        test.field.setText(volts)
        test.keep()
    kept = window.session.records.reading(f"response/left/10@{test.procedure.run}")
    assert kept is not None
    assert kept.low is None, "another setting is not held against the plain prediction"
    names = [one.name for one in test.plot.series]
    assert {"as it is", "without load"} <= set(names)
    test.band_field.setText("40-15k")
    test.take_band()
    assert "from 40 Hz to 15 kHz" in test.summary.text()
    for field, take_it, wrong in (
        (test.band_field, test.take_band, "20k to 20"), (test.run_field, test.add_run, " "),
        (test.run_field, test.add_run, "x" * 60),
    ):  # fmt: skip
        field.setText(wrong)
        take_it()
        assert "xpected" in test.understood.text()
        assert field.text() == wrong
    test.show_run("")
    assert test.procedure.volts() == {1000.0: 2.0}


def test_a_stop_watch_types_its_seconds(window: PlinthWindow) -> None:
    take(window, REHEARSAL_ROOM)
    test = open_test(window, "Protection")
    assert test.procedure.request is not None
    assert test.procedure.request.key == "mute"
    assert test.stop_watch.isVisibleTo(test)
    test.stop_watch.press()
    assert test.stop_watch.text().startswith("Stop at ")
    test.stop_watch.press()
    assert float(test.field.text()) >= 0.0
    assert test.stop_watch.text().startswith("Stop watch")
    test.choose(next(k for k, one in enumerate(test.asked) if one.key == "threshold_plus"))
    assert not test.stop_watch.isVisibleTo(test)
    test.choose(0)
    test.stop_watch.press()
    test.choose(1)
    assert not test.stop_watch.running, "another row ends it"


def test_a_load_into_which_it_cannot_run_is_named_and_the_others_stay(
    window: PlinthWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = clip_cell

    def refusing(build: Build, channel: str, situation: Situation, who: Driven, load: Load) -> ClipCell:
        if load.name == "Dummy 4":
            raise RailCollapseError("this load collapses the rail")
        return real(build, channel, situation, who, load)

    monkeypatch.setattr(clip_test, "clip_cell", refusing)
    take(window, REHEARSAL_ROOM)
    window.measure.show_named("Clipping power")
    clip = window.measure.clip
    assert {cell.load.name for cell in clip.procedure.cells} == {"Dummy 8"}
    assert len(clip.procedure.cells) == 6
    assert clip.state.text().count("Nothing to expect into 4.03 Ω: this load collapses the rail") == 1
    monkeypatch.setattr(clip_test, "clip_places", lambda _build: ())
    window.measure.channels.choose("right")
    assert clip.counts() == (0, 0)
    assert clip.state.text() == "Nothing to expect."
    clip.keep()
    monkeypatch.undo()
    window.measure.channels.choose("left")
    assert len(clip.procedure.cells) == 12
