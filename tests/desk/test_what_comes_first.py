"""What the window shows first and what follows: plots once they are seen, powers into loads after the figures."""

import dataclasses
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from plinth.builds.situation import Situation
from plinth.demo.builds import STAGE_PAIR
from plinth.demo.shelf import BENCH
from plinth.desk.band.contents import station_contents
from plinth.desk.band.polygon import polygon
from plinth.desk.look import look
from plinth.desk.plan import page
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.drawing.series import Series
from plinth.guide.judging import reading_for_step, sentence_of, verdict_at
from plinth.guide.schools.limited_supply import plan_steps
from plinth.judge.claims import sensitivity_claim
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.physics.numbers.errors import RailCollapseError
from plinth.predict.mains_steps import mains_steps
from plinth.predict.solve import idle_rail_v, solve
from plinth.record.clock import now
from plinth.session import views
from plinth.session.solver import SolveRequest, answer_loads
from tests.demo_copy import demo_copy
from tests.family import FAMILY


def test_a_plot_keeps_what_it_is_given_until_it_is_seen(qtbot: QtBot, tmp_path: Path) -> None:
    plot = Plot("Rails", "t", "s", x_scale=1e3)
    qtbot.addWidget(plot)
    x = np.linspace(0.0, 0.02, 50)
    plot.set_series([Series("a", x, 2.0 * x, "plus", "V")])
    plot.set_view((0.0, 0.02), (0.0, 0.05))
    plot.set_title("Rails and more")
    assert not plot.is_drawn, "nothing is drawn for nobody"
    plot.show()
    qtbot.waitUntil(lambda: plot.is_drawn, timeout=5_000)
    assert plot.graph.viewRange()[0] == pytest.approx([0.0, 0.02])
    assert plot.graph.accessibleName() == "Rails and more"
    assert "a 20.0 mV" in plot.read_at(0.01)
    plot.save_csv(tmp_path / "a.csv")
    assert (tmp_path / "a.csv").read_text().splitlines()[0] == "t_s (a),a_V"


def test_an_axis_may_become_another_quantity(qtbot: QtBot) -> None:
    plot = Plot("Rails", "t", "s", x_scale=1e3)
    qtbot.addWidget(plot)
    x = np.linspace(0.0, 250.0, 50)
    plot.set_series([Series("+ rail", x, 0.15 * x, "plus", "V")])
    plot.set_x(1.0, "mains", "V")
    assert plot.read_at(100.0).startswith("mains 100 V")
    plot.set_x(1e3)
    assert plot.read_at(0.02).startswith("t 20.0 ms")


def test_a_polygon_has_the_points_it_was_given() -> None:
    x, y = np.linspace(0.0, 9.0, 10), np.arange(10.0) ** 2
    found = polygon(x, y)
    assert found.size() == 10
    assert [(found.at(k).x(), found.at(k).y()) for k in range(10)] == list(zip(x, y, strict=True))


def test_powers_into_loads_follow_the_figures_and_give_way(session: BenchSession) -> None:
    request = SolveRequest(1, session.build, Situation())
    found = answer_loads(request, lambda: False)
    assert found is not None
    assert set(found.powers) == {load.name for load in session.build.loads}
    asked = []

    def something_newer() -> bool:
        asked.append(True)
        return len(asked) > 1

    assert answer_loads(request, something_newer) is None, "a slider goes first"
    assert len(asked) == 2
    # What a lamp does at rest says nothing about clipping into a load.
    behind = answer_loads(dataclasses.replace(request, situation=Situation(lamp_w=60.0)), lambda: False)
    assert behind is not None
    assert {k: f.value for k, f in behind.powers.items()} == {k: f.value for k, f in found.powers.items()}


