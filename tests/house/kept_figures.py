"""Figures as they were when somebody last looked, on six builds of different kinds.

Every figure and its spread in four situations; every window, limit and wait of steps and sheets; what sheets make of
readings; which causes are named of readings that are off.

They say nothing of what is right; other tests hold that. They notice whatever changes a figure without being meant to,
and show, where it is meant, what it changes. ``python -m tests.house.kept_figures`` writes them anew.
"""

import dataclasses
import json
import re
import sys
from pathlib import Path
from typing import Any

from plinth.bench.every_sheet import SHEETS
from plinth.bench.hookup import hookup
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.guide.causes import causes
from plinth.guide.fault_bench import bench_of
from plinth.guide.faults import FAULTS
from plinth.guide.inspection.checks import checks_of
from plinth.guide.inspection.sketches import sketch_of
from plinth.guide.school import School
from plinth.guide.schools import limited_supply, series_lamp, variable_transformer
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.solve import idle_rail_v, solve
from plinth.units.shown import MINUS
from tests.bench.typed_bench import TypedBench, middle, spoken
from tests.family import FAMILY

KEPT = Path(__file__).with_name("figures.json")
BUILDS: dict[str, Build] = {
    "Stage pair": STAGE_PAIR, "Rehearsal room": REHEARSAL_ROOM,
    **{name: FAMILY[name] for name in ("class A on linear with chokes", "chip on linear, unequal",
                                       "class D half bridge on battery", "class D full bridge on corrected switcher")},
}  # fmt: skip
# What a school asks for of old cans depends on the year, and is left out.
SCHOOLS = (limited_supply.SCHOOL, series_lamp.SCHOOL, variable_transformer.SCHOOL)
READ = {"air": 21.0, "emitter_resistor": 0.33}
SITUATIONS: dict[str, dict[str, object]] = {
    "as it is": {},
    "bass, one channel, half": {"frequency_hz": 40.0, "channels_driven": "one", "level": 0.5},
    "high mains, warm": {"mains_v_rms": 253.0, "ambient_c": 40.0, "third_harmonic": 0.03},
    "loudspeaker's phase": {"load_ohm": 6.0, "load_phase_deg": 40.0},
}
HOOKED_UP = ("clip", "response", *(kind.key for kind in SHEETS))
STATES = list(State)
KEYS = [fault.key for fault in FAULTS]
NUMBER = re.compile(r"-?\d+(?:\.\d+)?")
Figures = dict[str, list[float | None]]


def figures_of(build: Build) -> Figures:
    """All figures of a build by their place."""
    return _windows(build) | _predicted(build) | _outcomes(build) | _causes(build) | _drawings(build)


def _schools(build: Build) -> list[School]:
    return [school for school in SCHOOLS if not school.why_not(build)]


def _predicted(build: Build) -> Figures:
    """Value and uncertainty of every figure in each situation."""
    found: Figures = {}
    for words, changes in SITUATIONS.items():
        try:
            prediction = solve(build, Situation.model_validate(changes))
        except PhysicsError:
            continue
        for name, figure in prediction.figures.items():
            found[f"{words}/{name}"] = [figure.value, figure.u]
    return found


def _outcomes(build: Build) -> Figures:
    """The numbers in what each sheet says of readings somewhat off the middle of their windows, and how it judges."""
    found: Figures = {}
    for kind in SHEETS:
        try:
            bench = TypedBench(kind.key, build)
        except PhysicsError:
            continue
        for turn, asked in enumerate(bench.asked):
            if asked.window is not None:
                off = 1.0 + 0.01 * (turn % 5 - 2)
                bench.type_in(asked.key, spoken(asked, middle(asked.window) * off))
        for label, outcome in bench.outcomes().items():
            numbers = NUMBER.findall(f"{outcome.words} {outcome.against} {outcome.say}".replace(MINUS, "-"))
            found[f"{kind.key}/says/{label}"] = [STATES.index(outcome.state), *map(float, numbers)]
    return found


