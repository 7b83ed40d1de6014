"""Topics of the guide and their sections, and which of them hold some words."""

import dataclasses
import functools
import re
from importlib import resources

# In the order in which one reads; a topic is a file of that name in ``topics``.
TOPICS = (
    "begin", "plan", "shelf", "inspect", "power-up", "measure", "captures", "instruments", "decide", "diary", "safety",
    "typing", "spreads", "files", "keys", "limits", "faults", "figures",
)  # fmt: skip
# A heading may name its anchor: ``## clip onset, peak {#clip_v_peak}``.
_HEADING = re.compile(r"^(#{1,2}) +(.+?)(?: +\{#([\w-]+)\})?$", re.MULTILINE)
_NOT_WORD = re.compile(r"[^\w+−%°Ωµ-]+")


@dataclasses.dataclass(frozen=True)
class Section:
    """A stretch below one heading: ``topic`` and ``anchor`` are its place, ``text`` its Markdown without the heading.

    ``level`` 1 for the topic's own beginning.
    """

    topic: str
    anchor: str
    title: str
    text: str
    level: int

    @property
    def place(self) -> str:
        """``topic#anchor``; of a topic's beginning the topic alone."""
        return self.topic if self.level == 1 else f"{self.topic}#{self.anchor}"


def anchor_of(title: str) -> str:
    """What a heading without an anchor of its own is found by: its words in small letters, joined by hyphens."""
    return "-".join(part for part in _NOT_WORD.split(title.lower()) if part.strip("-"))


def topic_text(topic: str) -> str:
    """The Markdown of a topic. Raises FileNotFoundError where there is none of that name."""
    return (resources.files("plinth.manual") / "topics" / f"{topic}.md").read_text(encoding="utf-8")


@functools.lru_cache(maxsize=1)
def sections() -> tuple[Section, ...]:
    """Every section of every topic, in the order in which one reads."""
    return tuple(section for topic in TOPICS for section in sections_of(topic, topic_text(topic)))


def sections_of(topic: str, text: str) -> tuple[Section, ...]:
    """The sections of a topic's Markdown."""
    heads = list(_HEADING.finditer(text))
    ends = [head.start() for head in heads[1:]] + [len(text)]
    return tuple(
        Section(topic, head[3] or anchor_of(head[2]), head[2].strip(), text[head.end() : end].strip(), len(head[1]))
        for head, end in zip(heads, ends, strict=True)
    )


def section_at(place: str) -> Section | None:
    """The section of a place (``topic`` or ``topic#anchor``); the topic's beginning where it has no such heading."""
    topic, _, anchor = place.partition("#")
    of_topic = [section for section in sections() if section.topic == topic]
    return next((each for each in of_topic if anchor and each.anchor == anchor), of_topic[0] if of_topic else None)


def found(words: str) -> tuple[Section, ...]:
    """Sections that hold every word, as one types: those with them in their title first; all of none typed."""
    wanted = words.lower().split()
    if not wanted:
        return sections()
    ranked = []
    for number, section in enumerate(sections()):
        title, body = section.title.lower(), f"{section.title} {section.text}".lower()
        if all(word in body for word in wanted):
            ranked.append((-sum(word in title for word in wanted), number, section))
    return tuple(section for _, _, section in sorted(ranked, key=lambda entry: entry[:2]))
