"""F1 opens the guide at the place one stands, beside whatever goes on; it is searched, read and led through by keys."""

import importlib
import pkgutil

import pytest
from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QTextDocument
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot
from scripts.guide import keys_text

import plinth.desk
from plinth.desk import guide_places
from plinth.desk.dialog import Dialog
from plinth.desk.guide_window import GuideWindow, drawn, open_guide
from plinth.desk.look import look
from plinth.desk.measure.every_test import TESTS
from plinth.desk.name_dialog import NameDialog
from plinth.desk.origin import OriginDialog
from plinth.desk.plan.ledger import MarginRow
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.manual.pages import picture
from plinth.manual.sections import section_at, topic_text
from tests.desk.driver import STAGE_KEYS


def guide_of(parent: QWidget) -> GuideWindow:
    return next(each for each in parent.findChildren(GuideWindow) if each.isVisible())


def is_place(place: str) -> bool:
    section = section_at(place)
    return section is not None and section.place == place


def test_every_page_test_and_dialog_has_its_place() -> None:
    for module in pkgutil.walk_packages(plinth.desk.__path__, "plinth.desk."):
        importlib.import_module(module.name)
    kinds, names = [Dialog], set()
    while kinds:
        kind = kinds.pop()
        kinds += kind.__subclasses__()
        # Other tests make dialogs too.
        if kind.__module__.startswith("plinth."):
            names.add(kind.__name__)
    # What several are made of has no place of its own.
    assert names - set(guide_places.OF_DIALOG) == {"Dialog", "LiveDialog"}
    assert set(guide_places.OF_DIALOG) <= names
    assert set(guide_places.OF_STAGE) == set(STAGE_KEYS)
    assert set(guide_places.OF_TEST) == {test.name for test in TESTS}
    places = [*guide_places.OF_DIALOG.values(), *guide_places.OF_STAGE.values()]
    places += [f"measure#{anchor}" for anchor in guide_places.OF_TEST.values()]
    assert [place for place in places if not is_place(place)] == []


def test_the_list_of_keys_is_the_window_s(window: PlinthWindow) -> None:
    """Written anew by ``make guide``."""
    assert topic_text("keys") == keys_text([(each.group, each.title, each.keys) for each in window.commands])


def test_it_opens_at_the_page_the_test_and_the_limit_in_front(window: PlinthWindow, session: BenchSession) -> None:
    window.show_stage("power_up")
    window.open_guide()
    shown = guide_of(window)
    assert shown.place == "power-up"
    assert "bench supply" in shown.page.toPlainText()
    window.show_stage("measure")
    window.measure.show_named("Square wave")
    window.open_guide()
    assert guide_of(window) is shown, "one guide a window"
    assert shown.place == "measure#square-wave"
    window.show_stage("plan")
    row = next(row for row in window.plan.ledger.findChildren(MarginRow) if row.isVisible())
    window.activateWindow()
    row.ruler.setFocus()
    assert row.ruler.hasFocus()
    window.open_guide()
    assert shown.place == f"limits#{row.margin.key.replace(' ', '-')}"
    window.plan.show_shelf()
    window.open_guide()
    assert shown.place == "shelf"
    shown.back()
    assert shown.place != "shelf"
    shown.close()


def test_a_key_in_a_field_of_a_dialog_opens_it_there(qtbot: QtBot, window: PlinthWindow) -> None:
    dialog = NameDialog(window, "A build", "Name it", (), lambda _name: True)
    qtbot.addWidget(dialog)
    # As it is when it is asked: the window behind hears no key.
    dialog.setModal(True)
    dialog.show()
    QTest.keyClick(dialog.field, Qt.Key.Key_F1)
    assert guide_of(dialog).place == "begin#a-build-of-your-own"
    guide_of(dialog).close()


def test_a_figure_leads_to_its_own_place(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    prediction = session.predictions.prediction
    assert prediction is not None
    dialog = OriginDialog(window, dict(prediction.figures), "clip_power_w", session.explaining.explainer(prediction))
    qtbot.addWidget(dialog)
    assert dialog.guide_place() == "figures#clip_power_w"
    assert is_place(dialog.guide_place())


def test_it_is_searched_as_one_types_and_led_through_by_links(qtbot: QtBot, window: PlinthWindow) -> None:
    shown = GuideWindow(window, "begin")
    qtbot.addWidget(shown)
    shown.show()
    assert not shown.back_button.isEnabled()
    shown.search.setText("re-forming")
    assert shown.list.item(0).text().startswith("Re-forming")
    assert "place" in shown.counted.text()
    QTest.keyClick(shown, Qt.Key.Key_Down)
    shown.list.setCurrentRow(0)
    assert shown.place == "power-up#re-forming"
    shown.search.setText("no such words anywhere")
    assert shown.list.count() == 0
    assert "other words" in shown.counted.text()
    shown._follow(QUrl("typing"))  # noqa: SLF001
    assert shown.place == "typing"
    QTest.keyClick(shown, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert shown.place == "power-up#re-forming"
    shown.go_to("no such place")
    assert shown.place == "begin"


@pytest.mark.parametrize("place", ["limits#no-such-limit", "figures#nothing"])
def test_a_place_that_is_gone_leads_to_its_topic(qtbot: QtBot, window: PlinthWindow, place: str) -> None:
    shown = GuideWindow(window, place)
    qtbot.addWidget(shown)
    assert shown.place == place.split("#")[0]


def test_pictures_are_drawn_in_the_look_in_force_and_fit_the_page(window: PlinthWindow) -> None:
    svg = picture("pictures/mains-side.svg")
    light = drawn(svg, 2.0)
    assert light.devicePixelRatio() == 2.0
    look.set(dark=True, scale=1.5)
    dark = drawn(svg, 1.0)
    corner = dark.pixelColor(dark.width() // 2, dark.height() - 3)
    assert corner == look.token("sheet")
    assert light.pixelColor(light.width() // 2, light.height() - 6).name() == "#ffffff"
    look.set(dark=False, scale=1.0)
    guide = open_guide(window, "safety#mains")
    QApplication.processEvents()
    assert guide.page.horizontalScrollBar().maximum() == 0
    picture_name = QUrl("pictures/mains-side.svg")
    assert guide.page.document().resource(QTextDocument.ResourceType.ImageResource, picture_name) is not None
    guide.close()
