"""``plinth analyse`` as a script calls it: every kind from a file, and every refusal with one sentence."""

import csv
import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

import plinth
from plinth.captures.options import KINDS
from plinth.cli.main import main
from tests.captures import made
from tests.captures.made import KINDS as MADE

FIGURES = {
    "tone": ["frequency_hz", "rms", "dc", "crest", "thd_db", "thdn_20_20k_db", "thdn_20_22k_db", "sinad_db",
             "noise_rms_20_20k", "h2_db", "h3_db", "h2_phase_deg"],
    "intermodulation": ["imd_db"],
    "levels": ["onset_rms_v", "onset_power_w", "level_at_1pct_thd_rms_v", "power_at_1pct_thd_w",
               "level_at_10pct_thd_rms_v", "power_at_10pct_thd_w"],
    "rail": ["mean_v", "pp_v", "nearest_zero_v", "ripple_hz"],
    "edge": ["rise_10_90_s", "rise_overshoot_pct", "rise_slew_v_per_s", "fall_10_90_s", "fall_overshoot_pct"],
    "sweep": ["gain_1k_db", "gain_20hz_db_re_1k", "phase_20hz_deg", "h2_at_1000hz_db", "h3_at_1000hz_db", "delay_s"],
    "relay": ["muting_delay_s", "bounce_s", "dc_trip_s", "release_s"],
    "mains": ["v_rms", "i_rms", "i_peak_a", "i_crest", "p_w", "s_va", "pf", "i2t_first_100ms_a2s",
              "i2t_first_half_cycle_a2s"],
}  # fmt: skip


def run(capsys: pytest.CaptureFixture[str], *arguments: str | Path) -> tuple[int, str, str]:
    status = main(["analyse", *(str(argument) for argument in arguments)])
    out, err = capsys.readouterr()
    return status, out, err


def document(capsys: pytest.CaptureFixture[str], *arguments: str | Path) -> dict[str, Any]:
    status, out, err = run(capsys, *arguments, "--json")
    assert (status, err) == (0, "")
    return dict(json.loads(out))


def figures_of(answer: dict[str, Any]) -> dict[str, Any]:
    return {name: figure for channel in answer["channels"] for name, figure in channel["figures"].items()}


