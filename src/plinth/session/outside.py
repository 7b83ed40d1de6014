"""A workshop from outside a window: what is in it, a build's report, builds compared, a search, archives out and in.

For scripts and the command line. Only taking an archive in writes more than what brings a file to this version.
"""

import contextlib
import datetime as dt
import math
from collections.abc import Collection, Iterator, Mapping
from pathlib import Path
from typing import Any

from plinth.archive.pack import packed
from plinth.archive.unpack import MOST_BYTES, Archive, ArchiveError, TakenIn, read_archive, take_in
from plinth.builds.parts import PART_KINDS
from plinth.judge.rules import judge
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.record.clock import now
from plinth.record.reading import Reading
from plinth.report.counting import since_words
from plinth.report.html import Paper, ReportInput, Section, render_report
from plinth.shelf.compare import compare
from plinth.shelf.find import find
from plinth.shelf.wanted import read_wanted
from plinth.units.errors import QuantityError
from plinth.workshop.errors import WorkshopError
from plinth.workshop.kept_builds import StoredBuild
from plinth.workshop.kept_settings import OWN_SOURCES, by_build
from plinth.workshop.store import Workshop, create_workshop, open_workshop

__all__ = [
    "OutsideError", "comparison", "contents", "exported", "imported", "report_document", "report_html", "search",
]  # fmt: skip

# What find looks for where nobody names stations: the parts that decide power and heat.
_SOUGHT = ("supply.transformer", "module", "sink")


class OutsideError(ValueError):
    """What cannot be had of a workshop; one sentence."""


@contextlib.contextmanager
def _opened(path: Path) -> Iterator[Workshop]:
    try:
        workshop = open_workshop(path)
    except (WorkshopError, OSError) as error:
        raise OutsideError(str(error)) from error
    try:
        yield workshop
    finally:
        workshop.close()


def _named(workshop: Workshop, name: str) -> StoredBuild:
    builds = workshop.builds()
    chosen = [stored for stored in builds if stored.build.name == name]
    if not chosen:
        chosen = [stored for stored in builds if stored.build.name.casefold() == name.casefold()]
    if len(chosen) != 1:
        what = "no build" if not chosen else f"{len(chosen)} builds"
        names = ", ".join(stored.build.name for stored in builds) or "none"
        raise OutsideError(f"{workshop.path}: found {what} called {name!r}, expected one of: {names}")
    return chosen[0]


def contents(path: Path) -> dict[str, object]:
    """Builds with their version, readings, lines and photos; how many parts. Raises OutsideError."""
    with _opened(path) as workshop:
        builds: list[dict[str, object]] = []
        for stored in workshop.builds():
            lines = workshop.diary(stored.id)
            builds.append(
                {
                    "name": stored.build.name,
                    "version": len(workshop.versions(stored.id)),
                    "readings": sum(line.reading is not None for line in lines),
                    "lines": len(lines),
                    "photos": len(workshop.photos(stored.id)),
                }
            )
        return {"builds": builds, "parts": len(workshop.items())}


def _predicted(stored: StoredBuild) -> Prediction:
    try:
        return solve(stored.build, stored.situation)
    except PhysicsError as error:
        raise OutsideError(f"{stored.build.name}: found a build that cannot run: {error}") from error


def report_html(
    path: Path, name: str, at: dt.datetime | None = None, paper: Paper = "report",
    leave_out: Collection[Section] = (),
) -> str:  # fmt: skip
    """A paper of a build as one HTML text; the report without what is left out. Raises OutsideError."""
    with _opened(path) as workshop:
        stored = _named(workshop, name)
        kind = workshop.setting("workshop") or {}
        return render_report(
            ReportInput(
                _predicted(stored), workshop.diary_by_version(stored.id), at or now(), bool(kind.get("demo")),
                practice=bool(kind.get("practice")), fitted=workshop.fitted_by_version(stored.id),
                captures=tuple(workshop.captures(stored.id)), file=path.name,
                own_sources_v=workshop.setting_as(OWN_SOURCES, by_build).get(str(stored.id), ()),
            ),
            paper, leave_out,
        )  # fmt: skip


