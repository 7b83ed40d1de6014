"""Looking along the shelf for a slot of the current build: what is found, in which order, what the build becomes.

Consequences are computed a few at a time, those in sight first, and anew when the build changes.
"""

import dataclasses
import math
import re
from collections.abc import Callable, Mapping, Sequence

from plinth.builds.build import Build
from plinth.builds.parts import Part
from plinth.builds.situation import Situation
from plinth.builds.stations import part_in, stations
from plinth.physics.numbers.errors import PhysicsError
from plinth.processes.worker_pool import share
from plinth.session.session import Session
from plinth.shelf.as_typed import as_typed, is_alike
from plinth.shelf.columns import PartColumn, columns_of
from plinth.shelf.consequence import Consequence, Here, begin, consequence, consequences
from plinth.shelf.item import ShelfItem
from plinth.shelf.query import Query, read_query
from plinth.shelf.slots import KINDS
from plinth.units.shown import shown

# So many rows are computed before the next are asked for: what is in sight may have changed by then.
AT_A_TIME, AT_ONCE_TOGETHER = 12, 24
PART, COSTS, DRAWER, RAIL, MARGIN, VALUE = "part", "costs", "drawer", "rail", "margin", "watts for the money"


@dataclasses.dataclass(frozen=True)
class ShelfHead:
    """A column: ``key`` to sort by (a part's own column: its head; a load: its identity), and its words."""

    key: str
    words: str
    of_build: bool = False


