"""What is under power, in whichever build, and the last stop."""

import dataclasses
import datetime as dt
from collections.abc import Callable

from plinth.guide.interlock import LivePower, watch_left_s
from plinth.guide.progress import StepStand
from plinth.record.diary import DiaryEntry
from plinth.record.subject import Kind, Subject, read_subject
from plinth.session.bringup import BringUp
from plinth.session.core import Core
from plinth.session.power_port import Feed, PowerPort
from plinth.session.records import Records


@dataclasses.dataclass(frozen=True)
class Stopped:
    """What was stopped, and when."""

    power: LivePower
    at: dt.datetime


class PowerNow:
    """Power on and off through ``port``, written into the diary of the build it belongs to.

    ``switched`` is told of each switching, on and off.
    """

    def __init__(self, core: Core, records: Records, bring_up: BringUp, port: PowerPort) -> None:
        self._core, self._records, self._bring_up, self.port = core, records, bring_up, port
        self.switched: list[Callable[[], None]] = []
        self._power = self.find_power()
        self._stopped: Stopped | None = None

    @property
    def live(self) -> LivePower | None:
        """What is under power now, in whichever build; None while everything is off."""
        return self._power

    def switch_on(self, key: str, words: str, feed: Feed = Feed()) -> bool:  # noqa: B008  # frozen
        """Switch a channel of this build on, or its supply alone, and write it down: ``key`` as records know it.

        False where it is refused, or cannot be written: then nothing is on, and ``trouble`` has said why.
        """
        entry = DiaryEntry(self._core.now(), "power_on", Subject(Kind.POWER, key).text, words)
        # Written first: a program that is killed in between finds power on, and never the other way round.
        if not self._records.keep_entry(self._core.current, entry):
            return False
        refused = self.port.switch_on(feed)
        if not refused and self.port.is_on() is False:
            refused = "it was told to, and says that its outputs are still off."
        if refused:
            self.port.make_safe()
            off = DiaryEntry(
                self._core.now(), "power_off", Subject(Kind.POWER, key).text, f"Not switched on: {refused}"
            )
            self._records.keep_entry(self._core.current, off)
            self._core.tell.trouble(f"Not switched on: {refused}")
            return False
        self._power, self._stopped = LivePower(self._core.current, key, entry.at), None
        self._core.tell.power_changed()
        self._tell_switched()
        return True

    def _tell_switched(self) -> None:
        for listener in self.switched:
            listener()

    def switch_off(self) -> None:
        """Switch off, and write that down in the diary of the build that was on. On screen it is off at once.

        Where it does not go off, it stays on here too, and ``trouble`` says so.
        """
        power = self._power
        if power is None:
            return
        failed = self.port.switch_off()
        if not failed and self.port.is_on():
            failed = "It was told to, and says that its outputs are still on."
        if failed:
            self._core.tell.trouble(f"Not switched off: {failed} Pull the mains plug.")
            return
        at = self._core.now()
        self._power, self._stopped = None, Stopped(power, at)
        self._records.keep_entry(
            power.build_id, DiaryEntry(at, "power_off", Subject(Kind.POWER, power.channel).text, "Stopped.")
        )
        self._core.tell.power_changed()
        self._tell_switched()

    @property
    def words(self) -> str:
        """What is under power, as build and channel are called today; empty while everything is off."""
        if self._power is None:
            return ""
        build = self._core.build_of(self._power.build_id)
        return f"{build.name}, {build.channel_of(self._power.channel)}"

    @property
    def stopped(self) -> Stopped | None:
        """The last stop since this window was opened, until something is switched on again."""
        return self._stopped

    def watch_left_s(self, stand: StepStand) -> float:
        """Seconds that are still to be watched before the reading of a step of the current build."""
        others = [stand for channel in self._core.build.channels for stand in self._bring_up.stands(channel)]
        return watch_left_s(stand, self._power, self._core.current, others, self._core.now())

    def since_on_s(self, key: str) -> float | None:
        """Seconds since a channel of the current build (or its supply) was switched on; None while it is off."""
        power = self._power
        if power is None or (power.build_id, power.channel) != (self._core.current, key):
            return None
        return max((self._core.now() - power.at).total_seconds(), 0.0)

    def put_away(self) -> None:
        """The discharge was measured: the count-down is over."""
        self._stopped = None
        self._core.tell.power_changed()

    def find_power(self) -> LivePower | None:
        """Power that was on when Plinth was last closed (or killed)."""
        known = {build.id for build in self._core.stored_builds}
        for build_id, entry in self._core.workshop.last_of(("power_on", "power_off")):
            if entry.kind == "power_on" and build_id in known:
                channel = read_subject(entry.subject).channel
                return LivePower(build_id, channel, entry.at, found=True)
        return None
