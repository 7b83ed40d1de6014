"""A capture over the engine's own waves: aligned whatever the phase, the rest as small as the recorder lets it be."""

import math
from pathlib import Path

import numpy as np
import pytest
import soundfile

from plinth.builds.situation import Situation
from plinth.captures.options import Options
from plinth.predict.output_wave import waves_at
from plinth.predict.solve import solve
from plinth.predict.wall import WallDraw
from plinth.session.capture_pictures import Drawn
from plinth.session.capture_prediction import Against, Overlay, over_prediction
from plinth.session.capture_view import view_of
from tests.family import FAMILY
from tests.turns import in_turn

RATE = 96_000
NAMES = tuple(FAMILY)
# Every eighth in the ordinary run: another supply with each stage.
EACH = in_turn(NAMES, 20)


def overlay(path: Path, options: Options, against: Against) -> Overlay:
    view = view_of(path, options)
    assert view.capture is not None
    return over_prediction(view.capture, view.analysis.kind, view.pictures, against)


def written(path: Path, wave: np.ndarray, full_scale: float) -> Path:
    soundfile.write(path, wave / full_scale, RATE, subtype="PCM_24")
    return path


def share_left(shown: Overlay) -> float:
    """Rms of what is read less what is predicted, to the wave that is read."""
    wave = next(series for series in shown.pictures[0].series if series.name != "predicted")
    below = next(picture for picture in shown.pictures if picture.title == "Read less predicted")
    return float(np.std(below.series[0].y) / np.std(wave.y))


