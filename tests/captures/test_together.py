"""Two captures held against each other, the recorder's own share, files that go out, the part that is looked at."""

import dataclasses
import io
import math
from pathlib import Path

import numpy as np
import pytest
import soundfile

from plinth.captures.analysis import analyse_capture
from plinth.captures.bundle import Content, content_of, laid_out
from plinth.captures.capture import AMPERES, FULL_SCALE, VOLTS, Capture, CaptureError, Channel
from plinth.captures.comparison import ALIKE, DIFFERENCE, UNKNOWN, compared
from plinth.captures.figure import Analysis, CaptureFigure, ChannelFigures
from plinth.captures.options import Options, Sweep, options_from
from plinth.captures.reading.read_capture import read_content
from plinth.captures.recorder import without_recorder
from plinth.captures.signal.spectrogram import spectrogram_of
from plinth.captures.writing import sweep_bytes, table_bytes, wav_bytes
from plinth.session.capture_view import view_of, view_of_kept

RATE = 96_000.0


def figures(kind: str = "tone", **named: tuple[float, float, str]) -> Analysis:
    return Analysis(
        kind,
        (ChannelFigures("ch1", tuple(CaptureFigure(name, *of, "as defined") for name, of in named.items())),), (),
    )  # fmt: skip


def noisy_tone(seed: int, third: float, seconds: float = 1.0) -> Capture:
    t = np.arange(round(seconds * RATE)) / RATE
    turns = 2.0 * math.pi * 1000.0 * t
    wave = 10.0 * np.sin(turns) + third * np.sin(3.0 * turns)
    wave += 1e-3 * np.random.default_rng(seed).standard_normal(len(t))
    return Capture("t", (Channel("ch1", wave, VOLTS),), RATE)


def test_differences_are_told_within_their_spread_and_nothing_else_is() -> None:
    tried, inside, false = 0, 0, 0
    for seed in range(12):
        first, second = noisy_tone(seed, 0.010), noisy_tone(100 + seed, 0.013)
        rows = {
            row.first.name: row for row in compared(*(analyse_capture(c, "tone", Options()) for c in (first, second)))
        }
        row = rows["h3_db"]
        tried += 1
        inside += abs(row.difference - 20.0 * math.log10(0.010 / 0.013)) <= row.spread
        assert row.word == DIFFERENCE
        # The fundamental is the same in both.
        false += rows["rms"].word == DIFFERENCE
    assert inside >= 0.9 * tried
    assert false <= 1


def test_the_words_go_by_difference_and_spread() -> None:
    first = figures(
        thd_db=(-60.0, 0.2, "dB"), h2_db=(-80.0, 2.5, "dB"), noise_rms_20_20k=(1e-3, 2e-4, "V"),
        gain_1k_db=(26.0, 0.02, "dB"), phase_20hz_deg=(179.0, 1.0, "deg"), rows=(100.0, 0.0, ""),
    )  # fmt: skip
    second = figures(
        thd_db=(-60.5, 0.3, "dB"), h2_db=(-81.0, 2.5, "dB"), noise_rms_20_20k=(0.9e-3, 2e-4, "V"),
        gain_1k_db=(26.01, 0.02, "dB"), phase_20hz_deg=(-179.0, 1.0, "deg"), rows=(90.0, 0.0, ""),
    )  # fmt: skip
    rows = {row.first.name: row for row in compared(first, second)}
    assert {name: row.word for name, row in rows.items()} == {
        "thd_db": DIFFERENCE, "h2_db": UNKNOWN, "noise_rms_20_20k": UNKNOWN, "gain_1k_db": ALIKE,
        "phase_20hz_deg": DIFFERENCE,
    }  # fmt: skip
    assert rows["thd_db"].difference == pytest.approx(0.5)
    assert rows["thd_db"].spread == pytest.approx(math.hypot(0.2, 0.3))
    # Round the circle the short way.
    assert rows["phase_20hz_deg"].difference == pytest.approx(-2.0)