class ShelfLook:
    """``changed`` is called when rows or their order changed, ``computed`` when consequences came (of these rows)."""

    def __init__(self, session: Session, changed: Callable[[], None], computed: Callable[[list[int]], None]) -> None:
        self._session, self._changed, self._computed = session, changed, computed
        self.slot = ""
        self.fitted: Part | None = None
        # What is typed and not on the shelf yet stands first; its numbers are below 0.
        self.typed: tuple[ShelfItem, ...] = ()
        self.rows: tuple[ShelfItem, ...] = ()
        self.every = 0
        self.query = Query(())
        self.only_fitting = self.with_hidden = False
        self.sorted_by, self.falling = PART, False
        self.why_none = ""
        self._text = ""
        self._columns: tuple[PartColumn, ...] = ()
        self._made_for: tuple[Build, Situation] | None = None
        self._here: Here | None = None
        self._found: dict[Part, Consequence] = {}
        self._in_sight: tuple[int, int] = (0, 20)
        self._asked = 0
        # The number of what is being computed: nothing more is asked for before it is there.
        self._under_way: int | None = None

    # What is looked at

    def open(self, slot: str) -> None:
        """Look along the parts for another slot."""
        self.slot, self._text, self.query = slot, "", Query(())
        self._columns = columns_of(KINDS[slot])
        self.sorted_by, self.falling = PART, False
        self._forget()
        self._in_sight = (0, 0)
        self.refresh()

    def close(self) -> None:
        """Nobody looks any more: what is under way ends."""
        self.slot, self.typed, self.rows, self.fitted = "", (), (), None
        self._asked += 1
        self._changed()

    def search(self, text: str) -> None:
        """Ask for other parts; the text may be anything."""
        self._text = text
        self.query = read_query(text, KINDS[self.slot])
        self.refresh()

    def sort(self, key: str, *, falling: bool) -> None:
        """Another order."""
        self.sorted_by, self.falling = key, falling
        self.refresh()

    def show_only(self, *, fitting: bool | None = None, hidden: bool | None = None) -> None:
        """Only what can join; what is hidden too."""
        self.only_fitting = self.only_fitting if fitting is None else fitting
        self.with_hidden = self.with_hidden if hidden is None else hidden
        self.refresh()

    def sees(self, first: int, last: int) -> None:
        """These rows are in sight: they come first."""
        self._in_sight = (first, last)
        self._go_on()

    def refresh(self) -> None:
        """Take shelf and build anew; consequences of before stay where neither build nor situation changed."""
        if not self.slot:
            return
        plan = self._session.plan_kept
        if self.slot not in (slot for station in stations(plan.build) for slot in station.slots):
            # Another kind of supply has no such place.
            self.close()
            return
        self.fitted = part_in(plan.build, self.slot)
        if self._made_for != (plan.build, plan.situation):
            self._forget()
            self._made_for = (plan.build, plan.situation)
        items = [i for i in self._session.shelf.items(KINDS[self.slot]) if self.with_hidden or not i.stock.hidden]
        self.every = len(items)
        matching = [item for item in items if self.query.met(item)]
        if self.only_fitting:
            matching = [item for item in matching if not self._why_not(item)]
        self.typed = self._as_typed(items)
        self.rows = (*self.typed, *self._in_order(matching))
        if self._in_sight == (0, 0):
            # Whoever opens the shelf sees the part that is fitted, in the midst of others.
            fitted = next((k for k, item in enumerate(self.rows) if item.part == self.fitted), 0)
            self._in_sight = (max(0, fitted - AT_A_TIME // 2), fitted + AT_A_TIME)
        self._changed()
        self._go_on()

    def _as_typed(self, items: list[ShelfItem]) -> tuple[ShelfItem, ...]:
        """What is typed, as parts of their own: those that nothing on the shelf is like."""
        parts = as_typed(self._text, KINDS[self.slot], self.fitted)
        # Of several meanings all stay to be chosen from: a shelf that has one of them says nothing of the other.
        new = parts if len(parts) > 1 else [part for part in parts if not any(is_alike(part, i.part) for i in items)]
        return tuple(ShelfItem(-1 - k, part) for k, part in enumerate(new))

    # Columns

    @property
    def heads(self) -> tuple[ShelfHead, ...]:
        """All columns: the part's own, its stock, what the build becomes."""
        build = self._session.plan_kept.build
        loads = build.loads or (build.load,)
        return (
            ShelfHead(PART, "Part"),
            *(ShelfHead(column.head, column.head) for column in self._columns),
            ShelfHead(COSTS, "costs"), ShelfHead(DRAWER, "drawer"), ShelfHead(RAIL, "rail, none", of_build=True),
            *(ShelfHead(load.identity, f"{load.r_ohm:.3g} Ω", of_build=True) for load in loads),
            ShelfHead(MARGIN, "tightest margin", of_build=True),
        )  # fmt: skip

    def own_text(self, item: ShelfItem, head: str) -> str:
        """The text of one of the part's own columns; a dash where its kind has no such."""
        column = next((column for column in columns_of((type(item.part),)) if column.head == head), None)
        if column is None:
            place = [column.head for column in self._columns].index(head)
            others = columns_of((type(item.part),))
            column = others[place] if place < len(others) else None
        return "–" if column is None else column.text(item.part)

    @property
    def sign(self) -> str:
        """What stands before rail volts of this build."""
        return "" if self._session.plan_kept.build.supply.single_rail else "±"

    def consequence_of(self, item: ShelfItem) -> Consequence | None:
        """What the build becomes with it; None while that is computed."""
        return self._found.get(item.part)

    def effect_of(self, part: Part, say: Callable[[str], None]) -> None:
        """Say what the build becomes with this part, beside what it is as it is kept."""
        known, asked, as_it_is = self._here, self._asked, self.fitted or part
        if known is None:
            return

        def work(_task: object) -> tuple[Consequence, Consequence]:
            return consequence(known, as_it_is), consequence(known, part)

        def done(answer: object) -> None:
            assert isinstance(answer, tuple)
            now, then = answer
            if asked == self._asked:
                say(effect_words(now, then, self._loads()))

        self._session.jobs.ask("effect", work, done, lambda error: say(str(error)))

    def _loads(self) -> dict[str, str]:
        build = self._session.plan_kept.build
        return {load.identity: f"{load.r_ohm:.3g} Ω" for load in build.loads or (build.load,)}

    # Order

    def _in_order(self, items: list[ShelfItem]) -> list[ShelfItem]:
        known = [item for item in items if not _unknown(self.sort_value(item))]
        rest = [item for item in items if _unknown(self.sort_value(item))]
        return [*sorted(known, key=self.sort_value, reverse=self.falling), *rest]

    def sort_value(self, item: ShelfItem) -> tuple[int, float | str]:
        """What a part is sorted by: whether it is known, and its value."""
        value: float | str
        known = self._found.get(item.part) or Consequence()
        if self.sorted_by == PART:
            return (0, _by_numbers(item.part.name))
        if self.sorted_by == COSTS:
            each = item.stock.each_at(1)
            value = math.nan if each is None else each
        elif self.sorted_by == DRAWER:
            value = float(item.stock.in_drawer) if item.stock.in_drawer else math.nan
        elif self.sorted_by == RAIL:
            value = math.nan if known.rail is None else known.rail.value
        elif self.sorted_by == MARGIN:
            value = known.room
        elif self.sorted_by == VALUE:
            each = item.stock.each_at(1)
            value = known.watts / each if each else math.nan
        elif self.sorted_by in known.powers or any(head.key == self.sorted_by and head.of_build for head in self.heads):
            value = known.powers[self.sorted_by].value if self.sorted_by in known.powers else math.nan
        else:
            column = next((column for column in columns_of((type(item.part),)) if column.head == self.sorted_by), None)
            value = math.nan if column is None else column.key(item.part)
        return (0, value) if isinstance(value, float) else (1, value)

    # Consequences

    def _forget(self) -> None:
        self._here, self._found, self._made_for, self.why_none = None, {}, None, ""
        self._asked += 1

    def _why_not(self, item: ShelfItem) -> str:
        known = self._found.get(item.part)
        return "" if known is None else known.why_not

    def _go_on(self) -> None:
        wanted = self._next() if self.slot and self._under_way != self._asked else []
        if not wanted or self.why_none:
            return
        self._under_way = self._asked
        asked, here, plan, slot = self._asked, self._here, self._session.plan_kept, self.slot

        def work(_task: object) -> tuple[int, Here, dict[Part, Consequence]]:
            known = here or begin(plan.build, plan.situation, slot)
            return asked, known, become(known, wanted)

        self._session.jobs.ask("shelf", work, self._take, self._failed)

    def _next(self) -> list[Part]:
        maximum = AT_A_TIME if self._here is None else at_a_time(self._here)
        first, last = self._in_sight
        order: Sequence[ShelfItem] = (*self.rows[first : last + 1], *self.rows)
        parts: dict[Part, None] = {}
        for item in order:
            if item.part not in self._found:
                parts[item.part] = None
                if len(parts) == maximum:
                    break
        return list(parts)

    def _take(self, got: object) -> None:
        assert isinstance(got, tuple)
        asked, here, answers = got
        if asked != self._asked:
            # Of another build, or of another slot: asked anew.
            self._go_on()
            return
        self._under_way = None
        self._here = here
        self._found |= answers
        if (self.only_fitting or self.sorted_by not in (PART, COSTS, DRAWER)) and not self._next():
            # All are known: only now the order holds.
            self.refresh()
            return
        self._computed([k for k, item in enumerate(self.rows) if item.part in answers])
        self._go_on()

    def _failed(self, error: Exception) -> None:
        self._under_way = None
        if isinstance(error, PhysicsError):
            self.why_none = f"This build cannot run as it is, so nothing can be said of it with another part: {error}."
            self._changed()
            return
        self._session.tell.fault("shelf", error)


def at_a_time(here: Here) -> int:
    """How many rows are asked for at once."""
    return AT_ONCE_TOGETHER if here.quick else AT_A_TIME


def become(known: Here, parts: list[Part]) -> dict[Part, Consequence]:
    """What the build becomes with each, in pieces that helpers may take: as large as is quickest."""
    size = max(1, math.ceil(len(parts) / 2 if known.quick else len(parts) / 4))
    pieces = [parts[k : k + size] for k in range(0, len(parts), size)]
    answers = [item for piece in share(consequences, known, pieces) for item in piece]
    return dict(zip(parts, answers, strict=True))


def effect_words(now: Consequence, then: Consequence, loads: Mapping[str, str]) -> str:
    """What changes from one to the other, in a line: watts into each load, rails, the tightest margin."""
    if then.why_not:
        return f"It cannot join: {then.why_not}."
    said = [
        f"{words}: {shown(now.powers[key].value, 'W')} → {shown(then.powers[key].value, 'W')}"
        for key, words in loads.items()
        if key in now.powers and key in then.powers
    ]
    if now.rail is not None and then.rail is not None:
        said.append(f"rail {shown(now.rail.value, 'V')} → {shown(then.rail.value, 'V')}")
    if then.margin is not None and then.margin.figure is not None:
        margin, figure = then.margin, then.margin.figure
        said.append(f"{margin.label.lower()} {shown(figure.value, margin.unit)}, {margin.state}")
    return " · ".join(said)


def _unknown(value: tuple[int, float | str]) -> bool:
    return isinstance(value[1], float) and math.isnan(value[1])


def _by_numbers(name: str) -> str:
    """A name so that those with numbers in them follow each other by these: 80 VA before 160 VA."""
    return re.sub(r"\d+", lambda digits: digits[0].zfill(9), name.lower())
