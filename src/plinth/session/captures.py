"""Captures of the current build: kept beside what they are of, looked at again, and readings drawn from them."""

import dataclasses
from collections.abc import Callable
from typing import TYPE_CHECKING

from plinth.captures.bundle import Content
from plinth.captures.capture import CaptureError
from plinth.captures.options import Options, options_from
from plinth.captures.words import KIND_WORDS
from plinth.record.conditions import Conditions
from plinth.record.diary import DiaryEntry
from plinth.record.giving import Giving
from plinth.record.kept_capture import CaptureFacts, CaptureSource, KeptCapture, captured_digest, of_capture
from plinth.record.origin import Giver, ReadingOrigin
from plinth.session.core import Core
from plinth.session.records import Records
from plinth.units.shown import shown
from plinth.workshop.errors import WorkshopError
from plinth.workshop.kept_chunks import Aside

if TYPE_CHECKING:
    from plinth.captures.figure import Analysis
    from plinth.session.capture_answers import CaptureAnswer, TakenAt
    from plinth.session.capture_view import CaptureView

MOST_WORDS = 200
GONE = "The samples of this capture are not as they were written, or gone. Its figures and readings are kept."


@dataclasses.dataclass(frozen=True)
class CaptureOf:
    """What a capture is of: the subject as records have it, and the conditions it was taken under."""

    subject: str
    conditions: Conditions = dataclasses.field(default_factory=dict)


@dataclasses.dataclass(frozen=True)
class InstrumentRecord:
    """A record that an instrument took, as a file: where it came from, and where its lead was."""

    content: Content
    source: CaptureSource
    taken_at: "TakenAt"


class Captures:
    """Kept in the workshop; taken off they can be put back. Samples are written on the runner's thread."""

    def __init__(self, core: Core, records: Records) -> None:
        self._core, self._records = core, records
        self._captures: tuple[int, list[KeptCapture]] | None = None
        self._taken_off: tuple[KeptCapture, bytes] | None = None
        self.waiting: list[str] = []

    def of(self, subject: str | None = None) -> list[KeptCapture]:
        """The captures of a subject, or all of the current build, oldest first."""
        if self._captures is None or self._captures[0] != self._core.current:
            try:
                self._captures = (self._core.current, self._core.workshop.captures(self._core.current))
            except WorkshopError as error:
                self._core.tell.trouble(str(error))
                return []
        return [capture for capture in self._captures[1] if subject is None or capture.subject == subject]

    @property
    def version(self) -> int:
        """The version of the current build that a capture is of now; 0 where none is kept yet."""
        versions = self._records.versions()
        return versions[-1].number if versions else 0

    def earlier(self, kind: str, subject: str, shown: KeptCapture | None = None) -> KeptCapture | None:
        """The last capture of this kind and subject of an earlier version than the one shown, or than the build is now.

        None where there is none, or where nobody knows which version the one shown is of.
        """
        version = self.version if shown is None else shown.facts.version
        alike = [
            kept for kept in self.of(subject) if kept.facts.kind == kind and 0 < kept.facts.version < version
        ]  # fmt: skip
        return max(alike, key=lambda kept: (kept.facts.version, kept.at), default=None)

    def told_of(self, subject: str) -> KeptCapture | None:
        """The capture that a line of the diary tells of; None where it tells of none, or that was taken off."""
        digest = captured_digest(subject)
        return next((kept for kept in self.of() if digest and kept.digest.startswith(digest)), None)

    def keep(
        self, view: "CaptureView", of: CaptureOf, then: Callable[[KeptCapture | None], None],
        source: CaptureSource = CaptureSource.FILE,
    ) -> None:  # fmt: skip
        """Keep a capture of the current build, and tell ``then``: the kept one, or None (``trouble`` has said why).

        The same content of the same subject is not kept twice: ``then`` is given the one that is there.
        """
        build_id, name, data = self._core.current, view.content.name, view.content.data
        facts = facts_of(view, of, source, self.version)
        self.waiting.append(view.name)

        def done(answer: object) -> None:
            self.waiting.remove(view.name)
            assert isinstance(answer, Aside), "that is what was asked for"
            there = self._there(answer, of.subject, facts) if build_id == self._core.current else None
            then(there or self._add(build_id, of.subject, name, answer, facts))

        def failed(error: Exception) -> None:
            self.waiting.remove(view.name)
            self._core.tell.trouble(str(error))
            then(None)

        self._core.jobs.ask(
            f"capture kept {len(self.waiting)} {name}",
            lambda _task: Aside(self._core.workshop.put_aside(data, what="The capture"), len(data)),
            done, failed, long=True,
        )  # fmt: skip

    def _there(self, aside: Aside, subject: str, facts: CaptureFacts) -> KeptCapture | None:
        return next(
            (kept for kept in self.of(subject) if kept.digest == aside.digest and kept.facts.stated == facts.stated
             and kept.facts.kind == facts.kind), None
        )  # fmt: skip

    def _add(
        self, build_id: int, subject: str, name: str, content: Aside | bytes, facts: CaptureFacts, words: str = ""
    ) -> KeptCapture | None:
        made: list[KeptCapture] = []
        at = self._core.now()
        if not self._core.attempt(
            lambda: made.append(
                self._core.workshop.add_capture(
                    build_id, subject, at, name=name, content=content, facts=facts, words=words
                )
            )
        ):
            return None
        self._changed()
        seconds = f", {shown(facts.seconds, 's')}" if facts.seconds else ""
        self._records.keep_entry(
            build_id,
            DiaryEntry(at, "note", of_capture(made[0]), f"Capture kept: {name}, {KIND_WORDS[facts.kind]}{seconds}."),
        )
        return made[0]

    def rename(self, capture: KeptCapture, words: str) -> bool:
        """Call a capture otherwise."""
        words = words.strip()[:MOST_WORDS]
        if not self._core.attempt(
            lambda: self._core.workshop.change_capture(capture.number, capture.subject, words)
        ):  # fmt: skip
            return False
        self._changed()
        return True

    def remove(self, capture: KeptCapture) -> bool:
        """Take a capture off; it can be put back until another one is. Readings drawn from it stay."""
        content = self.content(capture)
        if content is None or not self._core.attempt(lambda: self._core.workshop.remove_capture(capture.number)):
            return False
        self._taken_off = (capture, content.data)
        self._changed()
        return True

    @property
    def taken_off(self) -> KeptCapture | None:
        """The capture that can be put back."""
        return None if self._taken_off is None else self._taken_off[0]

    def put_back(self) -> bool:
        """Put back the capture that was taken off last."""
        if self._taken_off is None:
            return False
        capture, data = self._taken_off
        if not self._core.attempt(
            lambda: self._core.workshop.add_capture(
                capture.build_id,
                capture.subject,
                capture.at,
                name=capture.name,
                content=data,
                facts=capture.facts,
                words=capture.words,
            )
        ):
            return False
        self._taken_off = None
        self._changed()
        return True

    def content(self, capture: KeptCapture) -> Content | None:
        """The recorder's own bytes; None (and ``trouble``) where they are not as they were written."""
        try:
            data = self._core.workshop.capture_content(capture.number)
        except WorkshopError as error:
            self._core.tell.trouble(str(error))
            return None
        if data is None:
            self._core.tell.trouble(GONE)
            return None
        return Content(capture.name, data)

    def look(
        self, capture: KeptCapture, show: Callable[[object], None], failed: Callable[[Exception], None],
        options: Options | None = None, job: str = "capture",
    ) -> None:  # fmt: skip
        """Read a kept capture anew, on the runner's thread, and show its view.

        With ``options`` stated otherwise than when it was kept.
        """
        content = self.content(capture)
        if content is None:
            failed(WorkshopError(self._core.workshop.path, GONE))
            return
        from plinth.session.capture_view import view_of_kept

        stated = options or dataclasses.replace(options_from(capture.facts.stated), kind=capture.facts.kind)
        self._core.jobs.ask(job, lambda _task: view_of_kept(content, stated), show, failed, long=True)

    def stated_of_last(self, suffix: str) -> Options | None:
        """What was stated of the last kept file that ends alike; None where there is none."""
        alike = [kept for kept in self.of() if kept.name.lower().endswith(suffix.lower()) and kept.facts.stated]
        try:
            return options_from(alike[-1].facts.stated) if alike else None
        except CaptureError:
            return None

    def _changed(self) -> None:
        self._captures = None
        self._core.tell.captures_changed()


