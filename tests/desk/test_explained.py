"""Any predicted figure explained by one key on any page: inputs, how each is known, since when, and the next test."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from plinth.builds.supply_parts import Transformer
from plinth.desk.measure.page import FIGURES
from plinth.desk.origin import OriginDialog
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.predict.catalogue import CATALOGUE
from plinth.predict.model_limits import limits_of
from plinth.session.shelf_look import MARGIN, RAIL
from tests.desk.driver import press


def explain(window: PlinthWindow, monkeypatch: pytest.MonkeyPatch) -> OriginDialog:
    shown: list[OriginDialog] = []
    monkeypatch.setattr("plinth.desk.explain_figure.ask", shown.append)
    window.run_command(next(command for command in window.commands if command.key == "origin"))
    return shown[0]


def test_every_figure_has_a_sentence_on_what_is_not_in_it() -> None:
    for name in CATALOGUE:
        assert limits_of(name).endswith("."), name
    with pytest.raises(KeyError, match="expected a beginning of it"):
        limits_of("magic_w")


def test_the_key_explains_what_is_in_front_on_every_page(
    window: PlinthWindow, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    prediction = session.predictions.prediction
    assert prediction is not None
    window.show_stage("plan")
    for station, name in (("wall", "mains_power_w"), ("module", "clip_power_w"), ("rails", "rail_plus_mean_v")):
        session.choose_station(station)
        dialog = explain(window, monkeypatch)
        assert dialog.explained is not None
        assert dialog.explained.figure == prediction[name]
        dialog.close()
    window.show_stage("measure")
    for test, name in FIGURES.items():
        window.measure.show_named(test)
        dialog = explain(window, monkeypatch)
        assert dialog.explained is not None
        assert dialog.explained.figure.name == (name if name in prediction.figures else "clip_power_w")
        dialog.close()
    # Of clipping it is the very cell.
    window.measure.show_named("Clipping power")
    clip = window.measure.clip
    clip.choose(1)
    dialog = explain(window, monkeypatch)
    assert clip.cell is not None
    assert dialog.explained is not None
    assert dialog.explained.figure == clip.cell.prediction["clip_worst_power_w"]
    dialog.close()
    for stage in ("inspect", "power_up", "decide", "diary"):
        window.show_stage(stage)
        dialog = explain(window, monkeypatch)
        assert dialog.list.count() == len(prediction.figures)
        dialog.close()


def test_how_each_input_is_known_and_since_which_version(
    window: PlinthWindow, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    transformer = session.build.supply.transformer
    assert isinstance(transformer, Transformer)
    session.plan.restate("supply.transformer", transformer.model_copy(update={"v_secondary_rms": 23.7}))
    number = len(session.records.versions())
    prediction = session.predictions.prediction
    assert prediction is not None
    explained = session.explaining.explained(prediction, "rail_no_load_v")
    by_key = {known.row.key: known for known in explained.inputs}
    assert by_key["v_secondary"].since == f"v{number}"
    others = {known.since for key, known in by_key.items() if key != "v_secondary"}
    assert others
    assert f"v{number}" not in others
    for known in explained.inputs:
        assert known.known
        assert not known.row.estimated or known.known not in ("stated", "measured")
    assert explained.narrowing is not None
    assert explained.narrowing.test == "Rails"


def test_one_key_leads_to_the_test_that_would_narrow_it(
    window: PlinthWindow, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.show_stage("plan")

    def press_it(dialog: OriginDialog) -> None:
        dialog.show()
        dialog.activateWindow()
        assert QTest.qWaitForWindowActive(dialog)
        assert dialog.explained is not None
        assert dialog.explained.narrowing is not None
        QTest.keyClick(dialog.list, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)

    monkeypatch.setattr("plinth.desk.explain_figure.ask", press_it)
    window.plan.show_origin("rail_no_load_v")
    assert window.stage == "measure"
    assert window.measure.test is window.measure.sheet("Rails")

    def press_button(dialog: OriginDialog) -> None:
        dialog.show()
        press(dialog.test_button)

    monkeypatch.setattr("plinth.desk.explain_figure.ask", press_button)
    window.plan.show_origin("sink_sine_c")
    assert window.measure.test is window.measure.sheet("Heat run")


def test_along_the_shelf_it_explains_the_build_with_the_part_in_front(
    window: PlinthWindow, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    session.choose_station("transformer")
    window.plan.show_shelf()
    view = window.plan.shelf
    row = next(k for k, item in enumerate(view.rows.items) if item.part.name == "Ring 330")
    view.look_at_row(row)
    view.try_current()
    tried = session.predictions.prediction
    assert tried is not None
    assert tried.build.supply.transformer is not None
    assert tried.build.supply.transformer.name == "Ring 330"
    heads = [head.key for head in view.rows.heads]
    consequence = view.look.consequence_of(view.rows.items[row])
    assert consequence is not None
    assert consequence.rail is not None
    for key, name in ((RAIL, "rail_no_load_v"), (session.build.load.identity, "clip_power_w")):
        view.table.setCurrentIndex(view.rows.index(row, heads.index(key)))
        dialog = explain(window, monkeypatch)
        assert dialog.explained is not None
        assert dialog.explained.figure == tried[name]
        dialog.close()
    assert tried["rail_no_load_v"].value == pytest.approx(consequence.rail.value, rel=1e-3)
    view.table.setCurrentIndex(view.rows.index(row, heads.index(MARGIN)))
    dialog = explain(window, monkeypatch)
    assert consequence.margin is not None
    assert consequence.margin.figure is not None
    assert dialog.explained is not None
    assert dialog.explained.figure.name == consequence.margin.figure.name
    dialog.close()
