"""The stages of the work, in the order in which people work: a new one is a line here and a page of its own.

Pages are imported when they are made: the window stands before most of them.
"""

import dataclasses
from collections.abc import Callable

from plinth.desk.session import BenchSession
from plinth.desk.stage_keys import DECIDE, DIARY, INSPECT, MEASURE, PLAN, POWER_UP
from plinth.desk.stage_page import StagePage
from plinth.session import stages as states
from plinth.session.session import Session


def _plan(session: BenchSession) -> StagePage:
    from plinth.desk.plan.page import PlanPage

    return PlanPage(session)


def _inspect(session: BenchSession) -> StagePage:
    from plinth.desk.inspect.page import InspectPage

    return InspectPage(session)


def _power_up(session: BenchSession) -> StagePage:
    from plinth.desk.power_up.page import PowerUpPage

    return PowerUpPage(session)


def _measure(session: BenchSession) -> StagePage:
    from plinth.desk.measure.page import MeasurePage

    return MeasurePage(session)


def _decide(session: BenchSession) -> StagePage:
    from plinth.desk.decide.page import DecidePage

    return DecidePage(session)


def _diary(session: BenchSession) -> StagePage:
    from plinth.desk.diary.page import DiaryPage

    return DiaryPage(session)


@dataclasses.dataclass(frozen=True)
class Stage:
    """``key`` in code, ``name`` as shown, what makes its page, what it says of itself.

    On the keyboard it is Ctrl and its place in the row.
    """

    key: str
    name: str
    page: Callable[[BenchSession], StagePage]
    state: Callable[[Session], str]


STAGES = (
    Stage(PLAN, "Plan", _plan, states.plan_state),
    Stage(INSPECT, "Inspect", _inspect, states.inspect_state),
    Stage(POWER_UP, "Power up", _power_up, states.power_up_state),
    Stage(MEASURE, "Measure", _measure, states.measure_state),
    Stage(DECIDE, "Decide", _decide, states.decide_state),
    Stage(DIARY, "Diary", _diary, states.diary_state),
)
