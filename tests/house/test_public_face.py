"""The public face stays as it is, costs nothing to import, and works in three lines."""

import subprocess
import sys
from pathlib import Path

import pytest

import plinth
from plinth.demo.builds import STAGE_PAIR

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
