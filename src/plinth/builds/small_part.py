"""Small things beside the parts of a station: an op-amp in another's place, resistors, a bare board, a kit."""

import re
from collections.abc import Sequence
from typing import Annotated, Literal

import pydantic
from pydantic import Field

from plinth.builds.invalid import invalid
from plinth.builds.properties import PartModel
from plinth.builds.stock import Stock, prices_text, read_prices
from plinth.units.errors import QuantityError

MOST_SMALL_PARTS = 60
Place = Literal["module", "channel", "build"]

_COUNT = re.compile(r"^(\d{1,4})\s*(?:[x×*]|pcs)\s*")
_PLACE = re.compile(r"\s+(?:per|for each|for every|for the|each)\s+(module|channel|build)\b")
_BEFORE = re.compile(r"\s+(?:instead of|in place of|replaces)\s+(.+)$")
_PANEL = re.compile(r"^(?:panel(?: of)?\s+(\d{1,4})|(\d{1,4})\s+on a panel)$")
_DRAWER = re.compile(r"^(\d{1,6})\s+in the drawer$")
_OPTION = re.compile(r"^(?:an?\s+)?option$")
EXPECTED = "2 x Quiet op-amp per module instead of the plain one; 3.20; panel 2; 4 in the drawer"


class SmallPart(PartModel):
    """``count`` of it go into each ``place``, in the place of what was there before (``instead_of``, or nothing).

    ``fitted`` False: an option that was not taken: it stands in the list and is not bought.
    """

    place: Place = "module"
    count: Annotated[int, Field(ge=1, le=1000)] = 1
    instead_of: str = Field(default="", max_length=120)
    fitted: bool = True
    stock: Stock = Stock()

    @property
    def words(self) -> str:
        """As it is listed: ``2 × Quiet op-amp for each module, instead of the plain one``."""
        where = "for the build" if self.place == "build" else f"for each {self.place}"
        before = f", instead of {self.instead_of}" if self.instead_of else ""
        option = "" if self.fitted else " (option, not taken)"
        return f"{self.count} × {self.name} {where}{before}{option}"

    @property
    def typed(self) -> str:
        """As it is typed, with all that a line can say of it."""
        before = f" instead of {self.instead_of}" if self.instead_of else ""
        said = [f"{self.count} x {self.name} per {self.place}{before}"]
        if self.stock.prices:
            # A line parts by semicolons: several prices stay together between commas.
            said.append(prices_text(self.stock.prices).replace("; ", ", "))
        if self.stock.panel > 1:
            said.append(f"panel {self.stock.panel}")
        if self.stock.in_drawer:
            said.append(f"{self.stock.in_drawer} in the drawer")
        return "; ".join([*said, *([] if self.fitted else ["option"])])

    def in_build(self, modules: int, channels: int) -> int:
        """How many go into a build of so many modules and channels."""
        return self.count * {"module": modules, "channel": channels, "build": 1}[self.place]


def read_small_part(text: str, known: SmallPart | None = None) -> SmallPart:
    """A small part from a typed line; what a line cannot say is kept of ``known``, the one that is changed.

    Raises QuantityError with found and expected.
    """
    first, *rest = (piece.strip() for piece in text.strip().split(";"))
    count = _COUNT.match(first)
    left = first[count.end() :] if count else first
    before = _BEFORE.search(left)
    left = left[: before.start()] if before else left
    place = _PLACE.search(left)
    name = (left[: place.start()] + left[place.end() :] if place else left).strip(" ,")
    if not name:
        raise QuantityError(f"found {text.strip()[:40]!r}, expected what it is, such as {EXPECTED}")
    stock = {} if known is None else known.stock.model_dump()
    stock |= {"prices": (), "panel": 1, "in_drawer": 0}
    fitted = True
    for piece in filter(None, rest):
        if panel := _PANEL.match(piece):
            stock["panel"] = int(panel[1] or panel[2])
        elif drawer := _DRAWER.match(piece):
            stock["in_drawer"] = int(drawer[1])
        elif _OPTION.match(piece):
            fitted = False
        else:
            stock["prices"] = read_prices(_by_semicolons(piece))
    document = {
        "name": name, "key": "" if known is None else known.identity, "place": place[1] if place else "module",
        "count": int(count[1]) if count else 1, "instead_of": before[1].strip(" ,") if before else "",
        "fitted": fitted, "stock": stock,
    }  # fmt: skip
    if known is not None and document["key"] == name:
        document["key"] = ""
    try:
        return SmallPart.model_validate(document)
    except pydantic.ValidationError as error:
        raise QuantityError(invalid(error)[0].words) from error


def _by_semicolons(prices: str) -> str:
    """``4.60, 10: 3.90`` as prices are typed elsewhere; a comma inside a number stays."""
    return re.sub(r",\s+", "; ", prices)


def with_small_part(parts: Sequence[SmallPart], place: int | None, part: SmallPart) -> tuple[SmallPart, ...]:
    """The list with ``part`` in that place, or behind all others. Raises QuantityError: a name twice, too many."""
    others = [known for k, known in enumerate(parts) if k != place]
    if any(known.name.lower() == part.name.lower() for known in others):
        raise QuantityError(f"found {part.name!r} twice, expected each name once: change the one that is there")
    if len(others) >= MOST_SMALL_PARTS:
        raise QuantityError(f"found {len(others) + 1} small parts, expected at most {MOST_SMALL_PARTS}")
    changed = list(parts)
    if place is None:
        changed.append(part)
    else:
        changed[place] = part
    return tuple(changed)
