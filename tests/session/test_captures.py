"""Captures of a build: which figures answer what is asked, kept with the reading, taken off, put back, looked at."""

import dataclasses
import math
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile

from plinth.bench.every_sheet import kind_of
from plinth.builds.instruments import BenchKit, Instrument, Role
from plinth.captures.options import Options
from plinth.judge.state import State
from plinth.record.giving import Giving
from plinth.record.kept_capture import KeptCapture
from plinth.record.origin import Giver
from plinth.record.reading import Reading
from plinth.report.html import ReportInput, capture_words, render_report
from plinth.session.capture_answers import answers_for, why_none
from plinth.session.capture_recorder import RECORDER, with_recorder_off
from plinth.session.capture_view import CaptureView, view_of
from plinth.session.captures import CaptureOf, giving_from
from plinth.session.procedure.clip_test import ClipListener, ClipProcedure
from plinth.session.procedure.response_test import ResponseListener, ResponseProcedure
from plinth.session.procedure.sheet_test import SheetListener, SheetProcedure
from plinth.session.procedure.taking import Procedure, Taken
from plinth.session.session import Session
from tests.captures.made import KINDS as MADE
from tests.demo_copy import demo_copy
from tests.session.running import AtOnce
from tests.session.test_procedures import nobody

RATE = 96_000
KIT = BenchKit(
    instruments=(Instrument(name="bench scope", role=Role.SCOPE, accuracy=0.03, identity="scope-1"),)
)  # fmt: skip


@pytest.fixture
def session(tmp_path: Path) -> Iterator[Session]:
    made = Session(demo_copy(tmp_path), AtOnce())
    made.kit = KIT
    yield made
    made.close()


def tone(folder: Path, volts_rms: float, hz: float = 1000.0, name: str = "tone.wav") -> CaptureView:
    t = np.arange(RATE) / RATE
    wave = math.sqrt(2.0) * volts_rms * np.sin(2.0 * math.pi * hz * t)
    wave += 1e-5 * np.random.default_rng(2).standard_normal(RATE)
    soundfile.write(folder / name, wave / 50.0, RATE, subtype="PCM_24")
    return view_of(folder / name, Options(volts_per_full_scale=(50.0,)))


def made_view(folder: Path, kind: str, full_scale: float, **stated: object) -> tuple[CaptureView, dict[str, float]]:
    """A capture of a kind from its closed form, through a file; its truth."""
    made = MADE[kind](np.random.default_rng([5, 1]))
    waves = np.stack([channel.samples / full_scale for channel in made.capture.channels], axis=1)
    path = folder / f"{kind}.wav"
    soundfile.write(path, waves, round(made.capture.sample_rate_hz), subtype="DOUBLE")
    options = Options(kind=kind, volts_per_full_scale=(full_scale,), **stated)  # type: ignore[arg-type]
    return view_of(path, options), made.truth


def sheet(session: Session, key: str, row: str) -> SheetProcedure:
    test = SheetProcedure(session, kind_of(key), SheetListener(nobody, nobody, nobody))
    test.channel.take("left")
    test.make()
    test.choose(next(k for k, asked in enumerate(test.asked) if asked.key == row))
    return test


def keep(session: Session, view: CaptureView, test: Procedure) -> KeptCapture:
    assert test.request is not None
    kept: list[KeptCapture | None] = []
    session.captures.keep(view, CaptureOf(test.request.subject, dict(test.request.conditions)), kept.append)
    assert kept[0] is not None
    return kept[0]


def last_reading(session: Session, subject: str) -> Reading:
    reading = session.records.reading(subject)
    assert reading is not None
    return reading


