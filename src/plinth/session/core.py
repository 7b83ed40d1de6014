"""The current workshop, the builds in it, and what was last kept of them."""

import contextlib
import dataclasses
from collections.abc import Callable

from plinth.builds.build import Build
from plinth.builds.history import History
from plinth.builds.instruments import BenchKit
from plinth.builds.situation import Situation
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


def _nothing() -> None:
    """Nobody needs to know."""


class Core:
    """The open workshop and the current build: what all parts of a session stand on.

    ``now`` tells the present; whoever makes a session gives its clock. ``saved_late`` is called once a change of the
    current build that could not be kept before was. ``live`` arguments further on mean that a slider is still moving.
    """

    def __init__(self, workshop: Workshop, jobs: Runner, tell: Telling, clock: Clock) -> None:
        self.workshop, self.jobs, self.tell, self.now = workshop, jobs, tell, clock
        self.saved_late: Callable[[], None] = _nothing
        self.kit: BenchKit = workshop.bench()
        kind = workshop.setting("workshop") or {}
        self.demo, self.practice = bool(kind.get("demo")), bool(kind.get("practice"))
        self.station = "rails"
        self.histories: dict[int, History[PlanState]] = {}
        self.unsaved: tuple[StoredBuild, str | None] | None = None
        self.stored_builds: list[StoredBuild] = workshop.builds()
        self.live: PlanState | None = None
        last = (workshop.setting("desk") or {}).get("build")
        ids = [build.id for build in self.stored_builds]
        if not ids:
            raise DamagedWorkshopError(workshop.path, [build.why for build in workshop.locked])
        self.current = last if last in ids else ids[0]

    @property
    def stored(self) -> StoredBuild:
        """The current build as last kept."""
        return next(build for build in self.stored_builds if build.id == self.current)

    @property
    def builds(self) -> list[StoredBuild]:
        """All builds of this workshop."""
        return list(self.stored_builds)

    @property
    def build(self) -> Build:
        """The current build."""
        return self.state.build

    @property
    def situation(self) -> Situation:
        """Its situation, with a moving slider's value in it."""
        return self.state.situation

    @property
    def state(self) -> PlanState:
        """Build and situation as they are shown: with a moving slider, or a part that is only tried."""
        return self.live or self.history.state

    @property
    def history(self) -> History[PlanState]:
        """The steps of the current build that can be taken back."""
        return self.histories[self.current]

    @property
    def locked(self) -> tuple[LockedBuild, ...]:
        """Builds of this workshop that cannot be read."""
        return self.workshop.locked

    @property
    def notices(self) -> tuple[str, ...]:
        """What was set aside at opening, and which builds are locked and why."""
        locked = (f"{build.why}. This build is locked; the others are not." for build in self.workshop.locked)
        return (*self.workshop.notices, *locked)

    def set_kit(self, kit: BenchKit) -> bool:
        """Keep the instruments of this workshop."""
        if not self.attempt(lambda: self.workshop.set_setting("bench", kit.model_dump(mode="json"))):
            return False
        self.kit = kit
        self.tell.records_changed()
        return True

    @property
    def plan_kept(self) -> PlanState:
        """Build and situation as they are kept: neither a moving slider nor a part that is only tried is in them."""
        return self.history.state

    def save_again(self) -> None:
        """Keep a change that could not be kept before."""
        if self.unsaved is not None:
            stored, words = self.unsaved
            with contextlib.suppress(WorkshopError):
                self.workshop.save_build(stored, words)
                self.unsaved = None
                self.stored_builds = [stored if build.id == stored.id else build for build in self.stored_builds]
                if stored.id == self.current:
                    self.saved_late()

    def build_of(self, build_id: int) -> Build:
        """The build of that number, as it is now."""
        return self.build if build_id == self.current else next(s.build for s in self.stored_builds if s.id == build_id)

    def choose_station(self, key: str) -> None:
        """The page speaks about this station."""
        self.station = key
        self.tell.station_chosen(key)

    def attempt(self, write: Callable[[], object]) -> bool:
        """Write to the file; False (and ``trouble``) where that could not be, else it is told when it was kept."""
        self.save_again()
        try:
            write()
        except WorkshopError as error:
            self.tell.trouble(str(error))
            return False
        if self.unsaved is None:
            self.tell.kept(self.now().astimezone())
        return True
