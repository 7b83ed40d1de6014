"""The open workshop without a window: what it does, and what it announces."""

import dataclasses
import datetime as dt
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from plinth.judge.state import State
from plinth.record.reading import Reading
from plinth.session.listeners import Telling
from plinth.session.session import Session
from plinth.workshop.store import open_workshop
from tests.demo_copy import demo_copy
from tests.session.running import AtOnce


class Heard:
    """Everything that was announced, by name and in order."""

    def __init__(self) -> None:
        self.names: list[str] = []
        self.said: list[tuple[str, tuple[object, ...]]] = []

    def telling(self) -> Telling:
        def hear(name: str) -> Callable[..., None]:
            def note(*told: object) -> None:
                self.names.append(name)
                self.said.append((name, told))

            return note

        return Telling(**{field.name: hear(field.name) for field in dataclasses.fields(Telling)})


@pytest.fixture
def heard() -> Heard:
    return Heard()


@pytest.fixture
def session(tmp_path: Path, heard: Heard) -> Iterator[Session]:
    made = Session(demo_copy(tmp_path), AtOnce(), heard.telling())
    yield made
    made.close()


def test_it_needs_no_window() -> None:
    code = "import plinth.session.session, sys; sys.exit(any(name.startswith('PySide6') for name in sys.modules))"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_a_slider_is_predicted_and_only_its_rest_is_a_step_of_undo(session: Session, heard: Heard) -> None:
    assert session.predictions.prediction is not None
    before = session.predictions.prediction["clip_power_w"].value
    heard.names.clear()
    session.plan.what_if(live=True, load_ohm=8.0)
    assert heard.names == ["plan_changed", "predicted"]
    assert session.predictions.prediction["clip_power_w"].value < before
    assert not session.plan.can_undo
    session.plan.what_if(live=False, load_ohm=8.0)
    assert session.plan.can_undo
    session.plan.undo()
    assert session.predictions.prediction["clip_power_w"].value == pytest.approx(before)
    assert session.situation.load_ohm is None


def test_a_reading_is_kept_on_disk_before_it_is_announced(session: Session, heard: Heard, tmp_path: Path) -> None:
    reading = Reading(
        subject="clip/left/one/Dummy 4", label="Clipping power", typed="50pp", value=77.0, unit="W", u=1.0,
        instrument="scope", taken_at=dt.datetime(2026, 10, 10, tzinfo=dt.UTC), state=State.CLEAR,
        conditions={"rail_v": 36.0},
    )  # fmt: skip
    heard.names.clear()
    size = session.records.diary_size
    assert session.records.keep(reading)
    assert heard.names == ["kept", "records_changed"]
    assert session.records.diary_size == (size[0] + 1, size[1] + 1)
    assert session.records.reading(reading.subject) == reading
    path = session.workshop.path
    session.close()
    again = open_workshop(path)
    assert again.records(session.stored.id)[-1] == reading
    again.close()


def test_power_goes_into_the_diary_of_its_build_and_is_found_again(tmp_path: Path) -> None:
    heard = Heard()
    first = Session(demo_copy(tmp_path), AtOnce(), heard.telling())
    assert first.power.switch_on("left", "Supply on.")
    other = next(one.id for one in first.builds if one.id != first.stored.id)
    build, path = first.stored, first.workshop.path
    first.switch(other)
    assert first.power.live is not None
    assert first.power.live.build_id == build.id
    first.close()
    again = Session(open_workshop(path), AtOnce())
    assert again.power.live is not None
    assert (again.power.live.build_id, again.power.live.channel, again.power.live.found) == (build.id, "left", True)
    again.power.switch_off()
    assert again.power.live is None
    assert again.workshop.diary(build.id)[-1].kind == "power_off"
    again.close()


def test_a_job_that_dies_leaves_no_stale_figures_and_is_said(
    session: Session, heard: Heard, monkeypatch: pytest.MonkeyPatch
) -> None:
    def dies(_request: object) -> object:
        raise RuntimeError("for this test")

    monkeypatch.setattr("plinth.session.predictions.answer", dies)
    session.plan.what_if(live=False, load_ohm=6.0)
    assert session.predictions.prediction is None
    assert "for this test" in session.predictions.problem
    assert ("fault", "plan") in [(name, told[0]) for name, told in heard.said if name == "fault"]


def test_parts_that_do_not_go_together_are_refused_in_words(session: Session, heard: Heard) -> None:
    street = next(one.id for one in session.builds if one.build.name == "Street box")
    full = next(
        part for part in session.shelf.parts(type(session.build_of(street).module)) if part.name == "Parade 150"
    )
    before = session.build
    session.plan.swap("module", full)
    assert session.build == before
    assert [name for name in heard.names if name == "refused"] == ["refused"]


def test_photos_are_those_of_the_build_in_hand_also_after_a_switch(session: Session) -> None:
    first, other = session.stored.id, next(one.id for one in session.builds if one.id != session.stored.id)
    assert session.photos.add_photo("inspect/vents", "vents.png", b"content", b"scaled") is not None
    assert [photo.name for photo in session.photos.of()] == ["vents.png"]
    session.switch(other)
    assert session.photos.of() == []
    session.switch(first)
    assert [photo.name for photo in session.photos.of("inspect/vents")] == ["vents.png"]
    assert session.photos.of("inspect/pads") == []


def test_of_several_photos_the_one_that_is_meant_is_taken_off_and_put_back(session: Session) -> None:
    photos = session.photos
    for name in ("a.png", "b.png", "c.png"):
        assert photos.add_photo("inspect/vents", name, name.encode(), b"small") is not None
    before = photos.of("inspect/vents")
    stale = before[1]
    # Its words are newer than what whoever takes it off holds.
    assert photos.change_photo(stale, "the crust", ())
    assert photos.remove_photo(stale)
    assert [photo.name for photo in photos.of("inspect/vents")] == ["a.png", "c.png"]
    assert photos.photo_taken_off is not None
    assert photos.photo_taken_off.words == "the crust"
    assert photos.put_back_photo()
    back = photos.of("inspect/vents")
    assert sorted(photo.name for photo in back) == ["a.png", "b.png", "c.png"]
    assert next(photo.words for photo in back if photo.name == "b.png") == "the crust"
    assert not photos.put_back_photo()