def test_behind_a_lamp_nothing_plays(window: PlinthWindow, session: BenchSession) -> None:
    free = session.predictions.prediction
    assert free is not None
    session.plan.what_if(live=False, lamp_w=60.0)
    held = session.predictions.prediction
    assert held is not None
    assert held["output_power_w"].value == 0.0
    assert held["clip_worst_power_w"].value == pytest.approx(free["clip_worst_power_w"].value, rel=1e-4)
    assert held["rail_idle_v"].value < free["rail_idle_v"].value
    contents = station_contents(session)
    assert contents["rails"].aside == "at rest"
    assert "60 W lamp" in contents["entry"].below
    rows = window.plan.what_if.rows
    assert not rows["level"].isEnabled()
    assert not rows["crest_db"].isEnabled()
    assert rows["level"].field.text() == "at rest"
    offered = views.views_of(held)
    assert views.BASS_NOTE not in offered
    assert views.TURNED_UP not in offered
    window.plan.show_view(views.SWITCH_ON)
    assert window.plan.mains_plot.title.text() == "Filament of the lamp"
    assert "estimated" in window.plan.mains_plot.aside.text()
    session.plan.what_if(live=False, lamp_w=None)
    assert rows["level"].isEnabled()
    assert rows["level"].field.text() == "100 %"


def test_mains_turned_up_is_drawn_over_the_mains(window: PlinthWindow, session: BenchSession) -> None:
    plan = window.plan
    plan.show_view(views.TURNED_UP)
    plus, minus = plan.rails_plot.series[:2]
    steps = mains_steps(session.build, session.situation, (0.5, 1.0))
    for step in steps:
        assert float(np.interp(step.mains_v_rms, plus.x, plus.y)) == pytest.approx(step.rail_v, rel=0.03)
    assert minus.y == pytest.approx(-plus.y)
    assert "modules at work from" in plan.rails_plot.aside.text()
    assert plan.rails_plot.read_at(115.0).startswith("mains 115 V")
    plan.show_view(views.ONE_PERIOD)
    assert plan.rails_plot.read_at(0.005).startswith("t 5.00 ms")


@pytest.mark.parametrize("scale", [1.0, 1.5])
def test_the_plan_fits_its_window(window: PlinthWindow, session: BenchSession, scale: float) -> None:
    """Whatever is offered above the plots, the page does not grow wider than the window."""
    look.set(dark=False, scale=scale)
    for one in session.builds:
        session.switch(one.id)
        QApplication.processEvents()
        area = window.pages.currentWidget()
        assert area is not None
        assert window.plan.minimumSizeHint().width() <= area.width(), one.build.name


def test_a_bias_reading_tells_the_current_behind_it() -> None:
    steps = plan_steps(STAGE_PAIR, "left", idle_rail_v(STAGE_PAIR), {"emitter_resistor": 0.33})
    bias = next(step for step in steps if step.key == "bias")
    assert bias.across_ohm == pytest.approx(0.33)
    reading = reading_for_step(bias, "33.5", BENCH, now())
    assert "That is 102 mA through 0.33 Ω." in verdict_at(bias, reading).sentence
    assert "That is 102 mA through 0.33 Ω." in sentence_of(reading)


def test_a_listed_sensitivity_is_held_against_the_drive_at_clip() -> None:
    drive = solve(STAGE_PAIR)["drive_v_rms"]
    module = STAGE_PAIR.module
    assert sensitivity_claim(module, drive) is None, "none is listed"

    def said(volts: float) -> str | None:
        return sensitivity_claim(module.model_copy(update={"sensitivity_v_rms": volts}), drive)

    assert said(drive.value * 1.05) is None
    low, high, absurd = said(drive.value / 2.0), said(drive.value * 1.5), said(drive.value * 2.0)
    assert low is not None
    assert "6.0 dB below" in low
    assert high is not None
    assert "turn the source down" in high
    assert absurd is not None
    assert "contradicts itself" in absurd, "the module would be beyond the rails that it stands"


def test_drive_from_a_source_is_a_margin_where_the_source_is_known() -> None:
    def margin(volts: float | None) -> State | None:
        found = judge(solve(STAGE_PAIR, Situation(source_v_rms=volts)))
        return next((m.state for m in found if m.key == "source_drive"), None)

    assert margin(None) is None
    assert margin(0.3) is State.OVER
    assert margin(2.0) is State.CLEAR


