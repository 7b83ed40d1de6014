"""Recorded files of every make, and those that are refused: what is read is what was written."""

import itertools
from pathlib import Path

import numpy as np
import pytest
import soundfile

from plinth.captures.capture import Capture, CaptureError
from plinth.captures.options import Options
from plinth.captures.reading.read_capture import read_capture
from tests.turns import in_turn

RATE = 5000.0
ROWS = 400
T = np.arange(ROWS) / RATE
WAVES = (2.5 * np.sin(2.0 * np.pi * 50.0 * T) + 0.25, -1.5 * np.cos(2.0 * np.pi * 50.0 * T))


def read(path: Path, **stated: object) -> Capture:
    return read_capture(path, Options(**stated))  # type: ignore[arg-type]


def lines_of(delimiter: str, decimal: str, *columns: np.ndarray, digits: int = 6) -> list[str]:
    return [
        delimiter.join(f"{value:.{digits}f}".replace(".", decimal) for value in row)
        for row in zip(*columns, strict=True)
    ]


FORMS = [
    (delimiter, decimal)
    for delimiter, decimal in itertools.product(("\t", ";", ",", "|", "  "), (".", ","))
    if delimiter != decimal
]


@pytest.mark.parametrize(("delimiter", "decimal"), FORMS)
@pytest.mark.parametrize("encoding", in_turn(["utf-8", "utf-8-sig", "utf-16", "latin-1"], 2))
@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
@pytest.mark.parametrize("head", ["none", "names", "units", "many"])
def test_a_text_of_any_make(tmp_path: Path, delimiter: str, decimal: str, encoding: str, end: str, head: str) -> None:
    rows = lines_of(delimiter, decimal, T, *WAVES)
    one = delimiter if delimiter.strip() or delimiter == "\t" else " "
    if head == "names":
        rows.insert(0, one.join(("time", "left", "right")))
    elif head == "units":
        rows.insert(0, one.join(("t[s]", "left[V]", "right[V]")))
    elif head == "many":
        rows[:0] = [
            "Bench recorder",
            f"Points{one}{ROWS}",
            "größe: keine",
            one.join(("t", "a", "b")),
            one.join(("s", "V", "V")),
        ]
    path = tmp_path / "capture.csv"
    path.write_bytes(end.join([*rows, ""]).encode(encoding))
    capture = read(path)
    assert capture.rows == ROWS
    assert capture.sample_rate_hz == pytest.approx(RATE, rel=1e-6)
    assert len(capture.channels) == 2
    for channel, wave in zip(capture.channels, WAVES, strict=True):
        assert channel.samples == pytest.approx(wave, abs=1e-6)
        assert channel.unit == "V"
        assert channel.unit_stated == (head in ("units", "many"))


def test_units_of_the_head_are_taken_into_account(tmp_path: Path) -> None:
    path = tmp_path / "c.csv"
    rows = lines_of(",", ".", T * 1e3, WAVES[0] * 1e3, WAVES[1])
    path.write_text("\n".join(["Time (ms),Out (mV),Current (A)", *rows]))
    capture = read(path)
    assert capture.sample_rate_hz == pytest.approx(RATE, rel=1e-6)
    assert capture.channels[0].samples == pytest.approx(WAVES[0], abs=1e-8)
    assert (capture.channels[0].unit, capture.channels[1].unit) == ("V", "A")
    assert (capture.channels[0].name, capture.channels[1].name) == ("Out", "Current")


@pytest.mark.parametrize(
    "line",
    [
        "Sample rate: 5 kHz",
        "sampling frequency;5000",
        "# fs = 5000 Hz",
        "Sample Interval,0.0002,s",
        "dt,200,us",
        "Abtastrate 5000 Sa/s",
    ],
)
def test_the_rate_may_stand_in_the_head(tmp_path: Path, line: str) -> None:
    path = tmp_path / "c.txt"
    path.write_text("\n".join([line, *lines_of(";", ".", WAVES[0])]))
    assert read(path).sample_rate_hz == pytest.approx(RATE)


