"""The process in which all talk with instruments runs: ``python -m plinth.instruments.talker``.

Three threads: one hears the window, one tells the guard that all is well, the main one talks. Where the window is gone,
a link hangs or an answer is none, every output is switched off here, and the guard does the same from its side.
"""

import contextlib
import dataclasses
import os
import queue
import threading
import time
from multiprocessing.connection import Connection
from typing import Any

from plinth.instruments.command_map import CommandMap, LinkManners
from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.instrument import Instrument
from plinth.instruments.kinds import GIVES, InstrumentKind
from plinth.instruments.messages import (
    BEAT_S,
    SILENCE_S,
    STALE_S,
    Answer,
    AreOn,
    Ask,
    Beat,
    Connect,
    Forget,
    Holds,
    Identify,
    Line,
    ListAddresses,
    MakeSafe,
    OffNow,
    Read,
    Record,
    Tell,
    Watch,
)
from plinth.processes.lines import LOST, awake_s, lines_given, quiet_signals, send

# Of what answers at an address nothing is known yet but that it may say what it is.
ANYTHING = CommandMap(
    name="anything", kinds=(InstrumentKind.MULTIMETER,), commands={}, link=LinkManners(answers_within_s=2.0)
)


class Talker:
    """Orders of the window, one at a time; its outputs stay on only while window and guard are there."""

    def __init__(self, window: Connection, guard: Connection) -> None:
        self._window, self._guard = window, guard
        self._orders: queue.Queue[Ask | None] = queue.Queue()
        self._instruments: dict[str, Instrument] = {}
        self._manager: Any = None
        self._heard = self._beaten = awake_s()
        self._guard_lock = threading.Lock()
        # Until when the order under way may take; None while there is none.
        self._due: float | None = None
        self._armed = False
        # Why everything was switched off, until somebody was told; ``_is_off`` whether it was done already.
        self.lost, self._is_off = "", False

    # What the threads beside the main one do

    def hear(self) -> None:
        """Hear the window until it is gone."""
        try:
            while True:
                message = self._window.recv()
                self._heard = awake_s()
                if isinstance(message, Ask):
                    # What waits its turn here is not late; what lay on the line while this was stopped is.
                    late = self._heard - message.at_s > STALE_S
                    if isinstance(message.order, MakeSafe) and self._due is not None:
                        # Off does not wait for what is under way: the guard has lines of its own.
                        self._to_guard(OffNow())
                    self._orders.put(dataclasses.replace(message, late=late))
        except LOST:
            self._lose("the window is gone")
            self._orders.put(None)

    def beat(self) -> None:
        """Tell the guard that all is well for as long as it is; once it is not, off."""
        last, last_ran = awake_s(), time.monotonic()
        while True:
            threading.Event().wait(BEAT_S)
            now, ran = awake_s(), time.monotonic()
            away, slept = now - last, (now - last) - (ran - last_ran)
            last, last_ran = now, ran
            self._beaten = now
            silent = now - self._heard
            why = ""
            if away > STALE_S:
                why = "the computer slept" if slept > 0.5 * away else "this got no turn for a second, or was stopped"
            elif silent > SILENCE_S:
                why = "the window is silent"
            elif self._due is not None and now > self._due:
                why = "an instrument keeps it waiting"
            if why and self._armed:
                self._lose(why)
            if not self._to_guard(Beat()):
                # Nothing runs without a guard.
                self._lose("its guard is gone")
                self._orders.put(None)
                return

    def _lose(self, why: str) -> None:
        """Off: the guard at once, whatever the main thread is at; this one as soon as it can."""
        self.lost = self.lost or why
        self._to_guard(OffNow(why))

    def _to_guard(self, message: object) -> bool:
        with self._guard_lock:
            return send(self._guard, message)

    # The main thread

    def run(self) -> None:
        """Carry out orders until window or guard are gone; then everything off."""
        while True:
            try:
                ask = self._orders.get(timeout=BEAT_S)
            except queue.Empty:
                self._idle()
                continue
            if ask is None:
                break
            if not send(self._window, self._answered(ask)):
                break
        self._all_off()

    def _idle(self) -> None:
        if self.lost and not self._is_off:
            self._all_off()
            # Whoever asks next is told: what he reads now is not what he had set.
            self._is_off = True
        if self._armed:
            with contextlib.suppress(InstrumentError):
                for instrument in self._instruments.values():
                    instrument.feed()

    def _answered(self, ask: Ask) -> Answer:
        if awake_s() - self._beaten > STALE_S or ask.late:
            self._lose("it was stopped for a while")
        if self.lost and not isinstance(ask.order, MakeSafe | Forget | Connect | Identify | ListAddresses):
            why, self.lost, self._is_off = self.lost, "", False
            unsafe = self._all_off()
            words = f"found that {why}, expected nothing between: everything was switched off"
            return Answer(ask.number, None, (ErrorKind.STALE, "instruments", words, "Begin anew."), unsafe)
        self._due = awake_s() + self._may_take_s(ask)
        try:
            return Answer(ask.number, self._carried_out(ask.order))
        except InstrumentError as fault:
            self._due = None
            beyond = fault.kind in (ErrorKind.BEYOND_LIMITS, ErrorKind.NOT_KNOWN)
            # What was not sent has changed nothing.
            unsafe = () if beyond or not self._armed else self._all_off()
            return Answer(ask.number, None, (fault.kind, fault.who, fault.words, fault.remedy), unsafe)
        finally:
            self._due = None

    def _may_take_s(self, ask: Ask) -> float:
        role = getattr(ask.order, "role", None)
        slowest = max((each.map.link.answers_within_s for each in self._instruments.values()), default=0.5)
        own = self._instruments.get(role) if role else None
        answer = slowest if own is None else own.map.link.answers_within_s
        if isinstance(ask.order, Tell) and own is not None:
            command = own.map.commands.get(ask.order.action)
            answer = min(answer, 0.5) + (0.0 if command is None else command.settles_s)
        # An order is up to three lines and their answers; each is late by itself before this is.
        return answer + SILENCE_S

    def _carried_out(self, order: object) -> object:
        match order:
            case Connect():
                return self._connect(order)
            case Forget(role):
                unsafe = self._off_of((role,))
                own = self._instruments.pop(role, None)
                if own is not None:
                    own.link.close()
                return unsafe
            case Tell():
                own = self._of(order.role)
                if own.gives:
                    self._arm()
                    own.watch_itself()
                own.tell(order.action, order.value, order.channel, order.place)
                return None
            case Read(role, action, channel):
                return self._of(role).read(action, channel)
            case Record(role, channel):
                return self._of(role).record(channel)
            case Holds():
                for own in self._instruments.values():
                    own.holds()
                return None
            case Line(role, text):
                return self._typed(self._of(role), text)
            case Identify(address):
                own = Instrument(self._backend(), address, address, ANYTHING)
                try:
                    return own.identity()
                finally:
                    own.link.close()
            case ListAddresses():
                return tuple(str(each) for each in self._backend().list_resources("?*"))
            case AreOn():
                return tuple(role for role, own in self._instruments.items() if own.gives and own.is_on())
            case MakeSafe():
                self.lost, self._is_off = "", False
                return self._all_off()
        raise TypeError(f"found {type(order).__name__}, expected an order")

    def _typed(self, own: Instrument, text: str) -> str:
        if own.gives:
            self._arm()
        if "?" not in text:
            own.link.tell(text)
            return ""
        return own.link.ask_as_typed(text)

    def _backend(self) -> Any:
        if self._manager is None:
            import pyvisa

            self._manager = pyvisa.ResourceManager("@py")
        return self._manager

    def _connect(self, order: Connect) -> str:
        before = self._instruments.pop(order.role, None)
        if before is not None:
            before.make_safe()
            before.link.close()
        own = Instrument(self._backend(), order.role, order.address, order.own)
        identity = own.identity()
        self._instruments[order.role] = own
        self._tell_guard()
        if own.gives:
            # Whatever it was left at: a bench begins with everything off.
            said = own.make_safe()
            if said:
                raise InstrumentError(ErrorKind.GONE, order.role, said.rstrip("."))
        return identity

    def _of(self, role: str) -> Instrument:
        own = self._instruments.get(role)
        if own is None:
            raise InstrumentError(
                ErrorKind.NOT_KNOWN, role, "found no instrument in this role, expected one that was connected"
            )
        return own

    # Off

    def _arm(self) -> None:
        """From here on something may be on: the guard watches."""
        if not self._armed:
            self._armed = True
            self._tell_guard()

    def _tell_guard(self) -> None:
        safe = tuple(
            (own.link.address, own.map.link.ends_with, own.map.safe)
            for own in sorted(self._instruments.values(), key=_off_first)
            if own.gives
        )
        self._to_guard(Watch(self._armed, safe))

    def _all_off(self) -> tuple[str, ...]:
        unsafe = self._off_of(tuple(self._instruments))
        if not unsafe:
            self._armed = False
            self._tell_guard()
        return unsafe

    def _off_of(self, roles: tuple[str, ...]) -> tuple[str, ...]:
        """Each in a thread of its own: one that hangs keeps none of the others on."""
        owns = sorted((self._instruments[role] for role in roles if role in self._instruments), key=_off_first)
        said: dict[str, str] = {}

        def off(own: Instrument) -> None:
            said[own.who] = own.make_safe()

        threads = [threading.Thread(target=off, args=(own,), daemon=True) for own in owns if own.gives]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(3.0)
        return tuple(words for own in owns if own.gives and (words := said.get(own.who, f"{own.who} does not answer.")))


def _off_first(own: Instrument) -> int:
    return min((GIVES.index(kind) for kind in own.map.kinds if kind in GIVES), default=len(GIVES))


def main() -> None:
    """Talk until the window is gone."""
    quiet_signals()
    window, guard = lines_given()
    talker = Talker(window, guard)
    for work in (talker.hear, talker.beat):
        threading.Thread(target=work, daemon=True).start()
    try:
        talker.run()
    finally:
        # Threads may still wait for an instrument that hangs.
        guard.close()
        os._exit(0)


if __name__ == "__main__":
    main()
