"""Decide in the window: from two versions with readings to a verdict, a blind comparison, a listening note."""

import dataclasses
import random
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QLineEdit
from pytestqt.qtbot import QtBot

from plinth.captures.options import Options
from plinth.decide.side import LETTERS
from plinth.desk.decide.blind_dialog import BlindDialog
from plinth.desk.decide.listening_dialog import ListeningDialog
from plinth.desk.decide.page import DecidePage
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.session.capture_view import view_of
from plinth.session.captures import CaptureOf
from plinth.session.core import PlanState
from tests.desk.driver import press, sees, type_in


@pytest.fixture
def page(window: PlinthWindow) -> DecidePage:
    window.show_stage("decide")
    (made,) = window.findChildren(DecidePage)
    return made


def cells(page: DecidePage, part: str) -> list[str]:
    """The texts of the first row whose figure has this in its name."""
    for row in range(page.table.rowCount()):
        texts = [item.text() if (item := page.table.item(row, column)) else "" for column in range(4)]
        if part in texts[0]:
            return texts
    raise AssertionError(f"no row of {part}")


def spoken(page: DecidePage, part: str) -> str:
    for row in range(page.table.rowCount()):
        item = page.table.item(row, 0)
        if item is not None and part in item.text():
            return str(item.data(Qt.ItemDataRole.AccessibleTextRole))
    raise AssertionError(f"no row of {part}")


def diary(session: BenchSession) -> list[str]:
    return [line.words for line in session.records.diary_lines()]


def answered(monkeypatch: pytest.MonkeyPatch, kind: type[QDialog], keys: Callable[[QDialog], None]) -> None:
    """Let a dialog of this kind be answered by keys when it is asked."""

    def shown(dialog: QDialog) -> int:
        dialog.show()
        keys(dialog)
        return 1

    monkeypatch.setattr(kind, "exec", shown)


def test_listing_and_builds_stand_on_one_ruler_with_claim_prediction_and_reading(page: DecidePage) -> None:
    assert page.keys == ("listing", "version 1", "build 6")
    assert [page.sides.item(row).text()[:4] for row in range(3)] == ["A   ", "B   ", "C   "]
    clip = cells(page, "Clip power, 8.11 Ω, alone")
    assert clip[2].splitlines()[0] == "A  “45.0 W”"
    assert clip[2].splitlines()[1] == "B  45.9 W"
    assert clip[3] == "not held:\none is read, one predicted"
    words = spoken(page, "Clip power, 8.11 Ω, alone")
    assert "A: claimed 45.0 W" in words
    assert "read 46 ±3 W" in words
    assert cells(page, "Rails: at rest, + rail")[3] == "predicted the same"
    assert "predicted only" in cells(page, "Still to pay")[3]
    # What differs for sure, or is predicted to, comes before what is the same.
    names = [page.table.item(row, 0).text() for row in range(page.table.rowCount())]  # type: ignore[union-attr]
    assert names.index("Heat sink, programme") < names.index("Clip power, 8.11 Ω, all channels")


def test_only_what_differs_is_shown_on_demand(page: DecidePage) -> None:
    every = page.table.rowCount()
    page.only.setChecked(True)
    assert 0 < page.table.rowCount() < every
    assert page.count.text() == f"{page.table.rowCount()} of {every} differ"


def test_two_to_four_are_chosen_and_the_keyboard_does_it(page: DecidePage) -> None:
    first = page.sides.item(0)
    page.sides.setCurrentItem(first)
    QTest.keyClick(page.sides, Qt.Key.Key_Space)
    assert page.keys == ("version 1", "build 6")
    assert page.sides.item(1).text().startswith(LETTERS[0])
    page.sides.item(1).setCheckState(Qt.CheckState.Unchecked)
    assert "Choose two to 4: 1 are chosen" in page.said.text()
    assert not page.blind_button.isEnabled()
    for row in range(5):
        page.sides.item(row).setCheckState(Qt.CheckState.Checked)
    assert "5 are chosen" in page.said.text() or "6 are chosen" in page.said.text()