def _causes(build: Build) -> Figures:
    """Of each school's steps, read too low and too high: the shares of the causes, and whether it is off at once."""
    found: Figures = {}
    for school in _schools(build):
        full = idle_rail_v(build)
        steps = school.steps(build, build.channels[0], full, {})
        bench = bench_of(build, steps, full)
        for step in steps:
            if step.window is None or not step.reads or not step.power:
                continue
            for share in (0.4, 1.8):
                told = causes(bench, steps, {step.key: share * middle(step.window)})
                if told is not None:
                    places = [KEYS.index(one.fault.key) for one in told.ranked[:3]]
                    found[f"{school.key}/causes/{step.key}/{share:g}"] = [
                        told.off_now, *places, *(one.share for one in told.ranked[:3])
                    ]  # fmt: skip
    return found


def _drawings(build: Build) -> Figures:
    """Where everything lies on each sketch: how many marks, and sums of their places that no single change leaves."""
    drawn = {f"sketch/{check.key}": sketch_of(check.key, build) for check in checks_of(build)}
    drawn |= {f"hookup/{test}": hookup(test, build, build.channels[0]) for test in HOOKED_UP}
    found: Figures = {}
    for name, sketch in drawn.items():
        if sketch is not None:
            places = [
                value for mark in sketch.marks for value in dataclasses.astuple(mark) if isinstance(value, int | float)
            ]
            found[name] = [len(sketch.marks), sum(places), sum(k * place for k, place in enumerate(places, 1))]
    return found


def _windows(build: Build) -> Figures:
    """Windows, limits and waits of steps and sheets; margins."""
    found: Figures = {}
    for school in _schools(build):
        for readings in ({}, READ):
            for step in school.steps(build, build.channels[0], idle_rail_v(build), readings):
                watch = step.watch
                found[f"{school.key}/{step.key}/{len(readings)}"] = [
                    *_window(step.window), step.wait_s, step.most, step.claim,
                    *((None,) * 3 if watch is None else (watch.tau_s, watch.tau_spread, watch.within)),
                ]  # fmt: skip
    for kind in SHEETS:
        try:
            sheet = kind.make(build, build.channels[0], Situation())
        except PhysicsError:
            continue
        for asked in sheet.asked({}):
            found[f"{kind.key}/{asked.key}"] = [*_window(asked.window), asked.most, asked.u_own, asked.least]
    for level in (1.0, 0.3):
        for margin in judge(solve(build, Situation(level=level, source_v_rms=2.0))):
            figure = margin.figure
            found[f"margin/{margin.key}/{level:g}"] = [
                margin.limit, *((None, None) if figure is None else (figure.value, figure.u))
            ]  # fmt: skip
    return found


def _window(window: Window | None) -> tuple[float | None, ...]:
    return (None,) * 4 if window is None else (window.low, window.high, window.usual_low, window.usual_high)


def kept() -> dict[str, Figures]:
    """The figures as they were kept."""
    found: dict[str, Figures] = json.loads(KEPT.read_text(encoding="utf-8"))
    return found


def _rounded(figures: Figures) -> dict[str, list[Any]]:
    return {
        place: [None if one is None else float(f"{one:.5g}") for one in row] for place, row in sorted(figures.items())
    }


def main() -> int:
    whole = {name: _rounded(figures_of(build)) for name, build in BUILDS.items()}
    lines = []
    for name, figures in whole.items():
        rows = ",\n".join(f"  {json.dumps(place)}: {json.dumps(row)}" for place, row in figures.items())
        lines.append(f"{json.dumps(name)}: {{\n{rows}\n}}")
    KEPT.write_text("{\n" + ",\n".join(lines) + "\n}\n", encoding="utf-8")
    sys.stdout.write(f"{sum(len(one) for one in whole.values())} places in {KEPT}\n")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
