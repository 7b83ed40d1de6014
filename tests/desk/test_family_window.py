"""Every view, map, power up, measure, stop bar and band for every kind of build: what they say."""

import math
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QCoreApplication, QEvent
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies import BatterySupply, DirectSupply, LinearSupply
from plinth.desk.look import load_fonts, look
from plinth.desk.plan.map_dialog import MapDialog
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.session.views import views_of
from plinth.workshop.store import Workshop, create_workshop
from tests.desk.watching import no_stray_windows
from tests.family import FAMILY, FEW
from tests.turns import in_turn

NO_NUMBER = re.compile(r"\b(nan|inf|None)\b")


@pytest.fixture
def of_kind(qtbot: QtBot, tmp_path: Path, request: pytest.FixtureRequest) -> Iterator[PlinthWindow]:
    build: Build = FAMILY[request.param]
    load_fonts()
    look.set(dark=False, scale=1.0)

    def fill(workshop: Workshop) -> None:
        workshop.add_build(build, Situation(), "made")

    session = BenchSession(create_workshop(tmp_path / "kind.plinth", fill), threaded=False)
    window = PlinthWindow(session)
    window.resize(1280, 800)
    with no_stray_windows():
        window.show()
        QApplication.processEvents()
        yield window
        QApplication.processEvents()
    session.power.switch_off()
    window.close()
    window.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def sound(text: str) -> str:
    assert text
    assert not NO_NUMBER.search(text), text
    return text


@pytest.mark.parametrize("of_kind", in_turn(FEW, 3), indirect=True)
def test_plan_of_every_kind(of_kind: PlinthWindow) -> None:
    session, build = of_kind.session, of_kind.session.build
    assert session.predictions.prediction is not None, session.predictions.problem
    single = build.supply.single_rail
    for station in of_kind.band.stations.values():
        sound(station.accessibleName())
    for view in views_of(session.predictions.prediction):
        of_kind.plan.show_view(view)
        names = [one.name for one in of_kind.plan.rails_plot.series]
        assert names, view
        if view != "warm-up":
            assert any("rail" in name for name in names)
            assert any(name.startswith("−") for name in names) != single, (view, names)
        for one in of_kind.plan.rails_plot.series:
            assert all(math.isfinite(float(v)) for v in one.y), view
        sound(of_kind.plan.rails_plot.aside.text())
    assert ("from the wall" in of_kind.plan.mains_plot.title.text()) <= (build.mains is not None)
    for row in of_kind.plan.ledger.rows:
        sound(row.value.text())
        sound(row.sentence.text())
    assert of_kind.plan.ledger.notes_title.text() == f"To know, {len(session.predictions.prediction.warnings)}" or not (
        session.predictions.prediction.warnings
    )
    # Powers into both loads, less into the higher one unless the module's own limit holds the lower one.
    assert set(session.predictions.load_powers) == {"Dummy 8", "Dummy 4"}


@pytest.mark.parametrize("of_kind", ["class AB on dual mono", "class D full bridge on bench"], indirect=True)
def test_map_of_a_quick_and_of_a_slow_kind(of_kind: PlinthWindow, tmp_path: Path) -> None:
    dialog = MapDialog(of_kind, of_kind.session)
    assert dialog.found is not None
    assert dialog.table_button.isEnabled()
    dialog.save_csv(tmp_path / "map.csv")
    rows = (tmp_path / "map.csv").read_text(encoding="utf-8").splitlines()
    assert len(rows) == 1 + dialog.found.value.size
    sound(dialog.read_at(0.5, 0.5))
    dialog.reject()
    dialog.deleteLater()


@pytest.mark.parametrize("of_kind", in_turn(FEW, 4, offset=1), indirect=True)
def test_power_up_and_stop_bar_of_every_kind(of_kind: PlinthWindow) -> None:
    session, build = of_kind.session, of_kind.session.build
    of_kind.show_stage("power_up")
    channel = build.channels[0]
    stands = session.bring_up.stands(channel)
    assert len(stands) >= 8
    for row in range(len(stands)):
        of_kind.power_up.steps.list.setCurrentRow(row)
        QApplication.processEvents()
        sound(of_kind.power_up.question.title.text())
        text = sound(of_kind.power_up.question.ask.text())
        if build.supply.single_rail:
            assert "each side" not in text
            assert "+ rail" not in text
    assert session.power.switch_on(channel, "on")
    detail = sound(of_kind.stop_bar.detail.text())
    assert ("end to end" in detail) != build.supply.single_rail
    session.power.switch_off()
    stopped = sound(of_kind.stop_bar.detail.text())
    assert ("each rail" in stopped) <= (not build.supply.single_rail)
    session.power.put_away()
    assert not of_kind.stop_bar.isVisible()