def test_a_rate_that_nobody_says_is_asked_for(tmp_path: Path) -> None:
    path = tmp_path / "c.txt"
    path.write_text("\n".join(lines_of(";", ".", WAVES[0])))
    with pytest.raises(CaptureError, match="--rate"):
        read(path)
    assert read(path, rate_hz=1234.0).sample_rate_hz == 1234.0


def test_a_column_that_counts_is_no_channel(tmp_path: Path) -> None:
    path = tmp_path / "c.csv"
    rows = [f"{k};{value:.5f}" for k, value in enumerate(WAVES[0])]
    path.write_text("\n".join(["n;V", *rows]))
    with pytest.raises(CaptureError, match="--rate"):
        read(path)
    capture = read(path, rate_hz=RATE)
    assert len(capture.channels) == 1
    assert capture.channels[0].samples == pytest.approx(WAVES[0], abs=1e-5)


def test_times_in_a_stated_unit(tmp_path: Path) -> None:
    path = tmp_path / "c.csv"
    path.write_text("\n".join(lines_of(",", ".", T * 1e6, WAVES[0])))
    assert read(path, time_unit="us").sample_rate_hz == pytest.approx(RATE, rel=1e-6)
    assert any("seconds are taken" in remark for remark in read(path).remarks)


def test_stamps_of_few_digits_average_out(tmp_path: Path) -> None:
    path = tmp_path / "c.csv"
    t = np.arange(4000) / 48_000.0
    path.write_text("\n".join(f"{a:.5f},{b:.4f}" for a, b in zip(t, np.sin(300.0 * t), strict=True)))
    capture = read(path)
    assert capture.rows == 4000
    assert capture.sample_rate_hz == pytest.approx(48_000.0, rel=3e-6)
    assert abs(capture.sample_rate_hz / 48_000.0 - 1.0) < 3.0 * max(capture.u_rate, 1e-7)


def test_the_comma_as_both_signs_is_read_where_it_can_mean_one_thing(tmp_path: Path) -> None:
    path = tmp_path / "c.csv"
    path.write_text("\n".join(["time,left,right", *lines_of(",", ",", T, *WAVES)]))
    capture = read(path)
    assert capture.sample_rate_hz == pytest.approx(RATE, rel=1e-6)
    # A minus sign stands before the whole part, also where that is 0.
    assert capture.channels[0].samples == pytest.approx(WAVES[0], abs=1e-6)
    uneven = [line.replace(",000000", "") for line in lines_of(",", ",", T, *WAVES)]
    path.write_text("\n".join(["time,left,right", *uneven]))
    with pytest.raises(CaptureError, match="semicolons"):
        read(path)


def test_broken_cells_are_counted_named_and_bridged(tmp_path: Path) -> None:
    rows = lines_of(",", ".", T, *WAVES)
    rows[100], rows[200], rows[300] = (
        "garbage",
        f"{T[200]:.6f},nan,{WAVES[1][200]:.6f}",
        f"{T[300]:.6f},{WAVES[0][300]:.6f},inf",
    )
    path = tmp_path / "c.csv"
    path.write_text("\n".join(["t,a,b", *rows]))
    capture = read(path)
    assert capture.rows == ROWS
    assert [channel.missing for channel in capture.channels] == [2, 2]
    assert any("line 102" in remark and "line 202, column 2" in remark for remark in capture.remarks)
    assert capture.channels[0].samples == pytest.approx(WAVES[0], abs=0.05)
    assert np.isfinite(capture.channels[1].samples).all()


