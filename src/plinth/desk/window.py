"""The window: head, band, pages, stop bar; what concerns all of them."""

import dataclasses
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QCoreApplication, QEvent, QObject, QRect, QSize, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QKeyEvent, QPainter, QPaintEvent, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from plinth.desk import preferences
from plinth.desk.announcer import Announcer
from plinth.desk.asking import ask
from plinth.desk.band.band import PowerPathBand
from plinth.desk.bench_dialog import BenchDialog
from plinth.desk.commands import Command
from plinth.desk.copying import Copying
from plinth.desk.dialog import TITLE_BAR_PX
from plinth.desk.faults import write_fault
from plinth.desk.finder import Finder
from plinth.desk.first_start.first_start import FirstStart
from plinth.desk.guide_places import OF_STAGE
from plinth.desk.habits import usual_mains
from plinth.desk.head import Head
from plinth.desk.instruments.actions import InstrumentActions
from plinth.desk.instruments.bar import InstrumentBar
from plinth.desk.instruments.bench_view import BenchView
from plinth.desk.key_bindings import KeyBindings
from plinth.desk.labels import button, label
from plinth.desk.look import look
from plinth.desk.name_dialog import NameDialog
from plinth.desk.plan.page import PlanPage
from plinth.desk.power_up.stop_bar import StopBar
from plinth.desk.session import BenchSession
from plinth.desk.spoken import Spoken, kept_words, sentences
from plinth.desk.stage_keys import DIARY, INSPECT, MEASURE, PLAN, POWER_UP
from plinth.desk.stage_page import StagePage
from plinth.desk.stages import STAGES, Stage
from plinth.desk.subject_place import stage_of, test_of
from plinth.desk.window_commands import WindowCommands
from plinth.record.subject import read_subject
from plinth.session.instruments.live_spectrum import SpectrumFrame
from plinth.session.opening import (
    DamagedWorkshopError,
    Workshop,
    WorkshopError,
    begin_workshop,
    opened,
    salvaged_words,
)
from plinth.session.reminders import Reminder
from plinth.session.runner import words_of
from plinth.shelf.item import Paper, ShelfItem

if TYPE_CHECKING:
    from plinth.desk.diary.page import DiaryPage
    from plinth.desk.inspect.page import InspectPage
    from plinth.desk.measure.page import MeasurePage
    from plinth.desk.power_up.page import PowerUpPage

# Figures and plots of the first page come before the pages that nobody sees yet.
AFTER_FIRST_SIGHT_MS = 700
# More is never typed into one field; a pasted megabyte would be read at every key.
MOST_LETTERS = 4_000


# The window in front. A window without a parent lives only as long as somebody holds it; the one before is let go.
_held: "list[PlinthWindow]" = []


def hold(window: "PlinthWindow") -> None:
    """Keep this window, and no other."""
    _held[:] = [window]


def let_go() -> None:
    """Keep no window any more, as Plinth ends."""
    _held.clear()


def held() -> "PlinthWindow | None":
    """The window in front, None where there is none yet."""
    return _held[0] if _held else None


class Ground(QWidget):
    """What the window's parts lie on."""

    def paintEvent(self, _event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), look.token("paper"))


