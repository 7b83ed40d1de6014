"""Where the tests of a build stand: read, untested, gone stale after which change, and what would narrow most."""

import dataclasses
from collections.abc import Sequence

from plinth.builds.build import Build
from plinth.predict.mains_unstated import UNSTATED
from plinth.predict.prediction import Prediction
from plinth.record.book import RecordBook
from plinth.record.reading import Reading
from plinth.record.subject import Kind, read_subject

# Which test tells of which inputs, and where in it.
_TOLD_BY: tuple[tuple[frozenset[str], str, str], ...] = (
    (
        frozenset({"regulation", "v_secondary", "r_source", "droop", "v_set", *UNSTATED}),
        "Rails",
        "without load and at clipping",
    ),
    (frozenset({"v_forward", "r_dynamic", "r_series", "c2", "esr2"}), "Rails", "at rest and at clipping"),
    (frozenset({"c", "c_minus", "esr", "esr_minus"}), "Rails", "ripple at clipping"),
    (frozenset({"v_sat", "r_out", "modulation"}), "Clipping power", "into two loads"),
    (frozenset({"i_quiescent"}), "Mains side", "at rest"),
    (frozenset({"efficiency", "efficiency_stage"}), "Mains side", "at clipping"),
    (frozenset({"gain"}), "Gain, match", "input and output"),
    (frozenset({"r_sink"}), "Heat run", "a few temperatures"),
    (frozenset({"r_load"}), "Output impedance", "or an ohmmeter on the load: four leads"),
)
# An input that makes less than this share of a spread is not worth a test.
WORTH_SHARE = 0.15


@dataclasses.dataclass(frozen=True)
class Narrowing:
    """The input that makes most of a figure's spread, which share of it, and the test that would tell it."""

    figure: str
    label: str
    share: float
    test: str
    how: str

    @property
    def words(self) -> str:
        """In one sentence."""
        return (
            f"{self.share:.0%} of the spread of {self.figure} comes from {self.label}: "
            f"{self.test}, {self.how}, would narrow it most."
        ).replace("%", " %")


def narrows_most(prediction: Prediction, name: str = "clip_worst_power_w") -> Narrowing | None:
    """What would narrow a figure most; None where no test tells of what makes its spread."""
    figure = prediction.get(name)
    if figure is None or not figure.u:
        return None
    for contribution in sorted(figure.contributions, key=lambda row: -abs(row.u_figure)):
        share = (contribution.u_figure / figure.u) ** 2
        if share < WORTH_SHARE:
            return None
        for inputs, test, how in _TOLD_BY:
            if contribution.key in inputs:
                return Narrowing(figure.label, contribution.label, share, test, how)
    return None


def untested(counts: Sequence[tuple[str, int]]) -> str:
    """Which tests have no reading that counts, from (name, readings) of each; empty where each has one."""
    names = [name for name, have in counts if not have]
    if not names:
        return ""
    return f"Not read yet: {', '.join(_lower(name) for name in names)}."


def _lower(name: str) -> str:
    return name[0].lower() + name[1:]


_TESTED = (Kind.CLIP, Kind.CLIP_1, Kind.CLIP_10, Kind.CLIP_DRAW, Kind.RESPONSE, Kind.TEST)
_MARKS = {"module": "the module", "supply": "the supply", "protection": "the protection board"}


def gone_stale(book: RecordBook, build: Build) -> str:
    """How many subjects were last read on a board or a supply that is another one now; empty where none was."""
    changed: dict[str, int] = {}
    for text in book:
        record = book.last(text)
        if not isinstance(record, Reading) or read_subject(text).kind not in _TESTED or record.conditions is None:
            continue
        for place in _MARKS:
            if place in record.conditions and record.conditions[place] != build.mark(place):
                changed[place] = changed.get(place, 0) + 1
    parts = [f"{count} since {_MARKS[place]} was exchanged" for place, count in changed.items()]
    return f"Stale: {', '.join(parts)}." if parts else ""
