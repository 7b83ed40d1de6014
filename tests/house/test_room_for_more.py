"""A fifth kind of supply and an eleventh test take the files that ARCHITECTURE.md says, and no more.

Each is added to a copy of the source, in which everything is then made of it: the rest must not have to know.
"""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

import plinth

SOURCE = Path(plinth.__file__).parent
HERE = Path(__file__).parent / "additions"


def copied(tmp_path: Path) -> Path:
    root = tmp_path / "source"
    shutil.copytree(SOURCE, root / "plinth", ignore=shutil.ignore_patterns("__pycache__"))
    return root


def added(root: Path, module: str, addition: str) -> None:
    path = root / "plinth" / module
    assert not path.exists()
    shutil.copyfile(HERE / addition, path)


def told(root: Path, module: str, *changes: tuple[str, str]) -> None:
    """Put each second text before the first one, which stands in the module once."""
    path = root / "plinth" / module
    text = path.read_text(encoding="utf-8")
    for before, more in changes:
        assert text.count(before) == 1, (module, before)
        text = text.replace(before, f"{more}{before}")
    path.write_text(text, encoding="utf-8")


def walk_through(root: Path, walk: str, folder: Path) -> None:
    done = subprocess.run(  # our own interpreter on our own script
        [sys.executable, "-c", (HERE / walk).read_text(encoding="utf-8"), str(folder)],
        env={**os.environ, "PYTHONPATH": str(root), "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.stdout.rstrip().endswith("walked"), done.stderr


@pytest.mark.slow
def test_a_fifth_kind_of_supply_is_two_modules_and_two_lines(tmp_path: Path) -> None:
    root = copied(tmp_path)
    added(root, "builds/supplies/cell_stack.py", "cell_stack_model.txt")
    added(root, "predict/supply_kinds/cell_stack.py", "cell_stack_numbers.txt")
    told(
        root, "builds/supplies/__init__.py",
        ("from plinth.builds.supplies.direct", "from plinth.builds.supplies.cell_stack import CellStack\n"),
        ("LinearSupply | DirectSupply", "CellStack | "), ("LinearSupply, SwitcherSupply, BatterySupply", "CellStack, "),
    )  # fmt: skip
    told(
        root, "predict/supply_kinds/__init__.py",
        ("from plinth.predict.supply_kinds.direct", "from plinth.builds.supplies.cell_stack import CellStack\n"),
        ("from plinth.predict.supply_kinds.linear", "from plinth.predict.supply_kinds.cell_stack import CELLS\n"),
        ("LinearSupply: LINEAR", "CellStack: CELLS, "),
    )  # fmt: skip
    walk_through(root, "walk_cells.txt", tmp_path)


@pytest.mark.slow
def test_an_eleventh_test_is_a_module_and_two_lines(tmp_path: Path) -> None:
    root = copied(tmp_path)
    added(root, "bench/residual_dc.py", "residual_dc_test.txt")
    line = '    SheetKind(residual_dc.TEST, "Residual DC", "residual dc", residual_dc.sheet),\n'
    told(root, "bench/every_sheet.py", ("square_wave\n", "residual_dc, "), ("    SheetKind(heat_run.TEST", line))
    told(root, "desk/measure/every_test.py", ('    _of_sheet("heat")', '    _of_sheet("residual"),\n'))
    walk_through(root, "walk_residual_dc.txt", tmp_path)
