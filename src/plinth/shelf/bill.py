"""What a build costs: each part, how many are in the drawer, how many to buy and for how much; what it waits for."""

import dataclasses
import datetime as dt
from collections.abc import Collection, Sequence

from plinth.builds.build import Build
from plinth.builds.parts import Part
from plinth.builds.short_words import short_words
from plinth.builds.small_part import SmallPart
from plinth.builds.stations import is_there, part_in, stations
from plinth.builds.stock import Stock
from plinth.builds.supply_parts import Rectifier
from plinth.shelf.item import ShelfItem
from plinth.shelf.slots import WORDS

# Before the identity of a small part, so that it is not taken for a part of the same name.
SMALL = "small part "
# What stands on the bench and not in the build.
_NOT_BUILT_IN = ("mains", "load", "supply.source", "hookup")


@dataclasses.dataclass(frozen=True)
class BillLine:
    """``part`` of which ``count`` go into each unit and ``needed`` are wanted for all; its ``stock`` (None: not kept).

    ``bought`` pieces for ``cost`` in all: more than are missing where that is cheaper. ``cost`` None: no price known.
    """

    slots: tuple[str, ...]
    words: str
    part: Part | SmallPart
    count: int
    needed: int
    stock: Stock | None
    bought: int
    cost: float | None
    left_out: bool = False

    @property
    def identity(self) -> str:
        """What it is known by, where lines are left out."""
        return f"{SMALL}{self.part.identity}" if isinstance(self.part, SmallPart) else self.part.identity

    @property
    def missing(self) -> int:
        """How many are neither in the drawer nor ordered."""
        if self.left_out:
            return 0
        return self.needed if self.stock is None else self.stock.missing(self.needed)

    @property
    def remark(self) -> str:
        """What is worth knowing of it, in a few words; empty for nothing."""
        if isinstance(self.part, SmallPart) and not self.part.fitted:
            return "option, not taken"
        if self.left_out:
            return "left out"
        if self.stock is None:
            return "not on the shelf"
        said = []
        short = self.needed - self.stock.in_drawer
        if short > 0 and self.stock.ordered:
            due = self.stock.due
            when = f"due {due.day} {due:%b}" if due else "no date"
            said.append(f"{min(short, self.stock.ordered)} ordered, {when}")
        if self.bought > self.stock.whole(self.missing):
            said.append(f"{self.bought} for less than {self.missing}")
        if self.missing and self.cost is None:
            said.append("no price known")
        if self.stock.panel > 1:
            said.append(f"{self.stock.panel} on a panel")
        elif self.missing and (more := self.stock.for_price_of(self.missing)) > max(self.missing, self.bought):
            said.append(f"{more} for the price of {self.missing}")
        return "; ".join(said)


@dataclasses.dataclass(frozen=True)
class Bill:
    """All lines for ``units`` builds."""

    units: int
    currency: str
    lines: tuple[BillLine, ...]

    @property
    def total(self) -> float:
        """What is still to be paid, without what has no price and what is left out."""
        return sum(line.cost or 0.0 for line in self.lines if not line.left_out)

    @property
    def so_far(self) -> float:
        """What the pieces that are in the drawer, or ordered, cost at the shelf's prices; without what has no price."""
        return sum(
            (line.needed - line.missing) * (line.stock.each_at(line.needed - line.missing) or 0.0)
            for line in self.lines
            if line.stock is not None and line.needed > line.missing and not line.left_out
        )

    @property
    def saved(self) -> float:
        """What is not to be paid for what is left out."""
        return sum(line.cost or 0.0 for line in self.lines if line.left_out)

    @property
    def unpriced(self) -> tuple[BillLine, ...]:
        """What is missing and has no price."""
        return tuple(line for line in self.lines if line.missing and line.cost is None)

    @property
    def waits(self) -> tuple[str, ...]:
        """What holds the work up, a sentence each, the longest wait first."""
        open_end, dated, missing = [], [], []
        for line in self.lines:
            stock = line.stock
            if line.missing:
                missing.append(f"{line.missing} × {line.part.name}")
            elif not line.left_out and stock is not None and line.needed > stock.in_drawer:
                if stock.due is None:
                    open_end.append(f"{line.part.name}: ordered, and nobody knows when it comes.")
                else:
                    dated.append((stock.due, f"{line.part.name}: comes on {stock.due.day} {stock.due:%b}."))
        if missing:
            open_end.insert(0, f"To be ordered: {', '.join(missing)}.")
        return (*open_end, *(sentence for _, sentence in sorted(dated, reverse=True)))

    @property
    def all_there(self) -> dt.date | None:
        """The day on which everything is there, as far as it is ordered; None where something is missing or undated."""
        dates = []
        for line in (line for line in self.lines if not line.left_out):
            if line.stock is None or line.missing:
                return None
            if line.needed > line.stock.in_drawer:
                if line.stock.due is None:
                    return None
                dates.append(line.stock.due)
        return max(dates, default=dt.date.min)


