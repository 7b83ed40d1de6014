"""Reading, prediction, claim and state differ by form before colour: looked for in the pixels."""

import itertools

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from pytestqt.qtbot import QtBot

from plinth.builds.stations import STATIONS
from plinth.demo import shelf
from plinth.desk.band.contents import clip_reading, station_contents
from plinth.desk.look import look
from plinth.desk.margin_shown import margin_words, ruler_content
from plinth.desk.marks import StateMark, draw_reading, draw_state
from plinth.desk.ruler import LimitRuler, RulerContent, scale_for
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.judge.state import State
from plinth.units.shown import shown_with_spread


def picture_of_state(state: State) -> QImage:
    image = QImage(40, 40, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    draw_state(painter, state, QPointF(20, 20), 14)
    painter.end()
    return image


def inked(image: QImage) -> set[tuple[int, int]]:
    """Pixels that are not white, whatever their colour."""
    return {
        (x, y)
        for x, y in itertools.product(range(image.width()), range(image.height()))
        if image.pixelColor(x, y).lightness() < 200
    }


def test_states_are_told_apart_without_colour() -> None:
    shapes = {state: inked(picture_of_state(state)) for state in State}
    for a, b in itertools.combinations(State, 2):
        different = len(shapes[a] ^ shapes[b]) / max(len(shapes[a]), len(shapes[b]))
        assert different > 0.2, (a, b)
    assert (20, 20) not in shapes[State.CLEAR]
    assert (20, 20) in shapes[State.OVER]
    assert (20, 26) in shapes[State.CLOSE]
    assert (20, 14) not in shapes[State.CLOSE]


def test_a_simulated_reading_is_an_open_disc(qtbot: QtBot) -> None:
    centres = []
    for simulated in (False, True):
        image = QImage(40, 40, QImage.Format.Format_RGB32)
        image.fill(QColor("white"))
        painter = QPainter(image)
        draw_reading(painter, QPointF(20, 20), 10, simulated=simulated)
        painter.end()
        centres.append((20, 20) in inked(image))
    assert centres == [True, False]


def test_a_mark_tells_its_state_to_screen_readers(qtbot: QtBot) -> None:
    mark = StateMark(State.CLOSE)
    qtbot.addWidget(mark)
    assert mark.accessibleName() == "close"
    mark.set_state(State.UNKNOWN)
    assert mark.accessibleName() == "unknown"


@pytest.fixture
def ruler(qtbot: QtBot) -> LimitRuler:
    look.set(dark=False, scale=1.0)
    ruler = LimitRuler()
    qtbot.addWidget(ruler)
    ruler.resize(220, 20)
    return ruler


def along(ruler: LimitRuler) -> list[QColor]:
    image = ruler.grab().toImage()
    return [image.pixelColor(x, image.height() // 2) for x in range(image.width())]


def near(a: QColor, b: QColor) -> bool:
    return abs(a.red() - b.red()) + abs(a.green() - b.green()) + abs(a.blue() - b.blue()) < 30


def test_band_limit_and_reading_stand_where_their_values_are(ruler: LimitRuler) -> None:
    ruler.show_content(
        RulerContent((0.0, 100.0), State.CLEAR, "s", band=(20.0, 40.0), limit=80.0, reading=60.0)
    )  # fmt: skip
    colours = along(ruler)

    def at(value: float) -> QColor:
        return colours[round(5 + value / 100.0 * 210)]

    assert near(at(30), look.token("pred"))
    assert near(at(60), look.token("ink"))
    assert near(at(80), look.token("ink"))
    assert near(at(10), look.token("sunk"))
    assert near(at(95), look.token("sunk"))
    over = RulerContent((0.0, 100.0), State.OVER, "s", band=(85.0, 95.0), limit=80.0)
    ruler.show_content(over)
    assert near(along(ruler)[round(5 + 0.9 * 210)], look.token("over"))


def test_unknown_is_hatched_from_end_to_end(ruler: LimitRuler) -> None:
    ruler.show_content(RulerContent((0.0, 1.0), State.UNKNOWN, "nothing stated"))
    dark = [not near(c, look.token("sunk")) for c in along(ruler)]
    thirds = [dark[5:75], dark[75:145], dark[145:215]]
    assert all(5 < sum(part) < 60 for part in thirds)
    assert "nothing stated" in ruler.accessibleDescription()


def test_an_estimate_is_hatched_and_a_stated_value_is_not(ruler: LimitRuler) -> None:
    counts = []
    for estimated in (False, True):
        ruler.show_content(
            RulerContent((0.0, 1.0), State.CLEAR, "s", band=(0.2, 0.8), estimated=estimated)
        )  # fmt: skip
        counts.append(sum(near(c, look.token("pred")) for c in along(ruler)))
    assert counts[0] > 120
    assert counts[1] < 0.9 * counts[0]


def test_a_ruler_is_asked_by_key_and_by_mouse(ruler: LimitRuler, qtbot: QtBot) -> None:
    asked: list[int] = []
    ruler.asked.connect(lambda: asked.append(1))
    qtbot.keyClick(ruler, Qt.Key.Key_Return)
    qtbot.mouseClick(ruler, Qt.MouseButton.LeftButton)
    qtbot.keyClick(ruler, Qt.Key.Key_A)
    assert len(asked) == 2


@pytest.mark.parametrize(
    ("values", "inside"), [((1.0, 5.0), True), ((-3.0, 4.0), True), ((None, None), False), ((0.0, 0.0), True)]
)
def test_scales_hold_all_their_values(values: tuple[float | None, ...], inside: bool) -> None:
    low, high = scale_for(*values)
    assert low < high
    if inside:
        assert all(low <= v <= high for v in values if v is not None)


def test_margins_are_worded_with_unit_limit_and_mark_of_estimate(session: BenchSession) -> None:
    margins = {m.key: m for m in session.predictions.margins}
    assert margin_words(margins["dc_detector"]) == "not stated"
    assert margin_words(margins["module_rail_maximum"]).startswith("~ ")
    assert margin_words(margins["module_rail_maximum"]).endswith("of 42 V")
    assert margin_words(margins["module_rail_minimum"]).endswith("above 18 V")
    assert ruler_content(margins["reservoir_ripple"]).band is None
    content = ruler_content(margins["module_rail_maximum"])
    assert content.estimated
    assert content.limit == 42.0


def test_every_station_says_a_figure_and_the_worst_of_its_margins(session: BenchSession) -> None:
    contents = station_contents(session)
    assert set(contents) == {s.key for s in STATIONS}
    assert all(c.main and c.main != "–" for c in contents.values())
    assert contents["load"].state is State.OVER
    assert contents["protection"].state is State.UNKNOWN
    session.plan.what_if(live=False, load_ohm=8.0)
    assert station_contents(session)["load"].aside == "what if"
    assert station_contents(session)["load"].below == "no part chosen"


def test_the_band_shows_a_reading_only_where_it_was_taken(session: BenchSession) -> None:
    assert clip_reading(session) is None  # both channels driven: nothing was read so
    session.plan.what_if(live=False, channels_driven="one")
    reading = clip_reading(session)
    assert reading is not None
    assert station_contents(session)["module"].read == f"read {reading.value:.1f} W"
    for change in ({"level": 0.5}, {"load_ohm": 8.0}, {"mains_v_rms": 215.0}, {"frequency_hz": 20.0}):
        session.plan.what_if(live=False, **change)
        assert clip_reading(session) is None, change
        session.plan.undo()
    session.plan.swap("load", shelf.DUMMY_8)
    assert clip_reading(session) == session.records.reading("clip/left/one/Dummy 8")


def test_the_band_draws_more_current_for_a_heavier_load(window: PlinthWindow, session: BenchSession) -> None:
    def grey_in_the_wall() -> int:
        image = window.band.grab().toImage()
        fill = look.token("ink2")
        found = 0
        for x, y in itertools.product(range(20, 300, 2), range(20, 190, 2)):
            colour = image.pixelColor(x, y)
            found += abs(colour.lightness() - (fill.lightness() * 0.3 + 255 * 0.7)) < 6
        return found

    heavy = grey_in_the_wall()
    session.plan.what_if(live=False, load_ohm=16.0)
    light = grey_in_the_wall()
    session.plan.what_if(live=False, level=0.0)
    assert heavy > 1.5 * light > grey_in_the_wall()


def test_power_bars_show_claim_and_reading_of_the_same_case(window: PlinthWindow, session: BenchSession) -> None:
    session.plan.what_if(live=False, channels_driven="one")
    rows = {name.text(): (ruler.content, value.text()) for name, ruler, value in window.plan.load_powers.rows}
    content, value = rows["4.03 Ω"]
    assert content is not None
    figure = session.predictions.load_powers["Dummy 4"]
    assert value == shown_with_spread(figure.value, figure.spread, "W")
    assert content.claim == 100
    reading = session.records.reading("clip/left/one/Dummy 4")
    assert reading is not None
    assert content.reading == reading.value


def rows_of(image: QImage, x: int, token: str) -> list[int]:
    wanted = look.token(token)
    return [y for y in range(image.height()) if near(image.pixelColor(x, y), wanted)]


def test_the_rails_in_the_band_stand_to_one_scale(window: PlinthWindow, session: BenchSession) -> None:
    def heights() -> tuple[float, float]:
        image = window.band.grab().toImage()
        x = window.band.stations["rails"].geometry().center().x()
        plus, minus = rows_of(image, x, "plus"), rows_of(image, x, "minus")
        return sum(plus) / len(plus), sum(minus) / len(minus)

    plus, minus = heights()
    assert session.predictions.prediction is not None
    loaded = session.predictions.prediction["rail_plus_mean_v"].value
    half = (minus - plus) / 2
    session.plan.what_if(live=False, level=0.0)
    idle = session.predictions.prediction["rail_idle_v"].value
    plus, minus = heights()
    assert (minus - plus) / 2 / half == pytest.approx(idle / loaded, rel=0.06)