def test_what_cannot_be_held_against_each_other_is_refused() -> None:
    tone = figures(rms=(1.0, 0.1, "V"))
    with pytest.raises(CaptureError, match="expected two of one kind"):
        compared(tone, figures("rail", rms=(1.0, 0.1, "V")))
    with pytest.raises(CaptureError, match="state the scale of both"):
        compared(tone, figures(rms=(1.0, 0.1, "FS")))


def test_the_recorder_is_taken_off_by_magnitude_or_names_its_limit() -> None:
    seen = figures(
        gain_20hz_db_re_1k=(-0.50, 0.01, "dB"), noise_rms_20_20k=(5e-4, 1e-5, "V"), hum_100hz_rms=(1.1e-4, 1e-5, "V"),
        thd_db=(-80.0, 0.1, "dB"), h3_db=(-95.0, 0.2, "dB"), sinad_db=(78.0, 0.1, "dB"), rms=(9.3, 0.0, "V"),
    )  # fmt: skip
    own = figures(
        gain_20hz_db_re_1k=(-0.30, 0.02, "dB"), noise_rms_20_20k=(3e-4, 1e-5, "V"), hum_100hz_rms=(1e-4, 1e-5, "V"),
        thd_db=(-100.0, 0.1, "dB"), h3_db=(-101.0, 0.2, "dB"), sinad_db=(98.0, 0.1, "dB"), rms=(1.0, 0.0, "V"),
    )  # fmt: skip
    told = without_recorder(seen, own)
    channel = told.channels[0]
    assert channel["gain_20hz_db_re_1k"].value == pytest.approx(-0.2)
    assert channel["gain_20hz_db_re_1k"].spread == pytest.approx(math.hypot(0.01, 0.02))
    # 3, 4, 5: powers are taken from each other.
    assert channel["noise_rms_20_20k"].value == pytest.approx(4e-4)
    assert channel["noise_rms_20_20k"].spread == pytest.approx(math.hypot(5e-4 * 1e-5, 3e-4 * 1e-5) / 4e-4)
    assert "loop-back" in channel["noise_rms_20_20k"].definition
    # Twenty decibels below: a tenth of it, with or against: 1 / 0.9 of the value.
    assert channel["thd_db"].value == -80.0
    assert channel["thd_db"].spread == pytest.approx(0.1 + 20.0 * math.log10(1.0 / 0.9))
    assert channel["rms"].value == 9.3
    assert "hum_100hz_rms" not in channel
    assert "h3_db" not in channel
    assert any("h3_db: found -95.0 dB, of the recorder alone -101.0: below -91.0 dB" in words for words in told.remarks)
    assert channel["sinad_db"].value == 78.0
    with pytest.raises(CaptureError, match="loop-back"):
        without_recorder(seen, dataclasses.replace(own, kind="sweep"))


@pytest.mark.parametrize("rate", [44_100.0, 99_999.7])
def test_a_wav_that_goes_out_comes_back_with_its_own_scale(rate: float) -> None:
    t = np.arange(4000) / rate
    waves = [33.0 * np.sin(2.0 * math.pi * 997.0 * t), 0.03 * np.cos(2.0 * math.pi * 50.0 * t), 0.4 * np.sin(t)]
    units = (VOLTS, AMPERES, FULL_SCALE)
    capture = Capture(
        "x", tuple(Channel(f"ch{k}", wave, unit) for k, (wave, unit) in enumerate(zip(waves, units, strict=True), 1)),
        rate,
    )  # fmt: skip
    again = read_content(wav_bytes(capture), "x.wav", Options())
    assert again.sample_rate_hz == pytest.approx(rate, rel=1e-11)
    for mine, its in zip(capture.channels, again.channels, strict=True):
        assert its.unit == mine.unit
        assert its.samples == pytest.approx(mine.samples, abs=1e-7 * float(np.max(np.abs(mine.samples))) + 1e-12)
    # A probe that is stated then counts on top, as with any file.
    assert read_content(wav_bytes(capture), "x.wav", Options(probe=(10.0,))).channels[0].samples == pytest.approx(
        10.0 * waves[0], rel=1e-6, abs=1e-4
    )


