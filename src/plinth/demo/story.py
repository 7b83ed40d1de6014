"""What has happened so far in the demo workshop: a half-finished bring-up and a half-filled table.

Every value is invented, but each is judged by the same code as a reading at the bench, so the demo cannot
disagree with the program.
"""

import datetime as dt

from plinth.bench import clip_level
from plinth.bench.clip_cell import clip_cells
from plinth.builds.situation import Situation
from plinth.demo import shelf
from plinth.demo.builds import BUILDS, COOLER_PAIR, STAGE_PAIR
from plinth.demo.shelf import WHOLE
from plinth.guide.inspection.checks import checks_of
from plinth.guide.judging import reading_for_step
from plinth.guide.part_tests.part_test import reading_of_piece
from plinth.guide.part_tests.tests_of import part_tests_of
from plinth.guide.schools.limited_supply import plan_steps
from plinth.guide.step import Step
from plinth.guide.watching import noted
from plinth.predict.solve import solve
from plinth.record.diary import DiaryEntry
from plinth.record.meaning import reading_of
from plinth.record.reading import CheckVerdict, Confirmation, Finding
from plinth.units.level import read_level
from plinth.workshop.kept_settings import REMINDERS, VARIANTS
from plinth.workshop.store import Workshop

CHANNEL = "left"
BEGUN = dt.datetime(2026, 10, 10, 8, 5, tzinfo=dt.UTC)

_TYPED = {
    "insulation": "20M",
    "rails_open": "4k1",
    "rails_output": "38k",
    "output_open": "12k",
    "emitter_resistor": "0R33",
    "low_current": "12",
    "low_dc": "7 mV",
    "full_current": "17",
    "full_dc": "9 mV",
    "bias": "33.5",
    "air": "20.5",
    "warm_bias": "33.9",
    "sink": "25.1",
    "retrim": "33.2",
    "warm_dc": "11 mV",
    "discharged": "3.1",
    "alone_rail": "36.4",
    "input_rails": "15.04",
    "alone_discharged": "4.2",
    "mains_rail": "35.9",
    "ripple": "124",
    "wall_current": "118",
    "mute_delay": "2.6",
    "dc_release": "2.9",
    "mains_discharged": "3.8",
    "soak_1h": "12 mV",
    "soak_sink_1h": "31",
    "soak_8h": "12 mV",
}
# What was measured of parts before they were soldered in.
_PARTS = {
    "reservoir_c": ("9m8", "9m7", "7m4", "9m9"),
    "reservoir_esr": ("21m", "22m", "39m", "20m"),
    "input_pair": ("0.6412", "0.6420", "0.6389", "0.6415", "0.6391", "0.6433"),
}
# Noted on the way while the bias warmed up: seconds after switching on, millivolts.
_ON_THE_WAY = ((130.0, "33.55"), (420.0, "33.7"), (900.0, "33.82"))
# When the first day of the soak was over nobody looked.
_NOT_YET = "soak_24h"

# What the shop's page said of it, kept with the part: its figures do not all go together.
PAGE = """Stagehand 60 amplifier board, class AB, one channel
Supply voltage: ±18 ... ±42 V DC
Output power: 45 W into 8 ohms, 100 W (4 ohm)
Gain: 22.4   Sensitivity: 0.9 V
Quiescent: set 22 mV across 0.22 ohm
Protect the loudspeaker: mute for at least two seconds.
"""


def fill(workshop: Workshop) -> None:
    """Put shelf, bench, builds and history of the theatre into an empty workshop."""
    items = workshop.add_items(WHOLE)
    board = next(item for item in items if item.part.name == STAGE_PAIR.module.name)
    workshop.add_paper(
        board.number, "stagehand 60, shop page.txt", PAGE.encode(), " ".join(PAGE.split()), "the old page"
    )
    workshop.set_setting("bench", shelf.BENCH.model_dump(mode="json"))
    workshop.set_setting("workshop", {"demo": True})
    begun = BEGUN - dt.timedelta(days=12)
    stored = {
        build.name: workshop.add_build(build, Situation(), f"{build.name}: parts chosen.", begun) for build in BUILDS
    }
    stage = stored[STAGE_PAIR.name]
    cooler = workshop.add_build(
        COOLER_PAIR, Situation(), f"{COOLER_PAIR.name}: a variant of {STAGE_PAIR.name}.", begun + dt.timedelta(days=1)
    )
    workshop.set_setting(VARIANTS, {str(cooler.id): stage.id})
    _measure_parts(workshop, stage.id)
    _inspect(workshop, stage.id)
    _bring_up_left(workshop, stage.id)
    _measure_left(workshop, stage.id)
    workshop.keep_entry(
        stage.id,
        DiaryEntry(
            BEGUN + dt.timedelta(days=2, hours=3), "note", "note",
            "Left board played the wolf and the storm for two evenings on the old paper-cone box. Quiet, no hum. "
            "Right board is soldered; R17 on it not measured yet.",
        ),
    )  # fmt: skip


