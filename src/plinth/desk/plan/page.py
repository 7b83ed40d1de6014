"""The Plan page: what if and shelf at the left, plots in the middle, margins at the right."""

import functools
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QWidget

from plinth.desk.asking import ask
from plinth.desk.choice_row import ChoiceRow
from plinth.desk.explain_figure import explain_figure
from plinth.desk.labels import column, label
from plinth.desk.look import look
from plinth.desk.plan.ledger import Ledger
from plinth.desk.plan.load_powers import LoadPowers
from plinth.desk.plan.station_parts import StationParts
from plinth.desk.plan.tools import PlanTools
from plinth.desk.plan.what_if import WhatIf
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.desk.side_area import SideArea
from plinth.desk.stage_page import StagePage
from plinth.drawing.series import Series
from plinth.judge.margin import Margin
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.power_state import PowerState
from plinth.predict.prediction import Prediction
from plinth.session.runner import words_of
from plinth.session.views import ONE_PERIOD, Picture, pictures_of, views_of
from plinth.shelf.find import slots_around
from plinth.shelf.fix_places import PLACES
from plinth.shelf.slots import slots_of
from plinth.units.shown import shown

if TYPE_CHECKING:
    from plinth.desk.shelf.view import ShelfView

SHOWN_S = 0.020
# Of every so many points of the output one of the rails is drawn.
RAILS_SPARSER = 3


# What the figure at each station of the path is about.
_FIGURE_OF_STATION = {
    "wall": "mains_power_w", "entry": "inrush_i2t_a2s", "transformer": "winding_load_ratio",
    "reservoir": "rail_plus_ripple_v_pp", "rails": "rail_plus_mean_v", "module": "clip_power_w",
    "protection": "dc_trip_s", "load": "output_power_w",
}  # fmt: skip


