"""Parts measured before they are soldered in: the current kind, its pieces one by one, and which comes next."""

import dataclasses
from collections.abc import Callable

from plinth.guide.judging import understood_words
from plinth.guide.part_tests.part_test import (
    MOST_PIECES,
    Matched,
    PartTest,
    matched,
    next_piece,
    reading_of_piece,
    verdict_of,
)
from plinth.judge.state import State
from plinth.record.giving import TYPED, Giving
from plinth.record.reading import Reading
from plinth.record.request import Request
from plinth.session.procedure.taking import Said, Taken, given_by, sentence
from plinth.session.session import Session
from plinth.units.errors import AmbiguousError, QuantityError

NO_MORE = f"Found {MOST_PIECES} pieces, expected no more: that is a drawer, not a build."


@dataclasses.dataclass(frozen=True)
class PieceListener:
    """Who is told: that another kind or piece is current, and that a reading is on disk."""

    shown: Callable[[], None]
    written: Callable[[], None]


class PieceProcedure:
    """Pieces of one kind of part of the current build, one of them current."""

    blocked = ""

    def __init__(self, session: Session, listener: PieceListener) -> None:
        self._session, self._tell = session, listener
        self._key = ""
        self.piece = 1

    # Kinds and pieces

    @property
    def tests(self) -> tuple[PartTest, ...]:
        """What is worth measuring of the current build."""
        return self._session.bring_up.part_tests()

    @property
    def test(self) -> PartTest | None:
        """The current kind; the first where the build has it no more, None where nothing is measured."""
        tests = self.tests
        return next((test for test in tests if test.key == self._key), tests[0] if tests else None)

    @property
    def pieces(self) -> dict[int, Reading]:
        """What was measured of the current kind, by the number of the piece."""
        return {} if self.test is None else self._session.bring_up.pieces(self.test)

    @property
    def sets(self) -> Matched | None:
        """The best sets of what was measured; None where nothing is matched, or too little was measured yet."""
        test = self.test
        if test is None:
            return None
        partner = next((kind for kind in self.tests if test.matching and kind.key == test.matching.partner), None)
        return matched(test, self.pieces, self._session.bring_up.pieces(partner) if partner else {})

    def choose_test(self, row: int) -> None:
        """Go to the kind of that place, at its first piece without a reading."""
        self._key = self.tests[row].key
        self.choose(next_piece(self.pieces))

    def next_test(self) -> None:
        """Go to the next kind, after the last one the first."""
        test = self.test
        if test is not None:
            self.choose_test((self.tests.index(test) + 1) % len(self.tests))

    def choose(self, piece: int) -> None:
        """Go to a piece: one that was measured is measured again."""
        self.piece = piece
        self._tell.shown()

    def move(self, step: int) -> None:
        """So many pieces on, no further than the first one without a reading."""
        self.choose(min(max(self.piece + step, 1), next_piece(self.pieces)))

    @property
    def subject(self) -> str:
        """The current piece, as records have it."""
        return "" if self.test is None else self.test.subject(self.piece)

    @property
    def request(self) -> Request | None:
        """What is asked of the current piece; None where nothing is measured."""
        return None if self.test is None or self.piece > MOST_PIECES else self.test.request(self.piece)

    def counts(self) -> tuple[int, int]:
        """(pieces measured, pieces that the build needs) of the current kind."""
        return len(self.pieces), 0 if self.test is None else self.test.pieces

    # A reading

    def said(self, text: str) -> Said:
        """What a text means of the current piece; of no text what was kept of it, or is expected."""
        test = self.test
        if test is None:
            return Said(State.UNKNOWN, "")
        typed = text.strip()
        if typed and self.piece > MOST_PIECES:
            return Said(State.UNKNOWN, NO_MORE)
        try:
            reading = self._read(test, typed) if typed else self.pieces.get(self.piece)
        except AmbiguousError as error:
            return Said(State.UNKNOWN, sentence(error), "", error.texts)
        except QuantityError as error:
            return Said(State.UNKNOWN, sentence(error))
        if reading is None:
            estimated = f" Estimated: {', '.join(test.window.estimated)}." if test.window.estimated else ""
            return Said(State.UNKNOWN, f"{test.window.why}{estimated}")
        verdict = verdict_of(test, reading)
        return Said(verdict.state, f"{understood_words(reading)}. {verdict.words}")

    def _read(self, test: PartTest, text: str) -> Reading:
        return reading_of_piece(test, self.piece, text, self._session.kit, self._session.now())

    def take(self, text: str, giving: Giving = TYPED) -> Taken:
        """Keep the piece and go to the next; with no text go to the next kind."""
        test = self.test
        if test is None:
            return Taken.HELD
        if not text.strip():
            self.next_test()
            return Taken.NOTHING
        if self.piece > MOST_PIECES:
            return Taken.HELD
        try:
            reading = self._read(test, text.strip())
        except AmbiguousError as error:
            return Taken.ASKED if error.texts else Taken.NOT_UNDERSTOOD
        except QuantityError:
            return Taken.NOT_UNDERSTOOD
        if not self._session.records.keep(given_by(reading, giving)):
            return Taken.NOT_KEPT
        self._tell.written()
        self.choose(next_piece(self.pieces))
        return Taken.KEPT

    def answer(self, text: str, choice: int, giving: Giving = TYPED) -> Taken:
        """Keep a reading as the choice of that place says it."""
        choices = self.said(text).choices
        return self.take(choices[choice], giving) if choice < len(choices) else Taken.NOT_UNDERSTOOD
