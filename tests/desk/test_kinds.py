"""Every kind of build in the real window: band, plots over time, first power, measuring, map."""

import csv
import shutil
import threading
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from plinth.bench.signal_level import scope_words
from plinth.builds.build import Build
from plinth.demo.builds import BUILDS, FOYER, MARKET_BOX, STAGE_PAIR, STREET_BOX
from plinth.desk.look import look
from plinth.desk.plan import map_dialog
from plinth.desk.plan.map_dialog import MapDialog
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.session import views
from plinth.session.maps import ClipMap, map_of
from plinth.workshop.store import open_workshop
from tests.desk.driver import STAGE_KEYS
from tests.turns import in_turn


def take(session: BenchSession, build: Build) -> None:
    session.switch(next(one.id for one in session.builds if one.build.name == build.name))


@pytest.mark.parametrize("build", in_turn(BUILDS, 4, 1, name=lambda b: b.name))
def test_every_kind_is_shown_on_every_stage(window: PlinthWindow, session: BenchSession, build: Build) -> None:
    take(session, build)
    assert session.predictions.prediction is not None
    assert session.predictions.problem == ""
    shown = window.band.stations
    assert len(shown) == 8
    assert any(m.state.value in ("over", "close") for m in session.predictions.margins), (
        "a demo build has something to fix"
    )
    for stage in STAGE_KEYS:
        window.show_stage(stage)
        assert not window.grab().isNull()
    for station in shown:
        session.choose_station(station)
    assert len(window.plan.rails_plot.series) >= (2 if build.supply.single_rail else 3)


@pytest.mark.parametrize("build", in_turn(BUILDS, 3, name=lambda b: b.name))
def test_the_plots_follow_rails_and_heat_over_time(window: PlinthWindow, session: BenchSession, build: Build) -> None:
    take(session, build)
    page, offered = window.plan, views.views_of(session.predictions.prediction)
    assert (views.SWITCH_ON in offered) == (build.supply.kind == "linear")
    titles = set()
    for one, name in zip(page.view_choice.buttons, offered, strict=True):
        one.click()
        titles.add(page.rails_plot.title.text())
        assert page.shown_view == name
        assert all(np.all(np.isfinite(s.y)) for s in page.rails_plot.series)
    assert len(titles) == len(offered)
    window.run_command(next(c for c in window.commands if c.key == "view"))
    assert page.shown_view == views.ONE_PERIOD, "round and round"
    page.show_view(views.POWER_OFF)
    rest = session.predictions.prediction["rail_idle_v"].value if session.predictions.prediction else 0.0
    assert page.rails_plot.series[0].y[0] == pytest.approx(rest)
    assert "measure before touching" in page.rails_plot.aside.text()


def test_a_view_that_another_build_does_not_have_falls_back(window: PlinthWindow, session: BenchSession) -> None:
    take(session, FOYER)
    window.plan.show_view(views.SWITCH_ON)
    take(session, MARKET_BOX)
    assert window.plan.shown_view == views.ONE_PERIOD
    assert window.plan.rails_plot.title.text() == "Rails and output"


def test_a_slider_redraws_the_course_that_is_shown(window: PlinthWindow, session: BenchSession) -> None:
    take(session, STAGE_PAIR)
    window.plan.show_view(views.BASS_NOTE)
    loud = float(np.max(window.plan.rails_plot.series[-1].y))
    session.plan.what_if(live=False, level=0.25)
    assert float(np.max(window.plan.rails_plot.series[-1].y)) == pytest.approx(0.25 * loud, rel=0.01)
    assert "clean" in window.plan.rails_plot.aside.text()


def test_at_large_text_the_choices_become_a_list(window: PlinthWindow, session: BenchSession) -> None:
    take(session, STAGE_PAIR)
    window.show()
    row = window.plan.supply_choice
    assert row.buttons[0].isVisible()
    look.set(scale=1.5)
    assert row.list.isVisible()
    assert not row.buttons[0].isVisible()
    row.list.setCurrentIndex(2)
    row.list.activated.emit(2)
    assert session.predictions.supply_shown is not None
    assert session.predictions.supply_shown.name == "left, input stages"
    assert row.buttons[2].isChecked()


def test_at_a_bridge_nobody_is_told_to_clip_onto_an_output(window: PlinthWindow, session: BenchSession) -> None:
    assert "clip is safe" in scope_words(STREET_BOX, "left")
    words = scope_words(MARKET_BOX, "left")
    assert "no clip at either" in words
    take(session, MARKET_BOX)
    window.show_stage("measure")
    window.measure.show_named("Clipping power")
    assert "no clip at either" in window.measure.wired.text()
    assert "230 V mains" in window.measure.clip.state.text()
    take(session, STREET_BOX)
    window.show_stage("measure")
    assert "25.6 V from the battery" in window.measure.clip.state.text()