def test_a_gain_is_drawn_from_a_capture_and_says_so(session: Session, tmp_path: Path) -> None:
    test, view = sheet(session, "gain", "out_left"), tone(tmp_path, 1.9)
    assert test.request is not None
    request = test.request
    answer = answers_for(request, view.analysis, session.kit)[0]
    assert (answer.figure, answer.channel, answer.text) == ("rms_ac", "ch1", "1.9 V rms")
    kept = keep(session, view, test)
    assert test.take(answer.text, giving_from(kept, answer)) is Taken.KEPT
    reading = last_reading(session, request.subject)
    assert reading.value == pytest.approx(1.9, rel=1e-5)
    # 3 % of a scope as a rectangle, and next to nothing of the record's own.
    assert reading.u == pytest.approx(0.03 / math.sqrt(3.0) * 1.9, rel=2e-3)
    assert reading.origin.giver is Giver.CAPTURE
    assert reading.origin.capture == f"tone.wav, number {kept.number}"
    assert reading.instrument == "capture tone.wav"
    assert (reading.word("capture_figure"), reading.number("capture_to_s")) == ("rms_ac", 1.0)
    said = test.said("")
    assert said.words.startswith("Kept: 1.9 V rms") or test.request.key != request.key
    test.choose(next(k for k, asked in enumerate(test.asked) if asked.key == "out_left"))
    assert "Drawn from tone.wav, number 1: rms about the mean of ch1, 0 to 1 s" in test.said("").against


def test_readings_stay_when_their_capture_is_taken_off_and_it_can_be_put_back(session: Session, tmp_path: Path) -> None:
    test, view = sheet(session, "gain", "out_left"), tone(tmp_path, 1.9)
    assert test.request is not None
    subject, kept = test.request.subject, keep(session, view, test)
    answer = answers_for(test.request, view.analysis, session.kit)[0]
    test.take(answer.text, giving_from(kept, answer))
    before = last_reading(session, subject)
    assert session.captures.remove(kept)
    assert session.captures.of() == []
    assert session.captures.taken_off == kept
    assert last_reading(session, subject) == before
    assert session.captures.put_back()
    (again,) = session.captures.of(subject)
    assert (again.name, again.facts, again.at) == (kept.name, kept.facts, kept.at)
    assert session.captures.taken_off is None
    assert not session.captures.put_back()


def test_the_same_capture_is_kept_once_and_another_of_its_name_besides(session: Session, tmp_path: Path) -> None:
    test = sheet(session, "gain", "out_left")
    first = keep(session, tone(tmp_path, 1.9), test)
    assert keep(session, tone(tmp_path, 1.9), test).number == first.number
    other = keep(session, tone(tmp_path, 1.8), test)
    assert other.number != first.number
    assert [kept.name for kept in session.captures.of()] == ["tone.wav", "tone.wav"]
    notes = [line.words for line in session.records.diary_lines() if line.words.startswith("Capture kept")]
    assert notes == ["Capture kept: tone.wav, one tone, 1.00 s."] * 2


def test_a_kept_capture_is_looked_at_as_it_was_and_with_other_words(session: Session, tmp_path: Path) -> None:
    view = tone(tmp_path, 9.3)
    kept = keep(session, view, sheet(session, "gain", "out_left"))
    (tmp_path / "tone.wav").unlink()
    shown: list[object] = []
    failed: list[Exception] = []
    session.captures.look(kept, shown.append, failed.append)
    (again,) = shown
    assert isinstance(again, CaptureView)
    assert again.analysis == view.analysis
    session.captures.look(kept, shown.append, failed.append, Options(volts_per_full_scale=(100.0,), span_s=(0.2, 0.6)))
    half = shown[1]
    assert isinstance(half, CaptureView)
    assert half.analysis.channels[0]["rms_ac"].value == pytest.approx(18.6, rel=1e-4)
    assert half.analysis.channels[0]["rows"].value == 0.4 * RATE
    assert failed == []


