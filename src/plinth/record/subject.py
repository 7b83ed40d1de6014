"""What a record is about, typed, with one text form that the file keeps.

The text is made of the parts with ``/`` between them, as files have had it from the first; it is read by what each kind
holds, so that a slash in a channel's or a load's name does no harm.
"""

import dataclasses
import enum
import functools
import re


class Kind(enum.StrEnum):
    """What records are about."""

    BRINGUP = "bringup"
    CLIP = "clip"
    CLIP_1 = "clip_1"
    CLIP_10 = "clip_10"
    CLIP_DRAW = "clip_draw"
    RESPONSE = "response"
    TEST = "test"
    MEASURE = "measure"
    POWER = "power"
    INSPECT = "inspect"
    COURSE = "course"
    PART = "part"
    OTHER = ""


# In place of a channel: what is done once for all of a build, and its supply where all channels share it.
WHOLE, SUPPLY = "build", "supply"

_FORMS = {
    Kind.BRINGUP: re.compile(r"bringup/(?P<channel>.+)/(?P<what>[^/]*)"),
    Kind.COURSE: re.compile(r"course/(?P<channel>.+)/(?P<what>[^/]*)"),
    Kind.PART: re.compile(r"part/(?P<channel>[^/]+)/(?P<what>[^/]*)"),
    Kind.CLIP: re.compile(r"clip/(?P<channel>.+?)/(?P<driven>one|all)/(?P<what>.*)"),
    Kind.CLIP_1: re.compile(r"clip_1/(?P<channel>.+?)/(?P<driven>one|all)/(?P<what>.*)"),
    Kind.CLIP_10: re.compile(r"clip_10/(?P<channel>.+?)/(?P<driven>one|all)/(?P<what>.*)"),
    Kind.CLIP_DRAW: re.compile(r"clip_draw/(?P<channel>.+?)/(?P<driven>one|all)/(?P<what>.*)"),
    Kind.RESPONSE: re.compile(r"response/(?P<channel>.+)/(?P<what>[^/]*)"),
    Kind.TEST: re.compile(r"test/(?P<channel>.+?)/(?P<what>[a-z]+:.*)"),
    Kind.MEASURE: re.compile(r"measure/(?P<channel>.+)/(?P<what>[^/]*)"),
    Kind.INSPECT: re.compile(r"inspect/(?P<what>[^/]+)"),
    Kind.POWER: re.compile(r"power/(?P<channel>.+)"),
}


@dataclasses.dataclass(frozen=True)
class Subject:
    """``what`` is read or done, of which channel.

    The step, the load's name, the frequency, or the test and what it asks (``rails:full_plus``); ``driven`` who plays
    in a cell (``one``, ``all``). Of any other kind ``what`` is the whole text (``build``, ``note``).
    """

    kind: Kind
    channel: str = ""
    what: str = ""
    driven: str = ""

    @property
    def text(self) -> str:
        """As the file keeps it."""
        if self.kind is Kind.OTHER:
            return self.what
        parts = (self.kind.value, self.channel, self.driven, self.what)
        return "/".join(part for part in parts if part)


# All subjects of a build are looked through at every step of a slider, and are the same each time.
@functools.lru_cache(maxsize=8192)
def read_subject(text: str) -> Subject:
    """The subject that a text of the file tells of."""
    for kind, form in _FORMS.items():
        match = form.fullmatch(text)
        if match is not None:
            return Subject(kind, **{"what": "", **match.groupdict()})
    return Subject(Kind.OTHER, what=text)
