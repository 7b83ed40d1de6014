"""What faults are laid on: a build at the bench, what each step has connected, and what a healthy build shows there."""

import dataclasses
from collections.abc import Sequence
from typing import Literal

from plinth.builds.build import Build
from plinth.guide.precomputed import NO_RAILS, FaultRails
from plinth.guide.step import Step
from plinth.predict.fault_rails import Behind, RailFault, rail_with

# How far a rail with a fault varies, as a share of it.
OF_A_FAULT = 0.15
# The same where only mains and meter vary.
OF_A_RATIO = 0.05

Where = Literal["supply", "board"]


@dataclasses.dataclass(frozen=True)
class Expected:
    """What would be read, and its standard uncertainty.

    ``log`` where that is of the logarithm (ohms of a short or an open); ``sized`` where the sign tells nothing.
    """

    value: float
    u: float
    log: bool = False
    sized: bool = False


@dataclasses.dataclass(frozen=True)
class Bench:
    """What faults are laid on: a build, the lamp in series if there is one, its rail on full mains.

    ``trimmer_at_least`` where whoever took the readings says that the bias trimmer is there. ``known`` the rails with
    faults that were computed before.
    """

    build: Build
    lamp_w: float | None
    full_v: float
    trimmer_at_least: bool = False
    known: FaultRails = dataclasses.field(default_factory=dict)

    def rail_v(self, fault: RailFault, behind: Behind) -> float | None:
        """The lower rail with a fault, V: as it is known, else computed; None where it cannot be told."""
        place = fault, behind
        return self.known[place] if place in self.known else rail_with(self.build, fault, behind)

    def rail(self, step: Step, fault: RailFault, varies: float = OF_A_FAULT) -> Expected | None:
        """The lower rail at a step with a fault in the build, which ``varies`` by a share of it."""
        v = self.rail_v(fault, behind_of(step))
        return None if v is None else Expected(v, varies * v + 0.3)


def bench_of(
    build: Build, steps: Sequence[Step], v_idle: float, *, trimmer_at_least: bool = False, known: FaultRails = NO_RAILS
) -> Bench:
    """The bench that these steps are taken on."""
    lamps = (step.conditions["lamp_w"] for step in steps if "lamp_w" in step.conditions)
    lamp = next(lamps, None)
    return Bench(build, None if lamp is None else float(lamp), v_idle, trimmer_at_least, known)


def behind_of(step: Step) -> Behind:
    """Under what a rail of that step is read."""
    lamp, mains = step.conditions.get("lamp_w"), step.conditions.get("mains_v")
    return Behind(
        float(lamp) if lamp is not None else None, float(mains) if mains is not None else None,
        board="board" in connected(step),
    )  # fmt: skip


def connected(step: Step) -> frozenset[Where]:
    """What a step has connected: a supply alone, a board alone (unpowered, or on a bench supply), or both."""
    if step.reads in ("rail_alone", "glow_alone"):
        return frozenset({"supply"})
    if not step.power or step.limit_a is not None:
        return frozenset({"board"})
    return frozenset({"supply", "board"})


def healthy(step: Step) -> Expected | None:
    """What a healthy build shows: the middle of the window; None where the window has one side only."""
    window = step.window
    if window is None or window.low is None or window.high is None:
        return None
    low = window.low if window.usual_low is None else window.usual_low
    high = window.high if window.usual_high is None else window.usual_high
    return Expected((low + high) / 2.0, max((window.high - window.low) / 4.0, 1e-9))
