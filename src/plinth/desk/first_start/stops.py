"""The five stops of the tour, in the order in which one needs what they show."""

from plinth.desk.band.band import PowerPathBand
from plinth.desk.first_start.tour import Stop
from plinth.desk.head import Head
from plinth.desk.plan.page import PlanPage


def stops_of(band: PowerPathBand, plan: PlanPage, head: Head) -> tuple[Stop, ...]:
    """From the power path to the keys."""
    return (
        Stop("The power path", "From the wall to the loudspeaker, with what flows at each station. Click one, or "
             "Alt+Shift and its number: its part is then in front.", lambda: band),
        Stop("What if", "Move a slider: the mains, the load, the level. All figures follow while it moves, and "
             "Ctrl+Backspace puts every one back.", lambda: plan.what_if),
        Stop("Figures and limits", "What is computed, with its spread, and each limit with the room that is left. "
             "Ctrl+I tells where a figure comes from, and which reading would narrow it.", lambda: plan.ledger),
        Stop("Six stages", "Plan, Inspect, Power up, Measure, Decide, Diary: left to right as the work goes. Ctrl+1 "
             "to Ctrl+6. Where nobody has looked, no power is asked for.", lambda: head.stage_row),
        Stop("Every action by name", "Ctrl+K finds any of them, with its key. F1 opens the guide at the place where "
             "you are. Whatever is typed is kept at once.", lambda: head.finder),
    )  # fmt: skip
