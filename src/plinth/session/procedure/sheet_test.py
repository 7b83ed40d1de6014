"""A test of one sheet under way: what it asks for, what is current, what a reading means there, and what comes next."""

import dataclasses
from collections.abc import Callable

from plinth.bench import heat_run
from plinth.bench.every_sheet import SheetKind, conditions_differ, read_by_test, readings_for
from plinth.bench.reading_sentence import sentence_of, taken_words
from plinth.bench.sheet import Graph, Outcome, Readings, Sheet
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.record.giving import TYPED, Giving
from plinth.record.meaning import Meaning, reading_of
from plinth.record.reading import Reading
from plinth.record.request import Request
from plinth.record.slips import Understood, understand
from plinth.session.current_channel import CurrentChannel
from plinth.session.procedure.taking import Said, Taken, given_by, not_understood
from plinth.session.runner import words_of
from plinth.session.session import Session
from plinth.units.errors import QuantityError

COMPUTING = "Computing what to expect …"
# Whose sheet is made: the channel, the build, the source.
SheetOf = tuple[str, Build, Situation]


@dataclasses.dataclass(frozen=True)
class SheetListener:
    """Who is told: that something else is current or known, that a reading is on disk, and what was not computed."""

    shown: Callable[[], None]
    written: Callable[[], None]
    failed: Callable[[Exception], None]


