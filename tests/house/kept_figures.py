"""Figures as they were when somebody last looked, on six builds of different kinds.

Every figure and its spread in four situations; every window, limit and wait of steps and sheets; what sheets make of
readings; which causes are named of readings that are off, what each fault shows and gives; every view over time; the
course of what is watched; re-forming; parts to be measured.

They say nothing of what is right; other tests hold that. They notice whatever changes a figure without being meant to,
and show, where it is meant, what it changes. ``python -m tests.house.kept_figures`` writes them anew.
"""

import dataclasses
import datetime as dt
import json
import math
import re
import sys
from pathlib import Path
from typing import Any

import numpy as np

from plinth.bench import supply_draw
from plinth.bench.clip_cell import clip_cells
from plinth.bench.every_sheet import SHEETS
from plinth.bench.frequency_response import predicted_band_db, predicted_db
from plinth.bench.hookup import hookup
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.demo.shelf import BENCH
from plinth.drawing.series import Series
from plinth.guide.causes import causes
from plinth.guide.fault_bench import bench_of, connected
from plinth.guide.faults import FAULTS
from plinth.guide.inspection.checks import checks_of
from plinth.guide.inspection.sketches import sketch_of
from plinth.guide.judging import reading_for_step
from plinth.guide.part_tests.tests_of import part_tests_of
from plinth.guide.school import School
from plinth.guide.schools import limited_supply, series_lamp, variable_transformer
from plinth.guide.schools import reforming as school_of_old_cans
from plinth.guide.watching import noted, watched
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.reforming import reforming
from plinth.predict.solve import idle_rail_v, solve
from plinth.record.book import RecordBook
from plinth.session.views import ONE_PERIOD, SWITCH_ON, pictures_of, views_of
from plinth.session.watch_view import watch_picture
from plinth.units.shown import MINUS
from tests.bench.typed_bench import TypedBench, middle, spoken
from tests.family import FAMILY

KEPT = Path(__file__).with_name("figures.json")
BUILDS: dict[str, Build] = {
    "Stage pair": STAGE_PAIR, "Rehearsal room": REHEARSAL_ROOM,
    **{name: FAMILY[name] for name in ("class A on linear with chokes", "chip on linear, unequal",
                                       "class D half bridge on battery", "class D full bridge on corrected switcher")},
}  # fmt: skip
# What re-forming asks for depends on the day, but not of cans that nobody has dated, as these.
SCHOOLS = (limited_supply.SCHOOL, series_lamp.SCHOOL, variable_transformer.SCHOOL, school_of_old_cans.SCHOOL)
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
AT = dt.datetime(2026, 10, 5, 9, 0, tzinfo=dt.UTC)
NUMBER = re.compile(r"-?\d+(?:\.\d+)?")
Figures = dict[str, list[float | None]]


def figures_of(build: Build) -> Figures:
    """All figures of a build by their place."""
    return (
        _windows(build) | _predicted(build) | _outcomes(build) | _cells(build) | _causes(build) | _drawings(build)
        | _faults(build) | _views(build) | _watched(build) | _old_cans(build) | _pieces(build)
    )  # fmt: skip


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
        graph = bench.sheet.graph(bench.readings)
        if graph is not None:
            found[f"{kind.key}/graph"] = [graph.x_scale, *(end for ends in graph.extent() for end in ends)]
            found |= {f"{kind.key}/graph/{trace.name}": _curve(trace) for trace in graph.curves}
    return found