def _inspect(workshop: Workshop, build_id: int) -> None:
    """Everything was looked at before first power; one can is to be measured again."""
    at = BEGUN - dt.timedelta(hours=14)
    for check in checks_of(STAGE_PAIR):
        at += dt.timedelta(minutes=3)
        doubt = check.key == "vents"
        words = "One top looks a little round; measure that can." if doubt else ""
        verdict: CheckVerdict = "doubt" if doubt else "sound"
        workshop.keep_record(build_id, Finding(check.subject, verdict, words, at, dict(check.conditions)))


def _measure_parts(workshop: Workshop, build_id: int) -> None:
    """The cans before they were soldered in: one of them is an old one."""
    at = BEGUN - dt.timedelta(days=3)
    tests = {test.key: test for test in part_tests_of(STAGE_PAIR)}
    for key, typed in _PARTS.items():
        for piece, text in enumerate(typed, 1):
            at += dt.timedelta(minutes=1)
            workshop.keep_record(build_id, reading_of_piece(tests[key], piece, text, shelf.BENCH, at))


def _bring_up_left(workshop: Workshop, build_id: int) -> None:
    idle = solve(STAGE_PAIR, Situation())["rail_idle_v"].value
    values: dict[str, float] = {}
    at = BEGUN
    answered: dict[str, dt.datetime] = {}
    plan = plan_steps(STAGE_PAIR, CHANNEL, idle, values)
    keys = [step.key for step in plan]
    for key in keys[: keys.index(_NOT_YET)]:
        step = next(step for step in plan_steps(STAGE_PAIR, CHANNEL, idle, values) if step.key == key)
        at += dt.timedelta(minutes=4, seconds=int(step.wait_s))
        if step.due_after:
            at = answered[step.due_after] + dt.timedelta(seconds=int(step.due_after_s), minutes=6)
        answered[key] = at
        if step.request is None:
            workshop.keep_record(build_id, Confirmation(step.subject, at, dict(step.conditions)))
            continue
        if step.key == "bias":
            # The mistake of the story: the listing's 22 mV, set first and judged below the window.
            wrong = reading_for_step(step, "22", shelf.BENCH, at)
            workshop.keep_record(build_id, wrong)
            at += dt.timedelta(minutes=9)
        since = _watch(workshop, build_id, step, at) if step.key == "warm_bias" else None
        for _ in range(step.rounds):
            reading = reading_for_step(step, _TYPED[step.key], shelf.BENCH, at, since_on_s=since)
            workshop.keep_record(build_id, reading)
            at += dt.timedelta(seconds=int(step.wait_s) if step.rounds > 1 else 0)
        values[step.key] = reading.value
    step = plan[keys.index(_NOT_YET)]
    due_at = answered[step.due_after] + dt.timedelta(seconds=step.due_after_s)
    _not_looked_at(workshop, build_id, step, due_at)


def _not_looked_at(workshop: Workshop, build_id: int, step: Step, at: dt.datetime) -> None:
    """The soak goes on: what falls due next is remembered, as the session would."""
    due = {"build_id": build_id, "channel": CHANNEL, "words": step.title, "at": at.isoformat()}
    workshop.set_setting(REMINDERS, {"due": [due]})


def _watch(workshop: Workshop, build_id: int, step: Step, at: dt.datetime) -> float:
    """Readings on the way to ``at``; seconds between switching on and then."""
    since = step.wait_s + 60.0
    on = at - dt.timedelta(seconds=since)
    for seconds, typed in _ON_THE_WAY:
        then = on + dt.timedelta(seconds=seconds)
        reading = reading_for_step(step, typed, shelf.BENCH, then, step.wait_s - seconds, seconds)
        workshop.keep_record(build_id, noted(step, reading))
    return since


def _measure_left(workshop: Workshop, build_id: int) -> None:
    at = BEGUN + dt.timedelta(days=1)
    typed = {"one/Dummy 8": "54.6pp", "one/Dummy 4": "49.4pp"}
    for cell in clip_cells(STAGE_PAIR, CHANNEL, Situation()):
        words = typed.get(f"{cell.driven}/{cell.load.name}")
        if words is None:
            continue
        understood = clip_level.understand(read_level(words), cell, shelf.BENCH)
        assert understood.taken is not None, "the demo types its form"
        at += dt.timedelta(minutes=6)
        workshop.keep_reading(build_id, reading_of(understood.taken, words, at))
