"""The window heard instead of seen: what is announced, and a whole first power by keys and announcements alone."""

import itertools
import re

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from plinth.desk.announcer import Announcer
from plinth.desk.power_up.question import READ_IT
from plinth.desk.session import BenchSession
from plinth.desk.spoken import sentences
from plinth.desk.window import PlinthWindow
from plinth.guide.school import to_loudspeaker
from plinth.predict.lamp_outlook import lamp_outlook
from tests.desk.inspected import inspect_all

# A number as it is shown: sign, digits, a space, prefix and unit.
QUANTITY = r"[−-]?\d+(?:\.\d+)? ?[a-zA-Zµ°Ω%]+"
BOTH = re.compile(rf"Expect (?P<low>{QUANTITY}) to (?P<high>{QUANTITY})\.")
ONE = re.compile(rf"Expect (?P<side>above|below) (?P<limit>{QUANTITY})\.")


class Ears:
    """Hears what is said and remembers it; ``what`` was said since it was last asked for."""

    def __init__(self, window: PlinthWindow) -> None:
        self.window = window
        self.all: list[tuple[str, bool]] = []
        self._new: list[tuple[str, bool]] = []
        window.announcer.said.connect(self._hear)

    def _hear(self, words: str, at_once: bool) -> None:
        self.all.append((words, at_once))
        self._new.append((words, at_once))

    def listen(self) -> list[str]:
        """What is said now; twice, as what is typed is spoken of once it stands still."""
        QApplication.processEvents()
        self.window.announcer.look()
        self.window.announcer.look()
        words = [words for words, _ in self._new]
        self._new.clear()
        return words


def key(window: PlinthWindow, key: Qt.Key) -> None:
    QTest.keyClick(window.focusWidget() or window, key)
    QApplication.processEvents()


def value_in(text: str) -> tuple[float, str]:
    match = re.fullmatch(r"([−-]?\d+(?:\.\d+)?) ?(.*)", text)
    assert match is not None, text
    # As a keyboard has it.
    unit = match[2].replace("µ", "u").replace("Ω", "ohm").replace("°", "")
    return float(match[1].replace("−", "-")), unit


def inside(question: str) -> str:
    """A reading inside the window that was heard; empty where none was."""
    both, one = BOTH.search(question), ONE.search(question)
    if both is not None:
        (low, unit), (high, other) = value_in(both["low"]), value_in(both["high"])
        if unit == other:
            return f"{0.5 * (low + high):.4g} {unit}"
        return f"{high * 0.9:.4g} {other}"
    if one is not None:
        limit, unit = value_in(one["limit"])
        return f"{limit * (2.0 if one['side'] == 'above' else 0.5):.4g} {unit}"
    return ""


@pytest.mark.parametrize("school", ["limited_supply", "series_lamp"])
def test_a_whole_first_power_by_keys_and_announcements_alone(
    window: PlinthWindow, session: BenchSession, school: str
) -> None:
    session.switch(next(one.id for one in session.builds if one.build.name == "Foyer"))
    inspect_all(session)
    assert session.bring_up.choose_school(school)
    ears = Ears(window)
    QTest.keyClick(window, Qt.Key.Key_3, Qt.KeyboardModifier.ControlModifier)
    heard = ears.listen()
    question, steps = heard[-1] if heard else "", 0
    channel = window.power_up.channels.channel
    while not session.bring_up.brought_up(channel):
        steps += 1
        assert steps < 60, question
        assert question, "nothing was said: whoever hears it would not know what to do"
        if "press Stop first" in question:
            key(window, Qt.Key.Key_Escape)
        elif "Space when it is switched on" in question:
            key(window, Qt.Key.Key_Space)
        elif "Enter when it is done" in question:
            key(window, Qt.Key.Key_Return)
        elif "Expect dark" in question:
            QTest.keyClicks(window.focusWidget(), "dark")
            key(window, Qt.Key.Key_Return)
        else:
            reading = inside(question)
            assert reading, question
            field = window.focusWidget()
            assert field is not None
            QTest.keyClicks(field, reading)
            said = ears.listen()
            assert said, f"nothing was said of {reading} to {question}"
            key(window, Qt.Key.Key_Return)
            if any(words.startswith("Set before, or at its least?") for words in said):
                # It was heard with its choices, and the hand is led to the first of them.
                key(window, Qt.Key.Key_Return)
        after = ears.listen()
        if any(words.startswith("Watch ") for words in after):
            # Time passes until it says that it is to be read.
            for _ in range(600):
                window.power_up.procedure.count_down(10.0)
                window.power_up.question.tick()
                if READ_IT in ears.listen():
                    break
            else:
                raise AssertionError(f"it is never to be read: {[w[:100] for w, _ in ears.all[-6:]]}")
        others = ("Kept. ", "Power is on", "Stopped", "Watch ", READ_IT)
        questions = [words for words in after if not words.startswith(others)]
        question = questions[-1] if questions else question
    up_to = to_loudspeaker(session.bring_up.stands(channel))
    assert all(stand.settled for stand in up_to)
    words = [words for words, _ in ears.all]
    assert any(one.startswith("Power is on") for one in words)
    # What is kept is told with its value and what is said of it.
    assert any(re.match(r"Kept\. .*: 22\.5 .*°C, clear\.", one) for one in words)
    assert sum(one.startswith("Kept. ") for one in words) >= len(up_to) - 2
    # Nothing is said twice in a row, and a reading inside its window alarms nobody.
    assert all(first != second for first, second in itertools.pairwise(words))
    assert not any("Switch off now" in one for one in words)