def _cells(build: Build) -> Figures:
    """What each cell of the clipping matrix expects, and may not exceed; the response at a few frequencies."""
    found: Figures = {}
    for cell in clip_cells(build, build.channels[0], Situation()):
        place = f"cell/{cell.source}/{cell.load.r_ohm:g}/{cell.driven}/{cell.definition}"
        drawn = NUMBER.findall(supply_draw.expectation(cell))
        found[place] = [
            cell.power.value, cell.power.u, cell.v_peak.value, cell.v_peak.u, cell.most_v_peak, *map(float, drawn)
        ]  # fmt: skip
    for f_hz in (10.0, 60.0, 20e3, 90e3):
        found[f"response/{f_hz:g}"] = [predicted_db(build, f_hz), *predicted_band_db(build, f_hz)]
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
                    *(glow.t_k for glow in step.glows),
                ]  # fmt: skip
                said = " ".join((step.ask, *(f"{hint.when} {hint.check}" for hint in step.hints)))
                found[f"{school.key}/{step.key}/{len(readings)}/says"] = [
                    *map(float, NUMBER.findall(said.replace(MINUS, "-"))), *(hint.most for hint in step.hints)
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


def _faults(build: Build) -> Figures:
    """What each fault is expected to show at each step, and what a bench with it reads with the same dice."""
    found: Figures = {}
    for school in _schools(build):
        full = idle_rail_v(build)
        steps = school.steps(build, build.channels[0], full, {})
        bench = bench_of(build, steps, full)
        for step in steps:
            if step.window is None or not step.reads:
                continue
            for fault in FAULTS:
                shows = fault.shows.get(step.reads) if fault.where & connected(step) else None
                if shows is None or not fault.fits(bench):
                    continue
                expected = shows(bench, step)
                ways = expected if isinstance(expected, tuple) else () if expected is None else (expected,)
                given = fault.reading(bench, step, np.random.default_rng(7))
                found[f"{school.key}/fault/{fault.key}/{step.key}"] = [
                    given, *(value for way in ways for value in (way.value, way.u))
                ]  # fmt: skip
    return found


def _views(build: Build) -> Figures:
    """Each curve of each view over time: its ends, its reach, its mean, its band; the numbers beside it."""
    found: Figures = {}
    for words, situation in (("", Situation()), ("lamp/", Situation(lamp_w=100.0))):
        if situation.lamp_w is not None and build.supply.transformer is None:
            continue
        prediction = solve(build, situation)
        for view in views_of(prediction):
            if view == ONE_PERIOD or (situation.lamp_w is not None and view != SWITCH_ON):
                continue
            for picture in pictures_of(view, prediction):
                place = f"{words}{view}/{picture.title}"
                numbers = NUMBER.findall(picture.aside.replace(MINUS, "-"))
                found[f"{place}/says"] = [picture.x_scale, *map(float, numbers)]
                found |= {f"{place}/{trace.name}": _curve(trace) for trace in picture.series}
    return found


def _curve(trace: Series) -> list[float | None]:
    x, y, spread = (np.asarray(values, dtype=float) for values in (trace.x, trace.y, trace.spread))
    third = len(y) // 3
    return [float(v) for v in (len(y), x[0], x[-1], y[0], y[-1], y[third], y.min(), y.max(), y.mean(), spread.mean())]


def _watched(build: Build) -> Figures:
    """What four readings on their way to the middle of a watched step's window say, and how they are drawn."""
    found: Figures = {}
    for school in _schools(build):
        for step in school.steps(build, build.channels[0], idle_rail_v(build), {}):
            watch, window = step.watch, step.window
            if watch is None or window is None:
                continue
            end, begin = middle(window), watch.start if watch.start is not None else 0.6 * middle(window)
            book = RecordBook(())
            for share in (0.4, 0.9, 1.6, 2.4):
                passed = share * watch.tau_s
                value = end + (begin - end) * math.exp(-share)
                at = AT + dt.timedelta(seconds=passed)
                assert step.request is not None
                typed = f"{value:.5g} {step.request.unit}"
                book = book.adding(noted(step, reading_for_step(step, typed, BENCH, at, 0.0, passed, on_the_way=True)))
            said = watched(step, book)
            if said is None:
                continue
            key = f"{school.key}/watched/{step.key}"
            found[f"{key}/says"] = [said.left_s, *map(float, NUMBER.findall(said.words.replace(MINUS, "-")))]
            picture = watch_picture(step, said)
            found |= {f"{key}/{trace.name}": [picture.x_scale, *_curve(trace)] for trace in picture.series}
    return found


def _old_cans(build: Build) -> Figures:
    """The schedule of re-forming as it comes, and from a quarter of the mains over thirty hours."""
    if build.supply.transformer is None:
        return {}
    found: Figures = {}
    for words, plan in (("plain", reforming(build, 2026)), ("chosen", reforming(build, 2026, 0.25, 30.0))):
        found[f"re-forming/{words}"] = [plan.r_ohm, plan.p_w, plan.hours_each, plan.hours_in_all, plan.age_years]
        for place, step in enumerate(plan.steps):
            found[f"re-forming/{words}/{place}"] = [
                step.mains_v, step.rail_v, step.dropped_least_v, step.dropped_most_v, step.hours
            ]  # fmt: skip
    return found


def _pieces(build: Build) -> Figures:
    """The windows of parts that are measured before they are soldered in; the numbers that checks say."""
    found: Figures = {
        f"piece/{test.key}": [test.pieces, *_window(test.window), *_window(test.aged), test.request(1).most]
        for test in part_tests_of(build)
    }
    for check in checks_of(build):
        found[f"check/{check.key}"] = [
            float(n) for n in NUMBER.findall(f"{check.title} {check.look}".replace(MINUS, "-"))
        ]
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
