"""What falls due when, in whichever build: a dwell that ends, a soak that is to be looked at. It survives a restart."""

import dataclasses
import datetime as dt
from typing import Any

from plinth.guide.progress import Stand, StepStand
from plinth.record.reading import Record
from plinth.session.listeners import Telling
from plinth.session.power import PowerNow
from plinth.session.runner import Runner
from plinth.workshop.kept_settings import REMINDERS
from plinth.workshop.store import Workshop

# Shorter waits are watched, not reminded of.
LEAST_WAIT_S = 300.0


@dataclasses.dataclass(frozen=True)
class Reminder:
    """A step of a channel (``channel`` as records know it) of a build, due ``at``."""

    build_id: int
    channel: str
    words: str
    at: dt.datetime


class Reminders(PowerNow):
    """Kept in the workshop, so that other builds' are known without computing their steps."""

    def __init__(self, workshop: Workshop, jobs: Runner, tell: Telling) -> None:
        super().__init__(workshop, jobs, tell)
        self._kept_reminders = workshop.setting_as(REMINDERS, _read)

    def reminders(self) -> tuple[Reminder, ...]:
        """All of them, the next first; those of the build in hand as they are now."""
        known = {one.id for one in self._stored}
        here = self._due_here()
        others = [one for one in self._kept_reminders if one.build_id in known and one.build_id != self._current]
        mine = [one for one in self._kept_reminders if one.build_id == self._current] if here is None else here
        return tuple(sorted((*others, *mine), key=lambda one: one.at))

    def keep(self, record: Record) -> bool:
        """Keep a record; what falls due by it is remembered."""
        kept = super().keep(record)
        if kept:
            self.remember()
        return kept

    def switch_on(self, key: str, words: str, limit_a: float | None = None) -> bool:
        """Switch on; the dwell that begins is remembered."""
        done = super().switch_on(key, words, limit_a)
        if done:
            self.remember()
        return done

    def switch_off(self) -> None:
        """Switch off; a dwell that was on is not waited for any more."""
        super().switch_off()
        self.remember()

    def remember(self) -> None:
        """Keep what falls due of the build in hand, for when another one is."""
        here = self._due_here()
        if here is None:
            return
        after = tuple(one for one in self._kept_reminders if one.build_id != self._current) + tuple(here)
        if after != self._kept_reminders and self._try(lambda: self.workshop.set_setting(REMINDERS, _written(after))):
            self._kept_reminders = after

    def _due_here(self) -> list[Reminder] | None:
        """Those of the build in hand; None while its steps are not known."""
        found: list[Reminder] = []
        if not self.steps_known:
            return None
        for channel in self.build.channels:
            stands = self.bringup(channel)
            if not stands:
                return None
            found += [
                Reminder(self._current, self.build.key_of(channel), one.step.title, at)
                for one in stands
                if one.stand in (Stand.DUE, Stand.OUTSIDE) and (at := self._due_at(one)) is not None
            ]
        # What both channels ask for, of the supply that they share, is one thing.
        return list({(one.words, one.at): one for one in reversed(found)}.values())

    def _due_at(self, stand: StepStand) -> dt.datetime | None:
        if stand.due_at is not None:
            return stand.due_at
        if stand.step.wait_s < LEAST_WAIT_S or self.since_on_s(stand.step.about.channel) is None:
            return None
        return self.now() + dt.timedelta(seconds=round(self.watch_left_s(stand)))


def _written(reminders: tuple[Reminder, ...]) -> dict[str, Any]:
    return {"due": [{**dataclasses.asdict(one), "at": one.at.isoformat()} for one in reminders]}


def _read(setting: dict[str, Any]) -> tuple[Reminder, ...]:
    return tuple(
        Reminder(int(one["build_id"]), str(one["channel"]), str(one["words"]), dt.datetime.fromisoformat(one["at"]))
        for one in setting.get("due", [])
    )