class PlinthWindow(QMainWindow):
    """One workshop in one window."""

    def __init__(self, session: BenchSession, stages: tuple[Stage, ...] = STAGES) -> None:
        super().__init__()
        self.session, self.in_order = session, stages
        self.copying = Copying(session, self, lambda words: self.say(words))
        self.close_anyway = self.close_without_photos = False
        self._path_whole = bool(preferences.load_checked()[0].get("path_whole", False))
        application = _application()
        assert isinstance(application, QApplication), "a window needs one"
        application.focusChanged.connect(self._bound_field)
        self.setWindowTitle(f"Plinth: {session.workshop.path.name}")
        self._take_place()
        self.head, self.band = Head(session, stages), PowerPathBand(session)
        self.pages, self._areas = QStackedWidget(), {stage.key: QScrollArea() for stage in stages}
        for area in self._areas.values():
            # At large text a page may need more room than the window has; it then scrolls, and the band stays.
            area.setWidgetResizable(True)
            area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            # What it lies on shows through. A style sheet of its own would dress each page once more.
            area.setFrameShape(QFrame.Shape.NoFrame)
            area.viewport().setAutoFillBackground(False)
            self.pages.addWidget(area)
        self._made: dict[str, StagePage] = {}
        self.page(stages[0].key)
        self.stop_bar = StopBar(session)
        self.instruments = InstrumentBar(session, lambda: self.page(self.stage).under_way)
        self.instrument_actions = InstrumentActions(self, self, self.instruments)
        self.instruments.asked_for_dialog.connect(self.ask_instruments)
        self.instruments.asked_for_spectrum.connect(self.show_spectrum)
        self.session.subject_wanted.connect(self.go_to_subject)
        self.session.test_wanted.connect(self._to_test)
        self.bench_view = BenchView(session, self.instruments, lambda: self.page(self.stage).under_way)
        self.bench_view.left.connect(self.toggle_bench_view)
        self.bench_view.hide()
        self.first = FirstStart(self, self)
        self.trouble = label("", "problem", wrap=True)
        self.trouble_away = button("Understood")
        self.trouble_away.clicked.connect(self._hide_trouble)
        self._trouble_row = QWidget()
        trouble_box = QHBoxLayout(self._trouble_row)
        trouble_box.setContentsMargins(18, 6, 18, 0)
        trouble_box.addWidget(self.trouble, 1)
        trouble_box.addWidget(self.trouble_away)
        self._trouble_row.hide()
        host = Ground()
        box = QVBoxLayout(host)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        for widget in (self.head, self.band, self._trouble_row, self.first.bar):
            box.addWidget(widget)
        box.addWidget(self.pages, 1)
        box.addWidget(self.bench_view, 1)
        box.addWidget(self.instruments)
        box.addWidget(self.stop_bar)
        self.setCentralWidget(host)
        for widget in (
            self.head,
            self.band,
            self.bench_view,
            self.instruments,
            self.stop_bar,
            self._trouble_row,
            self.first.bar,
        ):
            look.dress(widget)
        self.commands = WindowCommands(self).every()
        self.keys = KeyBindings(self, self.commands, self.run_command)
        self.head.stage_chosen.connect(self.show_stage)
        self.band.whole_asked.connect(self.toggle_path)
        self.head.new_build.connect(self.first.ask_new)
        self.head.copy_build.connect(lambda: self.name_build(copy=True))
        self.head.find_asked.connect(self.open_finder)
        self.head.toggle_dark.connect(self.toggle_dark)
        self.head.text_size.connect(self.step_text)
        self.head.due.chosen.connect(self.go_to_due)
        session.trouble.connect(self.show_trouble)
        session.refused.connect(self.say)
        session.fault.connect(self._say_fault)
        session.power_changed.connect(self._watch_for_stop)
        self._watch_for_stop()
        look.changed.connect(self.update)
        self.announcer = Announcer(self, self.spoken, self._last_kept)
        session.kept.connect(self.announcer.note_kept)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFocus()

    # Pages: the first at once, the others when they are asked for, and soon after the window stands

    def page(self, key: str) -> StagePage:
        """The page of a stage, made where it is not yet."""
        if key not in self._made:
            stage = next(stage for stage in self.in_order if stage.key == key)
            self._made[key] = stage.page(self.session)
            # Put in its place first: a part that is dressed before is dressed once more when it gets there.
            area = self._areas[key]
            area.setWidget(self._made[key])
            self._made[key].setAutoFillBackground(False)
            for piece in (area.verticalScrollBar(), area.horizontalScrollBar(), *self._made[key].pieces()):
                look.dress(piece)
        return self._made[key]

    @property
    def plan(self) -> "PlanPage":
        """The Plan page."""
        return cast("PlanPage", self.page(PLAN))

    @property
    def inspect(self) -> "InspectPage":
        """The Inspect page."""
        return cast("InspectPage", self.page(INSPECT))

    @property
    def power_up(self) -> "PowerUpPage":
        """The Power up page."""
        return cast("PowerUpPage", self.page(POWER_UP))

    @property
    def measure(self) -> "MeasurePage":
        """The Measure page."""
        return cast("MeasurePage", self.page(MEASURE))

    @property
    def diary(self) -> "DiaryPage":
        """The Diary page."""
        return cast("DiaryPage", self.page(DIARY))

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.say("\n".join(self.session.notices))
        QTimer.singleShot(AFTER_FIRST_SIGHT_MS, self, self._make_next_page)

    def _make_next_page(self) -> None:
        # One at a time, so that whoever moves a slider meanwhile hardly feels it.
        waiting = [stage.key for stage in self.in_order if stage.key not in self._made]
        if waiting and self.isVisible():
            self.page(waiting[0])
            QTimer.singleShot(0, self, self._make_next_page)

    # Actions

    def run_command(self, command: Command) -> None:
        """Run a command if it can be done now."""
        if command.enabled():
            command.run()

    def open_guide(self) -> None:
        """The guide at the place of the page in front."""
        from plinth.desk.guide_window import open_guide

        open_guide(self, self.page(self.stage).guide_place() or OF_STAGE[self.stage])

    def open_finder(self) -> None:
        """Open the finder, and run what is chosen there."""
        finder = Finder(self, [c for c in self.commands if c.key != "find"], self.keys.own, self.keys.change)
        if ask(finder) and finder.chosen is not None:
            self.run_command(finder.chosen)

    @property
    def stage(self) -> str:
        """The stage whose page is shown."""
        return self.in_order[self.pages.currentIndex()].key

    def show_stage(self, key: str) -> None:
        """Show a stage."""
        if not self.bench_view.isHidden():
            self.bench_view.hide()
            self.instruments.stand_aside(aside=False)
            self.pages.show()
            self.showNormal()
        self.head.check(key)
        look.settle(self._areas[key])
        self.pages.setCurrentWidget(self._areas[key])
        self.page(key).come_up()
        self._show_path()

    def _show_path(self) -> None:
        """The power path whole where its parts are chosen; elsewhere slim, unless it was asked for."""
        self.band.show_whole(self._path_whole or self.stage == PLAN)

    def toggle_path(self) -> None:
        """The power path whole or slim, on the pages beside Plan; remembered."""
        self._path_whole = not self._path_whole
        preferences.save_path(self._path_whole)
        self._show_path()

    def go_to_due(self, reminder: Reminder) -> None:
        """To the step that a reminder is about."""
        if reminder.build_id != self.session.stored.id:
            self.session.switch(reminder.build_id)
        self.show_stage(POWER_UP)
        self.power_up.channels.choose(self.session.build.channel_of(reminder.channel))

    def go_to_subject(self, subject: str) -> None:
        """To the step, test or check that a line of the diary is about."""
        about, build = read_subject(subject), self.session.build
        captured = self.session.captures.told_of(subject)
        if captured is not None:
            self.show_stage(MEASURE)
            self.measure.show_kept_capture(captured)
            return
        kept = self.session.shelf.paper_of(subject)
        if kept is not None:
            self._ask_papers(*kept)
            return
        stage = stage_of(about)
        if stage is None:
            return
        self.show_stage(stage)
        if stage == MEASURE:
            self.measure.show_named(test_of(about))
        if stage in (MEASURE, POWER_UP) and about.channel in (build.channel_keys or build.channels):
            page = self.measure if stage == MEASURE else self.power_up
            page.channels.choose(build.channel_of(about.channel))

    def spoken(self) -> Spoken:
        """What there is to say to whoever hears the window: of the page in front, and of what concerns all of it."""
        trouble = self.trouble.text() if self._trouble_row.isVisibleTo(self) else ""
        page, bar = self.page(self.stage).spoken(), self.stop_bar
        return dataclasses.replace(
            page, alarm=sentences(page.alarm, trouble), build=self.session.build.name,
            question=sentences(self.first.bar.heard, page.question),
            power=sentences(bar.words.text(), bar.detail.text()) if bar.isVisibleTo(self) else "",
        )  # fmt: skip

    def _last_kept(self) -> str:
        lines = self.session.records.diary_lines()
        return kept_words(lines[-1]) if lines else ""

    def _to_test(self, name: str) -> None:
        self.show_stage(MEASURE)
        self.measure.show_named(name)

    def _ask_papers(self, item: ShelfItem, paper: Paper) -> None:
        from plinth.desk.shelf.papers_dialog import PapersDialog

        dialog = PapersDialog(self, self.session, item)
        dialog.show_paper(paper.number)
        ask(dialog)

    def ask_bench(self) -> None:
        """Ask for the instruments of this workshop."""
        self._with_trouble_in(BenchDialog(self, self.session.kit, self.session.set_kit))

    def _with_trouble_in(self, dialog: NameDialog | BenchDialog) -> None:
        """Ask, and show in the dialog itself why its answer was not kept: it stays open with what was typed."""
        self.session.trouble.connect(dialog.said.setText)
        ask(dialog)
        self.session.trouble.disconnect(dialog.said.setText)

    def name_build(self, *, copy: bool) -> None:
        """Ask for a name and make the build."""
        names = [build.build.name for build in self.session.builds]
        title = f"Copy of {self.session.build.name}" if copy else "New build"
        dialog = NameDialog(
            self, title, f"{self.session.build.name}, second" if copy else "", names,
            lambda name: self.session.plan.add_build(name, copy=copy),
        )  # fmt: skip
        self._with_trouble_in(dialog)

    def ask_open(self) -> None:
        """Ask for another workshop; it takes the place of this window."""
        name, _ = QFileDialog.getOpenFileName(
            self.pages.currentWidget(), "Open a workshop", "", "Plinth workshop (*.plinth)"
        )
        if name:
            self.change_workshop(lambda: opened(Path(name)))

    def ask_begin(self, *, practice: bool = False) -> None:
        """Ask where to and begin a new workshop there, real or for practice; it takes the place of this window."""
        what, proposed = ("a workshop for practice", "practice") if practice else ("a workshop", "workshop")
        name, _ = QFileDialog.getSaveFileName(
            self.pages.currentWidget(), f"Begin {what}", f"{proposed}.plinth", "Plinth workshop (*.plinth)"
        )
        if name:
            self.change_workshop(lambda: begin_workshop(Path(name), practice=practice, mains_v=usual_mains()[0]))
            begun = held()
            if begun is not None and begun is not self:
                begun.first.ask_soon()

    def ask_instruments(self) -> None:
        """Who is connected, where. A signal that led to what holds this window would keep it for ever."""
        self.instrument_actions.ask_instruments()

    def show_spectrum(self) -> None:
        """The live spectrum of the output, by a signal that leads to this window alone."""
        self.instrument_actions.show_spectrum()

    def toggle_bench_view(self) -> None:
        """One large figure in place of the page, on the whole screen; or the page again."""
        whole = self.bench_view.isHidden()
        if whole:
            self.to_readings()
        # What was hidden is dressed in the look in force before it is seen.
        look.settle(self.bench_view if whole else self._areas[self.stage])
        self.pages.setVisible(not whole)
        self.bench_view.setVisible(whole)
        self.instruments.stand_aside(aside=whole)
        self.band.show_whole(not whole and (self._path_whole or self.stage == PLAN))
        (self.showFullScreen if whole else self.showNormal)()
        if whole:
            self.bench_view.setFocus()
        else:
            self.page(self.stage).come_up()

    def keep_record(self, frame: object) -> None:
        """Show the record of a live spectrum as a capture, where it can be kept."""
        assert isinstance(frame, SpectrumFrame), "that is what the page gives"
        self.show_stage(MEASURE)
        self.measure.show_record(frame.as_record(self.session.now()))

    def to_readings(self) -> None:
        """Go where something is read, if what is in front reads nothing."""
        if self.stage not in (POWER_UP, MEASURE):
            self.show_stage(POWER_UP)

    def change_workshop(self, opening: Callable[[], Workshop]) -> "PlinthWindow | None":
        """Go over to another workshop, in a window of its own; or say why not, None, and stay in this one."""
        if self.session.power.live is not None:
            # The stop key belongs to this window: it stays until nothing is live any more.
            self.say("Power is on. Press Stop (Esc) and let it discharge; then change to another workshop.")
            return None
        try:
            workshop = opening()
            try:
                other = BenchSession(workshop)
            except BaseException:
                workshop.close()
                raise
        except DamagedWorkshopError as error:
            self.say(str(error))
            self._offer_salvage(error.path)
            return None
        except (WorkshopError, OSError) as error:
            self.say(str(error))
            return None
        successor = PlinthWindow(other)
        successor.setGeometry(self.geometry())
        successor.show()
        hold(successor)
        preferences.save_workshop(workshop.path)
        self.close()
        # Closed only, it would stay with all its pages for as long as Plinth runs.
        self.deleteLater()
        return successor

    def _offer_salvage(self, damaged: Path) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self.pages.currentWidget(),
            "Save what is whole as a new workshop",
            f"{damaged.stem}-saved.plinth",
            "Plinth workshop (*.plinth)",
        )
        if name:
            self.say(salvaged_words(damaged, Path(name))[1])

    def say(self, sentence: str) -> None:
        """Show a sentence under the band until it is understood; nothing for an empty one."""
        if sentence:
            self.trouble.setText(sentence)
            self._trouble_row.show()

    def _say_fault(self, name: str, error: Exception) -> None:
        self.say(f"{words_of(error)} It was computing: {name}. {write_fault(error)}")

    def _bound_field(self, _before: QWidget | None, field: QWidget | None) -> None:
        """No field takes more than a page: whatever is typed or pasted needs the focus first."""
        if isinstance(field, QLineEdit) and field.maxLength() > MOST_LETTERS:
            selected = field.hasSelectedText()
            field.setMaxLength(MOST_LETTERS)
            if selected:
                # Qt forgets what was selected: typing is to take the place of what stands there.
                field.selectAll()

    def _watch_for_stop(self) -> None:
        """Look at every key while something is live, and at none otherwise: each event would pass through here."""
        _application().removeEventFilter(self)
        if self.session.power.live is not None:
            _application().installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Stop works whatever has the focus: a field, a menu, a dialog, the finder."""
        if (
            event.type() == QEvent.Type.KeyPress
            and isinstance(event, QKeyEvent)
            and event.key() == Qt.Key.Key_Escape
            and self.session.power.live is not None
        ):
            self.session.power.switch_off()
            return True
        return super().eventFilter(watched, event)

    def toggle_dark(self) -> None:
        """Light or dark."""
        look.set(dark=not look.dark)
        preferences.save_dark(look.dark)

    def step_text(self, direction: int) -> None:
        """Larger (+1) or smaller (-1) text."""
        look.step_scale(direction)
        preferences.save_scale(look.scale)

    def show_trouble(self, sentence: str) -> None:
        """Say that something was not kept; it stays until it is understood."""
        self.trouble.setText(sentence)
        self._trouble_row.show()
        self.head.say_not_kept()

    def _hide_trouble(self) -> None:
        self._trouble_row.hide()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.session.power.live is not None and not self.close_anyway:
            # Closing would take the stop key away while something is live; a second close is meant.
            self.close_anyway = True
            self.say("Power is on. Press Stop (Esc) and let it discharge first; close once more to leave it on.")
            event.ignore()
            return
        waiting = (*self.session.photos.photos_waiting, *self.session.captures.waiting)
        if waiting and not self.close_without_photos:
            self.close_without_photos = True
            self.say(f"Still taking in {', '.join(waiting[:3])}. It is kept in a moment; close once more to lose it.")
            event.ignore()
            return
        if self.isVisible() and not self.isMaximized():
            place = self.geometry()
            preferences.save_place(place.x(), place.y(), place.width(), place.height())
        _application().removeEventFilter(self)
        self.session.close()
        super().closeEvent(event)

    def _take_place(self) -> None:
        """Where it stood last, held to the screen there is; at first 1280 x 800, or what the screen has room for."""
        room = self.screen().availableGeometry()
        # The window manager's title bar is not part of the geometry asked for.
        width, height = min(1280, room.width()), min(800, room.height() - TITLE_BAR_PX)
        wanted = preferences.load_checked()[0].get("place")
        place = QRect(*wanted) if wanted else QRect(0, 0, 0, 0)
        seen = place.intersected(room)
        if seen.width() >= 200 and seen.height() >= 100:
            place.setSize(QSize(min(place.width(), room.width()), min(place.height(), room.height() - TITLE_BAR_PX)))
            self.setGeometry(place)
        else:
            self.resize(width, height)


def _application() -> QCoreApplication:
    application = QApplication.instance()
    assert application is not None, "a window needs an application"
    return application