def test_what_was_changed_stands_beside_and_one_change_is_told_from_two(
    session: BenchSession, window: PlinthWindow
) -> None:
    build = session.build
    gain = build.model_copy(update={"module": build.module.model_copy(update={"gain": 1.1 * build.module.gain})})
    session.plan.change(PlanState(gain, session.situation), "gain raised", "gain raised")
    window.show_stage("decide")
    (page,) = window.findChildren(DecidePage)
    assert page.keys[-2:] == ("version 1", "version 2")
    assert "One thing was changed" in page.changed.text()
    assert page.changed.text().endswith("The diary on it: gain raised.")
    assert "take back" not in page.next.text()
    assert page.changed_title.text() in ("From B to C", "From A to B")
    supply = session.build.supply
    reservoir = getattr(supply, "reservoir", None)
    assert reservoir is not None
    other = supply.model_copy(update={"reservoir": reservoir.model_copy(update={"c_f": 2.0 * reservoir.c_f})})
    both = session.build.model_copy(update={"supply": other})
    session.plan.change(PlanState(both, session.situation), "reservoirs doubled", "reservoirs doubled")
    page.refresh()
    for row in range(page.sides.count()):
        item = page.sides.item(row)
        named = any(word in item.text() for word in ("version 1", "version 3"))
        item.setCheckState(Qt.CheckState.Checked if named else Qt.CheckState.Unchecked)
    assert page.keys == ("version 1", "version 3")
    assert "cannot be told apart" in page.changed.text()
    assert page.changed.text().endswith("The diary on it: gain raised; reservoirs doubled.")
    assert "To tell them apart, take back" in page.next.text()
    # Ripple falls with the reservoirs, and the prediction says so.
    assert cells(page, "Rails: at clipping, + rail ripple")[3].startswith("−")


def test_a_verdict_is_kept_with_what_it_rests_on_and_an_empty_one_is_not(
    page: DecidePage, session: BenchSession
) -> None:
    before = len(diary(session))
    press(page.keep_button)
    assert "Found no words" in page.kept.text()
    assert len(diary(session)) == before
    page.verdict.setPlainText("Keep the cooler one. Due: the hall in June.")
    press(page.keep_button)
    assert page.verdict.toPlainText() == ""
    (line,) = diary(session)[before:]
    assert line.startswith("Verdict: Keep the cooler one. Due: the hall in June. [Nothing was read both of")
    page.refresh()
    assert "Verdict: Keep the cooler one" in page.heard.text()


