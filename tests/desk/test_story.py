"""The real window through the whole story; what the screen says is compared with the core."""

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from plinth.bench import frequency_response as response
from plinth.bench.clip_cell import clip_cells
from plinth.bench.clipping import expected_band
from plinth.builds.situation import Situation
from plinth.demo import shelf
from plinth.demo.builds import STAGE_PAIR
from plinth.desk.origin import OriginDialog
from plinth.desk.plan.what_if import STEPS, present
from plinth.desk.power_up.question import Question
from plinth.desk.session import BenchSession
from plinth.desk.stages import STAGES
from plinth.desk.window import PlinthWindow
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.predict.solve import solve
from plinth.record.reading import Override
from plinth.report.reading_words import sentence_of
from plinth.units.level import read_level
from plinth.units.shown import shown, shown_with_spread
from plinth.workshop.store import open_workshop
from tests.desk.driver import press, take, type_in
from tests.sample_builds import linear
from tests.turns import in_turn


def test_plan_says_what_the_core_computes(window: PlinthWindow, session: BenchSession) -> None:
    expected = solve(STAGE_PAIR, Situation())
    rails, module = window.band.stations["rails"].content, window.band.stations["module"].content
    assert rails is not None
    assert module is not None
    lower = min((expected["rail_plus_mean_v"], expected["rail_minus_mean_v"]), key=lambda f: f.value)
    assert rails.main == "±" + shown_with_spread(lower.value, lower.spread, "V")
    power = expected["output_power_w"]
    assert module.main == shown_with_spread(power.value, power.spread, "W")
    assert window.band.stations["wall"].content is not None
    assert shown(expected["primary_rms_a"].value, "A") in window.band.stations["wall"].content.below
    margins = {m.key: m for m in judge(expected)}
    for row in window.plan.ledger.rows:
        assert row.margin == margins[row.margin.key]
        content = row.ruler.content
        assert content is not None
        assert content.state is margins[row.margin.key].state
        assert margins[row.margin.key].sentence in row.sentence.text()
    output = next(s for s in window.plan.rails_plot.series if s.name == "output")
    assert max(output.y) == pytest.approx(expected["clip_v_peak"].value, rel=2e-3)
    assert "100 W" in window.plan.load_powers.claim.text()
    assert "33 mV" in window.plan.load_powers.claim.text()


