"""What a build costs and waits for, counted by hand and over the family of builds."""

import csv
import datetime as dt
import io

import pytest

from plinth.builds.build import Build
from plinth.builds.small_part import SmallPart, read_small_part
from plinth.builds.stations import part_in, stations, with_part
from plinth.builds.stock import Price, Stock, prices_text, read_prices
from plinth.demo import shelf
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.demo.shelf import WHOLE
from plinth.record.clock import now
from plinth.report.bill import bill_csv, bill_html
from plinth.shelf.bill import HEADS, BillLine, arriving, bill_of, calendar, pieces, summary, table
from plinth.shelf.compare import NONE, stated_differences
from plinth.shelf.item import ShelfItem
from plinth.units.errors import QuantityError
from tests.family import DEMO, FAMILY

ITEMS = [ShelfItem(k, part, stock) for k, (part, stock) in enumerate(WHOLE)]


def lines(build: Build, units: int = 1, items: list[ShelfItem] | None = None) -> dict[str, BillLine]:
    return {line.part.name: line for line in bill_of(build, ITEMS if items is None else items, units).lines}


def test_the_stage_pair_counted_by_hand() -> None:
    found = lines(STAGE_PAIR)
    counts = {name: line.count for name, line in found.items()}
    # Two supplies, each with two rails; each input supply too; bridges are sold singly and fitted in twos.
    assert counts["Ring 225"] == 2
    assert counts["Can 10m/50"] == 4
    assert counts["Bridge 25"] == 4
    assert counts["Printed 15"] == 2
    assert counts["Hushed 15"] == 4
    assert counts["Stagehand 60"] == 2
    assert counts["Side cheeks of the case"] == 1
    assert "Dummy 4" not in counts, "loads stand on the bench"
    # Four cans are in the drawer, one bridge is: three are to buy.
    assert found["Can 10m/50"].missing == 0
    assert found["Can 10m/50"].cost == 0.0
    assert found["Bridge 25"].missing == 3
    assert found["Bridge 25"].cost == pytest.approx(9.3)


def stocked(part: object, stock: Stock) -> list[ShelfItem]:
    return [ShelfItem(1, part, stock)]  # type: ignore[arg-type]


def test_ten_for_less_than_nine() -> None:
    prices = (Price(each=4.6), Price(from_count=10, each=3.9))
    found = lines(STAGE_PAIR, 3, stocked(shelf.CAN_10M_50, Stock(prices=prices, in_drawer=3)))["Can 10m/50"]
    # Twelve wanted, nine missing: ten for 39.00, nine would be 41.40.
    assert (found.needed, found.missing, found.bought) == (12, 9, 10)
    assert found.cost == pytest.approx(39.0)
    assert found.remark == "10 for less than 9"


def test_what_it_waits_for_and_until_when() -> None:
    due = dt.date(2026, 12, 9)
    ordered = stocked(shelf.RING_225, Stock(ordered=2, due=due, prices=(Price(each=34.0),)))
    bill = bill_of(STAGE_PAIR, ordered)
    assert "Ring 225: comes on 9 Dec." in bill.waits
    assert bill.all_there is None, "the other parts are not on this shelf"
    line = next(one for one in bill.lines if one.part.name == "Ring 225")
    assert (line.missing, line.remark) == (0, "2 ordered, due 9 Dec")
    undated = bill_of(STAGE_PAIR, stocked(shelf.RING_225, Stock(ordered=2, back_order=True)))
    assert "Ring 225: ordered, and nobody knows when it comes." in undated.waits
    short = bill_of(STAGE_PAIR, stocked(shelf.RING_225, Stock(ordered=1, due=due)))
    assert "1 × Ring 225" in short.waits[0]
    parts = [line.part for line in bill.lines if not isinstance(line.part, SmallPart)]
    everything = [ShelfItem(k, part, Stock(in_drawer=99)) for k, part in enumerate(parts)]
    done = bill_of(STAGE_PAIR, everything)
    assert (done.waits, done.total, done.all_there) == ((), 0.0, dt.date.min)
    assert "Everything is in the drawer" in summary(done)
    nearly = [*everything[1:], ShelfItem(0, everything[0].part, Stock(ordered=9, due=due))]
    assert bill_of(STAGE_PAIR, nearly).all_there == due


def test_what_has_no_price_is_never_free() -> None:
    bill = bill_of(STAGE_PAIR, stocked(shelf.RING_225, Stock()))
    assert {line.part.name for line in bill.unpriced} >= {"Ring 225", "Stagehand 60"}
    assert "at least" in summary(bill)
    assert "Without a price: " in summary(bill)
    line = next(one for one in bill.lines if one.part.name == "Ring 225")
    assert (line.cost, line.remark) == (None, "no price known")


