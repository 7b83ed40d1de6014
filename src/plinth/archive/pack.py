"""A workshop, or one build of it, into an archive."""

import hashlib
import io
import zipfile
from collections.abc import Callable

from plinth.archive.documents import (
    PARTS,
    ArchivedBuild,
    ArchivedCapture,
    ArchivedPaper,
    ArchivedPart,
    ArchivedPhoto,
    ArchivedVersion,
    ArchiveHead,
)  # fmt: skip
from plinth.record.clock import now
from plinth.release import VERSION
from plinth.report.counting import since_words
from plinth.report.csv_table import readings_csv
from plinth.workshop.kept_builds import StoredBuild
from plinth.workshop.store import Workshop

HEAD = "archive.json"
# The same content is the same archive but for its moment: nothing of the machine it was made on goes in.
_MOMENT = (1980, 1, 1, 0, 0, 0)


class _Files:
    """The files of an archive as they come, each with its checksum."""

    def __init__(self) -> None:
        self._held = io.BytesIO()
        self._zip = zipfile.ZipFile(self._held, "w", zipfile.ZIP_DEFLATED)
        self.sums: dict[str, str] = {}
        self.left_out: list[str] = []

    def add(self, name: str, content: bytes) -> None:
        self.sums[name] = hashlib.sha256(content).hexdigest()
        self.write(name, content)

    def write(self, name: str, content: bytes) -> None:
        self._zip.writestr(zipfile.ZipInfo(name, _MOMENT), content, zipfile.ZIP_DEFLATED)

    def done(self) -> bytes:
        self._zip.close()
        return self._held.getvalue()


def packed(workshop: Workshop, chosen: Callable[[StoredBuild], bool] = lambda _stored: True) -> bytes:
    """The archive of the builds that are ``chosen``, with the whole shelf and the instruments."""
    files = _Files()
    stored_builds = [stored for stored in workshop.builds() if chosen(stored)]
    files.left_out += [f"build {locked.name}: {locked.why}" for locked in workshop.locked]
    for number, stored in enumerate(stored_builds, 1):
        document = _build(workshop, stored, number, files)
        files.add(f"builds/{number}.json", document.model_dump_json(indent=1).encode())
        files.add(f"builds/{number}-readings.csv", _readings(workshop, stored).encode())
    files.add("parts.json", PARTS.dump_json(_parts(workshop, files), indent=1))
    kind = workshop.setting("workshop") or {}
    head = ArchiveHead(
        made_at=now(), made_by=f"Plinth {VERSION}", practice=bool(kind.get("practice")),
        demo=bool(kind.get("demo")), left_out=tuple(files.left_out),
        bench=dict(workshop.setting("bench") or {}), files=files.sums,
    )  # fmt: skip
    files.write(HEAD, head.model_dump_json(indent=1).encode())
    return files.done()


def _build(workshop: Workshop, stored: StoredBuild, number: int, files: _Files) -> ArchivedBuild:
    lines = workshop.numbered(stored.id)
    place = {line: index for index, (line, _) in enumerate(lines)}
    photos = []
    for index, photo in enumerate(workshop.photos(stored.id), 1):
        original, scaled = (workshop.photo_picture(photo.number, whole=whole) for whole in (True, False))
        if original is None or scaled is None:
            files.left_out.append(f"photo {photo.name} of {stored.build.name}: its picture is not as it was written")
            continue
        names = f"photos/{number}-{index}-original.bin", f"photos/{number}-{index}-scaled.bin"
        for name, content in zip(names, (original, scaled), strict=True):
            files.add(name, content)
        photos.append(
            ArchivedPhoto(
                subject=photo.subject, at=photo.at, name=photo.name, words=photo.words, marks=photo.marks,
                original=names[0], scaled=names[1],
            )
        )  # fmt: skip
    captures = []
    for index, capture in enumerate(workshop.captures(stored.id), 1):
        samples = workshop.capture_content(capture.number)
        if samples is None:
            files.left_out.append(
                f"capture {capture.name} of {stored.build.name}: its samples are not as they were written"
            )
            continue
        file = f"captures/{number}-{index}.bin"
        files.add(file, samples)
        captures.append(
            ArchivedCapture(
                subject=capture.subject, at=capture.at, name=capture.name, words=capture.words, facts=capture.facts,
                file=file,
            )
        )  # fmt: skip
    versions = tuple(
        ArchivedVersion(since_line=place[version.since], build=version.build)
        for version in workshop.versions(stored.id)
        if version.build is not None and version.since in place
    )
    return ArchivedBuild(
        build=stored.build, situation=stored.situation, diary=tuple(entry for _, entry in lines), versions=versions,
        photos=tuple(photos), captures=tuple(captures),
    )  # fmt: skip


def _readings(workshop: Workshop, stored: StoredBuild) -> str:
    """The readings as CSV, with why one does not count any more, as the window writes them."""
    lines, fitted = workshop.diary_by_version(stored.id), workshop.fitted_by_version(stored.id)
    practice = bool((workshop.setting("workshop") or {}).get("practice"))
    readings = [line.reading for line in lines if line.reading is not None]
    return readings_csv(readings, lambda each: since_words(each, stored.build, lines, fitted, practice=practice))


def _parts(workshop: Workshop, files: _Files) -> tuple[ArchivedPart, ...]:
    papers: dict[int, list[ArchivedPaper]] = {}
    for index, paper in enumerate(workshop.papers(), 1):
        content = workshop.paper_content(paper.number)
        if content is None:
            files.left_out.append(f"paper {paper.name}: its content is not as it was written")
            continue
        file = f"papers/{index}.bin"
        files.add(file, content)
        papers.setdefault(paper.part, []).append(
            ArchivedPaper(name=paper.name, note=paper.note, words=paper.words, file=file)
        )
    return tuple(
        ArchivedPart(
            kind=type(item.part).__name__, part=item.part.model_dump(mode="json"), stock=item.stock,
            papers=tuple(papers.get(item.number, ())),
        )
        for item in workshop.items()
    )  # fmt: skip