def test_first_power_of_a_bridge_on_one_rail_speaks_of_one_rail(window: PlinthWindow, session: BenchSession) -> None:
    take(session, MARKET_BOX)
    window.show_stage("power_up")
    steps = {stand.step.key: stand.step for stand in session.bring_up.stands("left")}
    assert "±" not in steps["low_dc"].title + steps["low_current"].ask + steps["full_dc"].title
    assert "from output + to output −" in steps["low_dc"].ask
    assert "from the rail to 0 V" in steps["discharged"].ask
    take(session, FOYER)
    foyer = {stand.step.key: stand.step for stand in session.bring_up.stands("left")}
    assert "It sits on a rail for 2 s" in foyer["low_dc"].ask
    assert "±" in foyer["low_dc"].title


def test_the_map_is_drawn_read_and_saved(window: PlinthWindow, session: BenchSession, tmp_path: Path) -> None:
    take(session, STAGE_PAIR)
    dialog = MapDialog(window, session)
    assert dialog.found is not None
    assert dialog.found.value.shape == (80, 100)
    assert dialog.progress.value() == 1000
    assert "predicted" in dialog.said.text()
    words = dialog.read_at(25.0, np.log10(225.0))
    assert "secondary, each half" in words
    assert "clips at" in words
    path = tmp_path / "map.csv"
    dialog.save_csv(path)
    rows = list(csv.reader(path.read_text(encoding="utf-8").splitlines()))
    assert rows[0] == ["v_secondary", "va", "clip_power_w"]
    assert len(rows) == 8001
    here = session.predictions.prediction["clip_power_w"].value if session.predictions.prediction else 0.0
    near = min(rows[1:], key=lambda r: abs(float(r[0]) - 25.0) + abs(float(r[1]) - 225.0) / 10.0)
    assert float(near[2]) == pytest.approx(here, rel=0.05)


def test_the_same_choice_twice_is_refused_in_words(window: PlinthWindow, session: BenchSession) -> None:
    take(session, STREET_BOX)
    dialog = MapDialog(window, session)
    dialog.up.setCurrentIndex(dialog.across.currentIndex())
    assert dialog.said.text().startswith("Found rail as set twice")


def test_a_map_under_way_can_be_stopped(
    qtbot: QtBot, tmp_path: Path, demo_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = BenchSession(open_workshop(Path(shutil.copy(demo_file, tmp_path / "map.plinth"))))
    with qtbot.waitSignal(session.loads_predicted, timeout=60_000):
        take(session, STREET_BOX)
    window = QWidget()
    qtbot.addWidget(window)

    asked_for = threading.Event()

    def slowly(*asked: Any) -> ClipMap:
        *rest, go_on = asked

        def later(share: float) -> bool:
            asked_for.wait(60)
            return bool(go_on(share))

        whole: Any = map_of
        found: ClipMap = whole(*rest, later)
        return found

    monkeypatch.setattr(map_dialog, "map_of", slowly)
    dialog = MapDialog(window, session)
    dialog.show()
    assert session.jobs.busy("map")
    assert not dialog.table_button.isEnabled()
    dialog.stop_button.click()
    assert dialog.said.text().startswith("Stopped")
    asked_for.set()
    qtbot.waitUntil(lambda: not session.jobs.busy("map"), timeout=60_000)
    assert dialog.found is None
    assert not dialog.stop_button.isEnabled()
    dialog.go_button.click()
    assert session.jobs.busy("map")
    dialog.reject()
    assert not session.jobs.busy("map")
    assert not dialog.isVisible()
    session.close()


def test_what_a_short_would_show_stands_beside_the_lamp(window: PlinthWindow, session: BenchSession) -> None:
    ledger = window.plan.ledger
    assert ledger.lamp.isHidden()
    session.plan.what_if(live=False, lamp_w=60.0)
    assert not ledger.lamp.isHidden()
    assert "With one rail shorted the lamp would be" in ledger.lamp.text()
    before = ledger.lamp.text()
    # While another slider moves it stays, as a short shows the same.
    session.plan.what_if(live=True, ambient_c=31.0)
    assert ledger.lamp.text().splitlines()[0].split(";")[0] == before.splitlines()[0].split(";")[0]
    session.plan.what_if(live=False, lamp_w=None)
    assert ledger.lamp.isHidden()
