"""Every reading of every build, beside whether it still counts: ``python readings_of_a_workshop.py FILE.plinth``."""

import sys
from pathlib import Path

import plinth


def main(path: str) -> None:
    """Print a line for each reading."""
    workshop = Path(path)
    for build in plinth.contents(workshop)["builds"]:
        for reading in plinth.report_document(workshop, build["name"])["readings"]:
            counts = reading["does_not_count"] or "counts"
            print(f"{build['name']}: {reading['subject']} {reading['value']:g} {reading['unit']}, {counts}")


if __name__ == "__main__":
    main(sys.argv[1])
