"""What is known of a part besides what it is: price, where it is, when it comes, who sells it."""

import datetime as dt
import re
from typing import Annotated

import pydantic
from pydantic import Field, field_validator

from plinth.builds.invalid import invalid
from plinth.builds.quantities import Model
from plinth.units.errors import QuantityError

Money = Annotated[float, Field(ge=0, le=1e6)]
Count = Annotated[int, Field(ge=0, le=1_000_000)]


class Price(Model):
    """``each`` from ``from_count`` pieces on, in the stock's currency."""

    from_count: Annotated[int, Field(ge=1, le=1_000_000)] = 1
    each: Money


class Stock(Model):
    """``prices`` by rising counts, in ``currency`` (a text); how many are in the drawer, and how many are ordered.

    ``panel`` boards come on one panel, which is bought whole. ``due`` the day on which what is ordered is expected,
    ``back_order`` that nobody knows one. ``hidden``: it stays in the file and is not shown. ``placeholder``: it stands
    for some part of its kind, and is no size that can be bought.
    """

    prices: tuple[Price, ...] = ()
    currency: str = Field(default="", max_length=12)
    panel: Annotated[int, Field(ge=1, le=1000)] = 1
    in_drawer: Count = 0
    ordered: Count = 0
    back_order: bool = False
    due: dt.date | None = None
    supplier: str = Field(default="", max_length=200)
    note: str = Field(default="", max_length=2000)
    hidden: bool = False
    placeholder: bool = False

    @field_validator("prices")
    @classmethod
    def _counts_rise(cls, prices: tuple[Price, ...]) -> tuple[Price, ...]:
        counts = [price.from_count for price in prices]
        if counts != sorted(set(counts)) or (counts and counts[0] != 1):
            raise ValueError(
                f"found prices from {', '.join(map(str, counts))} pieces, expected them rising and the first from 1"
            )
        return prices

    def missing(self, needed: int) -> int:
        """How many of ``needed`` are still to be bought: neither in the drawer nor ordered."""
        return max(needed - self.in_drawer - self.ordered, 0)

    def each_at(self, count: int) -> float | None:
        """Price of one where ``count`` are bought; None where nobody states one."""
        reached = [price.each for price in self.prices if price.from_count <= max(count, 1)]
        return reached[-1] if reached else None

    def bought_for(self, count: int) -> tuple[int, float] | None:
        """How many to buy for ``count``, and what they cost in all: more than needed where that is cheaper."""
        counts = {self.whole(n) for n in (count, *(p.from_count for p in self.prices if p.from_count > count))}
        ways = [(n, n * each) for n in counts if (each := self.each_at(n)) is not None]
        return min(ways, key=lambda way: (way[1], way[0])) if ways and count > 0 else None

    def for_price_of(self, count: int) -> int:
        """The most pieces that cost no more than ``count`` of them do: how many for the price of eight."""
        whole = self.whole(max(count, 1))
        each = self.each_at(whole)
        if each is None:
            return whole
        maximum = whole
        for price in self.prices:
            if price.each > 0.0 and price.from_count > whole:
                # By whole panels, and not below where the lower price begins.
                fits = int((whole * each + 1e-9) / price.each) // self.panel * self.panel
                maximum = max(maximum, fits) if fits >= price.from_count else maximum
        return maximum

    def whole(self, count: int) -> int:
        """How many come with ``count`` of them where panels are bought whole."""
        return -(-count // self.panel) * self.panel

    @property
    def where(self) -> str:
        """``2 in the drawer``, ``1 ordered, due 9 Dec``, ``back order``; empty where there is none."""
        said = []
        if self.in_drawer:
            said.append(f"{self.in_drawer} in the drawer")
        if self.ordered:
            when = f", due {self.due.day} {self.due:%b}" if self.due else ", back order" if self.back_order else ""
            said.append(f"{self.ordered} ordered{when}")
        elif self.back_order:
            said.append("back order")
        return "; ".join(said)


def prices_text(prices: tuple[Price, ...]) -> str:
    """Prices as a line that can be typed: ``4.60; 10: 3.90`` for 4.60 each, and 3.90 from ten on."""
    return "; ".join(f"{p.each:.2f}" if p.from_count == 1 else f"{p.from_count}: {p.each:.2f}" for p in prices)


def read_prices(text: str) -> tuple[Price, ...]:
    """The prices in a line. Raises QuantityError with found and expected."""
    prices = []
    for part in (entry.strip() for entry in text.split(";")):
        if not part:
            continue
        match = re.match(r"^(?:(?:from )?(\d{1,7}) *:)? *(\d{1,7}(?:[.,]\d+)?)$", part)
        if match is None:
            raise QuantityError(f"found {part[:40]!r}, expected prices such as 4.60; 10: 3.90 (from ten on 3.90 each)")
        prices.append(Price(from_count=int(match[1] or 1), each=float(match[2].replace(",", "."))))
    try:
        return Stock(prices=tuple(prices)).prices
    except pydantic.ValidationError as error:
        raise QuantityError(invalid(error)[0].words) from error