def test_a_line_of_words_between_two_samples_takes_no_sample_away(tmp_path: Path) -> None:
    rows = lines_of(",", ".", T, WAVES[0])
    path = tmp_path / "c.csv"
    path.write_text("\n".join([*rows[:150], "the trigger came again", *rows[150:]]))
    capture = read(path)
    assert capture.rows == ROWS
    assert capture.channels[0].samples == pytest.approx(WAVES[0], abs=1e-6)
    assert capture.channels[0].missing == 1
    # In the place of a sample it leaves a gap, which is bridged.
    path.write_text("\n".join([*rows[:150], "the trigger came again", *rows[151:]]))
    capture = read(path)
    assert capture.rows == ROWS
    assert capture.channels[0].samples == pytest.approx(WAVES[0], abs=0.05)


def test_a_jump_in_the_times_is_said_and_the_longest_stretch_taken(tmp_path: Path) -> None:
    times = np.where(np.arange(ROWS) < 300, T, T + 0.7)
    path = tmp_path / "c.csv"
    path.write_text("\n".join(lines_of(",", ".", times, WAVES[0])))
    capture = read(path)
    assert capture.rows == 300
    assert capture.rows_read == ROWS
    assert capture.sample_rate_hz == pytest.approx(RATE, rel=1e-6)
    assert any("jump at line 301" in remark for remark in capture.remarks)


def test_uneven_times_are_laid_on_even_steps(tmp_path: Path) -> None:
    rng = np.random.default_rng(2)
    times = np.cumsum(rng.uniform(0.4, 1.6, ROWS)) / RATE
    path = tmp_path / "c.csv"
    path.write_text("\n".join(f"{a:.9f},{np.sin(60.0 * a):.6f}" for a in times))
    capture = read(path)
    assert any("uneven" in remark for remark in capture.remarks)
    even = np.linspace(times[0], times[-1], capture.rows)
    assert capture.channels[0].samples == pytest.approx(np.sin(60.0 * even), abs=2e-3)


@pytest.mark.parametrize(
    ("form", "subtype", "off"),
    [
        ("WAV", "PCM_16", 5e-5), ("WAV", "PCM_24", 3e-7), ("WAV", "PCM_32", 1e-8), ("WAV", "FLOAT", 1e-7),
        ("WAV", "DOUBLE", 1e-12),
        ("FLAC", "PCM_16", 5e-5), ("FLAC", "PCM_24", 3e-7), ("AIFF", "PCM_16", 5e-5),
    ],
)  # fmt: skip
def test_sound_of_any_depth(tmp_path: Path, form: str, subtype: str, off: float) -> None:
    path = tmp_path / "sound.bin"
    waves = np.stack([0.3 * wave for wave in WAVES], axis=1)
    soundfile.write(path, waves, 8000, format=form, subtype=subtype)
    capture = read(path)
    assert capture.sample_rate_hz == 8000.0
    assert {channel.unit for channel in capture.channels} == {"FS"}
    for index, channel in enumerate(capture.channels):
        assert channel.samples == pytest.approx(waves[:, index], abs=off)


def test_scales_and_probes_are_one_for_all_or_one_each(tmp_path: Path) -> None:
    path = tmp_path / "s.wav"
    soundfile.write(path, np.stack([0.3 * wave for wave in WAVES], axis=1), 8000, subtype="DOUBLE")
    capture = read(path, volts_per_full_scale=(50.0, 4.0), probe=(10.0,))
    assert capture.channels[0].samples == pytest.approx(0.3 * WAVES[0] * 500.0)
    assert capture.channels[1].samples == pytest.approx(0.3 * WAVES[1] * 40.0)
    assert {channel.unit for channel in capture.channels} == {"V"}
    with pytest.raises(CaptureError, match="3 values for 2 channels"):
        read(path, probe=(1.0, 2.0, 3.0))


@pytest.mark.parametrize("said", [1000, 2**31, 0xFFFFFFFF])
def test_a_head_that_lies_about_its_length_is_said(tmp_path: Path, said: int) -> None:
    path = tmp_path / "s.wav"
    soundfile.write(path, 0.3 * WAVES[0], 8000, subtype="PCM_16")
    data = bytearray(path.read_bytes())
    place = data.index(b"data") + 4
    data[place : place + 4] = said.to_bytes(4, "little")
    path.write_bytes(data)
    capture = read(path)
    assert capture.rows == ROWS
    assert any(str(said) in remark for remark in capture.remarks)


