"""The real window over a real accessibility bus: what a screen reader finds, hears and does there."""

import json
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.desk.atspi_walk import LAUNCHERS

ROOT = Path(__file__).parents[2]


@pytest.mark.slow
def test_a_screen_reader_finds_its_way_and_hears_what_is_asked(tmp_path: Path) -> None:
    if shutil.which("xvfb-run") is None or shutil.which("dbus-run-session") is None:
        pytest.skip("found no xvfb-run or dbus-run-session: apt-get install xvfb dbus")
    if not any(Path(path).exists() for path in LAUNCHERS):
        pytest.skip("found no accessibility bus: apt-get install at-spi2-core")
    walk = subprocess.run(
        ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", "dbus-run-session", "--", sys.executable, "-m",
         "tests.desk.atspi_walk", str(tmp_path)],
        cwd=ROOT, capture_output=True, text=True, check=False, timeout=240,
    )  # fmt: skip
    assert walk.returncode == 0, walk.stderr[-2000:]
    told = json.loads(walk.stdout)
    assert told["unnamed"] == []
    assert {"push button", "check box", "radio button", "text", "slider", "combo box", "table", "column header", "cell",
            "list", "list item"} <= set(told["roles"])  # fmt: skip
    # Each stage that asks for something says so as it comes up; pressed as a reader presses, not as a mouse does.
    heard = told["stages"]
    assert any("S sound, D in doubt, B bad, P pass over" in words for words in heard["Inspect"])
    assert any("Expect " in words for words in heard["Power up"])
    assert any("Expect " in words for words in heard["Measure"])
    assert heard["Diary"] == []
    assert any("Found '1.234 apples'" in words for words in told["typed"])