@pytest.mark.parametrize("name", EACH)
def test_an_output_lies_over_its_prediction_clean_and_clipped(tmp_path: Path, name: str) -> None:
    build, load = FAMILY[name], FAMILY[name].load.r_ohm
    at = Situation(load_ohm=load)
    onset = solve(build, at)["clip_v_rms"].value
    t = np.arange(RATE // 2) / RATE + 0.01234
    # Reactive or bridged ones may have no clipped wave: said then, and nothing drawn in its place.
    for share in (0.5, 1.06):
        try:
            truth = waves_at(build, at.model_copy(update={"frequency_hz": 997.0}), share * onset)
        except ValueError as error:
            assert share > 1.0
            wave = np.clip(2.0 * np.sin(2.0 * math.pi * 997.0 * t), -1.0, 1.0) * onset * 1.3
            words = str(error)
        else:
            wave, words = truth.output(t / truth.seconds), ""
            assert truth.clips == (share > 1.0)
        path = written(tmp_path / f"{share}.wav", wave, 4.0 * onset)
        shown = overlay(path, Options(volts_per_full_scale=(4.0 * onset,)), Against(build, at, load_stated=True))
        if words:
            assert words in shown.words
            assert all(series.name != "predicted" for picture in shown.pictures for series in picture.series)
            continue
        assert ("it clips there" if share > 1.0 else "clean there") in shown.words
        assert share_left(shown) < (0.012 if share > 1.0 else 1e-4)


@pytest.mark.parametrize("name", EACH)
def test_a_rail_lies_over_its_prediction(tmp_path: Path, name: str) -> None:
    build = FAMILY[name]
    at = Situation(load_ohm=build.load.r_ohm)
    onset = solve(build, at)["clip_v_rms"].value
    truth = waves_at(build, at, 0.7 * onset)
    for rail in truth.rails:
        swing = float(np.ptp(rail))
        t = np.arange(RATE) / RATE + 0.0077
        place = t / truth.seconds % 1.0 * (len(rail) - 1)
        wave = np.interp(place, np.arange(len(rail)), rail)
        path = written(tmp_path / f"{float(np.mean(rail)):.0f}.wav", wave, 1.5 * float(np.max(np.abs(wave))))
        options = Options(kind="rail", volts_per_full_scale=(1.5 * float(np.max(np.abs(wave))),))
        shown = overlay(path, options, Against(build, at, v_out_rms=0.7 * onset))
        # A rail that hardly moves has no ripple to be aligned by: that is said.
        if swing <= 1e-3 * abs(float(np.mean(rail))):
            assert "redict" in shown.words
            continue
        below = next(picture for picture in shown.pictures if picture.title == "Read less predicted")
        assert float(np.std(below.series[0].y)) < 0.06 * swing, shown.words
        assert f"Predicted: {build.name}" in shown.words


def at_the_wall(wall: WallDraw, t: np.ndarray) -> list[np.ndarray]:
    """Volts and amperes at any time: each half cycle of the mains is the one before it, turned."""
    half_s = 0.01
    halves = round(wall.seconds / half_s)
    turned = np.where(np.floor(t / wall.seconds) % 2 * (halves % 2), -1.0, 1.0)
    place = t / wall.seconds % 1.0 * (len(wall.v) - 1)
    return [turned * np.interp(place, np.arange(len(each)), each) for each in (wall.v, wall.i_a)]


@pytest.mark.parametrize("share", [0.0, 0.8])
def test_the_current_from_the_wall_lies_over_its_prediction(tmp_path: Path, share: float) -> None:
    build = FAMILY["class AB on linear"]
    at = Situation(load_ohm=build.load.r_ohm)
    v_out = share * solve(build, at)["clip_v_rms"].value
    wall = solve(build, at.model_copy(update={"level": share})).wall
    assert wall is not None
    waves = at_the_wall(wall, np.arange(RATE // 2) / RATE + 0.0031)
    # It alternates: what flows one way comes back in the other half.
    assert abs(float(np.mean(waves[1]))) < 0.02 * float(np.std(waves[1]))
    path = tmp_path / "wall.csv"
    columns = "\n".join(f"{k / RATE:.9f},{v:.6f},{i:.6f}" for k, (v, i) in enumerate(zip(*waves, strict=True)))
    path.write_text(f"time [s],wall [V],current [A]\n{columns}\n")
    shown = overlay(path, Options(kind="mains"), Against(build, at, v_out_rms=v_out))
    below = next(picture for picture in shown.pictures if picture.what is Drawn.LESS_PREDICTED)
    assert float(np.std(below.series[0].y)) < 0.03 * float(np.std(waves[1]))
    assert ("at rest" in shown.words) == (share == 0.0)
    # Volts and amperes on one axis: the volts are divided by a round number, which is said.
    volts = next(series for series in shown.pictures[0].series if "÷" in series.name)
    part = float(volts.name.split("÷")[1])
    largest = float(np.max(np.abs(waves[1])))
    assert 0.5 * largest <= float(np.max(np.abs(volts.y))) <= 5.1 * largest
    assert float(np.max(np.abs(volts.y))) * part == pytest.approx(float(np.max(np.abs(waves[0]))), rel=0.01)


def test_a_current_in_volts_of_a_clamp_lies_over_its_prediction_too(tmp_path: Path) -> None:
    build = FAMILY["class AB on linear"]
    at = Situation(load_ohm=build.load.r_ohm)
    wall = solve(build, at.model_copy(update={"level": 0.0})).wall
    assert wall is not None
    waves = at_the_wall(wall, np.arange(RATE // 2) / RATE)
    top = 1.5 * float(np.max(np.abs(waves[1])))
    path = tmp_path / "wall.wav"
    soundfile.write(path, np.stack((waves[0] / 500.0, waves[1] / top), axis=1), RATE, subtype="PCM_24")
    shown = overlay(path, Options(kind="mains", volts_per_full_scale=(500.0, top)), Against(build, at))
    assert "at rest" in shown.words
    below = next(picture for picture in shown.pictures if picture.what is Drawn.LESS_PREDICTED)
    assert float(np.std(below.series[0].y)) < 0.03 * float(np.std(waves[1]))


def test_what_is_left_is_told_as_a_share_of_the_wave(tmp_path: Path) -> None:
    build = FAMILY[NAMES[0]]
    t = np.arange(RATE) / RATE
    wave = 5.0 * np.sin(2.0 * math.pi * 1000.0 * t) + 0.05 * np.sin(2.0 * math.pi * 3000.0 * t)
    path = written(tmp_path / "tone.wav", wave, 50.0)
    shown = overlay(path, Options(volts_per_full_scale=(50.0,)), Against(build, Situation(load_ohm=8.0)))
    below = next(picture for picture in shown.pictures if picture.what is Drawn.LESS_PREDICTED)
    # A hundredth of the fundamental is left, and is what alternates but for it.
    assert "rms 1 % of what alternates" in below.aside
    assert share_left(shown) == pytest.approx(0.01, rel=0.02)


def test_without_volts_nothing_is_laid_over_and_it_is_said(tmp_path: Path) -> None:
    build = FAMILY[NAMES[0]]
    t = np.arange(RATE) / RATE
    path = written(tmp_path / "tone.wav", 0.5 * np.sin(2.0 * math.pi * 1000.0 * t), 1.0)
    shown = overlay(path, Options(), Against(build, Situation()))
    assert "volts are not known" in shown.words
    assert [picture.title for picture in shown.pictures] == ["Waveform", "Rest", "Spectrum"]


def test_more_than_the_build_can_give_is_said(tmp_path: Path) -> None:
    build = FAMILY[NAMES[0]]
    t = np.arange(RATE) / RATE
    path = written(tmp_path / "tone.wav", 0.5 * np.sin(2.0 * math.pi * 1000.0 * t), 1.0)
    shown = overlay(path, Options(volts_per_full_scale=(5000.0,)), Against(build, Situation(load_ohm=8.0)))
    assert "No prediction beside it" in shown.words
    assert "does not reach that" in shown.words