class SheetProcedure:
    """One sheet, one of its readings current. ``words`` say why there is no sheet (yet)."""

    def __init__(self, session: Session, kind: SheetKind, listener: SheetListener) -> None:
        self._session, self.kind, self._tell = session, kind, listener
        self.channel = CurrentChannel(session)
        self.sheet: Sheet | None = None
        self.asked: tuple[Request, ...] = ()
        self.readings: Readings = {}
        self.row = 0
        self.blocked, self.words = "", ""
        self._wanted: SheetOf | None = None
        self._made_for: SheetOf | None = None

    # The sheet

    def make(self) -> None:
        """Have the sheet of the current channel computed, where it is not known yet."""
        session, build, channel = self._session, self._session.build, self.channel.name
        at = session.situation
        asked = Situation(
            mains_v_rms=at.mains_v_rms, mains_hz=at.mains_hz, battery_v=at.battery_v, source_v_rms=at.source_v_rms
        )
        wanted = (channel, build, asked)
        if self._wanted == wanted:
            self._show()
            return
        self._wanted = wanted
        if self.sheet is None:
            self.words = COMPUTING
            self._tell.shown()
        make = self.kind.make

        def fail(error: Exception) -> None:
            self._made(wanted, words_of(error))
            self._tell.failed(error)

        session.jobs.ask(
            f"sheet {self.kind.key}", lambda _task: _sheet(make, build, channel, asked),
            lambda answer: self._made(wanted, answer), fail,
        )  # fmt: skip

    def _made(self, wanted: SheetOf, answer: object) -> None:
        if wanted != self._wanted:
            return
        if not isinstance(answer, Sheet):
            self.sheet, self.asked, self.words = None, (), str(answer)
            self._tell.shown()
            return
        self.sheet, self.words = answer, ""
        self.look_up()
        # What was current stays current where the new sheet asks for it too.
        same = self._made_for is not None and self._made_for[0] == wanted[0]
        self._made_for = wanted
        self.row = min(self.row, max(len(self.asked) - 1, 0)) if same else self._next_from(-1)
        self._tell.shown()

    @property
    def is_current(self) -> bool:
        """Whether the sheet is that of the build as it is now."""
        return self.sheet is not None and self._made_for == self._wanted

    def look_up(self) -> None:
        """Look up which readings count today, and what is asked for as they stand."""
        if self.sheet is not None:
            self.readings = readings_for(self.sheet, self._session.records.book)
            self.asked = self.sheet.asked(self.readings)
            self.row = min(self.row, max(len(self.asked) - 1, 0))

    def _show(self) -> None:
        self.look_up()
        self._tell.shown()

    # What is current

    @property
    def request(self) -> Request | None:
        """What is asked for now."""
        return self.asked[self.row] if 0 <= self.row < len(self.asked) else None

    @property
    def subject(self) -> str:
        """What is asked for, as records have it."""
        return "" if self.request is None else self.request.subject

    def choose(self, place: int) -> None:
        """Go to what is asked."""
        self.row = place
        self._show()

    def counts(self) -> tuple[int, int]:
        """(readings kept, readings asked for); (so many, 0) before the sheet was made."""
        if self.sheet is None:
            return read_by_test(self._session.records.book).get(self.kind.key, 0), 0
        return sum(bool(self.readings.get(asked.key)) for asked in self.asked), len(self.asked)

    def needed(self, channel: str) -> tuple[str, ...]:
        """Every channel whose first power must be done for the current reading."""
        asked, build = self.request, self._session.build
        if asked is None:
            return (channel,)
        if asked.needs == "channel" and asked.channel in (build.channel_keys or build.channels):
            return (build.channel_of(asked.channel),)
        return {"nothing": (), "channel": (channel,), "all": build.channels}[asked.needs]

    def last(self, asked: Request) -> Reading | None:
        """The last reading of what is asked that counts today."""
        held = self.readings.get(asked.key, ())
        return held[-1] if held else None

    def why_stale(self, asked: Request) -> str:
        """Why a reading of it no longer counts; empty where one does, or there is none."""
        return "" if self.last(asked) else conditions_differ(asked, self._session.records.book)

    def outcomes(self) -> tuple[Outcome, ...]:
        """What the readings say."""
        return () if self.sheet is None else self.sheet.outcomes(self.readings)

    def graph(self) -> Graph | None:
        """The readings over what is predicted."""
        return None if self.sheet is None else self.sheet.graph(self.readings)

    # A reading

    def _understood(self, text: str, asked: Request) -> Understood:
        others = [other for other in self.asked if other is not asked]
        since_s = heat_run.since_start_s(self.readings, self._session.now())
        return understand(text.strip(), asked, others, self._session.kit, since_s)

    def said(self, text: str) -> Said:
        """What a text means in the current place; of no text what was kept there, or is expected."""
        asked = self.request
        if asked is None:
            return Said(State.UNKNOWN, self.words)
        if not text.strip():
            return self._said_of_kept(asked)
        try:
            meant = self._understood(text, asked)
        except QuantityError as error:
            return not_understood(error)
        if meant.taken is None:
            choices = tuple(f"{choice.slip or 'as typed'}: {choice.words}" for choice in meant.choices)
            return Said(State.UNKNOWN, meant.sentence, "", choices)
        reading = reading_of(meant.taken, text, self._session.now())
        return Said(reading.state, meant.taken.words, sentence_of(reading))

    def _said_of_kept(self, asked: Request) -> Said:
        kept = self.last(asked)
        if kept is not None:
            return Said(kept.state, f"Kept: {kept.typed}", f"{sentence_of(kept)} {taken_words(kept)}")
        stale, before = self.why_stale(asked), self._session.records.reading(asked.subject)
        window = asked.window
        words = f"Expect {window.words()}" if window is not None else "Nothing is known to hold it against"
        if stale and before is not None:
            return Said(State.UNKNOWN, words, f"{before.typed} was read before and does not count here: {stale}.")
        why = asked.why_open if window is None else window.why
        guessed = f" Estimated in it: {', '.join(window.estimated)}." if window is not None and window.estimated else ""
        return Said(State.UNKNOWN, words, f"{why[:1].upper()}{why[1:]}.{guessed}" if why else "")

    def take(self, text: str, giving: Giving = TYPED) -> Taken:
        """Keep a reading and go to the next; with no text leave this one and go on."""
        asked = self.request
        if self.blocked or asked is None:
            return Taken.HELD
        if not text.strip():
            self.choose((self.row + 1) % len(self.asked))
            return Taken.NOTHING
        try:
            meant = self._understood(text, asked)
        except QuantityError:
            return Taken.NOT_UNDERSTOOD
        return Taken.ASKED if meant.taken is None else self._keep(meant.taken, text, giving)

    def answer(self, text: str, choice: int, giving: Giving = TYPED) -> Taken:
        """Keep a reading as the choice of that place takes it."""
        asked = self.request
        if self.blocked or asked is None:
            return Taken.HELD
        try:
            choices = self._understood(text, asked).choices
        except QuantityError:
            return Taken.NOT_UNDERSTOOD
        return self._keep(choices[choice], text, giving) if choice < len(choices) else Taken.NOT_UNDERSTOOD

    def _keep(self, meaning: Meaning, text: str, giving: Giving) -> Taken:
        if not self.is_current:
            # The windows of another build: it is judged by its own, once they are known.
            return Taken.HELD
        if not self._session.records.keep(given_by(reading_of(meaning, text, self._session.now()), giving)):
            return Taken.NOT_KEPT
        self._tell.written()
        self.look_up()
        # What was read at another place leaves this one still to be read.
        here = self.request is not None and meaning.request.key == self.request.key
        if here and meaning.request.form != "course":
            self.row = self._next_from(self.row)
        self._show()
        return Taken.KEPT

    def _next_from(self, row: int) -> int:
        """The next that was not read, after ``row`` and round again; the same where there is none."""
        order = [(row + 1 + k) % len(self.asked) for k in range(len(self.asked))] if self.asked else []
        return next((place for place in order if not self.readings.get(self.asked[place].key)), max(row, 0))


def _sheet(
    make: Callable[[Build, str, Situation], Sheet], build: Build, channel: str, situation: Situation
) -> Sheet | str:
    try:
        return make(build, channel, situation)
    except PhysicsError as error:
        return f"Nothing to expect: {error}."
