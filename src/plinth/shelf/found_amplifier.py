"""A build of an amplifier that somebody else built, from what can be read on it; everything else is a guess.

``2x30 225VA, 2x10m 50V, rails 42 V``: parts as in ``spoken_build``, and the volts that are marked on the rails.
"""

import dataclasses
import re
from collections.abc import Sequence

from plinth.builds.build import AnyModule, Build
from plinth.builds.properties import How, Told, how_known, with_told
from plinth.builds.supplies import LinearSupply
from plinth.builds.supply_parts import Reservoir
from plinth.builds.taken_in import TakenIn
from plinth.shelf.requirement import SupplyKind
from plinth.shelf.spoken_build import SpokenBuild, build_of, on_rail, pieces_of, plain_board, read_spoken
from plinth.units.errors import QuantityError
from plinth.units.typed import read_quantity

USUAL_NAME, BOARD_NAME = "Amplifier taken in", "Board in it"
# Whoever built it chose cans for their rails with a quarter to spare, or nearly so.
RAIL_OF_CAN = 0.75
LEAST_RAIL_V, MOST_RAIL_V = 8.0, 200.0
# Output stages of transistors are not older.
FIRST_YEAR = 1950
_VOLTS = r"(?P<volts>\d+(?:[.,]\d+)?)\s*V?"
_RAILS = re.compile(
    rf"^(?:rails?(?:\s+of)?\s*:?\s*(?:±|\+/?[-−]?)?\s*{_VOLTS}|(?:±|\+/?[-−]?)\s*{_VOLTS.replace('volts', 'both')})"
    r"(?:\s*/?\s*[-−]\s*\d+(?:[.,]\d+)?\s*V?)?(?:\s+rails?)?$",
    re.IGNORECASE,
)


@dataclasses.dataclass(frozen=True)
class FoundAmplifier:
    """What was read on it: ``spoken`` parts, and ``rail_v`` that is marked (None: nowhere)."""

    spoken: SpokenBuild
    rail_v: float | None = None

    @property
    def words(self) -> str:
        """How it was understood."""
        rails = [] if self.rail_v is None else [f"rails marked ±{self.rail_v:g} V"]
        parts = self.spoken.words
        return "; ".join([*([parts] if parts else []), *rails])


def read_found(text: str, modules: Sequence[AnyModule] = ()) -> FoundAmplifier:
    """What can be read on an amplifier. Raises QuantityError for what is none of it, and where nothing helps."""
    rail_v, rest = None, []
    for piece in pieces_of(text):
        marked = _RAILS.match(piece)
        if marked is None:
            rest.append(piece)
            continue
        if rail_v is not None:
            raise QuantityError(f"found the rails twice ({piece[:40]!r}), expected them once: leave one of them out")
        rail_v = read_quantity(f"{marked['volts'] or marked['both']} V", "V")
        if not LEAST_RAIL_V <= rail_v <= MOST_RAIL_V:
            raise QuantityError(f"found rails of {rail_v:g} V, expected {LEAST_RAIL_V:g} to {MOST_RAIL_V:g} V")
    found = FoundAmplifier(read_spoken(", ".join(rest), modules) if rest else SpokenBuild(), rail_v)
    said = found.spoken
    if rail_v is None and said.module is None and said.source is None and said.required is None and not _can(said):
        raise QuantityError(
            "found nothing that tells its rails, expected the transformer (2x30 225VA), volts marked on the board "
            "(rails 42 V), the cans (10m 50V), or the power on its back (60 W 8R)"
        )
    return found


def _can(spoken: SpokenBuild) -> Reservoir | None:
    """The reservoir that was read, where its volts were."""
    can = dict(spoken.parts).get("supply.reservoir")
    return can if isinstance(can, Reservoir) and how_known(can, "v_rated").trusted else None


def found_build(
    found: FoundAmplifier,
    taken_in: TakenIn,
    *,
    name: str,
    channels: tuple[str, ...],
    mains_v: float,
    supply: SupplyKind = "transformer",
) -> Build:
    """The build as far as it is known. Raises PhysicsError or QuantityError where it does not go together, with why."""
    spoken, can = found.spoken, _can(found.spoken)
    if spoken.module is None and found.rail_v is not None:
        spoken = dataclasses.replace(spoken, module=plain_board(BOARD_NAME, rail_v=found.rail_v, how=How.STATED))
    elif spoken.module is not None and found.rail_v is not None:
        if not how_known(spoken.module, "v_rail_nominal").trusted:
            spoken = dataclasses.replace(spoken, module=on_rail(spoken.module, found.rail_v, How.STATED))
    elif spoken.module is None and spoken.source is None and spoken.required is None:
        assert can is not None, "read_found asks for one of them"
        guessed = round(RAIL_OF_CAN * can.v_rated)
        spoken = dataclasses.replace(spoken, module=plain_board(BOARD_NAME, rail_v=guessed, how=How.ASSUMED))
    build = build_of(spoken, channels, mains_v, supply)
    if taken_in.year is not None:
        build = _dated(build, taken_in.year)
    said = f" Said of it: {taken_in.complaint.rstrip('.')}." if taken_in.complaint else ""
    made = "" if taken_in.year is None else f" Made in {taken_in.year}."
    note = (
        f"Taken in as somebody else built it.{said}{made} Read on it: {found.words}. Every other value is assumed "
        "until somebody reads or measures it."
    )
    return build.model_copy(update={"name": name.strip() or USUAL_NAME, "taken_in": taken_in, "note": note[:4000]})


def _dated(build: Build, year: int) -> Build:
    """Cans as old as the whole: nobody says that they were not changed, so it stays an assumption."""
    supply = build.supply
    if not isinstance(supply, LinearSupply):
        return build
    told = Told(field="year", how=How.ASSUMED, value=year, source="as old as the amplifier")
    cans = {
        slot: with_told(can, told)
        for slot in ("reservoir", "reservoir_minus")
        if isinstance(can := getattr(supply, slot), Reservoir) and can.year is None
    }
    return build.model_copy(update={"supply": supply.model_copy(update=cans)})


def read_year(text: str, this_year: int) -> int | None:
    """The year in which it was made; None for an empty field. Raises QuantityError for what is none."""
    said = text.strip().removeprefix("about").strip()
    if not said:
        return None
    if not re.fullmatch(r"\d{4}", said) or not FIRST_YEAR <= int(said) <= this_year:
        raise QuantityError(
            f"found {text.strip()[:40]!r} as the year, expected one from {FIRST_YEAR} to {this_year}, or nothing"
        )
    return int(said)
