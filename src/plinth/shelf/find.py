"""Builds that meet a requirement, over up to three stations at once: by closed forms, then at a glance, then in full.

Whatever is said to meet it was predicted by the full engine. Why the others lost is told, by part and in all.
``predict.batch_onsets`` has no part in it: it finds the onsets of one circuit with other numbers, and here each
combination is another circuit (another class, another kind of supply), most of which are not of the plain sort that it
is quick with.
"""

import dataclasses
import itertools
import math
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from plinth.builds.build import Build
from plinth.builds.parts import Load
from plinth.builds.properties import How
from plinth.builds.situation import Situation
from plinth.builds.stations import part_in, stations
from plinth.judge.margin import Margin
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.predict.quick_estimate import WellKnown, glance, load_powers, well_known
from plinth.predict.solve import solve
from plinth.shelf.bill import pieces
from plinth.shelf.consequence import OF_THE_BENCH, tightest
from plinth.shelf.find_quick import SLACK, numbers_of, quick
from plinth.shelf.fix_places import PLACES
from plinth.shelf.item import ShelfItem
from plinth.shelf.slots import KINDS, joined, joined_all
from plinth.shelf.wanted import Wanted
from plinth.units.errors import QuantityError

Array = NDArray[np.float64]
GoOn = Callable[[float], bool]
Rank = Literal["cheapest", "most watts", "most room", "most watts for the money"]
RANKS: tuple[Rank, ...] = ("cheapest", "most watts", "most room", "most watts for the money")
MOST_STATIONS, MOST_COMBINATIONS = 3, 2_000_000
LOOKED_AT, ENOUGH, IN_FULL, LOSERS = 80, 10, 5, 12
# By closed forms alone some ranks are less sure: so many are met before the best of them are predicted in full.
_LESS_SURE = 24
SCANNED = 30_000
# How often two parts together may go over a limit, and never not, before nothing else is tried with them.
GIVES_UP = 4
_RAIL_SLACK = 1.04
_TOO_LITTLE, _TOO_HOT = "too little power", "sink too hot"
# A reason longer than this is cut: it stands in a row.
MISS_LETTERS = 100
# Stations that change what gets hot and nothing that plays.
_ONLY_HEAT = ("sink", "insulator")


MissKind = Literal["too little", "too hot", "over a limit", "too dear", "cannot join", "cannot run"]


@dataclasses.dataclass(frozen=True)
class Miss:
    """Why a combination does not meet the requirement: ``group`` in words that many share, ``value`` its own."""

    kind: MissKind
    group: str
    value: str = ""

    @property
    def words(self) -> str:
        """Both."""
        return f"{self.group}: {self.value}"[:MISS_LETTERS] if self.value else self.group


@dataclasses.dataclass(frozen=True)
class Candidate:
    """One combination. ``items`` by slot, None for what stands there now; ``price`` still to pay, None if not known.

    ``powers`` by ohms (without a requirement for power: into the current load); ``miss`` None where it meets it.
    """

    items: Mapping[str, ShelfItem | None]
    build: Build
    powers: Mapping[float, Figure]
    sink: Figure | None
    price: float | None
    margin: Margin | None
    miss: Miss | None = None

    @property
    def why_not(self) -> str:
        """Why it does not meet the requirement, in words; empty where it does."""
        return "" if self.miss is None else self.miss.words

    @property
    def watts(self) -> float:
        """The most into any load looked at; NaN where nothing is known."""
        return max((power.value for power in self.powers.values()), default=math.nan)

    @property
    def room(self) -> float:
        """Share of the tightest limit that is left."""
        return -math.inf if self.margin is None else self.margin.room_percent


@dataclasses.dataclass(frozen=True)
class Absence:
    """Why a part is in no combination, in a few words; ``joins`` whether it goes with the rest at all."""

    why: str
    joins: bool = True


@dataclasses.dataclass(frozen=True)
class SearchResult:
    """``met`` in order, ``lost`` the next best with their reason; ``tally`` how many lost for which reason.

    ``of_part`` why a part is in none that was met, by slot and name.
    """

    count: int
    met: tuple[Candidate, ...]
    lost: tuple[Candidate, ...]
    tally: Mapping[str, int]
    of_part: Mapping[tuple[str, str], Absence]