def test_from_another_thread_powers_follow_the_situation_at_rest(qtbot: QtBot, tmp_path: Path) -> None:
    session = BenchSession(demo_copy(tmp_path))
    with qtbot.waitSignal(session.loads_predicted, timeout=20_000):
        pass
    before = {name: figure.value for name, figure in session.predictions.load_powers.items()}
    for mains in (225.0, 220.0, 216.0):
        session.plan.what_if(live=True, mains_v_rms=mains)
    session.plan.what_if(live=False, mains_v_rms=212.0)
    load = session.build.loads[0]
    expected = solve(session.build.model_copy(update={"load": load}), Situation(mains_v_rms=212.0))[
        "clip_worst_power_w"
    ]

    def followed() -> None:
        assert session.predictions.load_powers[load.name].value == pytest.approx(expected.value, rel=1e-6)

    qtbot.waitUntil(followed, timeout=20_000)
    assert session.predictions.load_powers[load.name].value < before[load.name]
    session.switch(session.builds[2].id)
    assert session.predictions.load_powers == {}, "nothing of another build stands under this one's name"
    session.close()


def test_a_view_that_cannot_be_computed_says_why(
    window: PlinthWindow, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fails(_view: str, _prediction: object) -> tuple[views.Picture, ...]:
        raise RailCollapseError("this load collapses the rail")

    monkeypatch.setattr(page, "pictures_of", fails)
    window.plan.show_view(views.SWITCH_ON)
    assert window.plan.rails_plot.aside.text() == "not for this build: this load collapses the rail"
    assert window.plan.rails_plot.series == ()


@pytest.mark.parametrize("scale", [1.0, 1.5])
@pytest.mark.parametrize("most", [6.0, 50.0, 0.3, 1234.0])
def test_a_low_plot_has_two_numbers_beside_it(qtbot: QtBot, most: float, scale: float) -> None:
    look.set(dark=False, scale=scale)
    plot = Plot("Current", "t", "s")
    qtbot.addWidget(plot)
    plot.resize(540, round(120 * scale))
    x = np.linspace(0.0, 1.0, 20)
    plot.set_series([Series("a", x, 0.8 * most * np.sin(6.0 * x), "plus", "A", "above it", "above")])
    plot.set_view((0.0, 1.0), (-most, most))
    plot.show()
    axis = plot.graph.getAxis("left")
    qtbot.waitUntil(lambda: 20.0 < axis.size().height() < 200.0, timeout=5_000)
    low, high = axis.range
    ticks = [v for _, values in axis.tickValues(low, high, axis.size().height()) for v in values]
    assert 2 <= sum(abs(v) < 0.95 * most for v in ticks) <= 12
    # A name that would be cut off above stands below its line.
    for share, side in ((0.9, 0), (-0.5, 1)):
        plot.set_series([Series("a", x, np.full(20, share * most), "plus", "A", "above it", "above")])
        label = plot.graph.drawn[0].label
        assert label is not None
        assert label.anchor.y() == side
    look.set(dark=False, scale=1.0)


@pytest.mark.parametrize("name", ["class AB on linear", "class D full bridge on bench", "class A on linear"])
def test_the_name_of_the_output_lies_over_no_curve(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, name: str
) -> None:
    assert session.plan.add_new(FAMILY[name].model_copy(update={"note": "Made for this test."}))
    plot = window.plan.rails_plot
    qtbot.waitUntil(lambda: plot.graph.isVisible() and plot.graph.getViewBox().height() > 0.0, timeout=20_000)
    QApplication.processEvents()
    graph = plot.graph
    box = graph.getViewBox()
    drawn, trace = next(
        (d, t) for d, t in zip(graph.drawn, graph.series, strict=True) if t.label_at == "corner" and t.label
    )
    assert drawn.label is not None
    words = box.mapSceneToView(drawn.label.sceneBoundingRect()).boundingRect()
    (left, right), (low, high) = graph.viewRange()
    assert left - 0.02 * (right - left) <= words.left() <= left + 0.02 * (right - left)
    # A third of it may lie over a curve where there is no more room: its ground hides nothing of what is between.
    for other in graph.series:
        inside = (other.x >= words.left()) & (other.x <= words.right())
        if other.label_at in ("above", "below") and np.any(inside):
            near = np.min(np.abs(other.y[inside] - words.center().y()))
            assert near > 0.2 * words.height()
    assert min(
        abs(words.bottom() - low), abs(words.top() - high), abs(words.top() - low), abs(words.bottom() - high)
    ) < (0.02 * (high - low))
    assert trace.label in ("output", "outputs, both live")
