"""The shape of the code: imports run one way, the core needs no Qt, the contract can fail."""

import ast
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.turns import rows_in_turn

ROOT = Path(__file__).parents[2]
CORE = (
    "physics", "processes", "units", "builds", "predict", "judge", "guide", "bench", "record", "workshop", "report",
    "demo", "shelf", "session", "instruments",
)  # fmt: skip

WITHOUT_QT = """
import importlib, pkgutil, sys
class Refuse:
    def find_spec(self, name, path=None, target=None):
        if name.split('.')[0] in ('PySide6', 'shiboken6', 'pyqtgraph'):
            raise ImportError('no ' + name)
sys.meta_path.insert(0, Refuse())
import plinth
names = [m.name for m in pkgutil.walk_packages(plinth.__path__, 'plinth.') if '.desk' not in m.name
         and '.migrations' not in m.name and not m.name.endswith('__main__')]
for name in names:
    importlib.import_module(name)
import pathlib, tempfile, datetime
from plinth.demo.workshop import make_demo
from plinth.predict.solve import solve
from plinth.report.html import ReportInput, render_report
workshop = make_demo(pathlib.Path(tempfile.mkdtemp()))
stored = workshop.builds()[0]
page = render_report(ReportInput(solve(stored.build, stored.situation), workshop.diary(1),
                                 datetime.datetime.now(datetime.UTC), True))
assert 'Stage pair' in page
assert not any(m.split('.')[0] in ('PySide6', 'pyqtgraph') for m in sys.modules)
print(len(names))
"""


def test_the_core_works_where_qt_cannot_be_imported() -> None:
    run = subprocess.run([sys.executable, "-c", WITHOUT_QT], capture_output=True, text=True, timeout=120, check=False)
    assert run.returncode == 0, run.stderr
    assert int(run.stdout) > 40


def lint(folder: Path) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [str(Path(sys.executable).parent / "lint-imports"), "--no-cache", "--config", str(folder / "pyproject.toml")],
        cwd=folder, capture_output=True, text=True, timeout=120, check=False,
        env={"PYTHONPATH": str(folder / "src"), "PATH": "/usr/bin:/bin", "HOME": str(folder)},
    )  # fmt: skip


@pytest.fixture
def copy(tmp_path: Path) -> Path:
    shutil.copytree(ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    return tmp_path


@pytest.mark.parametrize(
    ("module", "line", "contract"),
    rows_in_turn(
        [
            ("predict/figure.py", "from PySide6 import QtCore", "Only the desk knows Qt BROKEN"),
            ("physics/heat/rises.py", "from plinth.builds import parts", "Imports run one way BROKEN"),
            ("builds/quantities.py", "from plinth.desk import look", "BROKEN"),
            ("session/core.py", "from plinth.desk import look", "BROKEN"),
            ("desk/plan/ledger.py", "from plinth.workshop.store import Workshop", "to the session BROKEN"),
            ("desk/plan/page.py", "from plinth.predict.solve import solve", "to the session BROKEN"),
            ("desk/window.py", "from plinth.demo.builds import FOYER", "to the session BROKEN"),
            ("report/html.py", "from plinth.workshop.store import Workshop", "write to the file BROKEN"),
        ],
        4,
    ),
)
def test_the_contracts_break_when_they_are_broken(copy: Path, module: str, line: str, contract: str) -> None:
    assert lint(copy).returncode == 0
    file = copy / "src" / "plinth" / module
    file.write_text(file.read_text(encoding="utf-8") + f"\n{line}\n", encoding="utf-8")
    broken = lint(copy)
    assert broken.returncode == 1
    assert contract in broken.stdout


def test_a_start_without_a_window_loads_nothing_slow() -> None:
    code = (
        "import sys; from plinth.cli.main import main; main(['solve', sys.argv[1]]);"
        "slow = {'scipy', 'PySide6', 'pyqtgraph', 'sqlalchemy', 'alembic', 'jinja2'} & set(sys.modules);"
        "sys.exit(','.join(sorted(slow)) or 0)"
    )
    example = str(ROOT / "examples" / "stage-pair.json")
    run = subprocess.run([sys.executable, "-c", code, example], capture_output=True, text=True, timeout=60, check=False)
    assert run.returncode == 0, run.stderr


# What a window loads of others before its first picture; each one more is time that somebody waits.
BEFORE_FIRST_PICTURE = frozenset({
    "PySide6", "shiboken6", "shibokensupport", "signature_bootstrap", "numpy", "pydantic", "pydantic_core",
    "annotated_types", "typing_extensions", "typing_inspection", "sqlalchemy", "markupsafe", "platformdirs",
    "cython_runtime",
})  # fmt: skip


def test_a_start_with_a_window_loads_only_what_its_first_picture_needs() -> None:
    code = (
        "import sys, plinth.desk.app;"
        "mine = {name.split('.')[0] for name in sys.modules if not name.startswith('_')} - {'plinth'};"
        "print(*sorted(mine - set(sys.stdlib_module_names)))"
    )
    run = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=60, check=True)
    more = set(run.stdout.split()) - BEFORE_FIRST_PICTURE
    # An editable install and coverage tools put finders of their own there.
    assert not {name for name in more if not name.startswith(("sitecustomize", "coverage"))}


def public_definitions(tree: ast.Module) -> list[ast.FunctionDef | ast.ClassDef]:
    """Functions and classes of a module, and methods of its public classes, that are not private."""
    found: list[ast.FunctionDef | ast.ClassDef] = []
    for node in tree.body:
        if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
            found.append(node)
            if isinstance(node, ast.ClassDef):
                found += [m for m in node.body if isinstance(m, ast.FunctionDef) and not m.name.startswith("_")]
    return found


def test_every_public_function_of_the_core_has_a_docstring() -> None:
    missing = []
    for room in CORE:
        for file in (ROOT / "src" / "plinth" / room).rglob("*.py"):
            if "migrations" not in file.parts:
                tree = ast.parse(file.read_text(encoding="utf-8"))
                missing += [f"{file.name}:{d.name}" for d in public_definitions(tree) if not ast.get_docstring(d)]
    assert missing == []