@dataclasses.dataclass(frozen=True)
class _Field:
    """All combinations: ``choices`` of each slot, ``index`` into them, a row for each combination."""

    slots: tuple[str, ...]
    choices: tuple[tuple[ShelfItem | None, ...], ...]
    index: tuple[NDArray[np.intp], ...]

    @property
    def count(self) -> int:
        return len(self.index[0])

    def items(self, row: int) -> dict[str, ShelfItem | None]:
        rows = zip(self.slots, self.choices, self.index, strict=True)
        return {slot: choices[int(index[row])] for slot, choices, index in rows}


@dataclasses.dataclass(frozen=True)
class _Screened:
    """What the closed forms say of each combination. ``room`` about the share left of rail, reservoir or sink."""

    alive: NDArray[np.bool_]
    power_w: Array
    room: Array
    r_sink: Array


def find(
    build: Build, situation: Situation, wanted: Wanted, slots: Sequence[str], items: Sequence[ShelfItem],
    rank: Rank = "cheapest", go_on: GoOn = lambda _: True,
) -> SearchResult:  # fmt: skip
    """Search the shelf. Raises QuantityError for a search that cannot be, PhysicsError where the build cannot run."""
    base, asked = _asked(build, situation, wanted)
    field, tally, of_part = _field(base, wanted, slots, items)
    price = _prices(base, field)
    screened = _sort_out(base, asked, wanted, field=field, price=price, tally=tally, of_part=of_part)
    order = _order(rank, screened, price)
    known = well_known(solve(base, asked))
    met, lost = _look(known, wanted, field, order=order, price=price, r_sink=screened.r_sink, rank=rank, go_on=go_on)
    met = _ranked(rank, met)
    sure: list[Candidate] = []
    for candidate in met:
        full = _in_full(asked, wanted, candidate)
        (lost if full.miss else sure).append(full)
        if not go_on(0.8 + 0.2 * len(sure) / IN_FULL) or len(sure) >= IN_FULL:
            break
    tally.update(candidate.miss.group for candidate in lost if candidate.miss)
    return SearchResult(field.count, tuple(_ranked(rank, sure)), tuple(lost[:LOSERS]), dict(tally), of_part)


def _look(
    known: WellKnown, wanted: Wanted, field: _Field, order: NDArray[np.intp], price: Array, r_sink: Array, rank: Rank,
    go_on: GoOn,
) -> tuple[list[Candidate], list[Candidate]]:  # fmt: skip
    """The first of them at a glance; what is known to fail with the same parts in it is not looked at any more."""
    met: list[Candidate] = []
    lost: list[Candidate] = []
    hopeless = _Hopeless()
    enough = ENOUGH if rank in ("cheapest", "most watts") else _LESS_SURE
    looked = 0
    for row in order[:SCANNED]:
        places = tuple((slot, int(index[row])) for slot, index in zip(field.slots, field.index, strict=True))
        if hopeless.knows(places, float(r_sink[row])):
            continue
        candidate = _at_a_glance(known, wanted, field.items(int(row)), float(price[row]))
        looked += 1
        hopeless.learn(places, float(r_sink[row]), candidate.miss)
        (lost if candidate.miss else met).append(candidate)
        if not go_on(0.8 * max(looked / LOOKED_AT, len(met) / enough)) or len(met) >= enough or looked >= LOOKED_AT:
            break
    return met, lost


Places = tuple[tuple[str, int], ...]


class _Hopeless:
    """What need not be looked at.

    With the same electrical parts there is too little power, whatever the sink; under a sink no better it is too hot;
    two parts that went over a limit again and again and never not do so again.
    """

    def __init__(self) -> None:
        self._weak: set[Places] = set()
        self._hot: dict[Places, float] = {}
        self._failed: Counter[Places] = Counter()
        self._good: set[Places] = set()

    def knows(self, places: Places, r_sink: float) -> bool:
        """Whether that combination would be looked at in vain."""
        others = _without_sink(places)
        if others in self._weak or r_sink >= self._hot.get(others, math.inf):
            return True
        return any(self._failed[pair] >= GIVES_UP and pair not in self._good for pair in _pairs(places))

    def learn(self, places: Places, r_sink: float, miss: Miss | None) -> None:
        """What came of a combination."""
        others = _without_sink(places)
        match None if miss is None else miss.kind:
            case "too little":
                self._weak.add(others)
            case "too hot":
                self._hot[others] = min(r_sink, self._hot.get(others, math.inf))
            case "over a limit":
                self._failed.update(_pairs(places))
            case None:
                self._good.update(_pairs(places))


