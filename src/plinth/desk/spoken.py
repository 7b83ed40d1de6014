"""What a page has to say to whoever hears it instead of seeing it."""

import dataclasses

from plinth.record.diary import DiaryEntry
from plinth.record.request import Request, Task
from plinth.report.reading_words import reading_words, sentence_of


@dataclasses.dataclass(frozen=True)
class Spoken:
    """``question`` what is asked now, ``answer`` what is said of what is typed, ``alarm`` what cannot wait.

    ``build`` of which, ``power`` whether something is live or still charged, ``wait`` how long there is to wait: of
    these two a changed number is no news.
    """

    question: str = ""
    answer: str = ""
    alarm: str = ""
    build: str = ""
    power: str = ""
    wait: str = ""


def question_words(task: Task | None, held: str = "") -> str:
    """What is asked, what is expected, and why it waits; empty where nothing is asked."""
    if task is None:
        return ""
    window = task.window if isinstance(task, Request) else None
    return sentences(task.full_title, task.ask, "" if window is None else f"Expect {window.words()}", held)


def kept_words(entry: DiaryEntry) -> str:
    """What a line of the diary says: of a reading with its value and what was said of it."""
    reading = entry.reading
    if reading is None:
        return sentences(entry.words)
    return sentences(f"{entry.words}: {reading_words(reading)}, {reading.state}", sentence_of(reading))


def sentences(*parts: str) -> str:
    """These after each other, each ended with a stop; what is empty is left out."""
    return " ".join(part if part.endswith((".", "!", "?", "…")) else f"{part}." for part in parts if part)
