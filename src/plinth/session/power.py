"""What is under power, in whichever build, and the last stop."""

import dataclasses
import datetime as dt

from plinth.guide.interlock import Power, watch_left_s
from plinth.guide.progress import StepStand
from plinth.record.clock import now
from plinth.record.diary import DiaryEntry
from plinth.record.subject import Kind, Subject, read_subject
from plinth.session.announcing import Telling
from plinth.session.records import Records
from plinth.session.runner import Runner
from plinth.workshop.store import Workshop


@dataclasses.dataclass(frozen=True)
class Stopped:
    """What was stopped, and when."""

    power: Power
    at: dt.datetime


class PowerNow(Records):
    """Power on and off, written into the diary of the build it belongs to."""

    def __init__(self, workshop: Workshop, jobs: Runner, tell: Telling) -> None:
        super().__init__(workshop, jobs, tell)
        self._power = self._find_power()
        self._stopped: Stopped | None = None

    @property
    def power(self) -> Power | None:
        """What is under power now, in whichever build; None while everything is off."""
        return self._power

    def switch_on(self, key: str, words: str) -> bool:
        """Write down that a channel of this build was switched on, or its supply alone: ``key`` as records know it."""
        entry = DiaryEntry(now(), "power_on", Subject(Kind.POWER, key).text, words)
        if not self._keep_entry(self._current, entry):
            return False
        self._power, self._stopped = Power(self._current, key, entry.at), None
        self.tell.power_changed()
        return True

    def switch_off(self) -> None:
        """Write down that it was stopped, in the diary of the build that was on. On screen it is off at once."""
        power = self._power
        if power is None:
            return
        at = now()
        self._power, self._stopped = None, Stopped(power, at)
        self._keep_entry(
            power.build_id, DiaryEntry(at, "power_off", Subject(Kind.POWER, power.channel).text, "Stopped.")
        )
        self.tell.power_changed()

    @property
    def power_words(self) -> str:
        """What is under power, as build and channel are called today; empty while everything is off."""
        if self._power is None:
            return ""
        build = self.build_of(self._power.build_id)
        return f"{build.name}, {build.channel_of(self._power.channel)}"

    @property
    def stopped(self) -> Stopped | None:
        """The last stop since this window was opened, until something is switched on again."""
        return self._stopped

    def watch_left_s(self, stand: StepStand) -> float:
        """Seconds that are still to be watched before the reading of a step of the build in hand."""
        others = [one for channel in self.build.channels for one in self.bringup(channel)]
        return watch_left_s(stand, self._power, self._current, others, now())

    def since_on_s(self, key: str) -> float | None:
        """Seconds since a channel of the build in hand (or its supply) was switched on; None while it is off."""
        power = self._power
        if power is None or (power.build_id, power.channel) != (self._current, key):
            return None
        return max((now() - power.at).total_seconds(), 0.0)

    def put_away(self) -> None:
        """The discharge was measured: the count-down is over."""
        self._stopped = None
        self.tell.power_changed()

    def _find_power(self) -> Power | None:
        """Power that was on when Plinth was last closed (or killed)."""
        known = {one.id for one in self._stored}
        for build_id, entry in self.workshop.last_of(("power_on", "power_off")):
            if entry.kind == "power_on" and build_id in known:
                channel = read_subject(entry.subject).channel
                return Power(build_id, channel, entry.at, found=True)
        return None