def bill_of(build: Build, items: Sequence[ShelfItem], units: int = 1, left_out: Collection[str] = ()) -> Bill:
    """The bill of ``units`` such builds; stock and price are those of the shelf's part of the same identity.

    ``left_out`` the identities of parts that are counted and not paid for.
    """
    known = {(type(item.part), item.part.identity): item for item in items}
    counts: dict[tuple[type[Part], str], tuple[Part, str, int]] = {}
    slots: dict[tuple[type[Part], str], tuple[str, ...]] = {}
    every = (slot for station in stations(build) for slot in station.slots)
    for slot in (slot for slot in every if slot not in _NOT_BUILT_IN and is_there(build, slot)):
        part = part_in(build, slot)
        key = (type(part), part.identity)
        _, words, before = counts.get(key, (part, WORDS[slot], 0))
        counts[key] = (part, words, before + pieces(build, slot))
        slots[key] = (*slots.get(key, ()), slot)
    lines = tuple(
        dataclasses.replace(
            _line(slots[key], part, words, count, units, known.get(key)), left_out=part.identity in left_out
        )
        for key, (part, words, count) in counts.items()
    )
    lines += tuple(_small_line(build, part, units, left_out) for part in build.small_parts)
    # A small part of which no currency is typed is paid in that of the shelf.
    priced = [(line.stock.currency, line.part) for line in lines if line.stock is not None and line.stock.prices]
    currencies = {currency for currency, part in priced if currency or not isinstance(part, SmallPart)}
    return Bill(units, currencies.pop() if len(currencies) == 1 else "", lines)


def _small_line(build: Build, part: SmallPart, units: int, left_out: Collection[str]) -> BillLine:
    count = part.in_build(len(build.channels) * build.modules_per_channel, len(build.channels))
    needed, stock = count * units, part.stock
    missing = stock.missing(needed)
    bought = stock.bought_for(missing)
    slot = "protection" if part.place == "build" else "module"
    words = f"instead of {part.instead_of}" if part.instead_of else f"small part, {part.place}"
    cost = (0.0 if not missing else None) if bought is None else bought[1]
    return BillLine(
        (slot,), words, part, count=count, needed=needed, stock=stock, bought=missing if bought is None else bought[0],
        cost=cost, left_out=not part.fitted or f"{SMALL}{part.identity}" in left_out,
    )  # fmt: skip


def pieces(build: Build, slot: str) -> int:
    """How many of a slot's part go into one build."""
    supplies = len(build.channels) if build.one_supply_per_channel else 1
    rails = 1 if build.supply.single_rail else 2
    own_minus = getattr(build.supply, "reservoir_minus", None) is not None
    match slot:
        case "module" | "insulator":
            return len(build.channels) * build.modules_per_channel
        case "preamplifier" | "volume" | "cable":
            return len(build.channels)
        case "supply.reservoir":
            return supplies * (1 if own_minus else rails)
        case "supply.smoothing" | "supply.input_supply.reservoir" | "supply.input_supply.regulator":
            return supplies * rails
        case _ if slot.startswith("supply."):
            return supplies
        case _:
            return 1


def _line(slots: tuple[str, ...], part: Part, words: str, count: int, units: int, item: ShelfItem | None) -> BillLine:
    if item is None:
        return BillLine(
            slots, words, part, count=count, needed=count * units, stock=None, bought=count * units, cost=None
        )
    stock, sold = item.stock, item.part
    if isinstance(part, Rectifier) and isinstance(sold, Rectifier) and (part.bridges, sold.bridges) == ("two", "one"):
        # Sold singly, fitted as two.
        count *= 2
    needed = count * units
    missing = stock.missing(needed)
    bought = stock.bought_for(missing)
    if not missing:
        return BillLine(slots, words, part, count=count, needed=needed, stock=stock, bought=0, cost=0.0)
    return BillLine(
        slots,
        words,
        part,
        count=count,
        needed=needed,
        stock=stock,
        bought=missing if bought is None else bought[0],
        cost=None if bought is None else bought[1],
    )


