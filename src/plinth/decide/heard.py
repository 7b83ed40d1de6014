"""What was heard, kept beside what was read and never mixed with it: notes with piece, loudspeaker, level and who."""

import dataclasses

# How such lines of the diary begin, and what they are about, as records have it.
HEARD, BLIND, VERDICT = "Heard", "Blind comparison", "Verdict"
HEARD_SUBJECT, BLIND_SUBJECT, VERDICT_SUBJECT = "heard", "blind comparison", "verdict"
HEARD_SUBJECTS = (HEARD_SUBJECT, BLIND_SUBJECT, VERDICT_SUBJECT)


@dataclasses.dataclass(frozen=True)
class ListeningNote:
    """One evening: what was played through what, how loud, who listened, and the words for it."""

    words: str
    piece: str = ""
    loudspeaker: str = ""
    level: str = ""
    who: str = ""

    @property
    def line(self) -> str:
        """As the diary keeps it."""
        with_ = [self.piece, self.loudspeaker, self.level, self.who]
        under = ", ".join(each.strip() for each in with_ if each.strip())
        return f"{HEARD}{f' ({under})' if under else ''}: {self.words.strip()}"
