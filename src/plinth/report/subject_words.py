"""What a record is about, in words: the channel as it is called today, the step, check or part by its own name."""

from plinth.builds.build import Build
from plinth.guide.inspection.checks import checks_of
from plinth.guide.progress import REPAIRED
from plinth.record.subject import SUPPLY, WHOLE, Kind, Subject, read_subject

_KINDS = {
    Kind.CLIP: "clipping power", Kind.CLIP_1: "clipping power at 1 %", Kind.CLIP_10: "clipping power at 10 %",
    Kind.CLIP_DRAW: "draw at clipping", Kind.RESPONSE: "response", Kind.MEASURE: "measuring", Kind.POWER: "power",
    Kind.COURSE: "on the way",
}  # fmt: skip
# As they are written in the middle of a sentence too.
_SHORT = {"dc": "DC", "ac": "AC", "thd": "THD"}
_WHOLE = {WHOLE: "Build", SUPPLY: "Supply"}


def subject_words(subject: str, build: Build) -> str:
    """``Left: output DC``, ``Polarity of ...``: never the key under which it is kept."""
    about = read_subject(subject)
    match about.kind:
        case Kind.INSPECT:
            titles = {check.key: check.title for check in checks_of(build)}
            return titles.get(about.what, _plain(about.what))
        case Kind.PART:
            return f"{_plain(about.channel)}, piece {about.what}"
        case Kind.OTHER:
            return _plain(about.what)
        case Kind.BRINGUP:
            what = "repaired" if about.what == REPAIRED else _lower(about.what)
            return f"{_channel(about, build)}: {what}"
        case Kind.TEST:
            test, _, asked = about.what.partition(":")
            return f"{_channel(about, build)}: {_lower(test)}, {_lower(asked)}"
        case _:
            what = f", {_lower(about.what)}" if about.what else ""
            return f"{_channel(about, build)}: {_KINDS[about.kind]}{what}"


def tells_of_repair(subject: str) -> bool:
    """Whether a record with a reason tells that something was repaired, and not that a step was passed over."""
    about = read_subject(subject)
    return about.kind is Kind.BRINGUP and about.what == REPAIRED


def _channel(about: Subject, build: Build) -> str:
    known = _WHOLE.get(about.channel)
    return known if known is not None else build.channel_of(about.channel).capitalize()


def _plain(key: str) -> str:
    words = _lower(key)
    return words[:1].upper() + words[1:]


def _lower(key: str) -> str:
    return " ".join(_SHORT.get(word, word) for word in key.split("_"))
