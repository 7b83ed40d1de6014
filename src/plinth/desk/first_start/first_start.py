"""The first minutes in a workshop: how to begin, what comes next, and a tour that is offered once."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QWidget

from plinth.desk import preferences
from plinth.desk.asking import ask
from plinth.desk.band.band import PowerPathBand
from plinth.desk.habits import usual_mains
from plinth.desk.head import Head
from plinth.desk.labels import button, label
from plinth.desk.plan.page import PlanPage
from plinth.desk.session import BenchSession
from plinth.desk.stage_keys import INSPECT, PLAN
from plinth.session.opening import Workshop, begin_in, make_demo

if TYPE_CHECKING:
    from plinth.desk.first_start.tour import Tour
    from plinth.desk.first_start.ways_dialog import Way

BUILT = (
    "Made: {name}. Next: go along the stations above and put in what you truly have (Ctrl+T changes the part in "
    "front); then Inspect, Ctrl+2."
)
TAKEN_IN = (
    "Taken in: {name}. Next, here: what is charged, bridged, cracked. The school of first power is then "
    "“{school}”; another is chosen at Power up, Ctrl+3."
)
IN_DEMO = (
    "This is the demo: everything in it is invented, and yours to change. Next: move a slider below, or look at "
    "another build with Ctrl+B. Ctrl+Shift+B begins a workshop of your own."
)


class NextStepBar(QWidget):
    """One sentence under the band: what was made, and what comes next; with it the tour, once."""

    def __init__(self) -> None:
        super().__init__()
        self.words = label("", "ask", wrap=True)
        self.tour, self.away = button("Show me around: five stops", "main"), button("Understood")
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 6, 18, 0)
        row.addWidget(self.words, 1)
        row.addWidget(self.tour)
        row.addWidget(self.away)
        self.away.clicked.connect(self.hide)
        self.hide()

    @property
    def heard(self) -> str:
        """What it says, while it is in sight."""
        return "" if self.isHidden() else self.words.text()

    def say(self, words: str, *, tour: bool) -> None:
        """Say what comes next; ``tour`` is offered beside it."""
        self.words.setText(words)
        self.tour.setVisible(tour)
        self.show()


class FirstHost(Protocol):
    """The window, as far as these need it."""

    session: BenchSession
    first: "FirstStart"
    band: PowerPathBand
    head: Head

    @property
    def plan(self) -> PlanPage: ...

    def show_stage(self, key: str) -> None: ...

    def change_workshop(self, opening: Callable[[], Workshop]) -> "FirstHost | None": ...

    def name_build(self, *, copy: bool) -> None: ...


class FirstStart:
    """What a window does for somebody who has just come."""

    def __init__(self, host: FirstHost, parent: QWidget) -> None:
        self._host, self._parent, self.bar = host, parent, NextStepBar()
        self.running: Tour | None = None
        # Whether nobody was asked where this workshop is to lie.
        self.begun_by_itself = False
        self.bar.tour.clicked.connect(self.show_around)

    def ask_soon(self) -> None:
        """Ask how to begin, once the window stands."""
        QTimer.singleShot(0, self._parent, self.ask)

    def ask(self) -> None:
        """Ask how to begin, and begin so."""
        from plinth.desk.first_start.ways_dialog import WaysDialog

        dialog = WaysDialog(self._parent)
        ask(dialog)
        if dialog.way is not None:
            self.begin(dialog.way)

    def begin(self, way: "Way") -> None:
        """Begin in this way: the demo in its own workshop, anything else never in the demo's."""
        demo = self._host.session.demo
        if demo != (way == "demo"):
            folder = preferences.folder()
            host = self._host.change_workshop(lambda: begin_in(folder, usual_mains()[0]) if demo else make_demo(folder))
            if host is None:
                return
            host.first.begun_by_itself = demo
            host.first.begin_here(way)
        else:
            self.begin_here(way)

    def begin_here(self, way: "Way") -> None:
        """Begin in this workshop, and say what comes next where something came of it."""
        if way == "demo":
            self.say_next(IN_DEMO)
        elif way == "broken":
            self.take_in()
        else:
            self.ask_new(way, first=True)

    def ask_new(self, way: "Way" = "wish", *, first: bool = False) -> None:
        """Ask what the new build shall give, or is made of; or take the parts of this one under another name.

        ``first``: what comes next is said as well.
        """
        from plinth.desk.requirement_dialog import RequirementDialog

        dialog = RequirementDialog(self._parent, self._host.session, from_parts=way == "parts")
        if ask(dialog) and first:
            self._host.show_stage(PLAN)
            self.say_next(BUILT.format(name=self._host.session.build.name))
        elif dialog.same:
            self._host.name_build(copy=False)

    def take_in(self) -> None:
        """Ask what can be read on an amplifier that somebody else built, and go to its inspection."""
        from plinth.desk.first_start.found_dialog import FoundDialog

        session = self._host.session
        if ask(FoundDialog(self._parent, session)):
            self._host.show_stage(INSPECT)
            self.say_next(TAKEN_IN.format(name=session.build.name, school=session.bring_up.school.name))

    def say_next(self, words: str) -> None:
        """Say what comes next; the tour is offered with it where it never was."""
        where = f" This workshop is {self._host.session.workshop.path}." if self.begun_by_itself else ""
        known = bool(preferences.load_checked()[0].get("tour_offered", False))
        self.bar.say(f"{words}{where}", tour=not known)
        if not known:
            preferences.save_tour_offered()

    def show_around(self) -> None:
        """The tour, from its first stop."""
        from plinth.desk.first_start.stops import stops_of
        from plinth.desk.first_start.tour import Tour

        self.bar.hide()
        self._host.show_stage(PLAN)
        plan = self._host.plan
        self.running = Tour(self._parent, stops_of(self._host.band, plan, self._host.head))
