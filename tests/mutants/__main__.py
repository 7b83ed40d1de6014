"""Random mutants of the engine, and the share that the tests notice: ``python -m tests.mutants [COUNT] [SEED]``.

Takes hours, so it is no part of the ordinary run. First every test file is run once to see what it calls, remembered
beside the temporary files; then each mutant is run against the files that call what it changes, the quickest first.
"""

import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from tests.mutants.mutation import Mutant, mutants_of
from tests.mutants.touched import SOURCE

ROOT = SOURCE.parents[1]
PACKAGES = ("predict", "judge", "guide", "bench", "session")
TESTS = ("physics", "units", "builds", "record", "predict", "judge", "guide", "bench", "shelf", "wiring", "report",
         "session", "desk")  # fmt: skip
# Longer a mutant is not tried; a test file that takes longer than the other number is left out.
MOST_S, LONGEST_FILE_S = 400.0, 120.0


def main(count: int, seed: int) -> int:
    calls = _calls()
    mutants = [one for name in PACKAGES for path in sorted((SOURCE / name).rglob("*.py")) for one in mutants_of(path)]
    chosen = random.Random(seed).sample(mutants, count)
    living, tried = [], 0
    with tempfile.TemporaryDirectory(prefix="mutants-") as name:
        copy = Path(name) / "tree"
        shutil.copytree(ROOT, copy, ignore=shutil.ignore_patterns(".git", ".venv", "docs", ".mypy_cache"))
        for mutant in chosen:
            killed_by = _killed_by(mutant, copy, calls)
            tried += 1
            if not killed_by:
                living.append(mutant.words)
            sys.stdout.write(f"{mutant.words}  {killed_by or 'LIVES'}\n")
            sys.stdout.flush()
    share = 100.0 * (tried - len(living)) / tried
    sys.stdout.write(f"{tried - len(living)} of {tried} killed, {share:.0f} %\n")
    return 0


def _run(folder: Path, tests: str, *more: str, **env: str) -> tuple[int, float]:
    begun = time.monotonic()
    run = subprocess.run(
        [sys.executable, "-W", "ignore", "-m", "pytest", "-q", "-x", *more, tests], cwd=folder, check=False,
        capture_output=True, timeout=3.0 * LONGEST_FILE_S,
        env=os.environ | {"PYTHONPATH": str(folder / "src"), "QT_QPA_PLATFORM": "offscreen"} | env,
    )  # fmt: skip
    return run.returncode, time.monotonic() - begun


def _calls() -> dict[str, tuple[float, set[str]]]:
    """For each test file how long it takes and what it calls, as ``path:line``."""
    kept = Path(tempfile.gettempdir()) / "plinth-test-calls.json"
    # Written after every file: what was looked at once need not be again.
    found: dict[str, tuple[float, list[str]]] = json.loads(kept.read_text()) if kept.exists() else {}
    files = [path for name in TESTS for path in sorted((ROOT / "tests" / name).glob("test_*.py"))]
    for path in (one for one in files if str(one.relative_to(ROOT)) not in found):
        with tempfile.NamedTemporaryFile(suffix=".json") as told:
            name = str(path.relative_to(ROOT))
            try:
                code, seconds = _run(ROOT, name, "-p", "tests.mutants.touched", PLINTH_TOUCHED=told.name)
            except subprocess.TimeoutExpired:
                code, seconds = 0, 3.0 * LONGEST_FILE_S
                Path(told.name).write_text("[]")
            if code == 0:
                found[name] = (seconds, json.loads(Path(told.name).read_text()))
                kept.write_text(json.dumps(found))
    return {name: (seconds, set(seen)) for name, (seconds, seen) in found.items()}


def _killed_by(mutant: Mutant, copy: Path, calls: dict[str, tuple[float, set[str]]]) -> str:
    """The test file that notices; empty where none does."""
    inside = str(mutant.path.relative_to(SOURCE))
    function = f"{inside}:{mutant.function}"
    # What stands outside a function is used by all of its file.
    touching = [
        (seconds, name)
        for name, (seconds, seen) in calls.items()
        if seconds < LONGEST_FILE_S and any(one == function or (not mutant.function and one.startswith(f"{inside}:"))
                                            for one in seen)
    ]  # fmt: skip
    target = copy / "src" / "plinth" / inside
    target.write_text(mutant.applied())
    begun = time.monotonic()
    try:
        for _, name in sorted(touching):
            if time.monotonic() - begun > MOST_S:
                break
            try:
                code, _ = _run(copy, name)
            except subprocess.TimeoutExpired:
                return f"{name}, which hangs"
            if code != 0:
                return name
    finally:
        shutil.copy(mutant.path, target)
    return ""


if __name__ == "__main__":
    given = [*sys.argv[1:], "200", "1"]
    raise SystemExit(main(int(given[0]), int(given[1]) if len(sys.argv) > 2 else 1))