def test_a_part_is_exchanged_undone_and_done_again(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    press(window.band.stations["transformer"])
    assert session.station == "transformer"
    take(window, "Ring 330")
    assert linear(session.build).transformer == shelf.RING_330
    expected = solve(session.build, Situation())
    content = window.band.stations["module"].content
    assert content is not None
    assert content.main == shown_with_spread(expected["output_power_w"].value, expected["output_power_w"].spread, "W")
    assert {m.key: m.state for m in session.predictions.margins}["module_rail_maximum"] is State.OVER
    assert any(e.words == "Ring 225 exchanged for Ring 330." for e in session.records.diary_lines())
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert session.build == STAGE_PAIR
    assert "supply.transformer" in window.plan.parts.change_buttons
    assert "Ring 225" in window.plan.parts.change_buttons["supply.transformer"].accessibleName()
    session.plan.redo()
    assert linear(session.build).transformer == shelf.RING_330
    session.plan.undo()
    assert window.session.workshop.builds()[0].build == STAGE_PAIR


def test_a_slider_moves_everything_at_once_and_one_undo_puts_it_back(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    row = window.plan.what_if.rows["load_ohm"]
    shown_before = window.band.stations["module"].content
    row.slider.setSliderDown(True)
    for position in (150, 180, 200):
        row.slider.setValue(position)
        load = row.knob.value_at(position)
        assert session.situation.load_ohm == pytest.approx(load)
        assert session.predictions.prediction is not None
        value = solve(STAGE_PAIR, Situation(load_ohm=load))["clip_power_w"].value
        assert session.predictions.prediction["clip_power_w"].value == pytest.approx(value, rel=1e-9)
    assert not session.plan.can_undo
    row.slider.setSliderDown(False)
    assert session.plan.can_undo
    assert window.band.stations["module"].content != shown_before
    session.plan.undo()
    assert session.situation == Situation()
    assert window.band.stations["module"].content == shown_before


@pytest.mark.parametrize("positions", in_turn([(0, STEPS), (0, 1, STEPS - 1, STEPS)], 2))
def test_every_slider_goes_from_end_to_end(
    window: PlinthWindow, session: BenchSession, positions: tuple[int, ...]
) -> None:
    for row in window.plan.what_if.rows.values():
        for position in positions:
            row.slider.setValue(position)
            value = present(row.knob, session.build, session.situation)
            if value is None:
                assert position == 0
                assert row.field.text() == row.knob.without
                continue
            assert row.knob.low <= value <= row.knob.high
            assert row.knob.position_of(value) == pytest.approx(position, abs=6)
        session.plan.reset_what_if()


def test_a_lamp_and_a_source_are_put_in_and_taken_out_beside_the_sliders(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    rows = window.plan.what_if.rows
    assert rows["lamp_w"].field.text() == "none"
    assert session.predictions.prediction is not None
    before = session.predictions.prediction["rail_idle_v"].value
    type_in(rows["lamp_w"].field, "60")
    assert session.situation.lamp_w == pytest.approx(60.0)
    assert session.predictions.prediction["rail_idle_v"].value < before
    type_in(rows["lamp_w"].field, "none")
    assert session.situation.lamp_w is None
    type_in(rows["lamp_w"].field, "3")
    assert "expected 15 to 200" in rows["lamp_w"].note.text()
    type_in(rows["source_v_rms"].field, "500m")
    margin = next(m for m in session.predictions.margins if m.key == "source_drive")
    assert margin.state is State.OVER
    assert "Drive is missing" in margin.sentence
    type_in(rows["source_v_rms"].field, "4")
    margin = next(m for m in session.predictions.margins if m.key == "source_drive")
    assert margin.state is State.CLEAR
    assert "dB to spare" in margin.sentence
    type_in(rows["source_v_rms"].field, "not said")
    assert not any(m.key == "source_drive" for m in session.predictions.margins)


def test_values_are_typed_beside_the_sliders_as_spoken(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    rows = window.plan.what_if.rows
    type_in(rows["mains_v_rms"].field, "241,5 V")
    assert session.situation.mains_v_rms == pytest.approx(241.5)
    type_in(rows["frequency_hz"].field, "2k")
    assert session.situation.frequency_hz == pytest.approx(2000.0)
    assert rows["frequency_hz"].field.text() == "2 kHz"
    type_in(rows["ambient_c"].field, "300")
    assert "expected 0 to 45" in rows["ambient_c"].note.text()
    type_in(rows["ambient_c"].field, "warm")
    assert "expected a number" in rows["ambient_c"].note.text()
    assert session.situation.ambient_c == 25.0
    press(window.plan.what_if.channels)
    assert session.situation.channels_driven == "one"
    press(window.plan.what_if.back)
    assert session.situation == Situation()


def test_a_build_that_cannot_run_says_why_and_shows_no_stale_figure(
    window: PlinthWindow, session: BenchSession
) -> None:
    weak = shelf.RING_225.model_copy(update={"name": "Doorbell", "v_secondary_rms": 2.0, "va": 5.0})
    session.plan.swap("supply.transformer", weak)
    assert session.predictions.prediction is None
    assert "cannot run" in window.plan.problem.text()
    assert window.plan.problem.isVisible()
    assert window.band.stations["rails"].content is not None
    assert window.band.stations["rails"].content.main == "–"
    assert window.band.stations["wall"].content is not None
    assert window.band.stations["wall"].content.state is State.UNKNOWN
    assert STAGES[0].state(session) == "cannot run"
    window.grab()
    window.show_stage("power_up")
    assert window.power_up.problem.isVisible()
    window.show_stage("measure")
    window.show_stage("diary")
    assert not window.diary.report_button.isEnabled()
    session.plan.undo()
    assert session.predictions.prediction is not None
    assert not window.plan.problem.isVisible()


def test_where_a_figure_comes_from(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    prediction = session.predictions.prediction
    assert prediction is not None
    dialog = OriginDialog(
        window, dict(prediction.figures), "rail_no_load_v", lambda name: session.explaining.explained(prediction, name)
    )
    qtbot.addWidget(dialog)
    figure = prediction["rail_no_load_v"]
    assert dialog.value.text() == shown_with_spread(figure.value, figure.spread, "V")
    words = dialog.formula.text()
    assert words.startswith(f"{figure.origin.formula}; with ")
    assert words.endswith(f": {shown(figure.value, 'V')}")
    for row in figure.contributions[:3]:
        assert f"{row.label} {shown(row.value, row.unit)}" in words
    assert dialog.source.text() == figure.origin.source
    assert dialog.limits.text().endswith("not in it.")
    assert "transformer regulation" in dialog.estimated.text()
    assert dialog.table.rowCount() == len(figure.contributions)
    item = dialog.table.item(0, 0)
    assert item is not None
    assert item.text().startswith(figure.contributions[0].label)


def settled(question: Question, text: str) -> None:
    """Kept and judged although its time to watch is not over."""
    question.field.setText(text)
    press(question.keep_button)


def supply_alone(session: BenchSession, question: Question) -> None:
    """The supply before any board, and discharged again."""
    press(question.on_button)
    type_in(question.field, "36.1")
    assert question.step is not None
    assert question.step.key == "input_rails"
    type_in(question.field, "15.02")
    session.power.switch_off()
    type_in(question.field, "4")


def from_the_wall(session: BenchSession, question: Question) -> None:
    """The board on its own supply, the protection."""
    press(question.on_button)
    settled(question, "35.6")
    assert question.step is not None
    assert question.step.key == "ripple"
    press(question.keep_button)
    assert question.step.key == "wall_current"
    press(question.keep_button)
    type_in(question.field, "2.5")
    assert question.step.key == "dc_trip"
    press(question.keep_button)
    type_in(question.field, "2.8")
    session.power.switch_off()
    type_in(question.field, "3")


def test_power_up_with_a_bad_reading_then_a_good_one(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    window.power_up.channels.choose("right")
    window.show_stage("power_up")
    question = window.power_up.question
    assert question.title.text() == "Right: tab to heat sink, open?"
    assert question.window_words.text() == "above 1.00 MΩ"
    type_in(question.field, "12 k", enter=False)
    assert question.said.verdict.text() == "Below the window"
    qtbot.keyClick(question.field, Qt.Key.Key_Return)
    assert question.step is not None
    assert question.step.key == "insulation"
    reading = session.records.reading("bringup/right/insulation")
    assert reading is not None
    assert reading.state is State.OVER
    assert "▶" in window.power_up.steps.list.item(0).text()
    # It stays to be seen, and what is typed next takes its place.
    assert question.field.selectedText() == "12 k"
    qtbot.keyClicks(question.field, "22M")
    qtbot.keyClick(question.field, Qt.Key.Key_Return)
    assert session.records.reading("bringup/right/insulation").value == 22e6  # type: ignore[union-attr]
    assert question.step.key == "rails_open"
    type_in(question.field, "3k9")
    assert question.step.key == "rails_output"
    type_in(question.field, "41k")
    type_in(question.field, "11k")
    type_in(question.field, "0R34")
    assert question.step.key == "trimmer"
    press(question.keep_button)
    assert question.step.key == "air"
    assert "Leave it out" in question.keep_button.text()
    type_in(question.field, "21")
    assert question.step.key == "alone_rail"
    assert not window.stop_bar.isVisible()
    supply_alone(session, question)
    window.stop_bar.away_button.click()
    assert question.step.key == "low_current"
    assert not question.field.isVisible()
    assert not window.stop_bar.isVisible()
    press(question.on_button)
    assert window.stop_bar.isVisible()
    assert "Power is on" in window.stop_bar.words.text()
    type_in(question.field, "13")
    # What is watched is noted by Enter while the time runs, and goes on by the button.
    type_in(question.field, "9 mV")
    assert question.step.key == "low_dc"
    assert session.records.reading("bringup/right/low_dc") is None
    settled(question, "-6 mV")
    type_in(question.field, "18")
    settled(question, "8m")
    assert question.step.key == "bias"
    assert question.window_words.text() == "31.3 mV to 36.7 mV"
    assert "22 mV across 0.22 Ω" in question.ask.text()
    type_in(question.field, "34")
    settled(question, "35.2")
    assert question.step.key == "sink"
    type_in(question.field, "26")
    settled(question, "34.2")
    assert "Round 1 of 2" in question.held.text()
    settled(question, "34.1")
    type_in(question.field, "8 mV")
    assert question.step.key == "discharged"
    assert not question.field.isEnabled()
    assert "press Stop first" in question.held.text()
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert session.power.live is None
    assert "until below 5 V" in window.stop_bar.words.text()
    assert "computed, not measured" in window.stop_bar.detail.text()
    type_in(question.field, "2.2")
    assert question.step.key == "mains_rail"
    from_the_wall(session, question)
    assert question.step.key == "loudspeaker"
    press(question.keep_button)
    assert session.bring_up.brought_up("right")
    assert "Right is up" in window.power_up.all_done.text()
    # The soak goes on: the left one's since October, the right one's from now.
    assert question.step.key == "soak_1h"
    assert "Due" in question.held.text()
    assert STAGES[2].state(session) == "61/72"


def test_the_gate_holds_until_a_reason_is_written(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    window.power_up.channels.choose("right")
    window.show_stage("power_up")
    question = window.power_up.question
    window.power_up.steps.list.setCurrentRow(4)
    assert "Not yet" in question.held.text()
    assert not question.keep_button.isVisible()
    assert not question.on_button.isVisible()
    window.power_up.steps.list.setCurrentRow(0)
    press(question.in_words.pass_button)
    type_in(question.reason, "x")
    assert not session.records.book.last("bringup/right/insulation")
    type_in(question.reason, "fully plastic packages, nothing to insulate")
    record = session.records.book.last("bringup/right/insulation")
    assert isinstance(record, Override)
    assert "plastic" in record.reason
    assert question.step is not None
    assert question.step.key == "rails_open"


def test_nonsense_at_a_step_is_explained_and_not_kept(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    window.power_up.channels.choose("right")
    window.show_stage("power_up")
    question = window.power_up.question
    before = len(session.records.diary_lines())
    type_in(question.field, "33 mV")
    assert question.said.verdict.text() == "Not understood"
    assert "expected a value in ohm" in question.understood.text()
    assert question.field.text() == "33 mV"
    assert len(session.records.diary_lines()) == before


@pytest.mark.parametrize("typed", in_turn(["49.9pp", "49,9 Vpp", "17.64 rms", "24.95pk"], 2))
def test_a_clip_reading_typed_four_ways_is_one_power(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, typed: str
) -> None:
    window.show_stage("measure")
    window.measure.show_named("Clipping power")
    clip = window.measure.clip
    clip.choose(1)
    assert clip.cell is not None
    assert clip.cell.load.name == "Dummy 4"
    type_in(clip.field, typed, enter=False)
    assert "rms = 77" in clip.understood.text()
    assert "Inside the predicted" in clip.against.text()
    qtbot.keyClick(clip.field, Qt.Key.Key_Return)
    reading = session.records.reading("clip/left/one/Dummy 4")
    assert reading is not None
    assert reading.typed == typed
    assert reading.value == pytest.approx(77.2, rel=2e-3)
    assert reading.u is not None
    expected = next(c for c in clip_cells(STAGE_PAIR, "left", Situation()) if c.subject == reading.subject)
    form = read_level(typed).form
    assert form is not None
    band = expected_band(expected, form)
    assert (reading.low, reading.high) == pytest.approx((band.value - 2.0 * band.u, band.value + 2.0 * band.u))
    assert "W at onset; " in sentence_of(reading)
    assert "not reached" in sentence_of(reading)


def test_a_doubtful_reading_is_asked_about_and_kept_as_answered(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    window.show_stage("measure")
    window.measure.show_named("Clipping power")
    clip = window.measure.clip
    clip.choose(0)
    before = session.records.reading("clip/left/one/Dummy 8")
    type_in(clip.field, "54.6 rms")
    assert session.records.reading("clip/left/one/Dummy 8") == before
    assert "Which did it say?" in clip.understood.text()
    texts = [b.text() for b in clip.choices if isinstance(b, QPushButton)]
    assert texts[0].startswith("1  peak to peak")
    press(clip.choices[0])
    kept = session.records.reading("clip/left/one/Dummy 8")
    assert kept is not None
    assert kept.typed == "54.6 rms"
    assert kept.value == pytest.approx(54.6**2 / 8 / 8.11, rel=1e-3)


def test_measuring_waits_for_the_bring_up_or_a_reason(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    window.show_stage("measure")
    window.measure.show_named("Clipping power")
    clip = window.measure.clip
    assert clip.cell is not None
    assert clip.cell.driven == "all"
    assert "Right is not brought up yet: 0 of 29" in window.measure.held.text()
    assert not clip.field.isEnabled()
    clip.choose(0)
    assert clip.field.isEnabled()
    assert not window.measure.held.isVisible()
    window.measure.channels.choose("right")
    assert not clip.field.isEnabled()
    press(window.measure.held_button)
    type_in(window.measure.reason, "checked on the old bench last week")
    assert clip.field.isEnabled()
    assert any(e.kind == "override" and "old bench" in e.words for e in session.records.diary_lines())


def test_set_up_respects_the_rating_of_the_dummy_load(window: PlinthWindow, session: BenchSession) -> None:
    window.show_stage("measure")
    window.measure.show_named("Clipping power")
    window.measure.clip.choose(1)
    cell = window.measure.clip.cell
    assert cell is not None
    drive = cell.prediction["drive_v_rms"]
    assert window.measure.generator.text() == f"{shown_with_spread(drive.value, drive.spread, 'V')} rms"
    assert "at most" in window.measure.load_time.text()
    assert "100 W into 4" in window.measure.claim.text()
    window.measure.clip.choose(0)
    assert "may stay on" in window.measure.load_time.text()


def test_response_is_typed_point_by_point_and_drawn_relative_to_one_kilohertz(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    window.show_stage("measure")
    window.measure.show_named("Response")
    test = window.measure.response
    assert test.f_hz == 1000.0
    assert "Read 1 kHz first" in test.summary.text()
    type_in(test.field, "2.01")
    assert test.f_hz == 10.0
    for volts in ("1.31", "1.79", "1.97", "2,00", "2.01", "5.69pp", "2.01", "2.00", "1.99", "1.96", "1.7"):
        type_in(test.field, volts)
    assert test.counts() == (12, 12)
    dots = next(s for s in test.plot.series if s.name == "read")
    at_one = list(dots.x).index(1000.0)
    assert dots.y[at_one] == 0.0
    assert "−3 dB at" in test.summary.text()
    assert "Response   12 of 12" in [one.text() for one in window.measure.tests.buttons()]
    ten = session.records.reading("response/left/10")
    assert ten is not None
    assert ten.state is State.OVER
    type_in(test.field, "loud")
    assert "expected a level" in test.understood.text()


def test_the_diary_shows_everything_and_writes_report_and_table(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, tmp_path: Path
) -> None:
    window.show_stage("diary")
    page = window.diary
    type_in(page.note, "Hums less with the lid on <b>really</b>")
    assert page.lines.rowCount() == len(session.records.diary_lines())
    assert str(page.lines.index(page.lines.rowCount() - 1, 2).data()).startswith("Hums less")
    assert page.save_report(tmp_path / "r.html")
    html = (tmp_path / "r.html").read_text(encoding="utf-8")
    assert "http" not in html
    assert "src=" not in html
    assert html.count("<svg") >= 2
    assert "&lt;b&gt;really" in html
    assert "invented demo data" in html
    assert "typed 22, 22.0" in html
    power = session.predictions.prediction["clip_power_w"]  # type: ignore[index]
    assert shown_with_spread(power.value, power.spread, "W") in html
    page.save_csv(tmp_path / "r.csv")
    rows = (tmp_path / "r.csv").read_text(encoding="utf-8").splitlines()
    assert len(rows) == 1 + sum(e.reading is not None for e in session.records.diary_lines())
    page.save_csv(tmp_path / "none" / "r.csv")
    assert "could not be written" in page.said.text()


def test_builds_are_switched_made_and_copied(window: PlinthWindow, session: BenchSession) -> None:
    session.switch(2)
    assert session.build.name == "Rehearsal room"
    assert "Rehearsal room" in window.head.builds.text()
    assert "R17" not in "".join(w.step.key for w in session.bring_up.stands("left"))
    assert session.plan.add_build("Cellar", copy=True)
    assert session.build.name == "Cellar"
    assert session.build.module == session.builds[1].build.module
    assert session.records.diary_lines()[0].words == "Cellar: copied from Rehearsal room."
    names = ["Stage pair", "Rehearsal room", "Foyer", "Street box", "Market box", "Stage pair, cooler", "Cellar"]
    assert [b.build.name for b in session.builds] == names


def test_the_state_survives_a_restart(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    session.plan.what_if(live=False, load_ohm=8.0)
    session.plan.swap("module", shelf.STAGEHAND_90)
    path = session.workshop.path
    window.close()
    again = BenchSession(open_workshop(path), threaded=False)
    assert again.situation.load_ohm == 8.0
    assert again.build.module == shelf.STAGEHAND_90
    assert not again.plan.can_undo
    again.close()


def test_what_cannot_be_kept_stays_on_screen_and_is_said(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    import sqlite3

    import sqlalchemy as sa

    window.show_stage("measure")
    window.measure.show_named("Clipping power")
    clip = window.measure.clip
    clip.choose(1)
    before = session.records.reading("clip/left/one/Dummy 4")

    def full(*_args: object) -> None:
        raise sqlite3.OperationalError("database or disk is full")

    sa.event.listen(session.workshop.engine, "before_cursor_execute", full)
    type_in(clip.field, "48.8pp")
    sa.event.remove(session.workshop.engine, "before_cursor_execute", full)
    assert clip.field.text() == "48.8pp"
    assert "could not be kept" in window.trouble.text()
    assert window.trouble.isVisible()
    assert window.head.kept.text() == "not kept!"
    assert session.records.reading("clip/left/one/Dummy 4") == before
    qtbot.keyClick(clip.field, Qt.Key.Key_Return)
    assert session.records.reading("clip/left/one/Dummy 4").typed == "48.8pp"  # type: ignore[union-attr]
    assert "all kept" in window.head.kept.text()


def test_points_of_one_s_own_join_the_usual_frequencies(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    window.show_stage("measure")
    window.measure.show_named("Response")
    page = window.measure.response
    for odd, words in (("loud", "expected a number"), ("5 MHz", "expected 1.0 Hz to 1.0 MHz")):
        type_in(page.own, odd)
        assert words in page.understood.text()
        assert page.own.text() == odd
    type_in(page.own, "25 kHz")
    assert page.f_hz == 25e3
    assert "25 k" in page.prompt.text()
    assert page.table.rowCount() == len(response.FREQUENCIES_HZ) + 1
    type_in(page.field, "2.5")
    assert page.procedure.volts() == {25e3: pytest.approx(2.5)}
    page.show_channel("right")
    page.show_channel("left")
    assert 25e3 in page.frequencies
