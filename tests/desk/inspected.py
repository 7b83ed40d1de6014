"""An inspection that is behind us."""

from plinth.record.clock import now
from plinth.record.reading import Finding
from plinth.session.session import Session


def inspect_all(session: Session) -> None:
    """Find every check of the current build sound."""
    session.records.keep_all(
        [
            Finding(one.check.subject, "sound", "", now(), dict(one.check.conditions))
            for one in session.bring_up.inspection()
        ]
    )