@pytest.mark.parametrize("build", [*DEMO.values(), *FAMILY.values()], ids=lambda build: build.name)
def test_every_build_has_a_bill_that_adds_up(build: Build) -> None:
    one, ten = bill_of(build, ITEMS), bill_of(build, ITEMS, 10)
    modules = next(line for line in one.lines if line.words == "module")
    assert modules.count == len(build.channels) * build.modules_per_channel
    assert all(line.count >= 1 for line in one.lines)
    for single, many in zip(one.lines, ten.lines, strict=True):
        assert many.needed == 10 * single.count
        assert many.missing >= single.missing
    assert len(table(one)) == len(one.lines)
    rows = list(csv.reader(io.StringIO(bill_csv(ten))))
    assert rows[0] == list(HEADS)
    assert len(rows) == len(ten.lines) + 1
    page = bill_html(build, ten, now())
    for line in ten.lines:
        assert line.part.name.replace("&", "&amp;") in page


def test_unequal_reservoirs_are_counted_each_for_its_own_rail() -> None:
    build = FAMILY["class AB on linear, unequal"]
    assert pieces(build, "supply.reservoir") == 1
    assert pieces(build, "supply.reservoir_minus") == 1
    assert pieces(REHEARSAL_ROOM, "supply.reservoir") == 2


def test_a_renamed_part_keeps_its_price() -> None:
    part = part_in(STAGE_PAIR, "supply.transformer")
    mine = part.model_copy(update={"name": "My ring", "key": part.identity})
    found = lines(with_part(STAGE_PAIR, "supply.transformer", mine, changed=True))
    assert found["My ring"].stock is not None


def test_boards_come_on_panels() -> None:
    stock = Stock(prices=(Price(each=10.0),), panel=4)
    assert stock.bought_for(1) == (4, 40.0)
    assert stock.bought_for(4) == (4, 40.0)
    assert stock.bought_for(5) == (8, 80.0)
    line = lines(STAGE_PAIR, 3, stocked(part_in(STAGE_PAIR, "module"), stock))["Stagehand 60"]
    assert (line.needed, line.bought, line.cost) == (6, 8, 80.0)
    # Eight cost more than six would: there are no six.
    assert line.remark == "4 on a panel"


