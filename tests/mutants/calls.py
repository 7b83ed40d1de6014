"""What each test calls and how long it takes: all tests run once in a copy, and that is remembered."""

import json
import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from tests.mutants.touched import SOURCE

ROOT = SOURCE.parents[1]
Calls = dict[str, tuple[float, frozenset[str]]]


def copy_of_project(folder: Path) -> Path:
    """The project beside itself: what is mutated is never the tree that is worked on."""
    copy = folder / "tree"
    shutil.copytree(ROOT, copy, ignore=shutil.ignore_patterns(".git", ".venv", "docs", ".mypy_cache"))
    return copy


def run_pytest(folder: Path, *arguments: str, timeout_s: float | None = None, **env: str) -> tuple[int, str]:
    """How it ended, and what it said. Raises subprocess.TimeoutExpired."""
    run = subprocess.run(
        [sys.executable, "-W", "ignore", "-m", "pytest", "-q", *arguments], cwd=folder, check=False, timeout=timeout_s,
        capture_output=True, text=True,
        env=os.environ | {"PYTHONPATH": str(folder / "src"), "QT_QPA_PLATFORM": "offscreen"} | env,
    )  # fmt: skip
    return run.returncode, run.stdout


def calls_of_tests() -> Calls:
    """For each test how long it takes and what it calls, as ``path:line``."""
    kept = Path(tempfile.gettempdir()) / "plinth-test-calls.json"
    if not kept.exists():
        seen: dict[str, tuple[float, list[str]]] = {}
        with tempfile.TemporaryDirectory(prefix="calls-") as name:
            copy = copy_of_project(Path(name))
            told = Path(name) / "told"
            told.mkdir()
            run_pytest(
                copy, "-m", "not slow", "-p", "tests.mutants.touched", "-n", "auto", "--dist", "worksteal",
                PLINTH_TOUCHED=str(told),
            )  # fmt: skip
            for part in told.iterdir():
                seen |= json.loads(part.read_text())
        kept.write_text(json.dumps(seen))
    return {test: (seconds, frozenset(names)) for test, (seconds, names) in json.loads(kept.read_text()).items()}