def test_a_table_that_goes_out_comes_back() -> None:
    capture = noisy_tone(1, 0.01, 0.05)
    again = read_content(table_bytes(capture), "x.csv", Options())
    assert again.sample_rate_hz == pytest.approx(RATE, rel=1e-6)
    assert (again.channels[0].name, again.channels[0].unit) == ("ch1", VOLTS)
    assert again.channels[0].samples == pytest.approx(capture.channels[0].samples, rel=1e-8, abs=1e-9)


def test_a_table_too_long_to_be_opened_is_refused() -> None:
    long = Capture("x", (Channel("ch1", np.zeros(2_000_001), VOLTS),), RATE)
    with pytest.raises(CaptureError, match="million lines at most"):
        table_bytes(long)


def test_a_sweep_that_is_played_and_recorded_tells_the_response() -> None:
    shape = Sweep(10.0, 40_000.0, 2.0)
    played, rate = soundfile.read(io.BytesIO(sweep_bytes(shape, 96_000, 0.5)))
    assert rate == 96_000
    assert float(np.max(np.abs(played))) == pytest.approx(0.5, rel=1e-3)
    # Half a second of silence before it, one after.
    assert not np.any(played[:47_000])
    assert not np.any(played[-95_000:])
    delayed = np.concatenate((np.zeros(1234), 3.0 * played))
    capture = Capture("r", (Channel("ch1", delayed, VOLTS),), RATE)
    told = analyse_capture(capture, "sweep", Options(sweep=shape)).channels[-1]
    assert told["gain_1k_db"].value == pytest.approx(20.0 * math.log10(1.5), abs=told["gain_1k_db"].spread)
    assert told["delay_s"].value == pytest.approx(0.5 + 1234 / RATE, abs=1e-5)


@pytest.mark.parametrize(
    ("sweep", "rate", "level", "words"),
    [
        (Sweep(10.0, 60_000.0, 2.0), 96_000, 0.5, "at most half"), (Sweep(10.0, 20e3, 2.0), 96_000, 1.5, "level"),
        (Sweep(10.0, 20e3, 0.01), 96_000, 0.5, "0.1 to 120"), (Sweep(10.0, 2e3, 2.0), 5000, 0.5, "8000"),
    ],
)  # fmt: skip
def test_a_sweep_that_cannot_be_played_is_refused(sweep: Sweep, rate: int, level: float, words: str) -> None:
    with pytest.raises(CaptureError, match=words):
        sweep_bytes(sweep, rate, level)


def test_a_part_tells_of_itself_alone() -> None:
    t = np.arange(int(RATE)) / RATE
    wave = np.where(t < 0.5, 1.0, 2.0) * np.sin(2.0 * math.pi * 1000.0 * t)
    data = wav_bytes(Capture("x", (Channel("ch1", wave, VOLTS),), RATE))
    part = read_content(data, "x.wav", Options(span_s=(0.6, 0.9)))
    assert part.rows == 0.3 * RATE
    assert float(np.max(part.channels[0].samples)) == pytest.approx(2.0, rel=1e-6)
    assert any("from 0.6 to 0.9 s of 1 s" in remark for remark in part.remarks)
    with pytest.raises(CaptureError, match="--span: found 0 samples"):
        read_content(data, "x.wav", Options(span_s=(3.0, 4.0)))
    with pytest.raises(CaptureError, match="the earlier first"):
        Options(span_s=(0.5, 0.5))