@pytest.mark.parametrize(
    ("key", "row", "kind", "figure"),
    [
        ("square", "rise", "edge", "rise_10_90_s"), ("square", "overshoot", "edge", "rise_overshoot_pct"),
        ("protection", "mute", "relay", "muting_delay_s"), ("rails", "rest_plus", "rail", "mean_v"),
        ("rails", "rest_ripple_plus", "rail", "pp_v"), ("mains", "rest_a", "mains", "i_rms"),
        ("mains", "rest_w", "mains", "p_w"), ("mains", "rest_va", "mains", "s_va"), ("mains", "rest_pf", "mains", "pf"),
        ("mains", "rest_v", "mains", "v_rms"), ("mains", "rest_crest", "mains", "i_crest"),
    ],
)  # fmt: skip
def test_each_kind_answers_what_is_asked_of_it(
    session: Session, tmp_path: Path, key: str, row: str, kind: str, figure: str
) -> None:
    test = sheet(session, key, row)
    assert test.request is not None
    made = MADE[kind](np.random.default_rng([5, 1]))
    from plinth.captures.analysis import analyse_capture

    analysis = analyse_capture(made.capture, kind, Options(kind=kind))
    answers = answers_for(test.request, analysis, session.kit)
    assert answers[0].figure == figure
    own = next(channel[figure] for channel in analysis.channels if figure in channel)
    said = test.said(answers[0].text)
    assert said.words != "Not understood"
    if not said.choices:
        assert test.take(answers[0].text, Giving(instrument="capture x", u=answers[0].u)) is Taken.KEPT
        reading = last_reading(session, f"test/{'build' if key == 'mains' else 'left'}/{key}:{row}")
        assert reading.value == pytest.approx(abs(own.value) if row.startswith("rest_p") else own.value, rel=1e-5)


@pytest.mark.parametrize(
    ("definition", "figure"),
    [("onset", "onset_rms_v"), ("thd_1", "level_at_1pct_thd_rms_v"), ("thd_10", "level_at_10pct_thd_rms_v")],
)
def test_clipping_is_drawn_from_a_sweep_of_levels_at_the_very_definition(
    session: Session, definition: str, figure: str
) -> None:
    from plinth.captures.analysis import analyse_capture

    made = MADE["levels"](np.random.default_rng([5, 1]))
    analysis = analyse_capture(made.capture, "levels", Options(kind="levels"))
    test = ClipProcedure(session, ClipListener(nobody, nobody, nobody, nobody, lambda: False))
    test.show_channel("left")
    test.show_definition(definition)  # type: ignore[arg-type]
    assert test.request is not None
    load = test.request.setting("load")
    assert load is not None
    (answer,) = answers_for(test.request, analysis, session.kit)
    level = analysis.channels[-1][figure]
    assert answer.figure == figure
    # P = v^2 / R: twice the share of the volts, the scope's own and the record's.
    share = math.hypot(0.5 * level.spread / level.value, 0.03 / math.sqrt(3.0))
    assert answer.u == pytest.approx(2.0 * share * level.value**2 / load.value, rel=1e-6)
    tone_only = dataclasses.replace(analysis, kind="tone")
    assert "sweep of levels" in why_none(test.request, tone_only)


def test_a_tone_at_another_frequency_answers_no_point_of_a_response(session: Session, tmp_path: Path) -> None:
    test = ResponseProcedure(session, ResponseListener(*[nobody] * len(dataclasses.fields(ResponseListener))))
    test.show_channel("left")
    test.choose(test.frequencies.index(100.0))
    assert test.request is not None
    off, near = tone(tmp_path, 2.7, 103.0), tone(tmp_path, 2.7, 101.0)
    assert answers_for(test.request, off.analysis, session.kit) == ()
    assert "tone of 103 Hz, and 100 Hz is asked for" in why_none(test.request, off.analysis)
    assert answers_for(test.request, near.analysis, session.kit)[0].figure == "rms_ac"


def test_without_volts_nothing_is_answered_and_it_says_what_to_type(session: Session, tmp_path: Path) -> None:
    tone(tmp_path, 2.7)
    bare = view_of(tmp_path / "tone.wav", Options())
    test = sheet(session, "gain", "out_left")
    assert test.request is not None
    assert answers_for(test.request, bare.analysis, session.kit) == ()
    assert "type what full scale is" in why_none(test.request, bare.analysis)