def written(folder: Path, kind: str, seed: int = 3) -> tuple[Path, made.Made]:
    """A made capture as CSV, with times and units."""
    capture = MADE[kind](np.random.default_rng([seed, 7]))
    path = folder / f"{kind}.csv"
    if capture.capture.rows > 100_000:
        # A long one as sound, which is written in no time; its numbers are volts.
        path = folder / f"{kind}.wav"
        waves = np.stack([channel.samples for channel in capture.capture.channels], axis=1)
        soundfile.write(path, waves, round(capture.capture.sample_rate_hz), subtype="DOUBLE")
        return path, capture
    with path.open("w", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(["t [s]", *(f"ch{k + 1} [{c.unit}]" for k, c in enumerate(capture.capture.channels))])
        times = np.arange(capture.capture.rows) / capture.capture.sample_rate_hz
        writer.writerows(
            [[f"{row[0]:.9f}", *(f"{value:.9g}" for value in row[1:])]
             for row in zip(times, *(c.samples for c in capture.capture.channels), strict=True)]
        )  # fmt: skip
    return path, capture


@pytest.mark.parametrize("kind", list(FIGURES))
def test_every_kind_from_a_file(tmp_path: Path, capsys: pytest.CaptureFixture[str], kind: str) -> None:
    path, capture = written(tmp_path, kind)
    stated = ["--load", "8.2", "--step-s", str(capture.stated.get("step_s", 1.0))] if kind == "levels" else []
    stated += ["--volts-per-full-scale", "1"] if path.suffix == ".wav" else []
    answer = document(capsys, path, *stated)
    assert answer["kind"] == kind
    figures = figures_of(answer)
    for name in ("rows", "missing", "sample_rate_hz", "mean", "rms_ac", *FIGURES[kind]):
        assert set(figures[name]) == {"value", "spread", "unit", "definition"}
        assert math.isfinite(figures[name]["value"])
        assert figures[name]["spread"] >= 0.0
        if name in capture.truth and not name.endswith("_deg"):
            off = abs(figures[name]["value"] - capture.truth[name])
            assert off <= 3.0 * figures[name]["spread"] + 1e-6 * abs(capture.truth[name]), name
    assert [channel["name"] for channel in answer["channels"]][:1] == ["ch1"]
    assert all(isinstance(remark, str) for remark in answer["remarks"])


def test_a_switch_on_from_a_file(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path, capture = written(tmp_path, "switch_on")
    figures = figures_of(document(capsys, path, "--as", "mains"))
    for name in ("i2t_first_100ms_a2s", "i2t_first_half_cycle_a2s"):
        assert figures[name]["value"] == pytest.approx(capture.truth[name], rel=5e-3)
    assert figures["i2t_first_100ms_a2s"]["unit"] == "A²s"


def sine(hz: float, peak: float, seconds: float, rate: int = 48_000) -> np.ndarray:
    noise = 1e-6 * np.random.default_rng(1).standard_normal(round(seconds * rate))
    return peak * np.sin(2.0 * math.pi * hz * np.arange(round(seconds * rate)) / rate) + noise


def test_a_folder_is_one_level_a_file(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    for index, peak in enumerate((0.1, 0.2, 0.3, 0.4, 0.45, 0.5, 0.55, 0.6, 0.7, 0.9), 1):
        drive = sine(1000.0, peak, 0.2)
        waves = np.stack((drive, np.clip(1.6 * drive, -0.64, 0.64)), axis=1)
        soundfile.write(tmp_path / f"level {index}.wav", waves, 48_000, subtype="FLOAT")
    figures = figures_of(document(capsys, tmp_path, "--load", "4.03", "--volts-per-full-scale", "50,50"))
    assert figures["levels"]["value"] == 10
    assert figures["onset_rms_v"]["value"] == pytest.approx(32.0 / math.sqrt(2.0), rel=3e-3)
    assert figures["onset_power_w"]["value"] == pytest.approx(32.0**2 / 2.0 / 4.03, rel=6e-3)
    assert figures["gain"]["value"] == pytest.approx(1.6, rel=1e-4)
    assert "power_at_10pct_thd_w" in figures


def test_impedance_of_two_files(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    soundfile.write(tmp_path / "with.wav", sine(1000.0, 0.40, 0.5), 48_000, subtype="FLOAT")
    soundfile.write(tmp_path / "without.wav", sine(1000.0, 0.41, 0.5), 48_000, subtype="FLOAT")
    answer = document(capsys, tmp_path / "with.wav", "--open", tmp_path / "without.wav", "--load", "8")
    figures = figures_of(answer)
    assert answer["kind"] == "impedance"
    assert figures["zout_ohm"]["value"] == pytest.approx(0.2, rel=1e-3)
    assert figures["damping"]["value"] == pytest.approx(40.0, rel=1e-3)


def test_scales_probe_rate_and_band_are_stated(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "x.npy"
    np.save(path, sine(1000.0, 0.5, 1.0))
    figures = figures_of(document(capsys, path, "--rate", "48000", "--as", "tone"))
    assert figures["rms"]["unit"] == "FS"
    assert figures["frequency_hz"]["value"] == pytest.approx(1000.0)
    scaled = ("--volts-per-full-scale", "20", "--probe", "10", "--band", "300:3000")
    figures = figures_of(document(capsys, path, "--rate", "96000", *scaled))
    assert figures["rms"]["value"] == pytest.approx(100.0 / math.sqrt(2.0), rel=1e-6)
    assert figures["rms"]["unit"] == "V"
    assert figures["frequency_hz"]["value"] == pytest.approx(2000.0)
    assert "noise_rms_300_3000" in figures


def test_lines_for_people(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "x.wav"
    soundfile.write(path, sine(1000.0, 0.5, 1.0), 48_000, subtype="FLOAT")
    status, out, _ = run(capsys, path)
    assert status == 0
    assert out.startswith("Read as: tone")
    assert "frequency_hz" in out
    assert "the record reaches 24000 Hz only" in out


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["--as", "wobble"], "wobble"), (["--load", "eight"], "--load"), (["--load", "-3"], "--load"),
        (["--sweep", "20:20000"], "--sweep"), (["--sweep", "20000:20:3"], "--sweep"), (["--band", "5000"], "--band"),
        (["--at", "20,,100"], "--at"), (["--time-unit", "weeks"], "weeks"), (["--probe", "1,2,3"], "--probe"),
        (["--as", "impedance"], "--open"), (["--as", "mains"], "one channel"), (["--as", "relay"], "one channel"),
        (["--rate", "nan"], "--rate"),
    ],
)  # fmt: skip
def test_wrong_statements_are_refused_in_one_sentence(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], arguments: list[str], words: str
) -> None:
    path = tmp_path / "x.wav"
    soundfile.write(path, sine(1000.0, 0.5, 0.2), 48_000)
    status, out, err = run(capsys, path, *arguments, "--json")
    assert (status, out) == (2, "")
    assert words in err
    assert err.count("\n") == 1


@pytest.mark.parametrize("content", [b"", b"hello world\n" * 40, bytes(range(256)) * 20, b"RIFF....WAVE"])
def test_what_is_no_capture_ends_with_status_2(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], content: bytes
) -> None:
    path = tmp_path / "file.csv"
    path.write_bytes(content)
    status, out, err = run(capsys, path)
    assert (status, out) == (2, "")
    assert str(path) in err
    assert err.count("\n") == 1


def test_python_does_the_same(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "x.wav"
    soundfile.write(path, sine(1000.0, 0.5, 1.0), 48_000)
    answer = document(capsys, path, "--volts-per-full-scale", "50")
    assert plinth.analyse(path, volts_per_full_scale=(50.0,)).as_document() == answer
    with pytest.raises(plinth.CaptureError, match="wobble"):
        plinth.analyse(path, kind="wobble")


def test_every_kind_that_is_offered_has_its_figures() -> None:
    assert set(KINDS) == {*FIGURES, "impedance", "plain"}
