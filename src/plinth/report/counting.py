"""Whether a kept record still counts for the build as it is today, and since when and why it does not."""

from collections.abc import Mapping, Sequence

from plinth.builds.build import Build, Fitted, mark_of
from plinth.guide.progress import REPAIRED, repaired_subject
from plinth.record.book import barred
from plinth.record.conditions import Conditions
from plinth.record.diary import DiaryEntry
from plinth.record.placing import out_of_place
from plinth.record.reading import Reading, Record
from plinth.record.subject import Kind, read_subject

# What had been exchanged in each version of a build, by the version's number.
FittedByVersion = Mapping[int, Sequence[Fitted]]

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


def since_words(
    record: Record, build: Build, diary: Sequence[DiaryEntry], fitted: FittedByVersion | None = None, *,
    practice: bool = False,
) -> str:  # fmt: skip
    """``does not count since 2026-10-12 09:00: the module is another one now``; empty where it counts.

    Since the first line of the version (``fitted``: what had been exchanged in each) from which on the parts are not
    those it was taken with; without a day where no version of it was kept.
    """
    why = why_not_counting(record, build, practice=practice)
    if not why:
        return _since_repaired(record, diary)
    line = _first_line_without(record, diary, fitted or {}) if _changed(record.conditions or {}, build) else None
    return f"does not count{'' if line is None else f' since {line.at:%Y-%m-%d %H:%M}'}: {why}"


def _first_line_without(record: Record, diary: Sequence[DiaryEntry], fitted: FittedByVersion) -> DiaryEntry | None:
    """The first line of the diary that belongs to the parts of today and no longer to those of the record."""
    conditions = record.conditions or {}
    first: int | None = None
    for version in sorted(fitted, reverse=True):
        if not _changed_places(conditions, fitted[version]):
            break
        first = version
    return None if first is None else next((line for line in diary if line.version >= first), None)


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
    return _changed_places(conditions, build.fitted)


def _changed_places(conditions: Conditions, fitted: Sequence[Fitted]) -> list[str]:
    places = []
    for name, then in conditions.items():
        place = name.replace("_", ".", 1) if name.startswith("supply_") else name
        if isinstance(then, str) and place.partition(".")[0] in _THINGS and mark_of(fitted, place) != then:
            places.append(place)
    return places


def _called(place: str) -> str:
    whole, _, part = place.partition(".")
    return f"the {part.replace('_', ' ')}" if part else _THINGS[whole]