def report_document(path: Path, name: str) -> dict[str, object]:
    """A build, its figures and margins, and every reading as it was kept, as plain data. Raises OutsideError."""
    with _opened(path) as workshop:
        stored = _named(workshop, name)
        prediction = _predicted(stored)
        lines, fitted = workshop.diary_by_version(stored.id), workshop.fitted_by_version(stored.id)
        practice = bool((workshop.setting("workshop") or {}).get("practice"))

        def why_not(reading: Reading) -> str:
            return since_words(reading, stored.build, lines, fitted, practice=practice)

        return {
            "name": stored.build.name,
            "build": stored.build.model_dump(mode="json"),
            "situation": stored.situation.model_dump(mode="json"),
            "figures": {key: _figure(figure) for key, figure in prediction.figures.items()},
            "margins": {
                margin.key: {"state": str(margin.state), "label": margin.label, "sentence": margin.sentence}
                for margin in judge(prediction)
            },
            "readings": [
                {**_reading(line.reading), "does_not_count": why_not(line.reading)}
                for line in lines
                if line.reading is not None
            ],
            "warnings": list(prediction.warnings),
        }


def _figure(figure: Figure) -> dict[str, object]:
    return {
        "label": figure.label, "value": _finite(figure.value), "unit": figure.unit, "u": _finite(figure.u),
        "estimated": list(figure.estimated),
    }  # fmt: skip


def _reading(reading: Reading) -> dict[str, object]:
    return {
        "subject": reading.subject, "label": reading.label, "typed": reading.typed, "value": reading.value,
        "unit": reading.unit, "u": reading.u, "instrument": reading.instrument, "state": str(reading.state),
        "taken_at": reading.taken_at.isoformat(), "low": reading.low, "high": reading.high,
        "bound": str(reading.bound), "simulated": reading.simulated,
    }  # fmt: skip


def comparison(path: Path, first: str, second: str) -> dict[str, object]:
    """Two builds beside each other: what differs in their parts, and every figure of both. Raises OutsideError."""
    with _opened(path) as workshop:
        both = [_named(workshop, name) for name in (first, second)]
        named = [(stored.build.name, stored.build, stored.situation) for stored in both]
        try:
            compared = compare(named, workshop.items(), lambda _share: True)
        except PhysicsError as error:
            raise OutsideError(f"found builds that cannot be compared: {error}") from error
        figures = [_predicted(stored).figures for stored in both]
    return {
        "builds": [stored.build.name for stored in both],
        "differs": [{"what": row.words, "values": list(row.values)} for row in compared.differences],
        "figures": {key: _difference(figures[0][key], figures[1][key]) for key in figures[0] if key in figures[1]},
    }


def _difference(first: Figure, second: Figure) -> dict[str, object]:
    """Both values, their difference with its spread (as if nothing of the two were common), and the word."""
    off, u = second.value - first.value, math.hypot(first.u, second.u)
    told = math.isfinite(off) and math.isfinite(u) and abs(off) > 2.0 * u
    return {
        "label": first.label, "unit": first.unit, "values": [_finite(first.value), _finite(second.value)],
        "u": [_finite(first.u), _finite(second.u)], "difference": _finite(off), "spread": _finite(2.0 * u),
        "word": ("a difference" if told else "not told apart") if off else "the same",
    }  # fmt: skip


def search(path: Path, words: str, name: str | None = None) -> dict[str, object]:
    """What of the shelf meets a requirement, from a build (the first where none is named) on. Raises OutsideError."""
    try:
        wanted = read_wanted(words)
    except QuantityError as error:
        raise OutsideError(str(error)) from error
    with _opened(path) as workshop:
        builds = workshop.builds()
        if not builds:
            raise OutsideError(f"{path}: found no build in it, expected one to search from")
        base = builds[0] if name is None else _named(workshop, name)
        items = workshop.items(tuple(PART_KINDS.values()))
        slots = tuple(slot for slot in _SOUGHT if slot != "supply.transformer" or base.build.supply.transformer)
        try:
            result = find(base.build, base.situation, wanted, slots, items)
        except (PhysicsError, QuantityError) as error:
            raise OutsideError(f"{base.build.name}: {error}") from error
    return {
        "understood": wanted.words,
        "from": base.build.name,
        "combinations": result.count,
        "met": [
            {
                "parts": {slot: None if item is None else item.part.name for slot, item in candidate.items.items()},
                "watts": _finite(candidate.watts),
                "still_to_pay": candidate.price,
            }
            for candidate in result.met
        ],
        "lost": dict(result.tally),
    }