def test_of_a_sound_file_too_large_a_part_is_read_and_kept(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    # Stands for half an hour of four channels: the limit is lowered, the file is not made larger.
    for room in ("reading.read_capture", "bundle"):
        monkeypatch.setattr(f"plinth.captures.{room}.LARGEST_BYTES", 100_000)
    t = np.arange(int(RATE)) / RATE
    wave = np.where(t < 0.5, 0.1, 0.2) * np.sin(2.0 * math.pi * 1000.0 * t)
    path = tmp_path / "long.wav"
    soundfile.write(path, wave, int(RATE), subtype="PCM_24")
    with pytest.raises(CaptureError, match="give --span for a part of it"):
        view_of(path, Options())
    view = view_of(path, Options(volts_per_full_scale=(50.0,), span_s=(0.6, 0.9)))
    assert view.content.name == "long, part.wav"
    assert view.analysis.channels[0]["rms_ac"].value == pytest.approx(10.0 / math.sqrt(2.0), rel=1e-4)
    again = view_of_kept(view.content, view.options)
    assert again.capture is not None
    assert again.capture.seconds == pytest.approx(0.3)
    assert again.analysis.channels[0]["rms_ac"].value == pytest.approx(10.0 / math.sqrt(2.0), rel=1e-4)
    text = tmp_path / "long.csv"
    text.write_text("1\n" * 60_000)
    with pytest.raises(CaptureError, match="cut it first"):
        view_of(text, Options(span_s=(0.1, 0.2)))


def test_what_is_stated_is_there_again_from_its_document() -> None:
    options = Options(
        kind="sweep", volts_per_full_scale=(50.0, 4.0), probe=(10.0,), rate_hz=96e3, time_unit="us", load_ohm=8.06,
        step_s=0.2, sweep=Sweep(10.0, 40e3, 4.0), at_hz=(20.0, 1e4), band_hz=(300.0, 3e3), span_s=(0.1, 0.4),
    )  # fmt: skip
    assert options_from(options.as_document()) == options
    assert options_from({}) == Options()
    with pytest.raises(CaptureError, match="expected what Plinth writes"):
        options_from({"probe": ["ten"]})


def test_a_bundle_holds_each_file_as_it_is(tmp_path: Path) -> None:
    levels = tmp_path / "steps"
    levels.mkdir()
    (levels / "1.csv").write_text("a")
    (levels / "2.csv").write_text("bb")
    content = content_of(levels, Options(kind="levels"))
    assert content.is_bundle
    with laid_out(content, Options()) as (path, _options):
        assert sorted((each.name, each.read_text()) for each in path.iterdir()) == [("1.csv", "a"), ("2.csv", "bb")]
    loaded, unloaded = tmp_path / "on.wav", tmp_path / "off.wav"
    loaded.write_bytes(b"with")
    unloaded.write_bytes(b"without")
    pair = content_of(loaded, Options(kind="impedance", open_file=unloaded))
    with laid_out(pair, Options(kind="impedance")) as (path, options):
        assert path.read_bytes() == b"with"
        assert options.open_file is not None
        assert options.open_file.read_bytes() == b"without"
    for bad in (b"no zip", _zip({"../out.txt": b"x"}), _zip({"open/a.wav": b"x"})):
        with pytest.raises(CaptureError), laid_out(Content("x.captures.zip", bad), Options()):
            pass
    assert not (tmp_path.parent / "out.txt").exists()


def _zip(files: dict[str, bytes]) -> bytes:
    import zipfile

    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as packed:
        for name, data in files.items():
            packed.writestr(name, data)
    return held.getvalue()


def test_a_spectrogram_shows_each_tone_where_and_when_it_was() -> None:
    t = np.arange(int(4 * RATE)) / RATE
    wave = np.where(t < 2.0, np.sin(2.0 * math.pi * 500.0 * t), 0.1 * np.sin(2.0 * math.pi * 5000.0 * t))
    told = spectrogram_of(wave, RATE)
    columns = told.decibels.shape[1]
    for share, hz, level in ((0.25, 500.0, 0.0), (0.8, 5000.0, -20.0)):
        column = told.decibels[:, int(share * columns)]
        top = int(np.argmax(column))
        assert told.frequencies_hz[top] == pytest.approx(hz, rel=0.06)
        assert column[top] == pytest.approx(level, abs=0.5)
    assert told.decibels.min() >= told.floor_db