def _without_sink(places: Places) -> Places:
    return tuple(place for place in places if place[0] not in _ONLY_HEAT)


def _pairs(places: Places) -> list[Places]:
    return list(itertools.combinations(places, 2)) if len(places) > 2 else []


def slots_for_clearing(build: Build, margins: Sequence[Margin]) -> tuple[str, ...]:
    """The stations where the limits that are over can be repaired, the most often named first."""
    here = {slot for place in stations(build) for slot in place.slots}
    named = Counter(
        slot
        for margin in margins
        if margin.state is State.OVER
        for slot in dict.fromkeys(place.slot for place in PLACES.get(margin.key, ()))
        if slot in here and slot in KINDS and slot != "load"
    )
    return tuple(slot for slot, _ in named.most_common(MOST_STATIONS))


def slots_around(build: Build, slot: str) -> tuple[str, ...]:
    """What is chosen around a part that is at hand: the main stations besides its own."""
    here = {slot for place in stations(build) for slot in place.slots}
    first = "supply.transformer", "supply.switcher", "supply.source", "supply.converter"
    main = [entry for entry in (*first, "module", "supply.reservoir", "sink") if entry in here and entry != slot]
    return tuple(main[:MOST_STATIONS])


def _asked(build: Build, situation: Situation, wanted: Wanted) -> tuple[Build, Situation]:
    changes: dict[str, object] = {"lamp_w": None, "level": 1.0, "channels_driven": "all"}
    if wanted.ambient_c is not None:
        changes["ambient_c"] = wanted.ambient_c
    if wanted.powers:
        loads = tuple(Load(name=f"{ohms:g} Ω required", r_ohm=ohms) for _, ohms in sorted(set(wanted.powers)))
        lowest = min(loads, key=lambda load: load.r_ohm)
        build = build.model_copy(update={"load": lowest, "loads": tuple({load.r_ohm: load for load in loads}.values())})
        changes["load_ohm"] = None
    return build, situation.model_copy(update=changes)


def _field(
    build: Build, wanted: Wanted, slots: Sequence[str], items: Sequence[ShelfItem]
) -> tuple[_Field, Counter[str], dict[tuple[str, str], Absence]]:
    here = {slot for place in stations(build) for slot in place.slots}
    chosen = tuple(dict.fromkeys(slot for slot in slots if slot in here and slot in KINDS))
    if not 1 <= len(chosen) <= MOST_STATIONS:
        raise QuantityError(f"found {len(chosen)} stations to choose for, expected 1 to {MOST_STATIONS}")
    tally: Counter[str] = Counter()
    of_part: dict[tuple[str, str], Absence] = {}
    choices: list[tuple[ShelfItem | None, ...]] = []
    for slot in chosen:
        fitting: list[ShelfItem | None] = [None]
        for item in items:
            if type(item.part) not in KINDS[slot] or item.part == part_in(build, slot):
                continue
            if item.stock.hidden or _stands_for_another(item):
                continue
            tried = joined(build, slot, item.part)
            if isinstance(tried, str):
                of_part[slot, item.part.name] = Absence(tried, joins=False)
            elif wanted.drawer_only and item.stock.in_drawer < pieces(tried, slot):
                of_part[slot, item.part.name] = Absence("not in the drawer")
            else:
                fitting.append(item)
        choices.append(tuple(fitting))
    count = math.prod(len(choice) for choice in choices)
    if count > MOST_COMBINATIONS:
        raise QuantityError(
            f"found {count:,} combinations, expected at most {MOST_COMBINATIONS:,}: choose for fewer stations"
        )
    index = np.indices(tuple(len(choice) for choice in choices)).reshape(len(choices), -1)
    return _Field(chosen, tuple(choices), tuple(index)), tally, of_part


