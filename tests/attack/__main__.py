"""Rounds of every kind of attack until the time is over: ``python -m tests.attack [MINUTES] [SEED] [KIND]``.

Status 1, and the way to repeat it, where something fell. A round that hangs is ended by an alarm, and fell.
"""

import os
import signal
import sys
import tempfile
import time
import traceback
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from tests.attack import altered, disk, files, lives, strangers, torn, window, words

KINDS: dict[str, Callable[[Path, int], str]] = {
    "words": words.attack, "files": files.attack, "lives": lives.attack, "disk": disk.attack,
    "torn": torn.attack, "window": window.attack, "altered": altered.attack, "strangers": strangers.attack,
}  # fmt: skip
HUNG_S = 180


def one_round(kind: str, seed: int) -> str:
    """What fell in one round; empty where nothing did."""
    with tempfile.TemporaryDirectory(prefix="attack-") as name:
        folder = Path(name)
        for key in ("XDG_CONFIG_HOME", "XDG_DATA_HOME"):
            os.environ[key] = str(folder / key.lower())
        try:
            return KINDS[kind](folder, seed)
        except Exception:  # noqa: BLE001  # whatever comes out of an attack is what it was made to find
            return traceback.format_exc()


def main(minutes: float, seed: int, only: str) -> int:
    end, count = time.monotonic() + 60.0 * minutes, dict.fromkeys(KINDS, 0)
    kinds = [only] if only else list(KINDS)
    signal.signal(signal.SIGALRM, lambda *_: (_ for _ in ()).throw(TimeoutError(f"hung for {HUNG_S} s")))
    while time.monotonic() < end:
        for kind in kinds:
            signal.alarm(HUNG_S)
            fell = one_round(kind, seed)
            signal.alarm(0)
            count[kind] += 1
            if fell:
                sys.stdout.write(f"{kind} fell: {fell}\nAgain: make attack MINUTES=0 SEED={seed} KIND={kind}\n")
                return 1
            if time.monotonic() >= end:
                break
        seed += 1
    done = ", ".join(f"{number} {kind}" for kind, number in count.items() if number)
    sys.stdout.write(f"0 lost, 0 tracebacks, 0 hangs in {done}; the next seed is {seed}\n")
    stood = sorted(window.STOOD, reverse=True)
    for seconds, action in stood[:5]:
        sys.stdout.write(f"the window stood for {seconds:.2f} s of the processor: {action}\n")
    if len(stood) > 5:
        sys.stdout.write(f"and {len(stood) - 5} times more for at least {window.NOTICED_S} s\n")
    return 0


if __name__ == "__main__":
    given = [*sys.argv[1:], "", "", ""]
    again = given[0] == "0"
    # With no minutes at all: just the one round that fell.
    if again:
        told = one_round(given[2] or "words", int(given[1] or 1))
        sys.stdout.write(f"{told or 'nothing fell'}\n")
        sys.exit(1 if told else 0)
    sys.exit(main(float(given[0] or 1.0), int(given[1] or 1), given[2]))
