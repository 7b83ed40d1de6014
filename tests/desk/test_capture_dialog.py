"""A capture in the window: opened, dropped, refused, read anew with what is stated, saved."""

import csv
import json
import math
import shutil
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

import plinth
from plinth.captures.options import KINDS, Options
from plinth.captures.words import KIND_WORDS, label_of
from plinth.desk.measure.capture_dialog import CaptureDialog
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.session.capture_pictures import lowest_and_highest
from plinth.session.capture_view import figure_rows, remark_words, view_of
from tests.captures.made import KINDS as MADE
from tests.desk.driver import press, type_in

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


@pytest.mark.parametrize("kind", ["levels", "rail", "edge", "relay", "mains", "sweep", "intermodulation"])
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
    words = [cell.text().strip() for row in range(dialog.figures.rowCount()) if (cell := dialog.figures.item(row, 5))]
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
