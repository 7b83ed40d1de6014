"""What is under power, in whichever build, and the last stop."""

import dataclasses
import datetime as dt

from plinth.guide.interlock import Power, watch_left_s
from plinth.guide.progress import StepStand
from plinth.record.diary import DiaryEntry
from plinth.record.subject import Kind, Subject, read_subject
from plinth.session.listeners import Telling
from plinth.session.power_port import ByHand, PowerPort
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

    port: PowerPort = ByHand()

    def __init__(self, workshop: Workshop, jobs: Runner, tell: Telling) -> None:
        super().__init__(workshop, jobs, tell)
        self._power = self._find_power()
        self._stopped: Stopped | None = None

    @property
    def power(self) -> Power | None:
        """What is under power now, in whichever build; None while everything is off."""
        return self._power

    def switch_on(self, key: str, words: str, limit_a: float | None = None) -> bool:
        """Switch a channel of this build on, or its supply alone, and write it down: ``key`` as records know it.

        False where it is refused, or cannot be written: then nothing is on, and ``trouble`` has said why.
        """
        entry = DiaryEntry(self.now(), "power_on", Subject(Kind.POWER, key).text, words)
        # Written first: a program that is killed in between finds power on, and never the other way round.
        if not self._keep_entry(self._current, entry):
            return False
        refused = self.port.switch_on(limit_a)
        if refused:
            self.port.make_safe()
            off = DiaryEntry(self.now(), "power_off", Subject(Kind.POWER, key).text, f"Not switched on: {refused}")
            self._keep_entry(self._current, off)
            self.tell.trouble(f"Not switched on: {refused}")
            return False
        self._power, self._stopped = Power(self._current, key, entry.at), None
        self.tell.power_changed()
        return True

    def switch_off(self) -> None:
        """Switch off, and write that down in the diary of the build that was on. On screen it is off at once.

        Where it does not go off, it stays on here too, and ``trouble`` says so.
        """
        power = self._power
        if power is None:
            return
        failed = self.port.switch_off()
        if failed:
            self.tell.trouble(f"Not switched off: {failed} Pull the mains plug.")
            return
        at = self.now()
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
        return watch_left_s(stand, self._power, self._current, others, self.now())

    def since_on_s(self, key: str) -> float | None:
        """Seconds since a channel of the build in hand (or its supply) was switched on; None while it is off."""
        power = self._power
        if power is None or (power.build_id, power.channel) != (self._current, key):
            return None
        return max((self.now() - power.at).total_seconds(), 0.0)

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
