"""What this build becomes with a part of the shelf in it: rails, watts into each load, its tightest margin."""

import dataclasses
import math
from collections.abc import Sequence

from plinth.builds.build import Build
from plinth.builds.parts import Part
from plinth.builds.situation import Situation
from plinth.judge.margin import Margin
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.figure import Figure
from plinth.predict.quick_estimate import Ready, WellKnown, glance, load_powers, made_ready, well_known
from plinth.predict.solve import solve
from plinth.shelf.slots import joined

# A dummy load's own rating is a matter of the bench: it says nothing of the build, but to whoever looks for a load.
OF_THE_BENCH = frozenset({"load_rating", "load_network"})


@dataclasses.dataclass(frozen=True)
class Consequence:
    """``why_not`` in a few words where the part cannot join (not ``joins``) or nothing can run; the rest is then empty.

    ``rail`` without load, ``powers`` at clip into each load by its identity, ``margin`` the tightest.
    """

    rail: Figure | None = None
    powers: dict[str, Figure] = dataclasses.field(default_factory=dict)
    margin: Margin | None = None
    why_not: str = ""
    joins: bool = True

    @property
    def watts(self) -> float:
        """The most that any load gets, W; NaN where nothing is known."""
        known_w = [power.value for power in self.powers.values() if math.isfinite(power.value)]
        return max(known_w) if known_w else math.nan

    @property
    def room(self) -> float:
        """Share of the tightest limit that is left, below 0 past it; NaN where no margin is known."""
        return math.nan if self.margin is None else room_share(self.margin)


@dataclasses.dataclass(frozen=True)
class Here:
    """The current build, known well, and the slot that parts are tried in."""

    known: WellKnown
    slot: str

    @property
    def quick(self) -> bool:
        """Whether many parts are looked at together."""
        return self.known.rough.points.circuit.plain


def begin(build: Build, situation: Situation, slot: str) -> Here:
    """Begin looking at parts for a slot. Raises PhysicsError where the build as it is cannot run."""
    asked = situation.model_copy(update={"lamp_w": None})
    return Here(well_known(solve(build, asked)), slot)


def consequences(here: Here, parts: Sequence[Part]) -> list[Consequence]:
    """What becomes of the build with each of these parts: quicker than one by one."""
    tried = [joined(here.known.prediction.build, here.slot, part) for part in parts]
    ready = iter(made_ready([build for build in tried if not isinstance(build, str)], here.known))
    return [
        Consequence(why_not=build, joins=False) if isinstance(build, str) else _consequence(here, build, next(ready))
        for build in tried
    ]


def consequence(here: Here, part: Part) -> Consequence:
    """What becomes of the build with this part."""
    tried = joined(here.known.prediction.build, here.slot, part)
    return Consequence(why_not=tried, joins=False) if isinstance(tried, str) else _consequence(here, tried, None)


def _consequence(here: Here, tried: Build, ready: Ready | None) -> Consequence:
    try:
        glanced = glance(tried, here.known, ready)
        powers = load_powers(glanced, here.known, ready)
    except PhysicsError as error:
        return Consequence(why_not=_short(str(error)))
    margins = tuple(margin for margin in judge(glanced) if here.slot == "load" or margin.key not in OF_THE_BENCH)
    return Consequence(glanced.get("rail_no_load_v"), powers, tightest(margins))


def tightest(margins: tuple[Margin, ...]) -> Margin | None:
    """The margin with the least room, of those that are known; None where none is."""
    known = [margin for margin in margins if margin.state is not State.UNKNOWN and math.isfinite(room_share(margin))]
    return min(known, key=lambda margin: (-_RANK[margin.state], room_share(margin))) if known else None


def room_share(margin: Margin) -> float:
    """Room as a share of the limit (or, where that is 0, in the unit itself)."""
    if margin.said:
        # Of a thing that is one way or another: as near its limit as its state says.
        return _SAID_ROOM.get(margin.state, math.nan)
    limit = margin.limit
    return margin.room / abs(limit) if limit else margin.room


_SAID_ROOM = {State.CLEAR: 1.0, State.CLOSE: 0.05, State.OVER: -0.5}
_RANK = {State.OVER: 2, State.CLOSE: 1, State.CLEAR: 0, State.UNKNOWN: 0}


def _short(reason: str) -> str:
    return "cannot run: " + reason.split(":")[0].split(";")[0][:80]
