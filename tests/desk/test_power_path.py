"""The power path over every page: whole in Plan, slim elsewhere, brought back by a key or a click, and remembered."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QFontMetricsF
from PySide6.QtTest import QTest

from plinth.demo import shelf
from plinth.desk import preferences
from plinth.desk.look import SCALES, look
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from tests.desk.driver import STAGE_KEYS
from tests.turns import in_turn

SLIM_PX = 66


def press(window: PlinthWindow, key: str) -> None:
    window.run_command(next(command for command in window.commands if command.key == key))


def test_it_is_whole_in_plan_and_slim_on_every_other_page(window: PlinthWindow) -> None:
    whole = window.band.height()
    assert whole > 180
    for stage in STAGE_KEYS:
        window.show_stage(stage)
        assert window.band.is_whole == (stage == "plan")
        assert window.band.isVisible()
        assert window.band.height() <= (whole if stage == "plan" else SLIM_PX)
    window.show_stage("plan")
    assert window.band.height() == whole


@pytest.mark.parametrize("scale", in_turn(SCALES, 3))
def test_slim_it_keeps_the_mark_and_the_figure_of_each_station_at_every_text_size(
    window: PlinthWindow, scale: float
) -> None:
    window.show_stage("measure")
    look.set(scale=scale)
    assert window.band.height() <= SLIM_PX * max(1.0, scale)
    for key, button in window.band.stations.items():
        content = button.content
        assert content is not None
        # Whatever has no room beside its spread stands there without it, and is never cut at the text sizes of a bench.
        words = content.brief or content.main
        room = button.width() - look.px(6) - look.px(18) - look.px(4)
        if scale <= 1.5:
            assert QFontMetricsF(look.font(13, bold=True)).horizontalAdvance(words) <= room + 8, key
        assert button.geometry().bottom() <= window.band.height()
        assert button.accessibleDescription().startswith(str(content.state))


def test_a_key_brings_it_back_and_it_is_remembered(window: PlinthWindow, session: BenchSession) -> None:
    command = next(each for each in window.commands if each.key == "path")
    assert command.keys == "Ctrl+H"
    assert not command.enabled(), "in Plan it is whole"
    window.show_stage("power_up")
    press(window, "path")
    assert window.band.is_whole
    window.show_stage("measure")
    assert window.band.is_whole
    assert preferences.load_checked()[0]["path_whole"] is True
    again = PlinthWindow(session)
    again.show_stage("measure")
    assert again.band.is_whole
    again.close()
    again.deleteLater()
    press(window, "path")
    assert not window.band.is_whole
    assert preferences.load_checked()[0]["path_whole"] is False


def test_a_click_brings_it_back_and_takes_its_station(window: PlinthWindow, session: BenchSession) -> None:
    window.show_stage("measure")
    session.choose_station("wall")
    x = round(window.band.width() * 5.5 / 8)
    QTest.mouseClick(window.band, Qt.MouseButton.LeftButton, pos=QPoint(x, 10))
    assert session.station == "module"
    assert window.band.is_whole
    # Whole, a click is about its station only.
    QTest.mouseClick(window.band, Qt.MouseButton.LeftButton, pos=QPoint(40, 10))
    assert session.station == "wall"
    assert window.band.is_whole
    press(window, "path")
    window.band.stations["load"].click()
    assert session.station == "load"
    assert window.band.is_whole


def test_a_build_that_cannot_run_says_so_in_the_slim_one_too(window: PlinthWindow, session: BenchSession) -> None:
    window.show_stage("measure")
    before = window.band.grab().toImage()
    weak = shelf.RING_225.model_copy(update={"name": "Doorbell", "v_secondary_rms": 2.0, "va": 5.0})
    session.plan.swap("supply.transformer", weak)
    assert "cannot run" in session.predictions.problem
    assert window.band.grab().toImage() != before
    content = window.band.stations["rails"].content
    assert content is not None
    assert (content.main, content.brief) == ("–", "")
    assert window.band.height() <= SLIM_PX


def test_a_caution_stands_once(window: PlinthWindow) -> None:
    window.show_stage("measure")
    page = window.measure
    for index in range(len(page.every_test)):
        page.show_test(index)
        shown = page.caution.text() if page.caution.isVisibleTo(page) else ""
        assert not (shown and shown == page.test.cautioned)
        assert shown or page.test.cautioned, "one of them stands there"


def test_before_anything_is_known_of_a_test_the_caution_stands_there(
    window: PlinthWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.show_stage("measure")
    page = window.measure
    page.show_test(0)
    assert page.test.cautioned
    assert not page.caution.isVisibleTo(page)
    monkeypatch.setattr(page.every_test[3], "set_up", lambda _channel: None)
    page.show_test(3)
    assert page.caution.isVisibleTo(page)
    assert "Dummy loads get hot" in page.caution.text()


def test_what_is_typed_has_figures_of_one_width() -> None:
    for size in (13, 30):
        for bold in (False, True):
            metrics = QFontMetricsF(look.font(size, bold=bold))
            assert len({metrics.horizontalAdvance(digit) for digit in "0123456789"}) == 1
    # Nothing names another face for fields: they take the one of all text.
    assert look.style_sheet().count("font-family") == 1


def rail_px(window: PlinthWindow) -> float:
    """How high the + rail is drawn in the middle of its station, px: each row counts as far as it is of that colour."""
    image = window.band.grab().toImage()
    x = window.band.stations["rails"].geometry().center().x()
    rail, ground = look.token("plus"), look.token("sunk")

    def apart(one: QColor, other: QColor) -> int:
        return abs(one.red() - other.red()) + abs(one.green() - other.green()) + abs(one.blue() - other.blue())

    rows = (image.pixelColor(x, y) for y in range(window.band.stations["rails"].y()))
    shares = [1.0 - apart(row, rail) / apart(ground, rail) for row in rows]
    return sum(share for share in shares if share > 0.5)


def test_a_rail_is_as_thick_as_its_current_and_thinner_where_the_drawing_is_low(window: PlinthWindow) -> None:
    whole = rail_px(window)
    window.show_stage("measure")
    slim = rail_px(window)
    assert whole > 3.0
    # By the heights of the two drawings, to a row of antialiasing.
    assert 0.5 < slim < 0.45 * whole + 1.0
