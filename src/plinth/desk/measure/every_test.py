"""The tests at the bench, in the order in which they stand at the left of Measure: a new one is a line here.

Their widgets are imported when they are made: the window stands before most of them.
"""

import dataclasses
from collections.abc import Callable

from plinth.desk.measure.test_page import TestPage
from plinth.desk.session import BenchSession


def _clipping(session: BenchSession) -> TestPage:
    from plinth.desk.measure.clipping_table import ClipTest

    return ClipTest(session)


def _response(session: BenchSession) -> TestPage:
    from plinth.desk.measure.response_curve import ResponseTest

    return ResponseTest(session)


@dataclasses.dataclass(frozen=True)
class BenchTest:
    """``name`` on its button, ``command`` what the finder calls it, what makes its page. Its key: Ctrl+Shift+place."""

    name: str
    command: str
    page: Callable[[BenchSession], TestPage]


TESTS = (
    BenchTest("Clipping power", "clipping power", _clipping),
    BenchTest("Response", "frequency response", _response),
)