def test_a_listening_note_stands_beside(
    page: DecidePage, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    said: list[str] = []

    def write(dialog: QDialog) -> None:
        assert isinstance(dialog, ListeningDialog)
        dialog.keep()
        said.append(dialog.said.text())
        type_in(dialog.fields["Piece"], "storm scene", enter=False)
        dialog.words.setPlainText("firmer, no hum at a metre")
        dialog.keep()

    answered(monkeypatch, ListeningDialog, write)
    press(page.note_button)
    assert said == ["Found no words, expected what was heard."]
    assert diary(session)[-1] == "Heard (storm scene): firmer, no hum at a metre"
    assert "firmer, no hum at a metre" in page.heard.text()


def fill_levels(dialog: BlindDialog, first: str, second: str) -> None:
    for (letter, _channel), field in dialog.levels.items():
        assert isinstance(field, QLineEdit)
        type_in(field, first if letter == "A" else second, enter=False)


def test_a_blind_comparison_goes_from_matched_levels_to_the_diary_by_keys(
    page: DecidePage, session: BenchSession, qtbot: QtBot
) -> None:
    dialog = BlindDialog(page, session, ("version 1", "the cooler"), random.Random(1))
    qtbot.addWidget(dialog)
    dialog.show()
    assert not dialog.begin_button.isEnabled()
    assert "nothing is matched by ear" in dialog.level_words.text()
    fill_levels(dialog, "2.83", "2.90")
    assert "0.21 dB apart" in dialog.level_words.text()
    assert not dialog.begin_button.isEnabled()
    fill_levels(dialog, "2.83", "loud")
    assert "Found 'loud'" in dialog.level_words.text()
    fill_levels(dialog, "2.83", "2.85")
    assert "Matched: 0.06 dB" in dialog.level_words.text()
    press(dialog.begin_button)
    assert "Trial 1 of 12" in dialog.trial_words.text()
    played = []
    for _ in range(12):
        # Whoever switches sees the card while it is held, and only then.
        assert not any("Connect" in words for words in sees(dialog))
        QTest.mousePress(dialog.card_button, Qt.MouseButton.LeftButton)
        played.append(dialog.card.text()[8])
        QTest.mouseRelease(dialog.card_button, Qt.MouseButton.LeftButton)
        assert dialog.card.text() == ""
        assert "right" not in " ".join(sees(dialog))
        QTest.keyClick(dialog, Qt.Key.Key_A if played[-1] == "A" else Qt.Key.Key_B)
    assert "12 of 12 right" in dialog.outcome_words.text()
    assert "0.024 %" in dialog.outcome_words.text()
    assert "They were told apart" in dialog.outcome_words.text()
    assert diary(session)[-1].startswith("Blind comparison of version 1 and the cooler: 12 of 12 right")
    assert "Levels 0.06 dB apart at 1 kHz" in diary(session)[-1]
    # Nothing more is taken once it is open.
    dialog.answer("A")
    assert len(dialog.answers) == 12


def test_a_blind_comparison_that_is_stopped_says_that_it_is_no_result(
    page: DecidePage, session: BenchSession, qtbot: QtBot
) -> None:
    dialog = BlindDialog(page, session, ("one", "other"), random.Random(1))
    qtbot.addWidget(dialog)
    dialog.show()
    fill_levels(dialog, "2.83", "2.83")
    press(dialog.begin_button)
    dialog.answer("A")
    press(dialog.stop_button)
    assert "stopped after 1 of 12" in dialog.outcome_words.text()
    assert "no result" in diary(session)[-1]


def test_another_build_brings_its_own_candidates(page: DecidePage, session: BenchSession) -> None:
    session.switch(session.builds[1].id)
    assert page.sides.item(1).text().startswith(("A", "B"))
    assert session.build.name not in [page.sides.item(row).text() for row in range(2, page.sides.count())]
    assert page.shown is not None
    assert page.shown.sides[-1].build is not None


def test_what_is_laid_over_each_other_is_chosen_and_captures_give_spectra(
    window: PlinthWindow, session: BenchSession, tmp_path: Path, qtbot: QtBot
) -> None:
    t = np.arange(48_000) / 48_000.0
    soundfile.write(tmp_path / "tone.wav", 0.5 * np.sin(2.0 * np.pi * 1000.0 * t), 48_000)
    kept: list[object] = []
    session.captures.keep(view_of(tmp_path / "tone.wav", Options()), CaptureOf("note"), kept.append)
    qtbot.waitUntil(lambda: bool(kept))
    window.show_stage("decide")
    (page,) = window.findChildren(DecidePage)
    assert page.shown is not None
    for name, plot in page.plots.items():
        page.overlay.setCurrentText(name)
        page.overlay.activated.emit(page.overlay.currentIndex())
        assert [each.isVisibleTo(page) for each in page.plots.values()] == [
            each is plot for each in page.plots.values()
        ]
        assert plot.graph is not None
    assert page.plots["Output impedance"].aside.text() == "nothing known of it"
    own = page.keys.index("version 1")
    (spectrum,) = page.plots["Spectrum"].series
    assert spectrum.label == LETTERS[own]
    assert float(spectrum.x[int(np.argmax(spectrum.y))]) == pytest.approx(1000.0, rel=0.02)
    assert {curve.label for curve in page.plots["Rails over load"].series} >= {LETTERS[own]}


def test_the_reading_that_would_tell_most_is_one_press_away(window: PlinthWindow, session: BenchSession) -> None:
    other = next(stored for stored in session.builds if stored.build.name == "Rehearsal room")
    window.show_stage("decide")
    (page,) = window.findChildren(DecidePage)
    wanted = {"version 1", f"build {other.id}"}
    for row in range(page.sides.count()):
        item = page.sides.item(row)
        named = str(item.data(Qt.ItemDataRole.UserRole)) in wanted
        item.setCheckState(Qt.CheckState.Checked if named else Qt.CheckState.Unchecked)
    assert set(page.keys) == wanted
    assert "Would tell most:" in page.next.text()
    press(page.next_button)
    assert window.stage in ("measure", "power_up")
    assert session.build.name == "Rehearsal room"
    # An older version cannot be read any more.
    assert session.deciding.can_read(["listing"]) == [False]


def test_an_answer_that_comes_after_another_build_was_taken_is_left(
    window: PlinthWindow, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.show_stage("decide")
    page = window.page("decide")
    assert isinstance(page, DecidePage)
    late: list[Callable[[], None]] = []
    before = page.shown
    assert before is not None
    answer = dataclasses.replace(before)

    def ask(name: str, _work: object, done: Callable[[object], None], *_more: object, **_how: object) -> None:
        if name == "side by side":
            late.append(lambda: done(answer))

    monkeypatch.setattr(session.jobs, "ask", ask)
    page.sides.item(0).setCheckState(Qt.CheckState.Unchecked)
    page.sides.item(0).setCheckState(Qt.CheckState.Checked)
    assert late
    window.show_stage("plan")
    session.switch(next(stored.id for stored in session.builds if stored.id != session.stored.id))
    late[-1]()
    assert page.shown is before
    # Back where it was asked, it is of use.
    # What is asked of the one that is current now is taken.
    window.show_stage("decide")
    late[-1]()
    assert page.shown is answer
