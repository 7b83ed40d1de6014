"""Random mutants of the engine, and the share that the tests notice: ``python -m tests.mutants [COUNT] [SEED]``.

Takes hours, so it is no part of the ordinary run. First all tests run once, to see what each of them calls; that is
remembered beside the temporary files. Then each mutant is held against the tests that call what it changes, the
quickest first, and at last against the kept figures.
"""

import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from tests.mutants.mutation import Mutant, mutants_of
from tests.mutants.touched import SOURCE

ROOT = SOURCE.parents[1]
PACKAGES = ("predict", "judge", "guide", "bench", "session")
# Of the tests that call what is changed, as many as take so long together; and when a run of them hangs.
TRIED_S, HANGS_S = 60.0, 400.0
KEPT_FIGURES = "tests/house/test_kept_figures.py"
# What tries the suite itself, or would meet nothing but what the others do.
LEFT_OUT = ("tests/attack/", KEPT_FIGURES)
Calls = dict[str, tuple[float, frozenset[str]]]


def main(count: int, seed: int) -> int:
    calls = _calls()
    mutants = [each for name in PACKAGES for path in sorted((SOURCE / name).rglob("*.py")) for each in mutants_of(path)]
    chosen = random.Random(seed).sample(mutants, count)
    killed = 0
    with tempfile.TemporaryDirectory(prefix="mutants-") as name:
        copy = _copy(Path(name))
        for mutant in chosen:
            killer = _killer(mutant, copy, calls)
            killed += bool(killer)
            sys.stdout.write(f"{mutant.words}  {killer or 'LIVES'}\n")
            sys.stdout.flush()
    sys.stdout.write(f"{killed} of {count} killed, {100.0 * killed / count:.0f} %\n")
    return 0


def _copy(folder: Path) -> Path:
    """The project beside itself: what is mutated is never the tree that is worked on."""
    copy = folder / "tree"
    shutil.copytree(ROOT, copy, ignore=shutil.ignore_patterns(".git", ".venv", "docs", ".mypy_cache"))
    return copy


def _pytest(folder: Path, *arguments: str, timeout_s: float | None = None, **env: str) -> tuple[int, str]:
    run = subprocess.run(
        [sys.executable, "-W", "ignore", "-m", "pytest", "-q", *arguments], cwd=folder, check=False, timeout=timeout_s,
        capture_output=True, text=True,
        env=os.environ | {"PYTHONPATH": str(folder / "src"), "QT_QPA_PLATFORM": "offscreen"} | env,
    )  # fmt: skip
    return run.returncode, run.stdout


def _calls() -> Calls:
    """For each test how long it takes and what it calls, as ``path:line``."""
    kept = Path(tempfile.gettempdir()) / "plinth-test-calls.json"
    if not kept.exists():
        seen: dict[str, tuple[float, list[str]]] = {}
        with tempfile.TemporaryDirectory(prefix="calls-") as name:
            copy = _copy(Path(name))
            told = Path(name) / "told"
            told.mkdir()
            _pytest(copy, "-p", "tests.mutants.touched", "-n", "auto", "--dist", "worksteal", PLINTH_TOUCHED=str(told))
            for part in told.iterdir():
                seen |= json.loads(part.read_text())
        kept.write_text(json.dumps(seen))
    return {test: (seconds, frozenset(names)) for test, (seconds, names) in json.loads(kept.read_text()).items()}


def _killer(mutant: Mutant, copy: Path, calls: Calls) -> str:
    """The test that notices; empty where none does."""
    inside = str(mutant.path.relative_to(SOURCE))
    target = copy / "src" / "plinth" / inside
    target.write_text(mutant.applied())
    try:
        for tests in (_calling(mutant, inside, calls), [KEPT_FIGURES]):
            if not tests:
                continue
            names = copy / "chosen.txt"
            names.write_text("\n".join(tests))
            try:
                code, words = _pytest(copy, "-x", f"@{names}", timeout_s=HANGS_S)
            except subprocess.TimeoutExpired:
                return "hangs"
            if code != 0:
                failed = [line for line in words.splitlines() if line.startswith(("FAILED", "ERROR"))]
                return failed[0].partition(" - ")[0] if failed else f"ends with {code}"
    finally:
        shutil.copy(mutant.path, target)
    return ""


def _calling(mutant: Mutant, inside: str, calls: Calls) -> list[str]:
    """The quickest tests that call what is changed. What stands outside a function is used by all of its file."""
    function = f"{inside}:{mutant.function}"
    calling = sorted(
        (seconds, test) for test, (seconds, names) in calls.items()
        if not test.startswith(LEFT_OUT)
        and (function in names if mutant.function else any(name.startswith(f"{inside}:") for name in names))
    )  # fmt: skip
    chosen: list[str] = []
    left = TRIED_S
    for seconds, test in calling:
        if seconds > left and chosen:
            break
        left -= seconds
        chosen.append(test)
    return chosen


if __name__ == "__main__":
    given = [*sys.argv[1:], "200", "1"]
    raise SystemExit(main(int(given[0]), int(given[1]) if len(sys.argv) > 2 else 1))
