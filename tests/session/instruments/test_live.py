import itertools
import math
import threading
from pathlib import Path

import pytest

from plinth.bench.sheet import bench_request
from plinth.builds.files import read_build
from plinth.builds.situation import Situation
from plinth.instruments.command_map import shipped_maps
from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.kinds import Action
from plinth.predict.solve import solve
from plinth.record.probe import Point, Probe, Quantity
from plinth.session.instruments.connected import Bench, Connected
from plinth.session.instruments.live import LOOKS_LOST, LiveReader, LiveValue, live_values
from plinth.session.instruments.orders import Orders
from plinth.session.instruments.reading import read_value
from plinth.session.instruments.wanted import Sets, Wanted
from tests.instruments.crooked_server import until

MAPS = {own.name: own for own in shipped_maps()}
EXAMPLES = Path(__file__).parents[3] / "examples"
METER = Connected("meter", "", MAPS["Simulated multimeter"], "", (Point.OUTPUT,), "left")
RAIL = Connected("second", "", MAPS["Simulated multimeter"], "", (Point.RAIL_PLUS,))
SINK = Connected("thermometer", "", MAPS["Simulated thermometer"], "", (Point.SINK,))
SUPPLY = Connected(
    "supply",
    "",
    next(each for each in MAPS.values() if each.simulated and "dc supply" in each.kinds),
    "",
    (Point.SUPPLY,),
)


@pytest.mark.parametrize("name", ["stage-pair", "foyer", "market-box", "rehearsal-room", "street-box"])
def test_bands_are_those_of_a_healthy_build_from_idle_to_clipping(name: str) -> None:
    build = read_build(EXAMPLES / f"{name}.json")
    figures = solve(build, Situation()).figures
    values = {
        value.title: value for value in live_values(Bench((METER, RAIL, SINK, SUPPLY)), build, figures, "left", 0.3)
    }
    assert set(values) == {"+ rail", "Output, DC", "Output, AC", "Sink", "Bench supply"}
    rail = values["+ rail"]
    # A prediction's own figures lie inside, with nothing at the output and at clipping.
    for figure in ("rail_plus_mean_v", "rail_idle_v", "rail_no_load_v"):
        if figure in figures:
            assert rail.inside(figures[figure].value), figure
    assert not rail.inside(0.5 * figures["rail_plus_mean_v"].value)
    assert not rail.inside(1.4 * figures["rail_plus_mean_v"].value)
    assert rail.follows_mains is build.supply.follows_mains
    assert values["Output, DC"].inside(build.module.offset_max_v)
    assert not values["Output, DC"].inside(-1.01 * build.module.offset_max_v)
    assert values["Sink"].inside(build.sink.t_limit_c)
    assert not values["Sink"].inside(build.sink.t_limit_c + 0.1)
    assert values["Output, AC"].band_words == ""
    assert values["Bench supply"].band_words == "up to 300 mA"


def test_a_band_goes_with_the_mains_where_the_rails_do() -> None:
    rail = LiveValue("+ rail", "V", RAIL, Action.READ_VOLTS_DC, 30.0, 40.0, follows_mains=True)
    assert not rail.inside(28.0)
    assert rail.inside(28.0, 0.9)
    assert not rail.inside(37.0, 0.9)
    held = LiveValue("+ rail", "V", RAIL, Action.READ_VOLTS_DC, 30.0, 40.0)
    assert not held.inside(28.0, 0.9)
    assert rail.band_words == "30.0 V to 40.0 V"
    assert LiveValue("DC", "V", METER, Action.READ_VOLTS_DC, -0.04, 0.04).band_words == "±40 mV"