def test_what_burns_interrupts_and_a_count_down_is_said_once(window: PlinthWindow, session: BenchSession) -> None:
    session.switch(next(one.id for one in session.builds if one.build.name == "Rehearsal room"))
    inspect_all(session)
    assert session.bring_up.choose_school("series_lamp")
    ears = Ears(window)
    window.show_stage("power_up")
    question = window.power_up.question
    for _ in range(2):
        question.keep()
    ears.listen()
    question.switch_on()
    assert any(words.startswith("Power is on") for words in ears.listen())
    question.field.setText(f"{lamp_outlook(session.build).alone.rail_v:.1f}")
    question.keep()
    ears.listen()
    question.field.setText("bright")
    question.keep()
    ears.listen()
    off = [(words, at_once) for words, at_once in ears.all if words.startswith("Switch off now")]
    assert [at_once for _, at_once in off] == [True]
    assert "Nothing further is connected" in off[0][0]
    ears.listen()
    session.power.switch_off()
    stopped = [words for words in ears.listen() if words.startswith("Stopped.")]
    assert len(stopped) == 1
    window.stop_bar.words.setText(re.sub(r"\d+ s", "7 s", window.stop_bar.words.text()))
    assert ears.listen() == []


def test_what_is_wrong_and_what_is_typed_is_said_but_not_at_every_digit(
    window: PlinthWindow, session: BenchSession
) -> None:
    ears = Ears(window)
    window.show_stage("measure")
    (question,) = ears.listen()
    assert "Expect " in question
    field = window.measure.test.field
    field.setFocus()
    QTest.keyClicks(field, "3")
    window.announcer.look()
    QTest.keyClicks(field, "5.9")
    window.announcer.look()
    said = window.measure.test.under_way.said("35.9")
    assert ears.listen() == [sentences(said.words, said.against)]
    QTest.keyClicks(field, " apples")
    (wrong,) = ears.listen()
    assert "Found" in wrong
    window.say("The disk is full.")
    assert ears.listen() == ["The disk is full."]
    assert ears.all[-1] == ("The disk is full.", True)
    window.show_stage("inspect")
    (check,) = ears.listen()
    assert "S sound, D in doubt, B bad, P pass over" in check
    assert window.inspect.current.check.look in check
    window.show_stage("plan")
    assert ears.listen() == []


def test_switching_to_another_build_is_not_said_to_be_kept(window: PlinthWindow, session: BenchSession) -> None:
    ears = Ears(window)
    window.show_stage("diary")
    ears.listen()
    for stored in session.builds:
        session.switch(stored.id)
        assert not any("Kept" in words for words in ears.listen())
    assert session.records.note("note", "Heard.")
    assert any(words.startswith("Kept. ") for words in ears.listen())


def test_without_anybody_listening_nothing_is_looked_at(qtbot: object) -> None:
    host = QWidget()
    looked: list[int] = []

    def spoken() -> None:
        looked.append(1)
        raise AssertionError("nobody listens")

    announcer = Announcer(host, spoken, str)  # type: ignore[arg-type]
    QTest.qWait(20)
    assert looked == []
    assert announcer.parent() is host
