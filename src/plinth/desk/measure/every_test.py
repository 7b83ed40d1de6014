"""The tests at the bench, in the order in which they stand at the left of Measure: a new one is a line here.

Their widgets are imported when they are made: the window stands before most of them.
"""

import dataclasses
from collections.abc import Callable

from plinth.bench.every_sheet import kind_of
from plinth.desk.measure.test_page import TestPage
from plinth.desk.session import BenchSession


def _clipping(session: BenchSession) -> TestPage:
    from plinth.desk.measure.clipping_table import ClipTest

    return ClipTest(session)


def _response(session: BenchSession) -> TestPage:
    from plinth.desk.measure.response_curve import ResponseTest

    return ResponseTest(session)


def _of_sheet(key: str) -> "BenchTest":
    kind = kind_of(key)

    def make(session: BenchSession) -> TestPage:
        from plinth.desk.measure.sheet_test import SheetTest

        return SheetTest(session, kind)

    return BenchTest(kind.name, kind.command, make)


@dataclasses.dataclass(frozen=True)
class BenchTest:
    """``name`` on its button, ``command`` what the finder calls it, what makes its page.

    Its key: Ctrl+Shift+place, 0 for the tenth.
    """

    name: str
    command: str
    page: Callable[[BenchSession], TestPage]


TESTS = (
    _of_sheet("rails"),
    _of_sheet("gain"),
    BenchTest("Clipping power", "clipping power", _clipping),
    BenchTest("Response", "frequency response", _response),
    _of_sheet("impedance"),
    _of_sheet("square"),
    _of_sheet("protection"),
    _of_sheet("mains"),
    _of_sheet("hum"),
    _of_sheet("heat"),
)