def test_an_overdriven_recorder_is_said(tmp_path: Path) -> None:
    path = tmp_path / "s.wav"
    soundfile.write(path, np.clip(WAVES[0], -1.0, 1.0), 8000, subtype="PCM_16")
    assert any("overdriven" in remark for remark in read(path).remarks)
    soundfile.write(path, 0.2 * WAVES[0], 8000, subtype="PCM_16")
    assert not any("overdriven" in remark for remark in read(path).remarks)


def test_arrays(tmp_path: Path) -> None:
    path = tmp_path / "a.npy"
    np.save(path, np.stack(WAVES))
    capture = read(path, rate_hz=RATE)
    assert len(capture.channels) == 2
    assert capture.channels[1].samples == pytest.approx(WAVES[1])
    np.save(path, np.stack((T, *WAVES), axis=1))
    capture = read(path)
    assert capture.sample_rate_hz == pytest.approx(RATE)
    assert len(capture.channels) == 2
    np.save(path, np.round(WAVES[0] * 8000.0).astype(np.int16))
    capture = read(path, rate_hz=RATE)
    assert capture.channels[0].samples == pytest.approx(WAVES[0] * 8000.0 / 32768.0, abs=2e-5)
    np.save(path, np.array([{"a": 1}], dtype=object), allow_pickle=True)
    with pytest.raises(CaptureError):
        read(path, rate_hz=RATE)
    np.save(path, np.ones((4, 4, 4)))
    with pytest.raises(CaptureError, match="3 dimensions"):
        read(path, rate_hz=RATE)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "empty"), (b"hello\nworld\n" * 50, "no table"), (b"1,2\n3,4\n", "expected"),
        (b"\x01\x02\x03\x9a" * 900, "neither text nor sound"),
        (b"RIFF\x10\0\0\0WAVEfmt ", "sound file"),
        (b"fLaC" + b"\0" * 40, "sound file"), (b"\x93NUMPY\x01\x00", "array"),
        (b"\xff\xfea", "breaks off"),
    ],
)  # fmt: skip
def test_what_is_no_capture_is_refused_with_a_sentence(tmp_path: Path, content: bytes, words: str) -> None:
    path = tmp_path / "file"
    path.write_bytes(content)
    with pytest.raises(CaptureError, match=words) as refused:
        read(path, rate_hz=1000.0)
    assert "\n" not in str(refused.value)


def test_missing_files_and_folders_are_refused(tmp_path: Path) -> None:
    with pytest.raises(CaptureError, match="No such file"):
        read(tmp_path / "none.csv")
    with pytest.raises(CaptureError, match="plain file"):
        read(tmp_path)


@pytest.mark.parametrize("seed", range(8))
def test_damaged_files_end_in_a_capture_or_a_sentence(tmp_path: Path, seed: int) -> None:
    rng = np.random.default_rng(seed)
    sources: list[bytes] = []
    for form in ("WAV", "FLAC", "AIFF"):
        path = tmp_path / f"s.{form.lower()}"
        soundfile.write(path, 0.3 * WAVES[0], 8000, format=form)
        sources.append(path.read_bytes())
    np.save(tmp_path / "a.npy", WAVES[0])
    sources += [(tmp_path / "a.npy").read_bytes(), "\n".join(["t,a", *lines_of(",", ".", T, WAVES[0])]).encode()]
    for source in sources:
        for _ in range(6):
            data = bytearray(source)
            for _ in range(int(rng.integers(1, 20))):
                data[int(rng.integers(len(data)))] = int(rng.integers(256))
            path = tmp_path / "damaged"
            path.write_bytes(bytes(data[: int(rng.integers(1, len(data) + 1))]))
            try:
                capture = read(path, rate_hz=1000.0)
            except CaptureError:
                continue
            assert all(np.isfinite(channel.samples).all() for channel in capture.channels)
