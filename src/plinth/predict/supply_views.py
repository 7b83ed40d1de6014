"""The supplies of a build by name, each with the state its rails are in: what a screen can choose from."""

import dataclasses

from plinth.predict.power_state import PowerState
from plinth.predict.solution import Solution


@dataclasses.dataclass(frozen=True)
class SupplyView:
    """``name`` for people; ``feeds_output``: the modules hang on it (an input stages' supply feeds no output)."""

    name: str
    state: PowerState
    feeds_output: bool = True


def supply_views(solution: Solution) -> tuple[SupplyView, ...]:
    """All supplies, the driven ones first; a channel that does not play has its supply at rest."""
    build, points = solution.build, solution.points
    if not build.one_supply_per_channel:
        views = [SupplyView("main", points.at_level)]
        if solution.input_rest is not None:
            views.append(SupplyView("input stages", solution.input_rest, feeds_output=False))
        return tuple(views)
    driven = solution.situation.driven(build)
    views = [SupplyView(name, points.at_level if k < driven else points.idle) for k, name in enumerate(build.channels)]
    if solution.input_rest is not None:
        views += [
            SupplyView(f"{name}, input stages", solution.input_rest, feeds_output=False) for name in build.channels
        ]
    return tuple(views)