def _stands_for_another(item: ShelfItem) -> bool:
    """A placeholder that nobody has said anything of since."""
    return item.stock.placeholder and all(fact.how is How.ASSUMED for fact in item.part.told)


def _prices(build: Build, field: _Field) -> Array:
    """What is still to pay for what is exchanged, NaN where nobody knows."""
    total = np.zeros(field.count)
    for slot, choices, index in zip(field.slots, field.choices, field.index, strict=True):
        each = []
        for item in choices:
            if item is None:
                each.append(0.0)
                continue
            missing = item.stock.missing(pieces(build, slot))
            bought = item.stock.bought_for(missing)
            each.append(0.0 if not missing else math.nan if bought is None else bought[1])
        total += np.array(each)[index]
    return total


def _sort_out(
    build: Build, situation: Situation, wanted: Wanted, field: _Field, price: Array, tally: Counter[str],
    of_part: dict[tuple[str, str], Absence],
) -> _Screened:  # fmt: skip
    """Which combinations are not hopeless, about how much each gives, and what is about left of its limits."""
    numbers = _numbers(build, situation, field)
    reasons: list[tuple[str, NDArray[np.bool_]]] = []
    powers = []
    for watts, ohms in wanted.powers or ((0.0, situation.impedance(build)[0]),):
        got = quick(build, situation, numbers | {"r_load": np.full(field.count, ohms)})
        powers.append(got.power_w)
        reasons.append((f"{_TOO_LITTLE} into {ohms:g} Ω", got.power_w < watts * (1.0 - SLACK)))
    worst = quick(build, situation, numbers)
    reasons.append(("rail above what the module stands", worst.rail_high_v > _RAIL_SLACK * worst.rail_max_v))
    reasons.append(("reservoir above its volts", worst.rail_high_v > _RAIL_SLACK * worst.v_rated))
    # The owner's own limit of the sink holds as well as what is required.
    limit = worst.sink_limit_c if wanted.sink_c is None else np.minimum(worst.sink_limit_c, wanted.sink_c)
    rise = (worst.sink_c - situation.ambient_c) * (1.0 - worst.sink_slack)
    reasons.append((_TOO_HOT, situation.ambient_c + rise > limit))
    if wanted.price is not None:
        reasons.append(("price not known", np.isnan(price)))
        reasons.append(("too dear", np.nan_to_num(price, nan=0.0) > wanted.price + 1e-9))
    alive = np.ones(field.count, dtype=np.bool_)
    why = np.full(field.count, -1)
    for k, (words, lost) in enumerate(reasons):
        now = alive & lost
        if now.any():
            tally[words] += int(now.sum())
        why[now] = k
        alive &= ~lost
    for slot, choices, index in zip(field.slots, field.choices, field.index, strict=True):
        for place, item in enumerate(choices):
            rows = index == place
            if item is not None and not alive[rows].any():
                lost_by = Counter(why[rows].tolist()).most_common(1)[0][0]
                of_part[slot, item.part.name] = Absence(reasons[lost_by][0])
    room = np.min(
        (
            1.0 - worst.rail_high_v / worst.rail_max_v, 1.0 - worst.rail_high_v / worst.v_rated,
            1.0 - worst.sink_c / limit,
        ),
        axis=0,
    )  # fmt: skip
    return _Screened(alive, np.max(np.array(powers), axis=0), room, numbers["r_sink"])


def _numbers(build: Build, situation: Situation, field: _Field) -> dict[str, Array]:
    """The numbers of every combination: those of the build as it is, times what each part changes alone."""
    base = numbers_of(build, situation)
    columns = {key: np.full(field.count, value) for key, value in base.items()}
    for slot, choices, index in zip(field.slots, field.choices, field.index, strict=True):
        rows = []
        for item in choices:
            tried = build if item is None else joined(build, slot, item.part)
            assert not isinstance(tried, str), "only what can join is a choice"
            rows.append(numbers_of(tried, situation))
        for key, value in base.items():
            column = np.array([row[key] for row in rows])
            if value == 0.0:
                columns[key] = columns[key] + column[index]
            else:
                columns[key] = columns[key] * (column / value)[index]
    return columns


