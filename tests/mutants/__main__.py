"""Random mutants of the engine, and the share that the tests notice: ``python -m tests.mutants [COUNT] [SEED]``.

Takes hours, so it is no part of the ordinary run. First all tests run once, to see what each of them calls; that is
remembered beside the temporary files. Then each mutant is held against the tests that call what it changes, the
quickest first, and at last against the kept figures.
"""

import random
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from tests.mutants.calls import Calls, calls_of_tests, copy_of_project, run_pytest
from tests.mutants.mutation import Mutant, mutants_of
from tests.mutants.touched import SOURCE

PACKAGES = ("predict", "judge", "guide", "bench", "session")
# Of the tests that call what is changed, as many as take so long together; and when a run of them hangs.
TRIED_S, HANGS_S = 60.0, 400.0
KEPT_FIGURES = "tests/house/test_kept_figures.py"
# What tries the suite itself, or would meet nothing but what the others do.
LEFT_OUT = ("tests/attack/", KEPT_FIGURES)


def main(count: int, seed: int) -> int:
    calls = calls_of_tests()
    mutants = [each for name in PACKAGES for path in sorted((SOURCE / name).rglob("*.py")) for each in mutants_of(path)]
    chosen = random.Random(seed).sample(mutants, count)
    killed = 0
    with tempfile.TemporaryDirectory(prefix="mutants-") as name:
        copy = copy_of_project(Path(name))
        for mutant in chosen:
            killer = _killer(mutant, copy, calls)
            killed += bool(killer)
            sys.stdout.write(f"{mutant.words}  {killer or 'LIVES'}\n")
            sys.stdout.flush()
    sys.stdout.write(f"{killed} of {count} killed, {100.0 * killed / count:.0f} %\n")
    return 0


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
                code, words = run_pytest(copy, "-m", "not slow", "-x", f"@{names}", timeout_s=HANGS_S)
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