@pytest.mark.parametrize("of_kind", in_turn(FEW, 4), indirect=True)
def test_measure_and_diary_of_every_kind(of_kind: PlinthWindow, tmp_path: Path) -> None:
    build = of_kind.session.build
    of_kind.show_stage("measure")
    page = of_kind.measure
    page.show_named("Clipping power")
    cells = page.clip.procedure.cells
    here = [cell for cell in cells if cell.source == cells[0].source]
    assert len(here) == 2 * (1 if len(build.channels) == 1 else 2)
    assert len({cell.source for cell in cells}) == 3
    for index, cell in enumerate(cells):
        page.clip.choose(index)
        for said in (page.generator, page.start, page.most, page.load_time, page.wired, page.clip.prompt):
            sound(said.text())
        # What the scope shows, p-p, is what the prediction says in watts.
        v_pp = 2.0 * cell.v_peak.value
        assert cell.power.value == pytest.approx((v_pp / 2.0) ** 2 / (2.0 * cell.load.r_ohm), rel=1e-6)
        page.clip.field.setText(f"{v_pp:.4g}pp")
        sound(page.clip.understood.text())
        assert "rms = " in page.clip.understood.text()
        assert not page.clip.choices
        # Beyond the rails at their highest: asked about, never praised.
        page.clip.field.setText(f"{2.6 * cell.most_v_peak:.4g}pp")
        assert "beyond these rails" in page.clip.understood.text()
        assert len(page.clip.choices) >= 2
        page.clip.field.clear()
    assert ("never" in page.wired.text() or "no clip" in page.wired.text()) or not build.both_outputs_live
    of_kind.show_stage("diary")
    assert of_kind.diary.save_report(tmp_path / "r.html"), of_kind.diary.said.text()
    of_kind.diary.save_csv(tmp_path / "r.csv")
    assert (tmp_path / "r.csv").exists(), of_kind.diary.said.text()
    page_text = (tmp_path / "r.html").read_text(encoding="utf-8")
    assert build.module.name in page_text
    for kind, words in ((LinearSupply, "winding"), (BatterySupply, "battery")):
        assert (words in page_text.lower()) or not isinstance(build.supply, kind)
    assert ("Current from the wall" in page_text) == (not isinstance(build.supply, BatterySupply | DirectSupply))


@pytest.mark.parametrize("of_kind", ["class D full bridge on bench"], indirect=True)
def test_readings_at_several_rails_stand_beside_one_another(of_kind: PlinthWindow) -> None:
    from plinth.record.reading import Reading

    session = of_kind.session
    supply = session.build.supply
    assert isinstance(supply, DirectSupply)
    of_kind.show_stage("measure")
    of_kind.measure.reason.setText("for this test")
    of_kind.measure.pass_over()
    kept = {}
    for volts in (24.0, 30.0):
        session.plan.restate("supply.source", supply.source.model_copy(update={"v_rail": volts}))
        of_kind.measure.refresh()
        clip = of_kind.measure.clip
        clip.choose(0)
        cell = clip.cell
        assert cell is not None
        clip.field.setText(f"{2.0 * cell.v_peak.value:.4g}pp")
        clip.keep()
        found = session.records.reading(cell.subject, cell.conditions)
        assert isinstance(found, Reading)
        kept[volts] = found.value
    assert kept[30.0] > 1.4 * kept[24.0]
    for volts, power in kept.items():
        session.plan.restate("supply.source", supply.source.model_copy(update={"v_rail": volts}))
        of_kind.measure.refresh()
        cell = of_kind.measure.clip.procedure.cells[0]
        found = session.records.reading(cell.subject, cell.conditions)
        assert isinstance(found, Reading)
        assert found.value == power
    session.plan.restate("supply.source", supply.source.model_copy(update={"v_rail": 12.0}))
    of_kind.measure.refresh()
    clip = of_kind.measure.clip
    clip.choose(0)
    assert clip.cell is not None
    assert session.records.reading(clip.cell.subject, clip.cell.conditions) is None
    assert "does not count here: the rail was" in clip.against.text()
