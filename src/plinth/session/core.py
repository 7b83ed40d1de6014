"""The workshop in hand, the builds in it, and what was last kept of them."""

import contextlib
import dataclasses
from collections.abc import Callable

from plinth.builds.build import Build
from plinth.builds.history import History
from plinth.builds.instruments import BenchKit
from plinth.builds.situation import Situation
from plinth.record.book import RecordBook
from plinth.record.clock import Clock
from plinth.session.listeners import Telling
from plinth.session.runner import Runner
from plinth.workshop.errors import DamagedWorkshopError, WorkshopError
from plinth.workshop.kept_builds import LockedBuild, StoredBuild
from plinth.workshop.store import Workshop


@dataclasses.dataclass(frozen=True)
class PlanState:
    """What undo and redo move through."""

    build: Build
    situation: Situation


class Core:
    """The open workshop and the build in hand. ``live`` arguments further on mean that a slider is still moving.

    ``now`` tells the present; whoever makes a session gives its clock.
    """

    now: Clock

    def __init__(self, workshop: Workshop, jobs: Runner, tell: Telling) -> None:
        self.workshop, self.jobs, self.tell = workshop, jobs, tell
        self.kit: BenchKit = workshop.bench()
        kind = workshop.setting("workshop") or {}
        self.demo, self.practice = bool(kind.get("demo")), bool(kind.get("practice"))
        self.station = "rails"
        self.records = RecordBook(practice=self.practice)
        self.diary_size = (0, 0)
        self._histories: dict[int, History[PlanState]] = {}
        self._unsaved: tuple[StoredBuild, str | None] | None = None
        self._stored: list[StoredBuild] = workshop.builds()
        self._live: PlanState | None = None
        last = (workshop.setting("desk") or {}).get("build")
        ids = [one.id for one in self._stored]
        if not ids:
            raise DamagedWorkshopError(workshop.path, [one.why for one in workshop.locked])
        self._current = last if last in ids else ids[0]

    @property
    def stored(self) -> StoredBuild:
        """The build in hand as last kept."""
        return next(one for one in self._stored if one.id == self._current)

    @property
    def builds(self) -> list[StoredBuild]:
        """All builds of this workshop."""
        return list(self._stored)

    @property
    def build(self) -> Build:
        """The build in hand."""
        return self._plan.build

    @property
    def situation(self) -> Situation:
        """Its situation, with a moving slider's value in it."""
        return self._plan.situation

    @property
    def _plan(self) -> PlanState:
        return self._live or self._history.state

    @property
    def _history(self) -> History[PlanState]:
        return self._histories[self._current]

    def _read_diary(self) -> None:
        try:
            self.diary_size = self.workshop.diary_size(self._current)
            self.records = RecordBook(self.workshop.latest_records(self._current), practice=self.practice)
        except WorkshopError as error:
            # What cannot be read counts for nothing: every gate is closed until it can.
            self.diary_size, self.records = (0, 0), RecordBook(practice=self.practice)
            # Nobody listens yet where this is the start: it then stands among what was set aside.
            self.workshop.notice(str(error))
            self.tell.trouble(str(error))

    @property
    def locked(self) -> tuple[LockedBuild, ...]:
        """Builds of this workshop that cannot be read."""
        return self.workshop.locked

    @property
    def notices(self) -> tuple[str, ...]:
        """What was set aside at opening, and which builds are locked and why."""
        locked = (f"{one.why}. This build is locked; the others are not." for one in self.workshop.locked)
        return (*self.workshop.notices, *locked)

    def set_kit(self, kit: BenchKit) -> bool:
        """Keep the instruments of this workshop."""
        if not self._try(lambda: self.workshop.set_setting("bench", kit.model_dump(mode="json"))):
            return False
        self.kit = kit
        self.tell.records_changed()
        return True

    @property
    def plan_kept(self) -> PlanState:
        """Build and situation as they are kept: neither a moving slider nor a part that is only tried is in them."""
        return self._history.state

    def _save_again(self) -> None:
        """Keep a change that could not be kept before."""
        if self._unsaved is not None:
            stored, words = self._unsaved
            with contextlib.suppress(WorkshopError):
                self.workshop.save_build(stored, words)
                self._unsaved = None
                self._stored = [stored if one.id == stored.id else one for one in self._stored]
                if stored.id == self._current:
                    self._read_diary()

    def build_of(self, build_id: int) -> Build:
        """The build of that number, as it is now."""
        return self.build if build_id == self._current else next(s.build for s in self._stored if s.id == build_id)

    def choose_station(self, key: str) -> None:
        """The page speaks about this station."""
        self.station = key
        self.tell.station_chosen(key)

    def _try(self, write: Callable[[], object]) -> bool:
        self._save_again()
        try:
            write()
        except WorkshopError as error:
            self.tell.trouble(str(error))
            return False
        if self._unsaved is None:
            self.tell.kept(self.now().astimezone())
        return True
