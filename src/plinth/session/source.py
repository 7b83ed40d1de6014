"""Who gives a value that a test asks for: a builder who types it, an instrument, a capture, a stand-in."""

from typing import Protocol

from plinth.record.conditions import Conditions
from plinth.record.request import Request
from plinth.session.given import Given
from plinth.session.procedure.taking import Procedure, Said, Taken


class Source(Protocol):
    """Gives what it can, and says nothing where it cannot: nobody guesses a reading."""

    def give(self, request: Request) -> Given | None:
        """The value that is asked for; None where this source cannot read it."""

    def choose(self, request: Request, said: Said) -> int | None:
        """Which of ``said.choices`` the value just given was; None where this source does not know."""


def answer_from(source: Source, procedure: Procedure) -> Taken:
    """Ask a source for what a test asks now, and keep it as its field would.

    ``NOTHING`` where it gives nothing, ``HELD`` where nothing is asked for or taken, ``ASKED`` where what it gave may
    mean several things and it does not know which.
    """
    request = procedure.request
    if request is None or procedure.blocked:
        return Taken.HELD
    given = source.give(request)
    if given is None:
        return Taken.NOTHING
    taken = procedure.take(given.text, given.giving)
    if taken is not Taken.ASKED:
        return taken
    choice = source.choose(request, procedure.said(given.text))
    return taken if choice is None else procedure.answer(given.text, choice, given.giving)


def answer_all(source: Source, procedure: Procedure, most: int) -> int:
    """Go on from request to request while each answer is kept, ``most`` times at the most; how many were kept.

    It ends where nothing more is kept, and where what is asked next was asked before.
    """
    asked: list[tuple[str, Conditions]] = []
    for kept in range(most):
        request = procedure.request
        # The same place under other conditions, as at another source, is asked for anew.
        if request is None or (place := (request.subject, request.conditions)) in asked:
            return kept
        if answer_from(source, procedure) is not Taken.KEPT:
            return kept
        asked.append(place)
    return most
