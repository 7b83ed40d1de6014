"""A run: reading after reading by instruments, until all that they read is read, it is stopped, or must not go on."""

from collections.abc import Callable

from plinth.bench.clip_cell import Definition
from plinth.captures.capture import CaptureError
from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.physics.numbers.errors import GivenUpError
from plinth.record.conditions import Conditions
from plinth.record.request import Request
from plinth.session.instruments.instruments import Instruments, why_failed
from plinth.session.instruments.taking import Taking, take
from plinth.session.instruments.wanted import Wanted, fed_by, wanted
from plinth.session.procedure.clip_test import ClipProcedure
from plinth.session.procedure.taking import Taken
from plinth.session.runs.subjects import LeftToHand, Subject
from plinth.session.session import Session

DONE = "All that instruments read here is read; everything is off."
_WHY = {
    Taken.HELD: "readings are held back here",
    Taken.NOT_UNDERSTOOD: "what it read is no reading here",
    Taken.ASKED: "what it read may mean several things, or is doubted",
    Taken.NOT_KEPT: "it could not be kept",
}


class Run:
    """``going`` while it does; ``words`` what is under way, or why it ended; ``question`` what a hand must do first.

    ``kept`` so many readings; ``left`` what it leaves to a hand; ``fault`` what of the instruments ended it, if any
    did. ``told`` is called whenever any of it changes.
    """

    def __init__(self, session: Session, told: Callable[[], None]) -> None:
        self._session, self._told = session, told
        self.going, self.kept, self.words, self.question = False, 0, "", ""
        self.left: list[LeftToHand] = []
        self.fault: ErrorKind | None = None
        self._subject: Subject | None = None
        self._most = 0
        self._confirmed: set[str] = set()
        self._read_here: list[tuple[str, Conditions]] = []

    @property
    def _instruments(self) -> Instruments:
        return self._session.instruments

    def begin(self, subject: Subject, most: int = 1000) -> None:
        """Read what is current, and go on for ``most`` readings."""
        if self.going:
            return
        self._subject, self._most = subject, most
        self.kept, self.left, self.question, self.fault = 0, [], "", None
        self._confirmed.clear()
        self._read_here = []
        self.going = True
        self._instruments.begin()
        self._next()

    def confirm(self) -> None:
        """What a hand had to do is done."""
        if self.question:
            self._confirmed.add(self.question)
            self.question, self.going = "", True
            self._instruments.begin()
            self._next()

    def stop(self) -> None:
        """End it: what is under way is called off, and everything goes off."""
        if self.going or self.question:
            self._end("Stopped; what was kept stays, everything is off.")

    def who_reads(self, subject: Subject) -> str:
        """Who would read what is current, or why nobody but a hand."""
        if subject.procedure.request is None:
            return "This is done by hand, and then said to be."
        plan = self.plan(subject)
        if not isinstance(plan, str):
            return f"{plan.who[:1].upper()}{plan.who[1:]} reads it."
        return plan if subject.by_hand() is None else "No instrument reads this: the simulated hand does."

    # One after another

    def plan(self, subject: Subject) -> Wanted | str:
        """What the current reading needs, or why no instrument reads it."""
        request = subject.procedure.request
        if request is None:
            return "Nothing is read here."
        return wanted(
            request, self._session.build, self._instruments.bench, subject.probe, subject.extra,
            powered=subject.powered,
        )  # fmt: skip

    def _next(self) -> None:
        subject = self._subject
        assert subject is not None, "a run has one"
        while True:
            if not self.going:
                return
            if self.kept >= self._most:
                self._end_of_these(subject)
                return
            request = subject.procedure.request
            if request is None:
                self._end("What comes next asks for a hand, not for a reading.", safe=False)
                return
            if self._read_here.count((request.subject, request.conditions)) >= subject.times:
                # A test stays where its last place was read.
                if not subject.leave():
                    self._end(DONE)
                    return
                continue
            plan = f"Held: {subject.held}" if subject.held else self.plan(subject)
            if not isinstance(plan, str) or (subject.by_hand() is not None and not subject.held):
                break
            self.left.append(LeftToHand(request.title, plan))
            if subject.stays_on:
                # Whoever brings a board up reads on by hand, while power is on as the step has it.
                self._end(plan, safe=False)
                return
            if self._most == 1 or not subject.leave():
                self._end(plan if self._most == 1 else DONE if self.kept else plan)
                return
        self._read(subject, request, plan if isinstance(plan, Wanted) else None)

    def _end_of_these(self, subject: Subject) -> None:
        """So many were wanted, and are read."""
        words = "Read." if self._most == 1 else f"{self.kept} readings kept."
        if subject.stays_on:
            on = self._session.power.live is not None
            self._end(f"{words} Power stays on: Esc stops it." if on else words, safe=False)
        else:
            self._end(f"{words} Everything is off.")

    def _read(self, subject: Subject, request: Request, plan: Wanted | None) -> None:
        """Read by ``plan``; None: at a simulated bench, what a hand reads there."""
        for asked in () if plan is None else plan.by_hand:
            if asked not in self._confirmed:
                self._instruments.make_safe()
                self.question, self.going = asked, False
                self.words = f"Everything is off. {asked} Then confirm."
                self._told()
                return
        why = subject.ready()
        if why:
            self._end(why)
            return
        self.words = f"{'The simulated hand' if plan is None else plan.who} reads: {request.title} …"
        self._told()

        def done(answer: object) -> None:
            assert isinstance(answer, Taking), "that is what was asked for"
            if not self.going:
                return
            if subject.wait_s > 0.0:
                subject.waited()
            if subject.procedure.request is None or subject.procedure.request.subject != request.subject:
                self._end("Something else is current now: it was not kept.")
                return
            if self._keep(subject, answer):
                self._next()

        def failed(error: Exception) -> None:
            if not self.going:
                return
            if isinstance(error, CaptureError) and self._most > 1:
                # What is not in the record is left to an eye; the others are read all the same.
                self.left.append(LeftToHand(request.title, why_failed(error)))
                self._read_here += [(request.subject, request.conditions)] * subject.times
                if subject.leave():
                    self._next()
                else:
                    self._end(DONE)
                return
            self.fault = error.kind if isinstance(error, InstrumentError) else None
            known = isinstance(error, InstrumentError | GivenUpError | CaptureError)
            self._end(why_failed(error) if known else f"Plinth made a mistake: {error}. Everything is off.")

        self._session.jobs.ask("instruments", self._work(subject, plan), done, failed, bench=True)

    def _work(self, subject: Subject, plan: Wanted | None) -> Callable[[object], Taking]:
        """What is done off the window's thread: the wait, then the reading."""
        instruments, wait_s, hand = self._instruments, subject.wait_s, subject.by_hand()
        draw = subject.draw
        beside = None if draw is None else wanted(
            draw, self._session.build, instruments.bench, draw.probe, subject.extra
        )  # fmt: skip
        procedure = subject.procedure
        definition: Definition = procedure.definition if isinstance(procedure, ClipProcedure) else "onset"

        request = procedure.request
        fed = None if plan is not None or request is None or not subject.powered else fed_by(
            request, self._session.build, instruments.bench, subject.extra
        )  # fmt: skip

        def work(_task: object) -> Taking:
            if fed is not None:
                instruments.setter.feed(fed)
            if wait_s > 0.0:
                instruments.setter.orders.wait(wait_s)
            if plan is not None:
                return take(instruments, plan, definition, beside if isinstance(beside, Wanted) else None)
            assert hand is not None, "one of the two reads it"
            return Taking(hand)

        return work

    def _keep(self, subject: Subject, taking: Taking) -> bool:
        asked = subject.procedure.request
        taken = subject.take(taking.given, taking.draw)
        if taken is Taken.ASKED and not subject.procedure.said(taking.given.text).choices:
            # It is only doubted, as a slip of whoever types might be; an instrument makes none.
            taken = subject.take(taking.given, taking.draw)
        if taken is not Taken.KEPT:
            self._end(f"Not kept: {_WHY.get(taken, taken.value)} ({taking.given.text}). Everything is off.")
            return False
        self.kept += 1
        if asked is not None:
            self._read_here.append((asked.subject, asked.conditions))
        self.words = f"Kept {taking.given.text}. {taking.words}".strip()
        why = subject.after()
        if why:
            self._end(why)
            return False
        self._told()
        return True

    def _end(self, words: str, *, safe: bool = True) -> None:
        self.going, self.question, self.words = False, "", words
        if safe:
            unsafe = self._instruments.make_safe()
            if self._session.power.live is not None and self._instruments.connected:
                self._session.power.switch_off()
            if unsafe:
                self.words = f"{words} {' '.join(unsafe)}"
        self._told()
