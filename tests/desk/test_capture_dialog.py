"""A capture in the window: opened, dropped, refused, read anew with what is stated, saved."""

import csv
import json
import math
import shutil
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton, QWidget
from pytestqt.qtbot import QtBot

import plinth
from plinth.captures.options import KINDS, Options
from plinth.captures.words import KIND_WORDS, label_of
from plinth.desk.look import look
from plinth.desk.measure.capture_dialog import CaptureDialog
from plinth.desk.measure.page import MeasurePage
from plinth.desk.measure.sweep_dialog import SweepDialog
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.session.capture_pictures import lowest_and_highest
from plinth.session.capture_view import figure_rows, remark_words, view_of
from plinth.session.core import PlanState
from tests.captures.made import KINDS as MADE
from tests.desk.driver import press, sees, type_in
from tests.turns import in_turn

RATE = 48_000


@pytest.fixture
def tone(tmp_path: Path) -> Path:
    t = np.arange(RATE) / RATE
    wave = 0.4 * np.sin(2.0 * math.pi * 1000.0 * t) + 4e-4 * np.sin(2.0 * math.pi * 3000.0 * t)
    path = tmp_path / "left.wav"
    soundfile.write(path, wave + 1e-6 * np.random.default_rng(1).standard_normal(RATE), RATE, subtype="PCM_24")
    return path


