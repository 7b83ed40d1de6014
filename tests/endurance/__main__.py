"""``python -m tests.endurance HOURS SEED BUILDS``: a day of use in hurried time, hour by hour, and what it came to."""

import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from tests.endurance.day import WARM_HOURS, children, day

# After the first hours memory may grow by so much for what is kept: diaries, versions, thumbnails.
MOST_GROWN = 0.05


def main(hours: int, seed: int, builds: int) -> int:
    """Status 0 where memory stayed flat and nothing was left behind, else 1."""
    before = children()
    with tempfile.TemporaryDirectory(prefix="endurance-") as name:
        folder = Path(name)
        os.environ.update({key: str(folder / key.lower()) for key in ("XDG_CONFIG_HOME", "XDG_DATA_HOME")})
        told = []
        for hour in day(folder, hours, seed, builds):
            told.append(hour)
            sys.stdout.write(
                f"hour {hour.number:2}: {hour.resident_mb:6.0f} MB, the loop stood {hour.stood_s:4.2f} s at most, "
                f"{hour.lines} lines in the last diary\n"
            )
            sys.stdout.flush()
    left = children() - before
    warm = told[WARM_HOURS - 1 :]
    grown = warm[-1].resident_mb / warm[0].resident_mb - 1.0 if len(warm) > 1 else 0.0
    sys.stdout.write(
        f"from hour {WARM_HOURS} on memory changed by {100 * grown:+.1f} %; {len(left)} processes left behind\n"
    )
    return int(grown > MOST_GROWN or bool(left))


if __name__ == "__main__":
    numbers = [int(word) for word in sys.argv[1:4]]
    sys.exit(main(*(numbers + [8, 1, 10][len(numbers) :])))