HEADS = ("For", "Part", "each", "needed", "in the drawer", "to buy", "costs", "remark")


def table(bill: Bill) -> list[tuple[str, ...]]:
    """The bill as rows of words, without its head."""
    rows: list[tuple[str, ...]] = []
    for line in bill.lines:
        drawer = "" if line.stock is None else str(line.stock.in_drawer)
        cost = "–" if line.cost is None else f"{line.cost:.2f}"
        bought = str(line.bought) if line.missing else "–"
        rows.append(
            (line.words, _words_of(line.part), str(line.count), str(line.needed), drawer, bought, cost, line.remark)
        )
    return rows


def _words_of(part: Part | SmallPart) -> str:
    return part.name if isinstance(part, SmallPart) else short_words(part)


def summary(bill: Bill) -> str:
    """What it comes to, in a sentence or two."""
    more = bill.unpriced
    least = "at least " if more else ""
    each = f", {bill.total / bill.units:.2f} each" if bill.units > 1 else ""
    words = f"Still to pay: {least}{bill.total:.2f} {bill.currency}{each}.".replace(" .", ".")
    if bill.saved:
        words += f" What is left out would be {bill.saved:.2f} more."
    if more:
        words += f" Without a price: {', '.join(line.part.name for line in more)}."
    there = bill.all_there
    if there is not None:
        on = f"All is there on {there.day} {there:%b}."
        words += f" {'Everything is in the drawer.' if there == dt.date.min else on}"
    return words


@dataclasses.dataclass(frozen=True)
class Doable:
    """A piece of work, and from which day on its parts are there; ``since`` None: nobody knows. ``waits_for`` them."""

    work: str
    since: dt.date | None
    waits_for: tuple[str, ...] = ()

    def words(self, today: dt.date) -> str:
        """In a line, as seen from a day."""
        for_what = f": {', '.join(self.waits_for)}" if self.waits_for else ""
        if self.since is None:
            return f"{self.work}: waits, no date known{for_what}."
        if self.since <= today:
            return f"{self.work}: now."
        days = (self.since - today).days
        when = "this week" if days < 7 - today.weekday() else f"in {days} days"
        return f"{self.work}: from {self.since:%a} {self.since.day} {self.since:%b} on ({when}){for_what}."


def arriving(bill: Bill) -> dict[str, str]:
    """By slot, of parts that are ordered and not all in the drawer: which, and when they are expected.

    A part of which nothing is ordered is not waited for: it may be fitted long since.
    """
    by_slot: dict[str, str] = {}
    for line in bill.lines:
        stock = line.stock
        if line.left_out or stock is None or line.needed <= stock.in_drawer:
            continue
        if not (stock.ordered or stock.back_order):
            continue
        when = "no date known" if stock.due is None else f"expected {stock.due:%a} {stock.due.day} {stock.due:%b}"
        by_slot |= dict.fromkeys(line.slots, f"{line.part.name}, {when}")
    return by_slot


# What each piece of work needs besides what comes before it: the places of its parts.
_WORK: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("Supply alone", ("entry", "trigger", "supply.")),
    ("First power of a module", ("module", "sink", "insulator")),
    ("A loudspeaker on it", ("protection", "relay_supply", "cable")),
    ("Played through", ("preamplifier", "volume")),
)


def calendar(bill: Bill) -> tuple[Doable, ...]:
    """What can be done from when on, in the order in which it is done; each waits for all before it."""
    doable: list[Doable] = []
    since: dt.date | None = dt.date.min
    held = False
    for work, places in _WORK:
        lines = [
            line for line in bill.lines
            if not line.left_out and any(slot.startswith(place) for slot in line.slots for place in places)
        ]  # fmt: skip
        if not lines and work == "Played through":
            continue
        waits = ["what comes before it"] if held else []
        for line in lines:
            if line.missing or line.stock is None:
                since = None
                waits.append(line.part.name)
            elif line.needed > line.stock.in_drawer:
                due = line.stock.due
                waits.append(line.part.name)
                since = None if due is None or since is None else max(since, due)
        held = held or bool(waits)
        doable.append(Doable(work, since, tuple(waits)))
    return tuple(doable)