def _order(rank: Rank, screened: _Screened, price: Array) -> NDArray[np.intp]:
    rows = np.flatnonzero(screened.alive)
    cost, power = np.nan_to_num(price[rows], nan=np.inf), screened.power_w[rows]
    keys = {
        "cheapest": (-power, cost), "most watts": (cost, -power), "most room": (cost, -screened.room[rows]),
        "most watts for the money": (cost, -power / np.maximum(cost, 1.0)),
    }  # fmt: skip
    return np.asarray(rows[np.lexsort(keys[rank])])


def _ranked(rank: Rank, candidates: list[Candidate]) -> list[Candidate]:
    def cost(candidate: Candidate) -> float:
        return math.inf if candidate.price is None else candidate.price

    keys: dict[Rank, Callable[[Candidate], tuple[float, ...]]] = {
        "cheapest": lambda candidate: (cost(candidate), -candidate.watts),
        "most watts": lambda candidate: (-candidate.watts, cost(candidate)),
        "most room": lambda candidate: (-candidate.room, cost(candidate)),
        "most watts for the money": lambda candidate: (-candidate.watts / max(cost(candidate), 1.0), cost(candidate)),
    }
    return sorted(candidates, key=keys[rank])


def _at_a_glance(known: WellKnown, wanted: Wanted, items: Mapping[str, ShelfItem | None], price: float) -> Candidate:
    base = known.prediction.build
    cost = None if math.isnan(price) else price
    tried = joined_all(base, {slot: item.part for slot, item in items.items() if item is not None})
    if isinstance(tried, str):
        return Candidate(
            items, base, {}, sink=None, price=cost, margin=None, miss=Miss("cannot join", "cannot join", tried)
        )
    try:
        prediction = glance(tried, known)
        by_load = load_powers(prediction, known)
    except PhysicsError as error:
        return Candidate(
            items, tried, {}, sink=None, price=cost, margin=None, miss=Miss("cannot run", "cannot run", str(error))
        )
    ohms = {load.identity: load.r_ohm for load in tried.loads or (tried.load,)}
    powers = {ohms[key]: figure for key, figure in by_load.items() if key in ohms}
    return _judged(wanted, Candidate(items, tried, powers, None, cost, None), prediction)


def _in_full(situation: Situation, wanted: Wanted, candidate: Candidate) -> Candidate:
    try:
        prediction = solve(candidate.build, situation)
        powers = {
            load.r_ohm: solve(candidate.build.model_copy(update={"load": load}), situation)["clip_worst_power_w"]
            for load in candidate.build.loads or (candidate.build.load,)
        }
    except PhysicsError as error:
        return dataclasses.replace(candidate, miss=Miss("cannot run", "cannot run", str(error)))
    return _judged(wanted, dataclasses.replace(candidate, powers=powers), prediction)


def _judged(wanted: Wanted, candidate: Candidate, prediction: Prediction) -> Candidate:
    margins = tuple(margin for margin in judge(prediction) if margin.key not in OF_THE_BENCH)
    sink = max(prediction["sink_c"], prediction["sink_idle_c"], key=lambda figure: figure.value)
    seen = dataclasses.replace(candidate, sink=sink, margin=tightest(margins))
    return dataclasses.replace(seen, miss=_miss(wanted, seen, margins))


def _miss(wanted: Wanted, candidate: Candidate, margins: Sequence[Margin]) -> Miss | None:
    for watts, ohms in wanted.powers:
        got = candidate.powers.get(ohms)
        if got is None or not got.known or got.value < watts * (1.0 - 1e-9):
            value = "unknown" if got is None or not got.known else f"{got.value:.3g} W"
            return Miss("too little", f"{_TOO_LITTLE} into {ohms:g} Ω", value)
    if wanted.sink_c is not None and candidate.sink is not None and candidate.sink.value > wanted.sink_c + 1e-9:
        return Miss("too hot", _TOO_HOT, f"{candidate.sink.value:.0f} °C")
    over = [margin.label for margin in margins if margin.state is State.OVER]
    if over:
        return Miss("over a limit", "over", ", ".join(over[:3]))
    if wanted.price is not None and (candidate.price is None or candidate.price > wanted.price + 1e-9):
        if candidate.price is None:
            return Miss("too dear", "price not known")
        return Miss("too dear", "too dear", f"{candidate.price:.2f}")
    return None
