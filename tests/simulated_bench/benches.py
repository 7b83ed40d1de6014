"""Benches for tests: a build, its instruments by role, and a clock that is told the time."""

from pathlib import Path

from plinth.builds.build import Build
from plinth.builds.files import read_build
from plinth.simulated_bench.bench import Bench
from plinth.simulated_bench.clock import BenchClock
from plinth.simulated_bench.instruments.on_bench import OnBench
from plinth.simulated_bench.servers import instruments_of

EXAMPLES = Path(__file__).parents[2] / "examples"
STAGE = EXAMPLES / "stage-pair.json"
NAMES = sorted(path.stem for path in EXAMPLES.glob("*.json"))


class ToldClock(BenchClock):
    """Time goes on only when a test says so."""

    def __init__(self) -> None:
        super().__init__()
        self.seconds = 0.0

    def now(self) -> float:
        return self.seconds


class Told:
    """A bench with a told clock; ``ask`` and ``put`` by role."""

    def __init__(self, build: Build, fault: str | None = None) -> None:
        self.bench = Bench(build, fault)
        self.clock = ToldClock()
        self.bench.clock = self.clock
        self.by_role: dict[str, OnBench] = {each.role: each for each in instruments_of(self.bench)}

    def put(self, role: str, line: str) -> None:
        """Send a line; it must raise no error."""
        assert self.by_role[role].handle(line) == b""
        error = self.by_role[role].handle("SYST:ERR?").decode()
        assert error.startswith("0,"), error

    def error(self, role: str, line: str) -> int:
        """Send a line; the number of its error."""
        self.by_role[role].handle(line)
        return int(self.by_role[role].handle("SYST:ERR?").decode().split(",")[0])

    def ask(self, role: str, line: str) -> float:
        """The one number that a query answers."""
        return float(self.by_role[role].handle(line))

    def power(self, seconds: float = 2.0) -> None:
        """Feed it from the mains, or from the supply where it has none, and wait."""
        if self.bench.amplifier.has_mains:
            self.put("mains", "OUTP ON")
        else:
            volts = self.bench.amplifier.build.module.v_rail_nominal
            self.put("supply", f"SOUR:VOLT {volts};CURR 8;:OUTP ON")
        self.clock.seconds += seconds


def told(name: str, fault: str | None = None) -> Told:
    return Told(read_build(EXAMPLES / f"{name}.json"), fault)
