"""Every output for every kind of build: its content, not only that it comes."""

import csv
import datetime as dt
import html
import json
import math
import re
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies import BatterySupply, DirectSupply, LinearSupply, SwitcherSupply
from plinth.cli.main import main
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.record.diary import DiaryEntry
from plinth.report.html import ReportInput, render_report
from plinth.report.in_short import cautions
from tests.family import DEMO, EXTREMES, FAMILY, FEW
from tests.turns import crossed, in_turn

AT = dt.datetime(2026, 11, 1, tzinfo=dt.UTC)
NO_NUMBER = re.compile(r"\b(nan|inf|None)\b")


def report_of(prediction: Prediction) -> str:
    diary = [DiaryEntry(AT, "note", "note", "for this test")]
    return render_report(ReportInput(prediction, diary, AT, False))


def record_is_sound(prediction: Prediction) -> None:
    """The record for the next owner: cautions first, its wiring a sound drawing, no raw key."""
    page = render_report(ReportInput(prediction, [], AT, False), "build_record")
    assert not re.search(r">[a-z]+_[a-z_]+<", page)
    (drawing,) = re.findall(r"<svg .*?</svg>", page, re.DOTALL)
    ET.fromstring(drawing)
    words = html.unescape(page)
    assert all(caution in words for caution in cautions(prediction))
    assert words.index("Before you open it") < words.index("What it is") < words.index("Parts, and how")


@pytest.mark.parametrize("name", in_turn(FAMILY, 9))
def test_every_kind_is_solved_judged_and_reported(name: str) -> None:
    build = FAMILY[name]
    prediction = solve(build)
    assert 5.0 < prediction["clip_power_w"].value < 300.0
    assert all(math.isfinite(f.value) for n, f in prediction.figures.items() if n in ("clip_v_peak", "heat_w"))
    assert abs(prediction["energy_error"].value) < 2e-3
    page = report_of(prediction)
    record_is_sound(prediction)
    assert prediction["clip_power_w"].label in page
    assert build.module.name in page
    assert "for this test" in page
    assert not NO_NUMBER.search(re.sub(r"<style>.*?</style>", "", page, flags=re.S))
    for key, kind in (
        ("winding_load_ratio", LinearSupply), ("power_factor", LinearSupply | SwitcherSupply),
        ("battery_i_mean_a", BatterySupply), ("supply_load_ratio", SwitcherSupply | BatterySupply),
    ):  # fmt: skip
        figure = prediction.get(key)
        assert (figure is not None) == isinstance(build.supply, kind), key
        assert figure is None or figure.label in page, key
    if isinstance(build.supply, DirectSupply):
        assert "from the wall, predicted" not in page
    assert ("− rail" in page) != build.supply.single_rail
    for margin in judge(prediction):
        assert margin.sentence
        assert not NO_NUMBER.search(margin.sentence), margin.sentence
        judged = margin.figure is not None and margin.limit is not None
        assert margin.state is State.UNKNOWN or judged or margin.said


def solve_command(
    build: Build, tmp_path: Path, *flags: str, capsys: pytest.CaptureFixture[str]
) -> tuple[int, str, str]:
    path = tmp_path / "b.json"
    path.write_text(build.model_dump_json(), encoding="utf-8")
    status = main(["solve", str(path), *flags])
    out = capsys.readouterr()
    return status, out.out, out.err


@pytest.mark.parametrize("name", in_turn([*FEW, *DEMO], 4))
def test_every_flag_of_the_command(name: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    build = (FAMILY | DEMO)[name]
    wave = tmp_path / "w.csv"
    status, out, err = solve_command(
        build, tmp_path, "--json", "--samples", "100", "--waveforms", str(wave), capsys=capsys
    )
    assert status == 0, err
    found = json.loads(out)
    sampled, figure = found["clip_power_sampled"], found["figures"]["clip_power_w"]
    assert sampled["cannot_run"] == 0
    assert sampled["low_w"] < sampled["mean_w"] < sampled["high_w"]
    # A hundred samples tell the mean to a tenth of the spread and the spread to a seventh, each taken three times.
    assert abs(sampled["mean_w"] - figure["value"]) < 0.35 * figure["u"] + 0.02 * figure["value"]
    assert 0.55 * figure["u"] < sampled["u_w"] < 1.8 * figure["u"]
    rows = list(csv.reader(wave.read_text(encoding="utf-8").splitlines()))
    assert "rail_plus_v" in rows[0]
    assert ("rail_minus_v" in rows[0]) != build.supply.single_rail
    assert len(rows) > 100
    assert all(math.isfinite(float(x)) for x in rows[50])
    for flag in ("--thd", "--mains-steps"):
        status, out, err = solve_command(build, tmp_path, flag, capsys=capsys)
        if flag == "--mains-steps" and not isinstance(build.supply, LinearSupply):
            assert status == 2
            assert "found no mains transformer" in err
        elif status:
            assert flag in err
        else:
            assert ("at 10 %" if flag == "--thd" else "Variable transformer") in out
            assert not NO_NUMBER.search(out)


@pytest.mark.parametrize(("name", "situation"), crossed(FEW, EXTREMES, 9))
def test_the_edges_of_every_situation(name: str, situation: str) -> None:
    build, asked = FAMILY[name], dict(EXTREMES[situation])
    if build.mains is None:
        asked = {key: value for key, value in asked.items() if key not in ("mains_v_rms", "third_harmonic")}
    try:
        prediction = solve(build, Situation.model_validate(asked))
    except PhysicsError as error:
        refused = str(error)
    else:
        refused = ""
    if refused:
        assert len(refused) > 20
        assert not NO_NUMBER.search(refused)
        return
    assert abs(prediction["energy_error"].value) < 5e-3
    page = report_of(prediction)
    assert not NO_NUMBER.search(re.sub(r"<style>.*?</style>", "", page, flags=re.S))
