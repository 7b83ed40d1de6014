"""What falls due when, in whichever build: a dwell that ends, a soak that is to be looked at. It survives a restart."""

import dataclasses
import datetime as dt
from typing import Any

from plinth.guide.progress import Stand, StepStand
from plinth.session.bringup import BringUp
from plinth.session.core import Core
from plinth.session.power import PowerNow
from plinth.workshop.kept_settings import REMINDERS

# Shorter waits are watched, not reminded of.
LEAST_WAIT_S = 300.0


@dataclasses.dataclass(frozen=True)
class Reminder:
    """A step of a channel (``channel`` as records know it) of a build, due ``at``."""

    build_id: int
    channel: str
    words: str
    at: dt.datetime


class Reminders:
    """Kept in the workshop, so that other builds' are known without computing their steps."""

    def __init__(self, core: Core, bring_up: BringUp, power: PowerNow) -> None:
        self._core, self._bring_up, self._power_now = core, bring_up, power
        self._kept_reminders = core.workshop.setting_as(REMINDERS, _read)

    def all(self) -> tuple[Reminder, ...]:
        """All of them, the next first; those of the current build as they are now."""
        known = {build.id for build in self._core.stored_builds}
        here = self._due_here()
        others = [
            reminder
            for reminder in self._kept_reminders
            if reminder.build_id in known and reminder.build_id != self._core.current
        ]
        mine = (
            [reminder for reminder in self._kept_reminders if reminder.build_id == self._core.current]
            if here is None
            else here
        )
        return tuple(sorted((*others, *mine), key=lambda reminder: reminder.at))

    def remember(self) -> None:
        """Keep what falls due of the current build, for when another one is."""
        here = self._due_here()
        if here is None:
            return
        after = tuple(reminder for reminder in self._kept_reminders if reminder.build_id != self._core.current) + tuple(
            here
        )
        if after != self._kept_reminders and self._core.attempt(
            lambda: self._core.workshop.set_setting(REMINDERS, _written(after))
        ):
            self._kept_reminders = after

    def _due_here(self) -> list[Reminder] | None:
        """Those of the current build; None while its steps are not known."""
        due: list[Reminder] = []
        if not self._bring_up.steps_known:
            return None
        for channel in self._core.build.channels:
            stands = self._bring_up.stands(channel)
            if not stands:
                return None
            due += [
                Reminder(self._core.current, self._core.build.key_of(channel), stand.step.title, at)
                for stand in stands
                if stand.stand in (Stand.DUE, Stand.OUTSIDE) and (at := self._due_at(stand)) is not None
            ]
        # What both channels ask for, of the supply that they share, is one thing.
        return list({(reminder.words, reminder.at): reminder for reminder in reversed(due)}.values())

    def _due_at(self, stand: StepStand) -> dt.datetime | None:
        if stand.due_at is not None:
            return stand.due_at
        if stand.step.wait_s < LEAST_WAIT_S or self._power_now.since_on_s(stand.step.about.channel) is None:
            return None
        return self._core.now() + dt.timedelta(seconds=round(self._power_now.watch_left_s(stand)))


def _written(reminders: tuple[Reminder, ...]) -> dict[str, Any]:
    return {"due": [{**dataclasses.asdict(reminder), "at": reminder.at.isoformat()} for reminder in reminders]}


def _read(setting: dict[str, Any]) -> tuple[Reminder, ...]:
    return tuple(
        Reminder(
            int(entry["build_id"]), str(entry["channel"]), str(entry["words"]), dt.datetime.fromisoformat(entry["at"])
        )
        for entry in setting.get("due", [])
    )
