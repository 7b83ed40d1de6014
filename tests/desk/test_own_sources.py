"""Sources of one's own in the window: columns added by typing, readings kept in them, what fits all put in the plan."""

import math
from pathlib import Path

import pytest
from PySide6.QtWidgets import QLabel

from plinth.desk.measure.clipping_table import ClipTest
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.session.session import Session
from plinth.workshop.store import open_workshop
from tests.bench.test_output_fit import TRUE_OHM, TRUE_SAT_V, truly
from tests.demo_copy import demo_copy
from tests.desk.driver import press, type_in
from tests.family import FAMILY
from tests.session.running import AtOnce


@pytest.fixture
def clip(window: PlinthWindow, session: BenchSession) -> ClipTest:
    build = FAMILY["class AB on bench"].model_copy(update={"name": "Board on the bench"})
    assert session.plan.add_new(build)
    window.show_stage("measure")
    window.measure.show_named("Clipping power")
    for channel in session.build.channels:
        window.measure.channels.choose(channel)
        if window.measure.reason.isVisible() or session.bring_up.held_back((channel,)):
            window.measure.ask_reason()
            window.measure.reason.setText("brought up on another bench")
            window.measure.pass_over()
    window.measure.channels.choose("left")
    return window.measure.clip


def sources(clip: ClipTest) -> list[str]:
    return list(dict.fromkeys(cell.source for cell in clip.procedure.cells))


def heads(clip: ClipTest) -> str:
    return " ".join(each.text() for each in clip.matrix.findChildren(QLabel) if each.isVisibleTo(clip))


def test_columns_are_added_by_typing_and_stay(clip: ClipTest, session: BenchSession) -> None:
    assert sources(clip) == [f"±{volts} V bench supplies" for volts in (30, 15, 22)]
    clip.show_driven("one")
    type_in(clip.field, "17.60 rms")
    clip.keep()
    kept = clip.procedure.kept(clip.procedure.cells[0])
    assert kept is not None
    type_in(clip.sources.field, "14, 18, 27 V")
    press(clip.sources.keep_button)
    assert sources(clip) == [f"±{volts} V bench supplies" for volts in (30, 14, 18, 27)]
    assert all(f"±{volts} V" in heads(clip) for volts in (14, 18, 27, 30))
    assert clip.procedure.kept(clip.procedure.cells[0]) == kept, "no column makes another stale"
    place = next(k for k, c in enumerate(clip.procedure.cells) if "±14" in c.source and c.driven == "one")
    clip.choose(place)
    type_in(clip.field, "7.10 rms")
    clip.keep()
    # A list that is none stays typed, with a sentence; nothing changes.
    type_in(clip.sources.field, "14 pears")
    press(clip.sources.keep_button)
    assert "pears" in clip.sources.said.text()
    assert clip.sources.field.text() == "14 pears"
    assert len(sources(clip)) == 4
    # Taken off and typed again, its reading stands there again.
    type_in(clip.sources.field, "18 27")
    press(clip.sources.keep_button)
    assert "±14 V bench supplies" not in sources(clip)
    type_in(clip.sources.field, "14 18 27")
    press(clip.sources.keep_button)
    assert clip.procedure.counts()[0] == 2
    # Another build has its own; this one's are there when it is opened again.
    here = session.stored.id
    session.switch(next(stored.id for stored in session.stored_builds if stored.id != here))
    elsewhere = list(session.own_sources.volts)
    session.switch(here)
    assert (elsewhere, list(session.own_sources.volts)) == ([], [14.0, 18.0, 27.0])
    type_in(clip.sources.field, "")
    press(clip.sources.keep_button)
    assert sources(clip) == [f"±{volts} V bench supplies" for volts in (30, 15, 22)]


def test_they_are_there_again_in_a_workshop_that_is_opened_again(tmp_path: Path) -> None:
    first = Session(demo_copy(tmp_path), AtOnce())
    path, here = first.workshop.path, first.stored.id
    assert first.own_sources.take("14 volts") != "", "this build hangs on the mains"
    assert first.own_sources.take("195 250") == ""
    first.close()
    again = Session(open_workshop(path), AtOnce())
    again.switch(here)
    assert again.own_sources.volts == (195.0, 250.0)
    again.close()


def test_what_fits_all_readings_goes_into_the_plan_with_one_key(
    window: PlinthWindow, clip: ClipTest, session: BenchSession
) -> None:
    type_in(clip.sources.field, "16 22")
    press(clip.sources.keep_button)
    clip.show_driven("one")
    places = [k for k, cell in enumerate(clip.procedure.cells) if cell.driven == "one"]
    for place, watts in zip(places, truly(), strict=True):
        assert not clip.fit_button.isVisibleTo(clip) or place > places[2]
        clip.choose(place)
        cell = clip.cell
        assert cell is not None
        type_in(clip.field, f"{math.sqrt(1.022 * watts * cell.load.r_ohm):.3f} rms")
        clip.keep()
    assert "fit all 6 readings" in clip.fit.text()
    assert clip.fit_button.isVisibleTo(clip)
    before = session.build.module
    window.run_command(next(command for command in window.commands if command.key == "fit"))
    module = session.build.module
    assert getattr(module, "v_sat_v", None) == pytest.approx(TRUE_SAT_V, abs=0.1)
    assert getattr(module, "r_out_ohm", None) == pytest.approx(TRUE_OHM, abs=0.05)
    assert clip.procedure.counts()[0] == 6, "what is stated anew makes no reading stale"
    assert not clip.fit_button.isVisibleTo(clip), "it is stated already"
    session.plan.undo()
    assert session.build.module == before


def test_the_field_of_sources_never_takes_the_place_of_one_that_is_held(window: PlinthWindow) -> None:
    window.show_stage("measure")
    window.measure.show_named("Clipping power")
    clip = window.measure.clip
    clip.show_driven("all")
    assert window.measure.reason.isVisible() or not clip.field.isEnabled()
    assert not clip.sources.field.hasFocus()