def test_a_scope_of_unknown_accuracy_leaves_volts_without_uncertainty_and_times_with_theirs(
    session: Session, tmp_path: Path
) -> None:
    from plinth.captures.analysis import analyse_capture

    test, view = sheet(session, "gain", "out_left"), tone(tmp_path, 1.9)
    assert test.request is not None
    assert answers_for(test.request, view.analysis, BenchKit())[0].u is None
    rise = sheet(session, "square", "rise")
    assert rise.request is not None
    made = MADE["edge"](np.random.default_rng([5, 1]))
    analysis = analyse_capture(made.capture, "edge", Options(kind="edge"))
    answer = answers_for(rise.request, analysis, BenchKit())[0]
    assert answer.u == pytest.approx(0.5 * analysis.channels[-1]["rise_10_90_s"].spread)


def test_the_state_of_a_drawn_reading_goes_by_its_own_uncertainty(session: Session, tmp_path: Path) -> None:
    test = sheet(session, "gain", "out_left")
    assert test.request is not None
    window = test.request.window
    assert window is not None
    assert window.high is not None
    request = test.request
    text = f"{0.99 * window.high:.6g} V rms"
    test.take(text, Giving(instrument="capture x", u=1e-6))
    assert last_reading(session, request.subject).state is State.CLEAR
    test.choose(next(k for k, asked in enumerate(test.asked) if asked.key == "out_left"))
    test.take(text, Giving(instrument="capture x", u=0.05 * window.high))
    assert last_reading(session, request.subject).state is State.CLOSE


def test_the_recorders_own_share_is_taken_off_what_it_recorded(session: Session, tmp_path: Path) -> None:
    loop, view = tone(tmp_path, 1.0, name="loop.wav"), tone(tmp_path, 1.9)
    done: list[object] = []
    assert with_recorder_off(session.captures, view).words == ""
    session.captures.keep(loop, CaptureOf(RECORDER), done.append)
    off = with_recorder_off(session.captures, view)
    assert "loop.wav" in off.words
    # The same noise in both: what is left tells of the recorder, and is left out with a sentence.
    assert "noise_rms_20_20k" not in off.view.analysis.channels[0]
    assert any("tells of the recorder" in remark for remark in off.view.analysis.remarks)
    # A loop-back itself is shown as it is.
    assert with_recorder_off(session.captures, loop).words == ""


def test_a_capture_that_is_damaged_says_so_and_its_figures_stay(session: Session, tmp_path: Path) -> None:
    import sqlite3

    kept = keep(session, tone(tmp_path, 1.9), sheet(session, "gain", "out_left"))
    connection = sqlite3.connect(session.workshop.path)
    with connection:
        connection.execute("UPDATE chunks SET content = x'00'")
    connection.close()
    failed: list[Exception] = []
    session.captures.look(kept, lambda _view: None, failed.append)
    assert "figures and readings are kept" in str(failed[0])
    assert session.captures.of()[0].facts.figures["ch1"]["rms_ac"][0] == pytest.approx(1.9, rel=1e-5)
    assert not session.captures.remove(kept)


def test_the_report_shows_what_was_captured(session: Session, tmp_path: Path) -> None:
    kept = keep(session, tone(tmp_path, 1.9), sheet(session, "gain", "out_left"))
    words, figures = capture_words(kept)
    assert words == "one tone, 1.00 s at 96.0 kHz, volts per full scale 50"
    assert ("rms, direct part in", "1.90000 V") in figures
    prediction = session.predictions.prediction
    assert prediction is not None
    html = render_report(
        ReportInput(prediction, session.records.diary_lines(), session.now(), False, captures=(kept,))
    )  # fmt: skip
    assert "<h2>Captures</h2>" in html
    assert "tone.wav" in html
    assert "rms, direct part in 1.90000 V" in html
