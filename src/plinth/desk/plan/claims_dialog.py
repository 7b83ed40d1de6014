"""What the listings of a build's parts claim, judged three ways, with the arithmetic of the current row."""

from PySide6.QtWidgets import QHBoxLayout, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.tables import fill, reading_table
from plinth.judge.claim_verdict import ClaimState, JudgedClaim
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.session.claims import claims_of
from plinth.session.runner import words_of

HEADS = ("Part", "claims", "possible at all", "with its own claims", "in this build")
# A word and a sign of its own form: never by colour alone.
WORDS = {State.CLEAR: "○ yes", State.CLOSE: "△ with a word to it", State.OVER: "◆ no", State.UNKNOWN: "? not known"}
WAYS = ("Possible at all", "With its own other claims", "In this build")


class ClaimsDialog(Dialog):
    """Claims in rows, and how the current one was judged."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session = session
        self.found: tuple[JudgedClaim, ...] = ()
        self.setWindowTitle(f"Claims: {session.build.name}")
        look.size(self, 900, 600)
        self.rows = reading_table(HEADS, "Claims, each judged three ways", widest=1)
        self.rows.currentCellChanged.connect(lambda row, *_: self._tell(row))
        self.count = label("Judging …", "soft", wrap=True)
        self.sentences = [label("", wrap=True) for _ in WAYS]
        close = button("Close  Esc")
        close.clicked.connect(self.reject)
        foot = QHBoxLayout()
        foot.addStretch()
        foot.addWidget(close)
        box = column(self.count, spacing=8, margins=(16, 14, 16, 14))
        box.addWidget(self.rows, 1)
        for sentence in self.sentences:
            box.addWidget(sentence)
        box.addLayout(foot)
        self.setLayout(box)
        kept = session.plan_kept
        session.jobs.ask(
            "claims",
            lambda task: claims_of(kept.build, kept.situation, task.progress),
            self._take,
            self._failed,
            long=True,
        )

    def _failed(self, error: Exception) -> None:
        self.count.setText(f"{error}." if isinstance(error, PhysicsError) else words_of(error))

    def _take(self, answer: object) -> None:
        assert isinstance(answer, tuple)
        self.found = answer
        fill(
            self.rows,
            [(listing.part, listing.words, *(WORDS[v.state] for v in _verdicts(listing))) for listing in self.found],
        )
        refuted = sum(any(v.state is State.OVER for v in _verdicts(listing)) for listing in self.found)
        self.count.setText(
            f"{len(self.found)} claims, {refuted} of them refused in one way or another."
            if self.found
            else "No part of this build claims anything: type what its listing says along the shelf."
        )
        if self.found:
            worst = max(
                range(len(self.found)), key=lambda k: sum(v.state is State.OVER for v in _verdicts(self.found[k]))
            )
            self.rows.setFocus()
            self.rows.setCurrentCell(worst, 0)

    def _tell(self, row: int) -> None:
        if 0 <= row < len(self.found):
            for sentence, way, verdict in zip(self.sentences, WAYS, _verdicts(self.found[row]), strict=True):
                sentence.setText(f"{way}: {verdict.sentence}")

    def done(self, answer: int) -> None:
        """Close, in whichever way; what is under way ends."""
        self._session.jobs.cancel("claims")
        super().done(answer)


def _verdicts(claim: JudgedClaim) -> tuple[ClaimState, ClaimState, ClaimState]:
    return claim.possible, claim.consistent, claim.here
