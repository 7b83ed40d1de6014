"""Inspect in the real window: one key each, words where it is not sound, first power held back and set free."""

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from plinth.desk.diary.lines import cells_of
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.side_area import SideArea
from plinth.desk.window import PlinthWindow
from plinth.guide.progress import Stand
from plinth.workshop.store import open_workshop


def switch(session: BenchSession, name: str) -> None:
    session.switch(next(one.id for one in session.builds if one.build.name == name))


def test_checks_are_answered_with_one_key_each(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    switch(session, "Rehearsal room")
    window.show_stage("inspect")
    page = window.inspect
    count = len(page.inspected)
    first = page.current.check
    assert page.list.count() == count
    qtbot.keyClick(page.list, Qt.Key.Key_S)
    assert page.inspected[0].sound
    assert page.current.check is not first
    # Bad wants words; too few are asked for again and nothing is kept.
    second = page.current.check
    qtbot.keyClick(page.list, Qt.Key.Key_B)
    assert page.words.isVisible()
    qtbot.keyClicks(page.words, "x")
    qtbot.keyClick(page.words, Qt.Key.Key_Return)
    assert page.current.check == second
    assert page.inspected[1].finding is None
    qtbot.keyClicks(page.words, " bare lug")
    qtbot.keyClick(page.words, Qt.Key.Key_Return)
    assert page.inspected[1].finding is not None
    assert page.inspected[1].finding.words == "x bare lug"
    assert page.held.isVisible()
    assert "not sound" in page.held.text()
    assert window.head.stages.button(1).text() == "Inspect  1 not sound"
    line = cells_of(session.records.diary_lines()[-1], session.build)
    assert line[1] == "Found bad"
    assert "bare lug" in line[2]
    # First power waits, and says for what.
    session.bring_up.choose_school("limited_supply")
    stands = session.bring_up.stands(session.build.channels[0])
    powered = [one for one in stands if one.step.power]
    assert all(one.stand is Stand.HELD for one in powered)
    assert "waits for Inspect" in powered[0].why
    # Repaired and looked at again, and all others sound: free.
    for place in range(count):
        page.choose(place)
        page.answer("sound")
    assert page.held.isHidden()
    assert window.head.stages.button(1).text() == f"Inspect  {count}/{count}"
    assert not any("Inspect" in one.why for one in session.bring_up.stands(session.build.channels[0]))


def test_an_inspection_nobody_began_holds_first_power_until_it_is_passed_over_in_writing(
    window: PlinthWindow, session: BenchSession
) -> None:
    switch(session, "Foyer")
    powered = [one for one in session.bring_up.stands(session.build.channels[0]) if one.step.power]
    assert all(one.stand is Stand.HELD for one in powered)
    assert "not looked at" in powered[0].why
    window.show_stage("inspect")
    page = window.inspect
    page.answer("pass")
    page.words.setText("no")
    page.answer_in_words()
    assert not page.current.answered, "without words nothing happens"
    page.words.setText("seen at the neighbour's")
    page.answer_in_words()
    assert sum(one.passed is not None for one in session.bring_up.inspection()) == 1
    size = session.records.diary_size[0]
    left = sum(not one.answered for one in session.bring_up.inspection())
    page.pass_all_button.click()
    page.words.setText("all of it was looked at on the old bench")
    page.answer_in_words()
    assert session.records.diary_size[0] == size + left
    assert not page.pass_all_button.isVisible()
    assert "Passed over: " in page.verdict.text()
    assert page.held.isHidden()
    assert not any("Inspect" in one.why for one in session.bring_up.stands(session.build.channels[0]))
    assert any(e.kind == "override" and "old bench" in e.words for e in session.records.diary_lines())


def test_findings_are_there_after_a_reopening_and_a_station_leads_to_its_checks(
    window: PlinthWindow, session: BenchSession
) -> None:
    switch(session, "Foyer")
    window.show_stage("inspect")
    session.choose_station("module")
    assert window.inspect.current.check.station == "module"
    check = window.inspect.current.check
    window.inspect.answer("doubt")
    window.inspect.words.setText("cannot see under the board")
    window.inspect.answer_in_words()
    copy = session.workshop.path.with_name("again.plinth")
    copy.write_bytes(session.workshop.path.read_bytes())
    again = BenchSession(open_workshop(copy), threaded=False)
    switch(again, "Foyer")
    kept = next(one for one in again.bring_up.inspection() if one.check.key == check.key).finding
    assert kept is not None
    assert (kept.verdict, kept.words) == ("doubt", "cannot see under the board")
    again.close()


def test_a_slider_takes_no_check_anew(window: PlinthWindow, session: BenchSession) -> None:
    window.show_stage("inspect")
    before = session.bring_up.inspection()
    session.plan.what_if(live=True, mains_v_rms=225.0)
    assert session.bring_up.inspection() is before
    window.inspect.answer("sound")
    assert session.bring_up.inspection() is not before
    # Out of sight it keeps what it had, and takes what is new as it comes up.
    window.show_stage("plan")
    switch(session, "Foyer")
    assert window.inspect.inspected == session.bring_up.inspection()


def test_what_holds_the_chosen_school_is_said_on_both_pages(window: PlinthWindow, session: BenchSession) -> None:
    """In doubt, a can holds re-forming and no other school: Inspect and Power up say the same."""
    for school, held in (("limited_supply", False), ("reforming", True), ("series_lamp", False)):
        assert session.bring_up.choose_school(school)
        window.show_stage("inspect")
        words = window.inspect.held.text()
        assert ("no can bulges or leaks" in words) == held, school
        powered = [one for one in session.bring_up.stands("right") if one.step.power]
        assert all(("no can bulges" in one.step.blocked) == held for one in powered)


def test_nothing_of_a_check_is_cut_at_any_size_of_text(window: PlinthWindow) -> None:
    window.show_stage("inspect")
    page = window.inspect
    QApplication.processEvents()
    across = [one.x() for one in page.answers]
    for scale in (1.5, 2.0, 1.0):
        look.set(scale=scale)
        look.settle()
        for _ in range(3):
            QApplication.processEvents()
        area = next(one for one in page.findChildren(SideArea) if one.isAncestorOf(page.title))
        assert page.title.width() <= area.viewport().width(), scale
        inside = area.viewport().rect()
        for one in page.answers:
            left = one.mapTo(area.viewport(), QPoint(0, 0)).x()
            assert inside.left() <= left, scale
            assert left + one.width() <= inside.right() + 1, scale
    assert [one.x() for one in page.answers] == across
