"""Whether a kept record still counts for the build as it is today, and since when and why it does not."""

from collections.abc import Iterable, Sequence

from plinth.builds.build import Build
from plinth.guide.progress import REPAIRED, repaired_subject
from plinth.record.book import barred
from plinth.record.conditions import Conditions
from plinth.record.diary import DiaryEntry
from plinth.record.placing import out_of_place
from plinth.record.reading import Reading, Record
from plinth.record.subject import Kind, read_subject

# Conditions that name a thing of the build, and what it is called.
_THINGS = {
    "module": "the module", "supply": "the supply", "protection": "the protection board", "sink": "the heat sink",
    "insulator": "the insulator", "entry": "the inlet", "hookup": "the wiring",
}  # fmt: skip


def why_not_counting(record: Record, build: Build, *, practice: bool = False) -> str:
    """Why a record does not count today: its channel or load is gone, a part was exchanged; empty where it does."""
    if why := barred(record, practice=practice):
        return why
    away = out_of_place(record.subject, build)
    if away:
        return away
    changed = [_called(place) for place in _changed(record.conditions or {}, build)]
    return f"{' and '.join(changed)} {'is' if len(changed) == 1 else 'are'} another one now" if changed else ""


def since_words(record: Record, build: Build, diary: Sequence[DiaryEntry], *, practice: bool = False) -> str:
    """``does not count since 2026-10-12 09:00: the module is another one now``; empty where it counts.

    Since the first change of the plan after it that led to the parts of today; without a day where none is kept.
    """
    why = why_not_counting(record, build, practice=practice)
    if not why:
        return _since_repaired(record, diary)
    taken = record.taken_at if isinstance(record, Reading) else record.at
    changes = [line for line in diary if line.kind == "changed" and line.at >= taken]
    names = _names(_changed(record.conditions or {}, build), build)
    fitting = [line for line in changes if any(name in line.words for name in names)] or changes[:1]
    since = f" since {fitting[0].at:%Y-%m-%d %H:%M}" if fitting else ""
    return f"does not count{since}: {why}"


def _since_repaired(record: Record, diary: Sequence[DiaryEntry]) -> str:
    """That the board was repaired after a step of its first power was answered; empty where it was not."""
    about = read_subject(record.subject)
    taken = record.taken_at if isinstance(record, Reading) else record.at
    if about.kind is not Kind.BRINGUP or about.what == REPAIRED or "module" not in (record.conditions or {}):
        return ""
    fixes = [line for line in diary if line.subject == repaired_subject(about.channel) and line.at > taken]
    return f"does not count since {fixes[0].at:%Y-%m-%d %H:%M}: repaired, {fixes[0].words}" if fixes else ""


def _changed(conditions: Conditions, build: Build) -> list[str]:
    """The places whose part is another one than under these conditions."""
    found = []
    for name, then in conditions.items():
        place = name.replace("_", ".", 1) if name.startswith("supply_") else name
        if isinstance(then, str) and place.partition(".")[0] in _THINGS and build.mark(place) != then:
            found.append(place)
    return found


def _called(place: str) -> str:
    whole, _, part = place.partition(".")
    return f"the {part.replace('_', ' ')}" if part else _THINGS[whole]


def _names(places: Iterable[str], build: Build) -> list[str]:
    """What the parts there are called today, as a line of the diary names them."""
    found = []
    for place in places:
        thing: object = build
        for step in place.split("."):
            thing = getattr(thing, step, None)
        name = getattr(thing, "name", None)
        if isinstance(name, str):
            found.append(name)
    return found
