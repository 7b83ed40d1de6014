"""The simulated bench as a process of its own: started for a build, ended with the window, or by itself without it."""

import json
import os
import signal
import subprocess
import sys
import tempfile
from pathlib import Path

from plinth.builds.build import Build
from plinth.instruments.command_map import shipped_maps
from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.processes.lines import end_process
from plinth.record.probe import Point
from plinth.session.instruments.connected import Bench, Connected

POINTS: dict[str, tuple[Point, ...]] = {
    "mains": (Point.WALL,), "generator": (Point.INPUT,),
    "digitiser": (Point.OUTPUT, Point.INPUT, Point.RAIL_PLUS, Point.RAIL_MINUS), "meter": (Point.OUTPUT,),
    "second meter": (Point.RAIL_PLUS,), "supply": (Point.SUPPLY,), "load": (Point.OUTPUT,),
    "thermometer": (Point.SINK,),
}  # fmt: skip
NEEDS_MAINS = "mains"


class SimulatedBench:
    """``plinth bench`` for one build; ``fault``, ``speed`` and ``truth`` as there. ``bench`` what it offers."""

    def __init__(
        self, build: Build, fault: str | None = None, speed: float = 20.0, seed: int = 1, truth: Path | None = None
    ) -> None:
        self.build, self.fault, self.speed = build, fault, speed
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "build.json"
            path.write_text(build.model_dump_json(), encoding="utf-8")
            words = [sys.executable, "-m", "plinth", "bench", str(path), "--json", "--ends-with-input"]
            words += ["--speed", f"{speed:g}", "--seed", str(seed)]
            if fault is not None:
                words += ["--fault", fault]
            if truth is not None:
                words += ["--truth", str(truth)]
            self.process = subprocess.Popen(  # noqa: S603  # our own module, our own interpreter
                words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE, start_new_session=True
            )
            assert self.process.stdout is not None, "it was asked for"
            line = self.process.stdout.readline()
        if not line:
            _, said = self.process.communicate()
            raise InstrumentError(
                ErrorKind.REFUSED, "simulated bench", f"found that it did not start ({said.decode()[-200:].strip()})",
                "Look at the build's limits in Plan.",
            )  # fmt: skip
        rows = json.loads(line)["instruments"]
        self.bench = Bench(tuple(_connected(row, build) for row in rows if _is_there(row, build)))

    @property
    def runs(self) -> bool:
        """Whether it still does."""
        return self.process.poll() is None

    def end(self) -> None:
        """End it."""
        if self.process.stdin is not None:
            self.process.stdin.close()
        if self.runs:
            os.kill(self.process.pid, signal.SIGTERM)
        end_process(self.process)
        for pipe in (self.process.stdout, self.process.stderr):
            if pipe is not None:
                pipe.close()


def _is_there(row: dict[str, str], build: Build) -> bool:
    return row["role"] != NEEDS_MAINS or build.mains is not None


def _connected(row: dict[str, str], build: Build) -> Connected:
    own = next(each for each in shipped_maps() if each.fits(row["idn"]))
    points = POINTS[row["role"]]
    channel = build.key_of(build.channels[0]) if any(point.of_channel for point in points) else ""
    return Connected(row["role"], row["address"], own, row["idn"], points, channel)