@pytest.mark.parametrize(
    ("prices", "panel", "count", "most"),
    [
        (((1, 10.0), (10, 8.0)), 1, 8, 10),
        (((1, 10.0), (10, 8.0)), 1, 7, 7),
        (((1, 10.0), (5, 9.0), (20, 3.5)), 1, 8, 20),
        (((1, 10.0),), 1, 8, 8),
        (((1, 10.0), (12, 6.0)), 4, 8, 12),
        ((), 1, 8, 8),
    ],
)
def test_how_many_for_the_price_of_eight(
    prices: tuple[tuple[int, float], ...], panel: int, count: int, most: int
) -> None:
    stock = Stock(prices=tuple(Price(from_count=n, each=each) for n, each in prices), panel=panel)
    assert stock.for_price_of(count) == most
    each = stock.each_at(most)
    if each is not None:
        paid = stock.each_at(-(-count // panel) * panel)
        assert paid is not None
        assert most * each <= -(-count // panel) * panel * paid + 1e-9


def test_prices_are_typed_and_read_back() -> None:
    prices = read_prices("4,60; 10: 3.90; from 50: 3")
    assert [(one.from_count, one.each) for one in prices] == [(1, 4.6), (10, 3.9), (50, 3.0)]
    assert read_prices(prices_text(prices)) == prices
    assert read_prices(" ") == ()
    for wrong in ("dear", "10: 3.90", "4; 3", "4; 10: x"):
        with pytest.raises(QuantityError, match="expected"):
            read_prices(wrong)


def test_what_is_left_out_is_counted_and_not_paid() -> None:
    whole = bill_of(STAGE_PAIR, ITEMS)
    dear = next(one for one in whole.lines if one.cost)
    without = bill_of(STAGE_PAIR, ITEMS, 1, {dear.part.identity})
    assert without.total == pytest.approx(whole.total - (dear.cost or 0.0))
    assert without.saved == pytest.approx(dear.cost or 0.0)
    line = next(one for one in without.lines if one.left_out)
    assert (line.missing, line.remark) == (0, "left out")
    assert f"{without.saved:.2f} more" in summary(without)
    assert not any(dear.part.name in sentence for sentence in without.waits)


def test_what_can_be_done_when() -> None:
    friday = dt.date(2026, 12, 4)
    slots = [slot for one in stations(STAGE_PAIR) for slot in one.slots]
    everything = [ShelfItem(k, part_in(STAGE_PAIR, slot), Stock(in_drawer=20)) for k, slot in enumerate(slots)]
    monday = dt.date(2026, 11, 30)
    assert {one.words(monday) for one in calendar(bill_of(STAGE_PAIR, everything))} >= {"Supply alone: now."}
    one_late = [
        item if item.part.name != "Ring 225" else ShelfItem(item.number, item.part, Stock(ordered=2, due=friday))
        for item in everything
    ]
    found = calendar(bill_of(STAGE_PAIR, one_late))
    # All that comes after the supply waits for it too.
    assert [one.since for one in found] == [friday] * len(found)
    assert found[0].words(monday) == "Supply alone: from Fri 4 Dec on (this week): Ring 225."
    assert found[0].words(dt.date(2026, 11, 26)) == "Supply alone: from Fri 4 Dec on (in 8 days): Ring 225."
    assert found[0].words(friday) == "Supply alone: now."
    nobody = calendar(bill_of(STAGE_PAIR, []))
    assert nobody[0].since is None
    assert "no date known" in nobody[0].words(monday)


def test_what_is_on_its_way_is_said_by_slot() -> None:
    friday = dt.date(2026, 11, 6)
    items = stocked(shelf.RING_225, Stock(ordered=2, due=friday))
    assert arriving(bill_of(STAGE_PAIR, items)) == {"supply.transformer": "Ring 225, expected Fri 6 Nov"}
    held = stocked(shelf.CAN_10M_50, Stock(in_drawer=1, back_order=True))
    assert arriving(bill_of(STAGE_PAIR, held)) == {"supply.reservoir": "Can 10m/50, no date known"}
    # Nothing ordered, all there, or left out: nothing is waited for.
    for stock in (Stock(), Stock(in_drawer=2, ordered=4, due=friday)):
        assert arriving(bill_of(STAGE_PAIR, stocked(shelf.RING_225, stock))) == {}
    left_out = (part_in(STAGE_PAIR, "supply.transformer").identity,)
    assert arriving(bill_of(STAGE_PAIR, items, left_out=left_out)) == {}


def test_what_is_in_hand_is_counted_at_the_shelf_s_prices() -> None:
    none = [ShelfItem(item.number, item.part, Stock()) for item in ITEMS]
    assert bill_of(STAGE_PAIR, none).so_far == 0.0

    def with_cans(in_drawer: int, ordered: int = 0) -> float:
        prices = (Price(each=5.0), Price(from_count=4, each=4.0))
        held = Stock(prices=prices, in_drawer=in_drawer, ordered=ordered)
        items = [ShelfItem(i.number, i.part, held if i.part == shelf.CAN_10M_50 else i.stock) for i in none]
        return bill_of(STAGE_PAIR, items).so_far

    # Four are needed: three cost 5 each, four 4 each, of nine no more than four go into it.
    assert [with_cans(count) for count in (0, 3, 4, 9)] == [0.0, 15.0, 16.0, 16.0]
    # Ordered ones are paid for as well.
    assert with_cans(1, 3) == 16.0


def test_small_parts_are_counted_by_module_channel_and_build_and_options_are_not_paid() -> None:
    typed = (
        "2 x Quiet op-amp per module instead of the plain one; 3.20; 1 in the drawer",
        "8 x Resistor per channel; 0.35, 10: 0.22", "1 x Bare board per module; 9.50; panel 4",
        "1 x Case kit for the build; 48.00", "1 x Better case for the build; 90.00; option",
    )  # fmt: skip
    parts = tuple(read_small_part(text) for text in typed)
    build = STAGE_PAIR.model_copy(update={"wiring": "bridged", "small_parts": parts})
    lines = {line.part.name: line for line in bill_of(build, (), units=3).lines if isinstance(line.part, SmallPart)}
    # Three builds of two channels of two modules.
    assert [lines[part.name].needed for part in parts] == [24, 48, 12, 3, 3]
    assert lines["Quiet op-amp"].cost == pytest.approx(23 * 3.2)
    assert lines["Resistor"].cost == pytest.approx(48 * 0.22)
    assert lines["Bare board"].bought == 12
    assert lines["Bare board"].cost == pytest.approx(12 * 9.5)
    assert lines["Better case"].left_out
    assert lines["Better case"].remark == "option, not taken"
    whole, without = bill_of(build, ()), bill_of(build.model_copy(update={"small_parts": ()}), ())
    assert whole.total - without.total == pytest.approx(7 * 3.2 + 16 * 0.22 + 4 * 9.5 + 48.0)
    left = bill_of(build, (), left_out={lines["Case kit"].identity})
    assert whole.total - left.total == pytest.approx(48.0)


def test_a_whole_panel_is_not_said_to_be_cheaper_than_less() -> None:
    build = STAGE_PAIR.model_copy(update={"small_parts": (read_small_part("1 x Bare board; 9.50; panel 4"),)})
    line = bill_of(build, ()).lines[-1]
    assert (line.missing, line.bought, line.remark) == (2, 4, "4 on a panel")


def test_versions_tell_small_parts_apart() -> None:
    before = STAGE_PAIR.model_copy(update={"small_parts": (read_small_part("2 x Op-amp; 3.20"),)})
    after = STAGE_PAIR.model_copy(
        update={"small_parts": (read_small_part("2 x Op-amp instead of the plain one; 3.20"), SmallPart(name="Kit"))}
    )
    assert stated_differences(before, after) == (
        ("small part Op-amp", "2 × Op-amp for each module", "2 × Op-amp for each module, instead of the plain one"),
        ("small part Kit", NONE, "1 × Kit for each module"),
    )
    assert stated_differences(before, before) == ()
