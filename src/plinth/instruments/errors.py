"""What goes wrong between Plinth and an instrument, each with its key, a sentence and what to try."""

import enum


class ErrorKind(enum.StrEnum):
    """Keys, for whoever decides by them."""

    REFUSED = "refused"
    TIME_OUT = "time-out"
    GONE = "gone"
    NO_NUMBER = "no number"
    WRONG_ANSWER = "wrong answer"
    WRONG_KIND = "wrong kind"
    ITS_ERROR = "its own error"
    NOT_HELD = "not held"
    BEYOND_LIMITS = "beyond limits"
    NOT_KNOWN = "not known to its map"
    STALE = "too old"
    PROCESS_LOST = "process lost"


class InstrumentError(Exception):
    """``kind`` of it, ``who`` it is about (a role, an address), ``words`` what was found and expected, ``remedy``."""

    def __init__(self, kind: ErrorKind, who: str, words: str, remedy: str = "") -> None:
        self.kind, self.who, self.words, self.remedy = kind, who, words, remedy or REMEDIES.get(kind, "")
        super().__init__(f"{who}: {words}. {self.remedy}".strip())

    def __reduce__(self) -> tuple[type["InstrumentError"], tuple[ErrorKind, str, str, str]]:
        return type(self), (self.kind, self.who, self.words, self.remedy)


REMEDIES = {
    ErrorKind.REFUSED: "Is it on, on this network, and its remote interface switched on? Does another program hold it?",
    ErrorKind.TIME_OUT: "Try it at its prompt with *IDN?; where it is slow, its map says answers_within_s.",
    ErrorKind.GONE: "See to its cable, then try it again.",
    ErrorKind.NO_NUMBER: "Try the same question at its prompt, and write what it answers into its map.",
    ErrorKind.WRONG_ANSWER: "Another program may talk to it, or it does not take several commands in a line: then its "
    "map says tagged = false.",
    ErrorKind.WRONG_KIND: "Look up the address on its own screen.",
    ErrorKind.ITS_ERROR: "Its map sends what it does not know: try the line at its prompt.",
    ErrorKind.NOT_HELD: "Another program, or a hand at its knobs, has changed it: begin anew.",
}  # fmt: skip
