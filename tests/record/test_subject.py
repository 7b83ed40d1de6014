"""What records are about: one text form, read back whatever channels and loads are called."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from plinth.demo.builds import REHEARSAL_ROOM
from plinth.desk.diary.lines import DiaryLines
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.record.subject import Kind, Subject, read_subject
from plinth.workshop.store import create_workshop

NAMES = st.text(alphabet="ab /%.Ω-1", min_size=1, max_size=12)


@pytest.mark.parametrize(
    ("text", "subject"),
    [
        ("bringup/left/bias", Subject(Kind.BRINGUP, "left", "bias")),
        ("bringup/A/B/bias", Subject(Kind.BRINGUP, "A/B", "bias")),
        ("clip/left/one/Dummy 4", Subject(Kind.CLIP, "left", "Dummy 4", "one")),
        ("clip/A/B/all/4/8 ohm", Subject(Kind.CLIP, "A/B", "4/8 ohm", "all")),
        ("clip_draw/left/one/Dummy 4", Subject(Kind.CLIP_DRAW, "left", "Dummy 4", "one")),
        ("response/A/B/1000", Subject(Kind.RESPONSE, "A/B", "1000")),
        ("measure/left/gate", Subject(Kind.MEASURE, "left", "gate")),
        ("power/A/B", Subject(Kind.POWER, "A/B")),
        ("build", Subject(Kind.OTHER, what="build")),
        ("note", Subject(Kind.OTHER, what="note")),
        ("", Subject(Kind.OTHER)),
    ],
)
def test_the_text_of_files_written_so_far_is_read(text: str, subject: Subject) -> None:
    assert read_subject(text) == subject
    assert subject.text == text


@given(channel=NAMES, load=NAMES, driven=st.sampled_from(["one", "all"]))
def test_cells_are_read_back_whatever_things_are_called(channel: str, load: str, driven: str) -> None:
    subject = Subject(Kind.CLIP, channel, load, driven)
    assert read_subject(subject.text) == subject


def test_a_channel_with_a_slash_is_brought_up_like_any_other(tmp_path: Path, qtbot: QtBot) -> None:
    build = REHEARSAL_ROOM.model_copy(update={"channels": ("A/B", "C")})
    path = tmp_path / "slash.plinth"
    made = create_workshop(path, lambda w: _with(w, build))
    session = BenchSession(made, threaded=False)
    window = PlinthWindow(session)
    qtbot.addWidget(window)
    window.show()
    window.show_stage("power_up")
    question = window.power_up.question
    for typed in (">20M", "500k"):
        question.field.setText(typed)
        qtbot.keyClick(question.field, Qt.Key.Key_Return)
    assert question.step is not None
    assert question.step.about.channel == "A/B"
    assert [one.split("/")[-1] for one in session.records.book] == ["insulation", "rails_open"]
    question.switch_on()
    assert session.power.live is not None
    assert session.power.live.channel == "A/B"
    # Found again after a kill, for the very channel.
    assert session.power.find_power() is not None
    assert session.power.find_power().channel == "A/B"  # type: ignore[union-attr]
    session.power.switch_off()
    lines = DiaryLines(session)
    lines.take()
    assert lines.rowCount() == session.records.diary_size[0]


def _with(workshop: object, build: object) -> None:
    from plinth.builds.situation import Situation

    workshop.add_build(build, Situation(), "begun")  # type: ignore[attr-defined]
