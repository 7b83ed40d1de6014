"""What each stage of the work says of itself: done, due, over, in a few words."""

from plinth.guide.progress import settled_count
from plinth.judge.state import State
from plinth.record.subject import Kind, read_subject
from plinth.session.session import Session


def plan_state(session: Session) -> str:
    """How many margins are over, or close; that it cannot run."""
    if session.predictions.problem:
        return "cannot run"
    over = sum(m.state is State.OVER for m in session.predictions.margins)
    close = sum(m.state is State.CLOSE for m in session.predictions.margins)
    return f"{over} over" if over else f"{close} close" if close else "clear" if session.predictions.margins else ""


def inspect_state(session: Session) -> str:
    """Checks answered, of all; what is bad or in doubt first."""
    answers = session.bring_up.inspection()
    wrong = sum(answer.finding is not None and not answer.sound for answer in answers)
    if wrong:
        return f"{wrong} not sound"
    return f"{sum(answer.answered for answer in answers)}/{len(answers)}" if answers else ""


def power_up_state(session: Session) -> str:
    """Steps settled, of all steps of all channels."""
    stands = [session.bring_up.stands(channel) for channel in session.build.channels]
    return f"{sum(settled_count(s) for s in stands)}/{sum(len(s) for s in stands)}"


def measure_state(session: Session) -> str:
    """How many readings there are."""
    have = sum(read_subject(text).kind in (Kind.CLIP, Kind.RESPONSE, Kind.TEST) for text in session.records.book)
    return f"{have} read" if have else ""


def decide_state(_session: Session) -> str:
    """A decision is never due."""
    return ""


def diary_state(_session: Session) -> str:
    """A diary is never due."""
    return ""
