"""The public face stays as it is, costs nothing to import, and works in three lines."""

import json
import shutil
import subprocess
import sys
from importlib import resources
from pathlib import Path

import numpy as np
import pytest
import soundfile

import plinth
from plinth.cli.main import SCHEMA_NAMES
from plinth.cli.schemas import SCHEMAS, schema_text
from plinth.demo.builds import STAGE_PAIR
from tests.demo_copy import demo_as_made

ROOT = Path(__file__).parents[2]


def test_the_names_are_these_and_each_is_documented() -> None:
    assert sorted(plinth.__all__) == [
        "Analysis", "Build", "BuildFileError", "CaptureError", "Figure", "Margin", "OutsideError", "PhysicsError",
        "Prediction", "Situation", "State", "__version__", "analyse", "comparison", "contents", "exported", "imported",
        "margins", "read_build", "report_document", "report_html", "search", "solve",
    ]  # fmt: skip
    assert set(dir(plinth)) == set(plinth.__all__)
    for name in plinth.__all__:
        assert name == "__version__" or getattr(plinth, name).__doc__
    with pytest.raises(AttributeError, match="no attribute 'dance'"):
        plinth.dance  # noqa: B018


def test_three_lines_predict_a_build() -> None:
    build = plinth.read_build(ROOT / "examples" / "stage-pair.json")
    assert build == STAGE_PAIR
    prediction = plinth.solve(build, plinth.Situation(load_ohm=8.0))
    assert prediction["clip_power_w"].unit == "W"
    assert {m.state for m in plinth.margins(prediction)} <= set(plinth.State)
    with pytest.raises(plinth.BuildFileError):
        plinth.read_build("nowhere.json")


def test_importing_costs_nothing() -> None:
    code = "import sys, plinth; sys.exit(','.join({'numpy', 'pydantic', 'PySide6'} & set(sys.modules)) or 0)"
    assert subprocess.run([sys.executable, "-c", code], check=False, timeout=300).returncode == 0


def test_schemas_lie_in_the_package_as_the_models_have_them() -> None:
    """Written anew by ``make examples``."""
    folder = resources.files("plinth") / "schemas"
    assert {entry.name for entry in folder.iterdir()} == {f"{name}.json" for name in SCHEMAS}
    assert set(SCHEMA_NAMES) == set(SCHEMAS)
    for name in SCHEMAS:
        assert (folder / f"{name}.json").read_text(encoding="utf-8") == schema_text(name), name
    build = json.loads(schema_text("build"))
    assert build["title"] == "Build"
    assert {"channels", "supply", "module", "load"} <= set(build["required"])


def example(name: str, *arguments: str) -> str:
    run = subprocess.run(
        [sys.executable, str(ROOT / "examples" / "scripts" / f"{name}.py"), *arguments],
        capture_output=True, text=True, check=False, timeout=120,
    )  # fmt: skip
    assert run.returncode == 0, run.stderr
    return run.stdout


def test_every_script_of_the_examples_runs_and_says_what_plinth_says(tmp_path: Path) -> None:
    build, workshop = ROOT / "examples" / "stage-pair.json", tmp_path / "theatre.plinth"
    shutil.copy(demo_as_made(), workshop)
    prediction = plinth.solve(plinth.read_build(build), plinth.Situation(load_ohm=8.0))
    power = prediction["clip_power_w"]
    solved = example("solve_a_build", str(build))
    assert f"8 ohm: {power.value:.1f} W +-{2.0 * power.u:.1f} W" in solved
    assert "unknown: Mains wiring" in solved
    rows = example("vary_a_part", str(build)).splitlines()
    assert len(rows) == 4
    assert f"{prediction['rail_idle_v'].value:5.1f} V" in rows[2]
    rails = [float(row.split()[3]) for row in rows]
    assert rails == sorted(rails)
    tone = tmp_path / "tone.wav"
    seconds = np.arange(24_000) / 48_000.0
    soundfile.write(tone, 0.5 * np.sin(2.0 * np.pi * 1000.0 * seconds), 48_000)
    figures = dict(line.split(" ", 1) for line in example("figures_of_a_capture", str(tone), "50").splitlines())
    assert float(figures["rms"].split()[0]) == pytest.approx(25.0 / np.sqrt(2.0), rel=1e-4)
    readings = example("readings_of_a_workshop", str(workshop)).splitlines()
    builds = plinth.contents(workshop)["builds"]
    assert isinstance(builds, list)
    assert len(readings) == sum(build["readings"] for build in builds)
    assert any(line.endswith(", counts") for line in readings)
    there = {path.stem for path in (ROOT / "examples" / "scripts").glob("*.py")}
    assert there == {"solve_a_build", "vary_a_part", "figures_of_a_capture", "readings_of_a_workshop"}


def test_pages_for_those_who_script_have_every_name(tmp_path: Path) -> None:
    run = subprocess.run(
        [sys.executable, "-m", "scripts.docs", str(tmp_path)],
        cwd=ROOT, capture_output=True, text=True, check=False, timeout=120,
    )  # fmt: skip
    assert (run.returncode, run.stderr) == (0, "")
    page = (tmp_path / "plinth.html").read_text(encoding="utf-8")
    for name in set(plinth.__all__) - {"__version__"}:
        assert f'id="{name}"' in page, name
    assert 'id="Reservoir"' in (tmp_path / "plinth" / "builds" / "supply_parts.html").read_text(encoding="utf-8")
