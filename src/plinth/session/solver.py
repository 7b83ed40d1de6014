"""What the window asks to be predicted, and the answers: plain functions, run by the window's runner of jobs."""

import dataclasses
from collections.abc import Callable

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.judge.claims import THD_OF, claim_for
from plinth.judge.margin import Margin
from plinth.judge.rules import judge
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.distortion import power_figure_at
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve


@dataclasses.dataclass(frozen=True)
class SolveRequest:
    """``live``: a slider is moving, so only values are computed and spreads kept from ``spreads_of``.

    ``number`` rises with every request, so that an older answer never takes the place of a newer one.
    """

    number: int
    build: Build
    situation: Situation
    live: bool = False
    spreads_of: Prediction | None = None


@dataclasses.dataclass(frozen=True)
class SolveAnswer:
    """``prediction`` None means that the build cannot run: ``problem`` says why."""

    request: SolveRequest
    prediction: Prediction | None
    margins: tuple[Margin, ...]
    problem: str


@dataclasses.dataclass(frozen=True)
class LoadAnswer:
    """Clip power into each dummy load by its identity; ``claimed`` those at the distortion that the listing means."""

    request: SolveRequest
    powers: dict[str, Figure]
    claimed: dict[str, Figure]


def answer(request: SolveRequest) -> SolveAnswer:
    """Compute one request."""
    try:
        prediction = solve(request.build, request.situation, request.spreads_of if request.live else None)
    except PhysicsError as error:
        return SolveAnswer(request, None, (), f"This build cannot run: {error}.")
    return SolveAnswer(request, prediction, judge(prediction), "")


def answer_loads(request: SolveRequest, give_way: Callable[[], bool]) -> LoadAnswer | None:
    """Powers into every dummy load; None where ``give_way`` says in between that something newer is waiting."""
    powers: dict[str, Figure] = {}
    claimed: dict[str, Figure] = {}
    for load in request.build.loads:
        if give_way():
            return None
        here = request.build.model_copy(update={"load": load})
        asked = request.situation.model_copy(update={"load_ohm": None, "level": 1.0, "lamp_w": None})
        try:
            prediction = solve(here, asked)
        except PhysicsError:
            # Into this load it cannot run; the others are still worth seeing.
            continue
        powers[load.identity] = prediction["clip_worst_power_w"]
        claim = claim_for(here.module, load.r_ohm)
        if claim is not None and claim.definition in THD_OF:
            at = power_figure_at(prediction, THD_OF[claim.definition])
            if at is not None:
                claimed[load.identity] = at
    return LoadAnswer(request, powers, claimed)