@pytest.fixture
def dialog(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> CaptureDialog:
    made = CaptureDialog(window, session)
    qtbot.addWidget(made)
    made.show()
    return made


def in_table(dialog: CaptureDialog) -> dict[str, str]:
    cells = [[dialog.figures.item(row, column) for column in range(3)] for row in range(dialog.figures.rowCount())]
    return {row[1].text().strip(): row[2].text().strip() for row in cells if row[1] and row[2]}


def dropped_on(widget: QWidget, *paths: Path) -> bool:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    entered = QDragEnterEvent(
        QPoint(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    QApplication.sendEvent(widget, entered)
    if not entered.isAccepted():
        return False
    drop = QDropEvent(
        QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    QApplication.sendEvent(widget, drop)
    return True


def test_a_file_tells_its_figures_and_is_drawn(dialog: CaptureDialog, tone: Path) -> None:
    dialog.fields["volts"].setText("50")
    dialog.show_file(tone)
    shown = in_table(dialog)
    assert shown["frequency"] == "1.00000 kHz"
    assert shown["rms, direct part in"] == "14.1421 V"
    assert shown["harmonic 3"].startswith("−60.00 ±")
    assert shown["harmonic 3"].endswith("dB (0.1 %)")
    assert list(shown)[-5:] == [label_of(name) for name in ("rows", "missing", "sample_rate_hz", "mean", "rms_ac")]
    assert [plot.title.text() for plot in dialog.plots] == ["Waveform", "Read less predicted", "Spectrum"]
    predicted, wave = dialog.plots[0].series
    assert (predicted.name, wave.name) == ("predicted", "ch1")
    assert float(np.max(wave.y)) == pytest.approx(20.02, rel=0.01)
    assert wave.unit == "V"
    (spectrum,) = dialog.plots[2].series
    assert float(spectrum.x[np.argmax(spectrum.y)]) == pytest.approx(1000.0, rel=0.01)
    assert "harmonic 2" in dialog.remarks.text()
    assert "h2_db" not in dialog.remarks.text()


def test_without_volts_it_is_full_scale_and_says_so(dialog: CaptureDialog, tone: Path) -> None:
    dialog.show_file(tone)
    assert in_table(dialog)["rms, direct part in"].endswith("FS")


def test_what_is_stated_wrongly_is_named_by_its_field(dialog: CaptureDialog, tone: Path) -> None:
    dialog.show_file(tone)
    before = in_table(dialog)
    type_in(dialog.fields["volts"], "fifty")
    assert "Full scale" in dialog.said.text()
    assert "--" not in dialog.said.text()
    # What was shown stays, and so does what was typed.
    assert in_table(dialog) == before
    assert dialog.fields["volts"].text() == "fifty"
    type_in(dialog.fields["volts"], "50,4")
    assert "2 values for 1 channels" in dialog.said.text()
    type_in(dialog.fields["volts"], "40")
    assert in_table(dialog)["rms, direct part in"] == "11.3137 V"


def test_a_file_that_is_refused_says_why_and_the_last_one_stays(
    dialog: CaptureDialog, tone: Path, tmp_path: Path
) -> None:
    dialog.show_file(tone)
    before = in_table(dialog)
    bad = tmp_path / "notes.csv"
    bad.write_text("nothing here\n" * 30)
    dialog.show_file(bad)
    assert "no table of numbers" in dialog.said.text()
    assert in_table(dialog) == before
    array = tmp_path / "x.npy"
    np.save(array, np.sin(np.arange(5000) / 10.0))
    dialog.show_file(array)
    assert "type it under Rate" in dialog.said.text()
    type_in(dialog.fields["rate"], "10000")
    assert in_table(dialog)["frequency"] == "159.155 Hz"


def test_another_kind_may_be_chosen(dialog: CaptureDialog, tone: Path) -> None:
    dialog.show_file(tone)
    dialog.kind.setCurrentIndex(1 + KINDS.index("plain"))
    dialog.read()
    assert "lowest sample" in in_table(dialog)
    assert KIND_WORDS["plain"] in dialog.summary.text()
    dialog.kind.setCurrentIndex(1 + KINDS.index("mains"))
    dialog.read()
    assert "expected volts and amperes" in dialog.said.text()


@pytest.mark.parametrize("kind", in_turn(["levels", "rail", "edge", "relay", "mains", "sweep", "intermodulation"], 3))
def test_every_kind_is_shown_in_words(dialog: CaptureDialog, tmp_path: Path, kind: str) -> None:
    made = MADE[kind](np.random.default_rng([3, 7])).capture
    path = tmp_path / "c.wav"
    waves = np.stack([channel.samples / 400.0 for channel in made.channels], axis=1)
    soundfile.write(path, waves, round(made.sample_rate_hz), subtype="DOUBLE")
    dialog.fields["volts"].setText("400")
    dialog.kind.setCurrentIndex(1 + KINDS.index(kind))
    dialog.show_file(path)
    rows = in_table(dialog)
    assert len(rows) > 6
    assert not [name for name in rows if "_" in name]
    assert made.channels[-1].name in [series.name for series in dialog.plots[0].series]


def test_figures_go_out_as_table_and_as_json_never_over_a_workshop(
    dialog: CaptureDialog, tone: Path, tmp_path: Path
) -> None:
    assert not dialog.save_button.isEnabled()
    dialog.show_file(tone)
    assert dialog.save_button.isEnabled()
    assert dialog.save(tmp_path / "out.csv") == "Saved as out.csv."
    with (tmp_path / "out.csv").open() as file:
        rows = {row["figure"]: row for row in csv.DictReader(file)}
    assert float(rows["thd_db"]["value"]) == pytest.approx(-60.0, abs=0.05)
    dialog.save(tmp_path / "out.json")
    assert json.loads((tmp_path / "out.json").read_text()) == plinth.analyse(tone).as_document()
    workshop = tmp_path / "other.plinth"
    shutil.copy(tmp_path / "theatre.plinth", workshop)
    before = workshop.read_bytes()
    assert "could not be written" in dialog.save(workshop)
    assert workshop.read_bytes() == before


def test_a_drop_is_read_and_of_several_the_others_lie_beside(dialog: CaptureDialog, tone: Path, tmp_path: Path) -> None:
    other = tmp_path / "other.wav"
    shutil.copy(tone, other)
    assert dropped_on(dialog, other, tone)
    assert dialog.name.text() == "other.wav"
    assert dialog.said.text() == "Beside it: left.wav, in the pale line."
    words = [cell.text().strip() for row in range(dialog.figures.rowCount()) if (cell := dialog.figures.item(row, 3))]
    # The very same file: nothing differs, and of what is next to nothing that cannot be said.
    assert set(words) == {"not told apart", "cannot be told at this length"}
    assert words.count("not told apart") > 8
    assert not dropped_on(dialog)


def test_from_a_drop_on_the_page_to_its_figures(
    window: PlinthWindow, tone: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    seen: list[dict[str, str]] = []

    def look_and_leave(dialog: CaptureDialog) -> int:
        seen.append(in_table(dialog))
        dialog.reject()
        return 0

    monkeypatch.setattr(CaptureDialog, "exec", look_and_leave)
    window.show_stage("measure")
    assert dropped_on(window.measure, tone)
    qtbot.waitUntil(lambda: bool(seen))
    assert seen[0]["frequency"] == "1.00000 kHz"
    press(window.measure.capture_button)
    assert seen[1] == {}
    window.run_command(next(command for command in window.commands if command.key == "capture"))
    assert len(seen) == 3


def test_enter_in_a_field_reads_again(dialog: CaptureDialog, tone: Path) -> None:
    dialog.show_file(tone)
    dialog.fields["probe"].setText("10")
    QTest.keyClick(dialog.fields["probe"], Qt.Key.Key_Return)
    assert in_table(dialog)["rms, direct part in"] == "2.82843 FS"


def test_a_long_wave_keeps_its_extremes() -> None:
    wave = np.zeros(1_000_000)
    wave[123_456], wave[654_321] = 5.0, -7.0
    rows, values = lowest_and_highest(wave)
    assert len(values) < 4000
    assert (float(np.max(values)), float(np.min(values))) == (5.0, -7.0)
    assert rows[int(np.argmax(values))] == 123_456
    assert (np.diff(rows) > 0).all() or (np.diff(rows) >= 0).all()


def test_words_hold_no_names_of_the_command(tone: Path) -> None:
    view = view_of(tone, Options())
    assert not [row for row in figure_rows(view.analysis) if "_" in row[1]]
    assert not [remark for remark in remark_words(view.analysis) if "_db" in remark or " -" in remark]


# Kept, with the reading that it gives


@pytest.fixture
def bench(window: PlinthWindow, session: BenchSession) -> MeasurePage:
    """Measure on the gain of the left output, whose first power is done."""
    window.show_stage("measure")
    page = window.measure
    page.show_named("Gain, match")
    test = page.sheet("Gain, match")
    test.choose(next(k for k, asked in enumerate(test.asked) if asked.key == "out_left"))
    return page


def gain_tone(folder: Path, name: str = "gain.wav", volts: float = 1.9) -> Path:
    t = np.arange(RATE) / RATE
    wave = math.sqrt(2.0) * volts / 50.0 * np.sin(2.0 * math.pi * 1000.0 * t)
    wave += 1e-7 * np.random.default_rng(1).standard_normal(RATE)
    soundfile.write(folder / name, wave, RATE, subtype="PCM_24")
    return folder / name


def opened_by_drop(
    page: MeasurePage, path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, keys: Callable[[CaptureDialog], None]
) -> None:
    """Drop a file on the page, and press keys in the dialog that opens."""
    opened: list[CaptureDialog] = []

    def shown(dialog: CaptureDialog) -> int:
        dialog.show()
        opened.append(dialog)
        return 0

    monkeypatch.setattr(CaptureDialog, "exec", shown)
    monkeypatch.setattr(CaptureDialog, "deleteLater", lambda _dialog: None)
    assert dropped_on(page, path)
    qtbot.waitUntil(lambda: bool(opened))
    keys(opened[0])
    opened[0].reject()


def test_from_a_dropped_file_to_a_kept_reading_in_at_most_six_keys(
    bench: MeasurePage, session: BenchSession, tmp_path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    pressed: list[str] = []

    def keys(dialog: CaptureDialog) -> None:
        assert session.captures.of() == []
        field = dialog.fields["volts"]
        field.setFocus()
        QTest.keyClicks(field, "50")
        pressed.extend("50")
        QTest.keyClick(field, Qt.Key.Key_Return)
        pressed.append("Enter")
        # Read anew, and only read: Enter in a field keeps nothing.
        assert session.captures.of() == []
        assert dialog.answers.keep_button.hasFocus()
        QTest.keyClick(dialog.answers.keep_button, Qt.Key.Key_Return)
        pressed.append("Enter")
        assert dialog.said.text() == "Kept: Left, output, 1.9 V rms, drawn from gain.wav."

    opened_by_drop(bench, gain_tone(tmp_path), qtbot, monkeypatch, keys)
    assert len(pressed) == 4
    (kept,) = session.captures.of()
    reading = session.records.reading(kept.subject)
    assert reading is not None
    assert reading.value == pytest.approx(1.9, rel=1e-5)
    assert reading.origin.capture == f"gain.wav, number {kept.number}"

    test = bench.sheet("Gain, match")
    test.choose(next(k for k, asked in enumerate(test.asked) if asked.key == "out_left"))

    # The next file that ends alike is of the same recorder: its scale is remembered, one key keeps.
    def again(dialog: CaptureDialog) -> None:
        assert dialog.fields["volts"].text() == "50"
        assert dialog.answers.answers[0].text == "1.8 V rms"
        # Taken out again it stays out.
        type_in(dialog.fields["volts"], "")
        assert dialog.fields["volts"].text() == ""
        assert in_table(dialog)["rms about the mean"].endswith("FS")

    opened_by_drop(bench, gain_tone(tmp_path, "right.wav", 1.8), qtbot, monkeypatch, again)


def listed(page: MeasurePage) -> list[str]:
    QApplication.processEvents()
    return [each.text() for each in page.captures.findChildren(QPushButton) if each.isVisible()]


def test_a_kept_capture_stands_in_the_list_and_is_shown_again(
    bench: MeasurePage, session: BenchSession, tmp_path: Path, window: PlinthWindow, qtbot: QtBot
) -> None:
    dialog = CaptureDialog(window, session, bench.test.under_way, "left")
    qtbot.addWidget(dialog)
    dialog.show()
    dialog.fields["volts"].setText("50")
    dialog.show_file(gain_tone(tmp_path))
    assert dialog.kept_button.text() == "Kept"
    press(dialog.answers.keep_button)
    assert dialog.kept_button.text() == "Kept (1)"
    assert listed(bench) == ["gain.wav"]
    (kept,) = session.captures.of()
    dialog.stated.clear()
    dialog.show_kept(kept)
    assert dialog.fields["volts"].text() == "50"
    assert in_table(dialog)["rms about the mean"] == "1.900 ±0.001 V"
    dialog.take_off()
    assert listed(bench) == []
    assert session.captures.put_back()
    assert listed(bench) == ["gain.wav"]


def test_cursors_tell_what_lies_between_and_its_figures(dialog: CaptureDialog, tone: Path) -> None:
    dialog.fields["volts"].setText("50")
    dialog.show_file(tone)
    plots = dialog.pictures
    assert not plots.edges[0].isVisible()
    plots.cursors_button.setChecked(True)
    for field, text in zip(plots.edges, ("0.25", "0.26"), strict=True):
        type_in(field, text)
    # Ten whole cycles of 20 V peak, and a little of the third harmonic against its top.
    assert plots.between.text().startswith("10.000 ms (100.00 Hz); ch1: rms 14.1")
    assert "39.96 V peak to peak" in plots.between.text()
    press(plots.span_button)
    assert dialog.fields["span"].text() == "0.25:0.26"
    assert in_table(dialog)["samples"] == "480"
    type_in(plots.edges[0], "soon")
    assert "Found 'soon'" in plots.between.text()


def test_a_long_wave_is_drawn_down_to_a_sample(dialog: CaptureDialog, tone: Path, qtbot: QtBot) -> None:
    dialog.over_prediction.setChecked(False)
    dialog.kind.setCurrentIndex(1 + KINDS.index("plain"))
    dialog.show_file(tone)
    plot = dialog.pictures.wave_plot
    assert plot is not None
    whole = plot.series[0]
    assert len(whole.x) < 4000
    plot.graph.show_range((0.3, 0.3 + 20 / RATE), (-1.0, 1.0))
    qtbot.waitUntil(lambda: len(plot.series[0].x) < 40)
    seen = plot.series[0]
    expected = 0.4 * np.sin(2.0 * math.pi * 1000.0 * seen.x)
    assert float(np.max(np.abs(seen.y - expected))) < 1e-3
    assert np.diff(seen.x) == pytest.approx(1.0 / RATE)


def test_each_way_to_look_is_drawn(dialog: CaptureDialog, tmp_path: Path) -> None:
    t = np.arange(RATE) / RATE
    pair = np.stack((0.1 * np.sin(2000.0 * t), 0.4 * np.sin(2000.0 * t)), axis=1)
    soundfile.write(tmp_path / "pair.wav", pair, RATE, subtype="PCM_24")
    dialog.show_file(tmp_path / "pair.wav")
    views = dialog.pictures.view
    assert [views.itemText(k) for k in range(views.count())] == ["waves", "spectrogram", "X-Y"]
    for k, words in ((1, "Spectrogram of ch2"), (2, "X-Y"), (0, "Waveform")):
        views.setCurrentIndex(k)
        views.activated.emit(k)
        assert words in " ".join(sees(dialog))
    assert not dialog.pictures.cursors_button.isChecked()


def test_a_folder_that_is_watched_gives_its_next_file(
    dialog: CaptureDialog, tone: Path, tmp_path: Path, qtbot: QtBot
) -> None:
    folder = tmp_path / "stick"
    folder.mkdir()
    shutil.copy(tone, folder / "old.wav")
    dialog.watch(folder)
    assert "is watched" in dialog.said.text()
    shutil.copy(tone, folder / "new.wav")
    qtbot.waitUntil(lambda: dialog.name.text() == "new.wav", timeout=8000)
    qtbot.waitUntil(lambda: dialog.shown is not None)


def test_a_sweep_is_made_and_what_to_type_is_told(window: PlinthWindow, tmp_path: Path, qtbot: QtBot) -> None:
    made = SweepDialog(window)
    qtbot.addWidget(made)
    made.show()
    made.save(tmp_path / "sweep.wav")
    assert "type 10:40000:4 under Sweep" in made.said.text()
    assert soundfile.info(tmp_path / "sweep.wav").frames == round(5.5 * 96_000)
    type_in(made.fields["To, Hz"], "60k", enter=False)
    made.save(tmp_path / "other.wav")
    assert "expected at most half" in made.said.text()
    assert not (tmp_path / "other.wav").exists()
    type_in(made.fields["To, Hz"], "high", enter=False)
    made.save(tmp_path / "other.wav")
    assert "'high'" in made.said.text()
    assert any("tweeters" in words for words in sees(made))


def test_samples_go_out_as_sound_and_as_a_table(dialog: CaptureDialog, tone: Path, tmp_path: Path) -> None:
    dialog.fields["volts"].setText("50")
    dialog.show_file(tone)
    assert dialog.save(tmp_path / "out.wav", samples=True) == "Saved as out.wav."
    assert dialog.save(tmp_path / "out.csv", samples=True) == "Saved as out.csv."
    for name in ("out.wav", "out.csv"):
        again = plinth.analyse(tmp_path / name).channels[0]
        assert again["rms"].value == pytest.approx(20.0 / math.sqrt(2.0), rel=1e-6)
        assert again["rms"].unit == "V"


def test_an_output_without_its_load_is_held_beside_the_one_with_it(dialog: CaptureDialog, tmp_path: Path) -> None:
    t = np.arange(RATE) / RATE
    for name, volts in (("with.wav", 0.100), ("without.wav", 0.101)):
        soundfile.write(tmp_path / name, volts * np.sin(2.0 * math.pi * 1000.0 * t), RATE, subtype="PCM_24")
    dialog.fields["volts"].setText("50")
    dialog.fields["load"].setText("8")
    dialog.show_file(tmp_path / "with.wav")
    dialog.kind.setCurrentIndex(1 + KINDS.index("impedance"))
    dialog.stated.take_unloaded(tmp_path / "without.wav")
    # 8 ohm times (0.101 / 0.100 - 1).
    milliohms = float(in_table(dialog)["output impedance"].split()[0])
    assert milliohms == pytest.approx(80.0, rel=1e-4)
    assert dialog.shown is not None
    assert dialog.shown.content.is_bundle
    press(dialog.answers.keep_button)


def test_at_large_text_it_stays_within_the_screen_and_each_picture_can_be_chosen(
    window: PlinthWindow, session: BenchSession, tone: Path, qtbot: QtBot
) -> None:
    look.set(scale=1.5)
    dialog = CaptureDialog(window, session)
    qtbot.addWidget(dialog)
    dialog.show()
    dialog.fields["volts"].setText("50")
    dialog.show_file(tone)
    QApplication.processEvents()
    assert dialog.minimumSizeHint().height() <= 764
    views = dialog.pictures.view
    titles = [views.itemText(k) for k in range(views.count())]
    assert titles == ["Waveform", "Read less predicted", "Spectrum", "spectrogram"]
    for place, title in enumerate(titles[:3]):
        views.setCurrentIndex(place)
        views.activated.emit(place)
        assert [plot.title.text() for plot in dialog.plots] == [title]


def test_what_was_captured_before_the_build_was_changed_is_proposed(
    bench: MeasurePage, session: BenchSession, tmp_path: Path, window: PlinthWindow, qtbot: QtBot
) -> None:
    def opened() -> CaptureDialog:
        made = CaptureDialog(window, session, bench.test.under_way, "left")
        qtbot.addWidget(made)
        made.show()
        made.fields["volts"].setText("50")
        return made

    first = opened()
    first.show_file(gain_tone(tmp_path))
    # Nothing of an earlier version is there, neither before it is kept nor after.
    assert first.earlier_button.isHidden()
    press(first.answers.keep_button)
    assert first.earlier_button.isHidden()
    (kept,) = session.captures.of()
    number = kept.facts.version
    assert number == session.records.versions()[-1].number
    first.reject()

    build = session.build
    more = build.model_copy(update={"module": build.module.model_copy(update={"gain": 1.1 * build.module.gain})})
    session.plan.change(PlanState(more, session.situation), "gain raised", "gain raised")
    assert session.records.versions()[-1].number > number
    test = bench.sheet("Gain, match")
    test.choose(next(k for k, asked in enumerate(test.asked) if asked.key == "out_left"))
    later = opened()
    later.show_file(gain_tone(tmp_path, "later.wav", 2.1))
    assert later.earlier_button.text() == f"Over version {number}'s"
    press(later.earlier_button)
    qtbot.waitUntil(lambda: bool(later.beside))
    assert [view.name for view in later.beside] == ["gain.wav"]
    assert later.earlier_button.isHidden()
    assert "of gain.wav" in " ".join(series.name for series in later.plots[0].series)
    later.nothing_beside()
    assert not later.earlier_button.isHidden()
    # A kept one of the first version has nothing before it.
    later.show_kept(kept)
    assert later.earlier_button.isHidden()
