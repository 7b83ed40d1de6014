"""Figures as they were when somebody last looked: every window, limit and wait on six builds of different kinds.

They say nothing of what is right; other tests hold that. They notice whatever changes a figure without being meant to,
and show, where it is meant, what it changes. ``python -m tests.house.kept_figures`` writes them anew.
"""

import json
import sys
from pathlib import Path
from typing import Any

from plinth.bench.every_sheet import SHEETS
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.guide.schools import limited_supply, series_lamp, variable_transformer
from plinth.judge.rules import judge
from plinth.judge.window import Window
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.solve import idle_rail_v, solve
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
Figures = dict[str, list[float | None]]


def figures_of(build: Build) -> Figures:
    """All figures of a build by their place: of steps, sheets and margins."""
    found: Figures = {}
    for school in SCHOOLS:
        if school.why_not(build):
            continue
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