def exported(path: Path, name: str | None = None) -> bytes:
    """A workshop, or one build of it with the whole shelf, as an archive. Raises OutsideError."""
    with _opened(path) as workshop:
        if name is None:
            return packed(workshop)
        number = _named(workshop, name).id
        return packed(workshop, lambda stored: stored.id == number)


def imported(archive: Path, path: Path) -> dict[str, object]:
    """Begin a workshop with what an archive holds, or add it to one; what came in. Raises OutsideError.

    What is there already is kept apart; what is damaged is said, and the rest taken in.
    """
    content = whole_archive(archive)
    taken = _begun(content, path) if not path.exists() else _added(content, path)
    return {
        "builds": list(taken.builds), "parts": taken.parts, "lines": taken.lines, "photos": taken.photos,
        "papers": taken.papers, "captures": taken.captures, "remarks": list(taken.remarks),
    }  # fmt: skip


def whole_archive(archive: Path) -> Archive:
    """An archive taken apart. Raises OutsideError where it is refused, or nothing whole is in it."""
    try:
        if archive.stat().st_size > MOST_BYTES:
            raise OutsideError(f"{archive}: found {archive.stat().st_size / 1e9:.1f} GB, expected less")
        content = read_archive(archive.read_bytes())
    except OSError as error:
        raise OutsideError(f"{archive}: found no readable file ({error.strerror or error}), expected one") from error
    except ArchiveError as error:
        raise OutsideError(f"{archive}: {error}") from error
    if not content.builds and not content.parts:
        raise OutsideError(f"{archive}: found nothing whole in it: {'; '.join(content.damaged[:3])}")
    return content


def _begun(content: Archive, path: Path) -> TakenIn:
    if not content.builds:
        raise OutsideError(f"{path}: found no whole build in the archive, expected one to begin a workshop with")
    taken: list[TakenIn] = []

    def fill(workshop: Workshop) -> None:
        kind = {"practice": content.head.practice, "demo": content.head.demo}
        if any(kind.values()):
            workshop.set_setting("workshop", dict(kind))
        if content.head.bench:
            workshop.set_setting("bench", dict(content.head.bench))
        taken.append(take_in(workshop, content))

    try:
        create_workshop(path, fill).close()
    except (WorkshopError, OSError) as error:
        raise OutsideError(str(error)) from error
    return taken[0]


def refuse_other_kind(workshop: Workshop, content: Archive, path: Path) -> None:
    """Raise OutsideError where an archive is of another kind: practice and measured, invented and own, do not mix.

    ``path`` is what the workshop is called in the sentence.
    """
    kind = workshop.setting("workshop") or {}
    practice = bool(kind.get("practice"))
    if practice != content.head.practice:
        kinds = ("a real workshop", "one for practice")
        raise OutsideError(
            f"{path}: found {kinds[practice]}, and in the archive {kinds[content.head.practice]}, expected the "
            "same: what is simulated and what is measured are kept apart"
        )
    if bool(kind.get("demo")) != content.head.demo:
        sides = ("a workshop of one's own", "the invented demo")
        raise OutsideError(
            f"{path}: found {sides[not content.head.demo]}, and in the archive {sides[content.head.demo]}, "
            "expected the same: what is invented never stands among what was measured"
        )


def _added(content: Archive, path: Path) -> TakenIn:
    with _opened(path) as workshop:
        refuse_other_kind(workshop, content, path)
        try:
            return take_in(workshop, content)
        except WorkshopError as error:
            raise OutsideError(str(error)) from error


def _finite(value: float) -> float | None:
    return value if math.isfinite(value) else None


def in_lines(document: Mapping[str, Any]) -> str:
    """A document in some lines for people: what stands at its top."""
    lines = []
    for key, value in document.items():
        if isinstance(value, list):
            lines += [f"{key}:", *(f"  {_in_words(row)}" for row in value)]
        elif isinstance(value, dict):
            lines += [f"{key}:", *(f"  {name}: {_in_words(row)}" for name, row in value.items())]
        else:
            lines.append(f"{key}: {value}")
    return "\n".join(lines)


def _in_words(row: object) -> str:
    if isinstance(row, Mapping):
        return ", ".join(f"{key} {_in_words(value)}" for key, value in row.items())
    if isinstance(row, list):
        return " / ".join(_in_words(value) for value in row)
    return f"{row:.6g}" if isinstance(row, float) else str(row)
