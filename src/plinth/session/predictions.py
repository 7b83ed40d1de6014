"""What is predicted of the current build: asked of the runner, taken where it still fits."""

from plinth.judge.margin import Margin
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.predict.supply_views import SupplyView, supply_views
from plinth.session.core import Core
from plinth.session.runner import words_of
from plinth.session.solver import LoadAnswer, SolveAnswer, SolveRequest, answer, answer_loads


class Predictions:
    """The current prediction, its margins, and the powers into each load."""

    def __init__(self, core: Core) -> None:
        self._core = core
        self.prediction: Prediction | None = None
        self.margins: tuple[Margin, ...] = ()
        self.load_powers: dict[str, Figure] = {}
        self.claimed_powers: dict[str, Figure] = {}
        self.problem = ""
        self._supply = ""
        self.solid: Prediction | None = None
        self._asked = self._shown = 0

    @property
    def prediction_kept(self) -> Prediction | None:
        """The last full prediction of the build as it is kept; None where it cannot run, or is not computed yet."""
        return self.solid

    def forget(self) -> None:
        """Nothing of another build may stand under this one's name while its own figures are computed."""
        self.solid, self.prediction, self.margins, self.problem = None, None, (), ""
        self.load_powers, self.claimed_powers = {}, {}

    def solve(self, *, live: bool) -> None:
        """Have the build as it is now predicted; ``live``: quickly, from the last full prediction."""
        self._asked += 1
        request = SolveRequest(
            self._asked, self._core.build, self._core.situation, live and self.solid is not None, self.solid
        )
        self._core.jobs.ask(
            "plan", lambda _task: answer(request), self.take, lambda error: self._cannot(request, error)
        )

    def _cannot(self, request: SolveRequest, error: Exception) -> None:
        # Under new sliders no figure of the old ones may stand.
        self.take(SolveAnswer(request, None, (), words_of(error)))
        self.job_failed("plan", error)

    def job_failed(self, name: str, error: Exception) -> None:
        """A job died of a fault of Plinth's own: said, and written down for whoever fixes it."""
        if not isinstance(error, PhysicsError):
            self._core.tell.fault(name, error)

    def take(self, got: object) -> None:
        """An answer has come: shown where it is still asked for."""
        assert isinstance(got, SolveAnswer)
        # While a slider moves, an answer for a moment ago is shown too: dropping it would freeze the picture.
        if got.request.build is not self._core.build or got.request.number <= self._shown:
            return
        self._shown = got.request.number
        self.prediction, self.margins, self.problem = got.prediction, got.margins, got.problem
        if not got.request.live:
            self.solid = got.prediction
        self._core.tell.predicted()
        if not got.request.live and got.prediction is not None:
            # What stands in the first line is shown first; a slider that moves meanwhile goes before the rest.
            self._core.jobs.ask(
                "loads",
                lambda _task: answer_loads(got.request, lambda: self._core.jobs.waits("plan")),
                self._take_loads,
            )
        elif got.prediction is None:
            self.load_powers, self.claimed_powers = {}, {}

    def _take_loads(self, got: object) -> None:
        if isinstance(got, LoadAnswer) and got.request.build is self._core.build:
            self.load_powers, self.claimed_powers = got.powers, got.claimed
            self._core.tell.loads_predicted()

    @property
    def supplies(self) -> tuple[SupplyView, ...]:
        """The supplies of the current build; none while it cannot run."""
        return () if self.prediction is None else supply_views(self.prediction.solution)

    @property
    def supply_shown(self) -> SupplyView | None:
        """The supply that band and plots show: the chosen one, else the first."""
        views = self.supplies
        return next((view for view in views if view.name == self._supply), views[0] if views else None)

    def choose_supply(self, name: str) -> None:
        """Show another supply."""
        self._supply = name
        self._core.tell.predicted()