class PlanPage(StagePage):
    """What if, plots and margins of the current build."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self.setObjectName("page")
        self._session = session
        self.what_if, self.parts, self.ledger = WhatIf(session), StationParts(session), Ledger(session)
        self.load_powers, self.tools = LoadPowers(session), PlanTools(self.parts.shelf_button)
        self.supply_choice = ChoiceRow("Supply", "Band and plots show the supply")
        self.view_choice = ChoiceRow("Show", "The plots show")
        self.shown_view = ONE_PERIOD
        self.rails_plot = Plot("Rails and output", "t", "s", x_scale=1e3)
        self.mains_plot = Plot("Current from the wall", "t", "s", x_scale=1e3)
        self.problem = label("", "problem", wrap=True)
        left_inner = QWidget()
        left_box = column(
            self.parts.examples, self.tools, self.what_if, self.parts,
            spacing=12, margins=(0, 0, 8, 0),
        )  # fmt: skip
        left_box.addStretch()
        left_inner.setLayout(left_box)
        self.left = SideArea(left_inner)
        views = QHBoxLayout()
        views.setContentsMargins(0, 0, 0, 0)
        views.addWidget(self.view_choice, 1)
        middle = column(self.problem, self.supply_choice, spacing=8)
        middle.addLayout(views)
        middle.addWidget(self.rails_plot, 3)
        middle.addWidget(self.mains_plot, 2)
        middle.addWidget(self.load_powers)
        self._stack = QStackedWidget()
        self._plan = QWidget()
        self._stack.addWidget(self._plan)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self._stack)
        self._shelf: ShelfView | None = None
        box = QHBoxLayout(self._plan)
        box.setContentsMargins(18, 12, 18, 12)
        box.setSpacing(24)
        box.addWidget(self.left, 0)
        box.addLayout(middle, 1)
        box.addWidget(self.ledger, 0)
        self.ledger.asked.connect(self.show_origin)
        self.ledger.fix_asked.connect(self.show_fixes)
        self.supply_choice.chosen.connect(session.predictions.choose_supply)
        self.view_choice.chosen.connect(self.show_view)
        self.parts.shelf_asked.connect(self.show_shelf)
        self.parts.slot_asked.connect(self.show_shelf)
        for push, show in (
            (self.tools.find_me, lambda: self.show_find()), (self.tools.variants, self.show_variants),
            (self.tools.wiring, self.show_wiring), (self.tools.claims, self.show_claims),
            (self.tools.curve, self.show_curve), (self.tools.map, self.show_map),
            (self.tools.bill, self.show_bill), (self.tools.makeup, self.parts.ask_makeup),
            (self.tools.small, self.show_small_parts),
            (self.tools.change, self._ask_change),
        ):  # fmt: skip
            push.clicked.connect(show)
        session.predicted.connect(self.refresh)
        look.follow(self._fit)
        self._fit()
        self.refresh()

    def _ask_change(self) -> None:
        self.parts.ask_change(self.tools.change.mapToGlobal(self.tools.change.rect().bottomLeft()))

    def guide_place(self) -> str:
        if self.shelf_shown:
            return "shelf"
        margin = self.ledger.margin_in_front()
        return "" if margin is None else f"limits#{margin.key.replace(' ', '-')}"

    def pieces(self) -> tuple[QWidget, ...]:
        return (
            self.left, self.ledger, self.problem, self.supply_choice, self.view_choice, self.rails_plot,
            self.mains_plot, self.load_powers,
        )  # fmt: skip

    def _fit(self) -> None:
        # At large text the outer columns give way before the plots become useless.
        self.left.setFixedWidth(look.column(288))
        self.ledger.setFixedWidth(look.column(372))
        self.refresh()

    def refresh(self) -> None:
        """Draw the current prediction."""
        prediction = self._session.predictions.prediction
        self.problem.setText(self._session.predictions.problem)
        self.problem.setVisible(bool(self._session.predictions.problem))
        shown_supply = self._session.predictions.supply_shown
        names = tuple(view.name for view in self._session.predictions.supplies)
        self.supply_choice.set_choices(names, "" if shown_supply is None else shown_supply.name)
        views = views_of(prediction)
        if self.shown_view not in views:
            self.shown_view = ONE_PERIOD
        self.view_choice.set_choices(views, self.shown_view)
        for push in (self.tools.map, self.tools.curve):
            push.setEnabled(prediction is not None)
        self.mains_plot.setVisible(look.scale < 1.4)
        if prediction is None:
            self.rails_plot.set_series([])
            self.mains_plot.set_series([])
            self.rails_plot.aside.setText("")
            self.mains_plot.aside.setText("")
            return
        if self.shown_view == ONE_PERIOD:
            for plot in (self.rails_plot, self.mains_plot):
                plot.set_x(1e3)
            self.rails_plot.set_title("Rails and output")
            self._draw(prediction)
        else:
            self._ask(self.shown_view, prediction)

    def show_view(self, view: str) -> None:
        """Let the plots show another view."""
        self.shown_view = view
        self.refresh()

    def next_view(self) -> None:
        """The view after the one shown, round and round."""
        views = views_of(self._session.predictions.prediction)
        self.show_view(views[(views.index(self.shown_view) + 1) % len(views)])

    @property
    def shelf(self) -> "ShelfView":
        """The shelf, made when it is first asked for."""
        if self._shelf is None:
            from plinth.desk.shelf.view import ShelfView

            self._shelf = ShelfView(self._session)
            self._shelf.left.connect(self._leave_shelf)
            self._stack.addWidget(self._shelf)
            look.dress(self._shelf)
        return self._shelf

    @property
    def shelf_shown(self) -> bool:
        """Whether the shelf is in front."""
        return self._shelf is not None and self._stack.currentWidget() is self._shelf

    def show_shelf(self, slot: str = "") -> None:
        """Look along the shelf for parts of the current station, or of one slot of it."""
        if not slots_of(self._session.build, self._session.station):
            self._session.choose_station("module")
        self._stack.setCurrentWidget(self.shelf)
        self.shelf.open_station(self._session.station)
        if slot:
            self.shelf.open_slot(slot)

    def _leave_shelf(self) -> None:
        self._stack.setCurrentWidget(self._plan)
        self.parts.shelf_button.setFocus()

    def show_bill(self) -> None:
        """What this build costs, and what it waits for."""
        from plinth.desk.plan.bill_dialog import BillDialog

        ask(BillDialog(self.window(), self._session))

    def show_small_parts(self) -> None:
        """Op-amps, resistors, bare boards and kits of this build."""
        from plinth.desk.plan.small_parts_dialog import SmallPartsDialog

        ask(SmallPartsDialog(self.window(), self._session))

    def show_fixes(self, margin: Margin | None = None) -> None:
        """What clears a limit; without one, that which is tightest."""
        from plinth.desk.plan.fix_dialog import FixDialog

        chosen = margin or next(
            (margin for margin in self._session.predictions.margins if margin.fix and margin.key in PLACES), None
        )
        if chosen is not None:
            ask(FixDialog(self.window(), self._session, chosen))

    def show_find(self, slots: Sequence[str] = (), requirement: str = "") -> None:
        """Look for builds that meet a requirement; without stations given, where what is over can be fixed."""
        from plinth.desk.find_dialog import FindDialog

        around = slots or self._session.finding.clearing_slots() or slots_around(self._session.build, "")
        ask(FindDialog(self.window(), self._session, around, requirement))

    def show_wiring(self) -> None:
        """How this build is wired, and what flows in each wire."""
        from plinth.desk.wiring.dialog import WiringDialog

        ask(WiringDialog(self.window(), self._session))

    def show_variants(self) -> None:
        """Variants and older versions of this build beside each other."""
        from plinth.desk.plan.variants_dialog import VariantsDialog

        ask(VariantsDialog(self.window(), self._session))

    def show_curve(self) -> None:
        """Any figure over anything that can be varied."""
        from plinth.desk.plan.curve_dialog import CurveDialog

        if self._session.predictions.prediction is not None:
            ask(CurveDialog(self.window(), self._session))

    def show_claims(self) -> None:
        """What the listings claim, judged three ways."""
        from plinth.desk.plan.claims_dialog import ClaimsDialog

        ask(ClaimsDialog(self.window(), self._session))

    def show_map(self) -> None:
        """Clip power over two choices."""
        # Late, as it draws with what the plots load once they are shown.
        from plinth.desk.plan.map_dialog import MapDialog

        ask(MapDialog(self.window(), self._session))

    def _ask(self, view: str, prediction: Prediction) -> None:
        def computed() -> tuple[str, Prediction, tuple[Picture, ...], str]:
            try:
                return view, prediction, pictures_of(view, prediction), ""
            except PhysicsError as error:
                return view, prediction, (), f"not for this build: {error}"

        failed = functools.partial(self._undrawn, view)
        self._session.jobs.ask("course", lambda _task: computed(), self._computed, failed)

    def _undrawn(self, view: str, error: Exception) -> None:
        if view == self.shown_view:
            for plot in (self.rails_plot, self.mains_plot):
                plot.set_series([])
            self.rails_plot.aside.setText(words_of(error))
        self._session.jobs.failed.emit("course", error)

    def _computed(self, got: object) -> None:
        assert isinstance(got, tuple)
        view, prediction, pictures, words = got
        # What belongs to another view or another build by now is dropped.
        if (
            view == self.shown_view
            and self._session.predictions.prediction is not None
            and prediction.build == self._session.build
        ):
            self._draw_pictures(pictures)
            if words:
                self.rails_plot.set_series([])
                self.rails_plot.aside.setText(words)

    def _draw_pictures(self, pictures: tuple[Picture, ...]) -> None:
        plots = (self.rails_plot, self.mains_plot)
        self.mains_plot.setVisible(len(pictures) > 1 and look.scale < 1.4)
        for plot, widget in zip(plots, pictures, strict=False):
            plot.set_title(widget.title)
            plot.set_x(widget.x_scale, widget.x_name, widget.x_unit)
            plot.set_series(widget.series)
            low = min(float(np.min(s.y)) for s in widget.series)
            high = max(float(np.max(s.y)) for s in widget.series)
            room = 0.22 * (high - low) + 1e-9
            from_zero = low >= 0.0 and low < 0.6 * high
            x = widget.series[0].x
            plot.set_view((float(x[0]), float(x[-1])), (0.0 if from_zero else low - room, high + room))
            plot.aside.setText(widget.aside)

    def _draw(self, prediction: Prediction) -> None:
        view = self._session.predictions.supply_shown
        assert view is not None, "a prediction has at least one supply"
        state = view.state
        period_s = state.period.shared.seconds
        repeats = max(1, round(SHOWN_S / period_s))
        n = state.period.steps
        t = np.linspace(0.0, repeats * period_s, repeats * n + 1)

        def repeated(samples: np.ndarray) -> np.ndarray:
            return np.append(np.tile(samples[:-1], repeats), samples[-1])

        keep = _thinned(state, len(t))
        # Rails ripple where outputs swing: a point for a pixel is enough for them.
        sparse = slice(None, None, RAILS_SPARSER * keep.step)
        series = [
            Series(
                name, t[keep], repeated(volts)[keep], role="ink2" if k else "ink", unit="V",
                label="" if k else "outputs, both live" if len(state.output_lines) > 1 else name, label_at="corner",
            )
            for k, (name, volts) in enumerate(state.output_lines.items())
            if view.feeds_output
        ]  # fmt: skip
        for rail, sign, name, token, place in (
            (state.plus, 1.0, "+ rail" if state.minus else "rail", "plus", "above"),
            (state.minus, -1.0, "− rail", "minus", "below"),
        ):
            if rail is not None:
                spread = prediction[f"rail_{token}_mean_v"].spread if state is prediction.state else 0.0
                series.append(
                    Series(
                        name,
                        t[sparse],
                        sign * repeated(rail.v_node)[sparse],
                        role=token,
                        unit="V",
                        label=name,
                        label_at=place,
                        spread=spread,
                    )
                )
        self.rails_plot.set_series(series)
        highest = max(rail.v_max for rail in state.rails)
        if view.feeds_output:
            highest = max(highest, prediction["rail_no_load_v"].value)
        top = _rounded(1.27 * highest)
        self.rails_plot.set_view((0.0, float(t[-1])), (-top if state.minus else -0.12 * top, top))
        self.rails_plot.aside.setText("predicted, V over ms, band 95 %")
        self._draw_source(prediction)

    def _draw_source(self, prediction: Prediction) -> None:
        """The current from the wall; without one, the battery's or the bench supplies'."""
        wall = prediction.wall
        if wall is None:
            self._draw_rail_currents(prediction)
            return
        seconds = max(SHOWN_S, wall.seconds)
        t = np.linspace(0.0, seconds, min(4001, max(1001, len(wall.v))))
        _, current = wall.at(t)
        peak = prediction["primary_peak_a"]
        self.mains_plot.set_title("Current from the wall")
        self.mains_plot.set_series([Series("current", t, current, "ink2", "A")])
        self.mains_plot.set_view((0.0, float(t[-1])), (-_rounded(1.15 * peak.value), _rounded(1.15 * peak.value)))
        self.mains_plot.aside.setText(
            f"{shown(prediction['primary_rms_a'].value, 'A')} rms · peak {shown(peak.value, 'A')} · "
            f"PF {prediction['power_factor'].value:.2f} · A over ms"
        )

    def _draw_rail_currents(self, prediction: Prediction) -> None:
        state = prediction.state
        period_s = state.period.shared.seconds
        repeats = max(1, round(SHOWN_S / period_s))
        t = np.linspace(0.0, repeats * period_s, repeats * state.period.steps + 1)
        keep = _thinned(state, len(t))
        series, maximum, least = [], 0.0, 0.0
        for rail, name, token in ((state.plus, "+ rail", "plus"), (state.minus, "− rail", "minus")):
            if rail is not None:
                current = np.append(np.tile(rail.i_load_a[:-1], repeats), rail.i_load_a[-1])
                # Both are as high: their names stand at either end.
                place = "above" if rail is state.plus else "start"
                series.append(Series(name, t[keep], current[keep], role=token, unit="A", label=name, label_at=place))
                maximum, least = max(maximum, float(np.max(current))), min(least, float(np.min(current)))
        self.mains_plot.set_title("Current drawn from the rails")
        self.mains_plot.set_series(series)
        self.mains_plot.set_view((0.0, float(t[-1])), (_rounded(-1.15 * least) * -1.0, _rounded(1.15 * maximum)))
        draw = prediction.battery
        words = "" if draw is None else f"battery {shown(draw.i_a, 'A')}, {shown(draw.p_w, 'W')} · "
        self.mains_plot.aside.setText(
            f"{words}below 0: pumped back · A over ms" if least < -0.01 else f"{words}A over ms"
        )

    def show_origin(self, name: str) -> None:
        """Where the figure of that name comes from."""
        explain_figure(self.window(), self._session, None, name)

    def explained(self) -> tuple[Prediction | None, str]:
        """The figure that the current station of the path is about; along the shelf that of the current row."""
        if self.shelf_shown:
            return None, self.shelf.figure_in_front()
        return None, _FIGURE_OF_STATION.get(self._session.station, "clip_power_w")


def _rounded(value: float) -> float:
    """Up to the next step that keeps the axis still while values move a little."""
    step = 5.0 if value > 12 else 1.0 if value > 1.5 else 0.25
    return float(np.ceil(value / step) * step)


def _thinned(state: PowerState, size: int) -> slice:
    """Some 75 points a signal cycle, within what a picture can show: each one costs at every step of a slider."""
    shared = state.period.shared
    wanted = min(max(75.0 * SHOWN_S / shared.seconds * shared.signal_cycles, 1500.0), 4000.0)
    return slice(None, None, max(1, int(size / wanted)))