def test_an_alarm_comes_of_what_stays_outside_and_of_nothing_else() -> None:
    given = iter([1.0, 9.0, 1.0, 9.0, 9.0, 1.0, 9.0, 9.0, 9.0, 9.0, 9.0])
    told: list[tuple[str, float]] = []
    ended = threading.Event()

    def read(_who: Connected, _action: Action) -> float:
        try:
            return next(given)
        except StopIteration:
            ended.set()
            return 9.0

    value = LiveValue("DC", "V", METER, Action.READ_VOLTS_DC, 0.0, 2.0)
    reader = LiveReader(read, (value,), lambda value, reading: told.append((value.title, reading)), 0.0, fills_s=0.0)
    reader.start()
    assert ended.wait(20.0)
    reader.stop()
    # Once of what stays outside, and only after three looks in a row.
    assert told == [("DC", 9.0)]
    course = reader.course("DC")
    assert [reading for _, reading in course[:9]] == [1.0, 9.0, 1.0, 9.0, 9.0, 1.0, 9.0, 9.0, 9.0]
    assert all(later[0] >= earlier[0] for earlier, later in itertools.pairwise(course))


def test_nothing_is_an_alarm_while_power_is_off_or_rails_fill() -> None:
    told: list[float] = []
    value = LiveValue("rail", "V", RAIL, Action.READ_VOLTS_DC, 30.0, 40.0)
    off = LiveReader(
        lambda _who, _action: 0.0, (value,), lambda _value, reading: told.append(reading), 0.0,
        armed=lambda: False, fills_s=0.0,
    )  # fmt: skip
    filling = LiveReader(
        lambda _who, _action: 0.0, (value,), lambda _value, reading: told.append(reading), 0.0, fills_s=1e6
    )
    for reader in (off, filling):
        reader.start()
    assert until(lambda: min(len(off.course("rail")), len(filling.course("rail"))) > 20)
    for reader in (off, filling):
        reader.stop()
    assert told == []


def test_what_ends_it_is_said() -> None:
    def read(who: Connected, _action: Action) -> float:
        raise InstrumentError(ErrorKind.GONE, who.name, "found the line broken")

    reader = LiveReader(read, (LiveValue("DC", "V", METER, Action.READ_VOLTS_DC),), every_s=0.0)
    reader.start()
    assert until(lambda: bool(reader.fault))
    assert "the line broken" in reader.fault
    assert reader.last("DC") is None
    reader.stop()


def test_a_look_that_fails_for_what_passes_is_followed_by_another() -> None:
    looks: list[int] = []

    def read(who: Connected, _action: Action) -> float:
        looks.append(len(looks))
        late = InstrumentError(ErrorKind.TIME_OUT, who.name, "found no answer")
        stale = InstrumentError(ErrorKind.STALE, who.name, "found that it was stopped")
        # Four lost in a row, then an answer, then none any more.
        if looks[-1] != 4:
            raise late if looks[-1] % 2 else stale
        return 1.5

    reader = LiveReader(read, (LiveValue("DC", "V", METER, Action.READ_VOLTS_DC),), every_s=0.0)
    reader.start()
    assert until(lambda: bool(reader.fault))
    reader.stop()
    assert [value for _, value in reader.course("DC")] == [1.5]
    assert len(looks) == 4 + 1 + LOOKS_LOST
    assert reader.lost == reader.fault


@pytest.mark.parametrize("supplies", [1, 2])
def test_the_watts_of_a_bench_supply_are_those_of_each_that_is_wired(supplies: int) -> None:
    request = bench_request(
        test="t", key="k", channel="left", group="", label="draw", ask="", unit="W", window=None, conditions={}
    )
    want = Wanted(
        request, Probe(Point.SUPPLY, Quantity.WATTS), reader=SUPPLY, action=Action.READ_AMPERES, sets=Sets(),
        supplies=supplies,
    )  # fmt: skip
    reads = {Action.READ_AMPERES: 0.5, Action.READ_VOLTS_DC: 30.0}
    orders = Orders(lambda order: reads[order.action], lambda: True, lambda _seconds: None)  # type: ignore[union-attr]
    value = read_value(want, orders)
    assert value.value == pytest.approx(supplies * 15.0)
    rows = [SUPPLY.own.accuracy[action].u(read) / read for action, read in reads.items()]
    assert value.u == pytest.approx(value.value * math.hypot(*rows))