def facts_of(
    view: "CaptureView", of: CaptureOf, source: CaptureSource = CaptureSource.FILE, version: int = 0
) -> CaptureFacts:
    """What is kept of a view beside its samples; ``version`` of the build that it is of."""
    capture = view.capture
    return CaptureFacts(
        kind=view.analysis.kind, source=source, seconds=0.0 if capture is None else capture.seconds,
        sample_rate_hz=0.0 if capture is None else capture.sample_rate_hz,
        channels=tuple(channel.name for channel in view.analysis.channels), stated=view.options.as_document(),
        figures=figures_document(view.analysis), conditions=dict(of.conditions), version=version,
    )  # fmt: skip


def figures_document(analysis: "Analysis") -> dict[str, object]:
    """The figures by channel and name: value, spread, unit."""
    return {
        channel.name: {figure.name: [figure.value, figure.spread, figure.unit] for figure in channel.figures}
        for channel in analysis.channels
    }


def giving_from(capture: KeptCapture, answer: "CaptureAnswer") -> Giving:
    """How a reading is given that is drawn from a kept capture: which one, which figure, over which span."""
    simulated = capture.facts.source is CaptureSource.SIMULATED
    named = f"{capture.name}, number {capture.number}"
    start_s, stop_s = capture.facts.stated.get("span_s", (0.0, capture.facts.seconds))
    return Giving(
        ReadingOrigin(Giver.SIMULATED) if simulated else ReadingOrigin(Giver.CAPTURE, capture=named),
        instrument=f"capture {capture.title}", u=answer.u,
        facts={
            "capture": named, "capture_digest": capture.digest, "capture_channel": answer.channel,
            "capture_figure": answer.figure, "capture_from_s": start_s, "capture_to_s": stop_s,
        },
    )  # fmt: skip


def summary_words(capture: KeptCapture) -> str:
    """Length, rate and size of a kept capture in a few words."""
    facts = capture.facts
    if not facts.seconds:
        return f"several files, {shown(capture.size, 'B')}"
    return f"{shown(facts.seconds, 's')} at {shown(facts.sample_rate_hz, 'Hz')}"
