"""The Measure page: tests at the left, the test in the middle, how to set it up at the right."""

import math
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QTimer
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QLineEdit, QScrollArea, QSizePolicy, QStackedWidget, QWidget

from plinth.bench.coverage import gone_stale, narrows_most, untested
from plinth.desk.asking import ask
from plinth.desk.channels import ChannelChoice
from plinth.desk.guide_places import OF_TEST
from plinth.desk.labels import button, check, column, label, on_chosen, plain_tip, rule, set_role
from plinth.desk.look import look
from plinth.desk.measure.capture_list import CaptureList
from plinth.desk.measure.dropped import dropped_paths
from plinth.desk.measure.every_test import TESTS
from plinth.desk.measure.test_page import TestPage
from plinth.desk.photos.strip import PhotoStrip
from plinth.desk.session import BenchSession
from plinth.desk.side_area import SideArea
from plinth.desk.sketch_view import SketchView
from plinth.desk.stage_page import StagePage
from plinth.guide.interlock import measure_conditions, measure_gate
from plinth.guide.judging import wait_words
from plinth.guide.school import to_loudspeaker
from plinth.predict.prediction import Prediction
from plinth.record.kept_capture import KeptCapture
from plinth.record.reading import Override
from plinth.session.captures import InstrumentRecord
from plinth.session.dummy_loads import LoadNow
from plinth.session.procedure.taking import Procedure

if TYPE_CHECKING:
    from plinth.desk.measure.clipping_table import ClipTest
    from plinth.desk.measure.response_curve import ResponseTest
    from plinth.desk.measure.sheet_test import SheetTest

CAUTION = (
    "Dummy loads get hot enough to burn. The scope's clip goes to output 0 V, and only where that is ground: never to "
    "an output of a bridge. No loudspeaker while clipping is looked for; protect your ears at every sweep."
)


# What each test's readings are held against first; of clipping it is the current cell's own.
FIGURES = {
    "Rails": "rail_plus_mean_v", "Gain, match": "drive_v_rms", "Response": "power_bandwidth_hz",
    "Output impedance": "damping_factor", "Square wave": "power_bandwidth_hz", "Protection": "dc_trip_s",
    "Mains side": "mains_power_w", "Hum and noise": "rail_idle_ripple_v_pp", "Heat run": "sink_sine_c",
}  # fmt: skip


class MeasurePage(StagePage):
    """The tests, one of them shown, and its set-up."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self.setObjectName("page")
        self._session = session
        self.channels = ChannelChoice(session)
        self._names = [test.name for test in TESTS]
        self.every_test = [test.page(session) for test in TESTS]
        self.tests, self.stack = QButtonGroup(self), QStackedWidget()
        for index, test in enumerate(self.every_test):
            push = button("", "row")
            push.setCheckable(True)
            self.tests.addButton(push, index)
            on_chosen(push, partial(self.show_test, index))
            self.stack.addWidget(test)
            test.changed.connect(self._show_set_up)
        check(self.tests.button(0))
        self.held, self.held_button = label("", "caution", wrap=True), button("Measure anyway …")
        self.reason = QLineEdit()
        self.reason.setPlaceholderText("Why is it safe to measure it now? It is written into the diary.")
        self.reason.setAccessibleName("Reason for measuring before the bring-up is done")
        self.reason.returnPressed.connect(self.pass_over)
        self.reason.hide()
        self.held_button.clicked.connect(self.ask_reason)
        self.wired, self.sketch = label("", "soft", wrap=True), SketchView()
        self.caution = label(CAUTION, "caution", wrap=True)
        self.generator, self.start, self.most = (label("", "name", wrap=True) for _ in range(3))
        self.load_clock, self.load_warmth = button("Load on  Ctrl+J", "flat"), label("", "soft", wrap=True)
        self.load_clock.setToolTip("Starts and stops the clock of the dummy load: how long it may still be driven")
        self.load_clock.clicked.connect(self.toggle_load)
        self._ticking = QTimer(self)
        self._ticking.setInterval(1000)
        self._ticking.timeout.connect(self._show_load)
        self.capture_button = button("A capture …  Ctrl+Alt+F", "row")
        self.capture_button.setToolTip("What a scope's file or a recording tells; or drop it on this page")
        self.capture_button.clicked.connect(lambda: self.show_capture())
        self.setAcceptDrops(True)
        self.next_title, self.next = label("What next", "title"), label("", "soft", wrap=True)
        self.load_time, self.claim = label("", "soft", wrap=True), label("", "claim", wrap=True)
        self.set_up_words = tuple(label("", "soft", wrap=True) for _ in range(3))
        self.listing = label("The listing", "title")
        self.photos = PhotoStrip(session)
        self.captures = CaptureList(session)
        self.captures.chosen.connect(self.show_kept_capture)
        self._lay_out()
        self.channels.chosen.connect(lambda _name: self.refresh())
        session.records_changed.connect(self._show_held)
        session.plan_changed.connect(self._if_shown)
        session.build_switched.connect(self._if_shown)
        look.follow(self._fit)
        self._only_the_shown_one_asks_for_room()
        self._fit()
        self.refresh()

    def _lay_out(self) -> None:
        self.left = QWidget()
        left = column(self.channels, label("Tests", "title"), *self.tests.buttons(), spacing=1)
        left.addSpacing(8)
        for widget in (self.capture_button, self.captures, self.caution, self.next_title, self.next):
            left.addWidget(widget)
        left.addStretch()
        self.left.setLayout(left)
        self.left_area = SideArea(self.left)
        held_row = QHBoxLayout()
        held_row.addWidget(self.held, 1)
        held_row.addWidget(self.held_button)
        middle = column(spacing=8)
        middle.addLayout(held_row)
        middle.addWidget(self.reason)
        middle.addWidget(self.stack)
        right_inner = QWidget()
        right = column(label("Set up", "title"), spacing=6, margins=(0, 0, 6, 0))
        for words, value in zip(self.set_up_words, (self.generator, self.start, self.most), strict=True):
            right.addLayout(column(words, value, spacing=0))
        right.addWidget(rule())
        right.addWidget(label("Dummy load", "title"))
        right.addWidget(self.load_time)
        right.addWidget(self.load_warmth)
        right.addWidget(self.load_clock)
        right.addWidget(rule())
        for drawn in (label("Wired like this", "title"), self.sketch, self.wired, rule()):
            right.addWidget(drawn)
        self._listing_rule = rule()
        for beside in (self.listing, self.claim, self._listing_rule):
            right.addWidget(beside)
        right.addWidget(self.photos)
        right.addStretch()
        right_inner.setLayout(right)
        self.right = SideArea(right_inner)
        box = QHBoxLayout(self)
        box.setContentsMargins(18, 12, 18, 12)
        box.setSpacing(24)
        box.addWidget(self.left_area)
        box.addLayout(middle, 1)
        box.addWidget(self.right)

    def pieces(self) -> tuple[QWidget, ...]:
        return self.left_area, self.right, self.held, self.held_button, self.reason, *self.every_test

    def show_capture(self, *paths: Path) -> None:
        """Ask for a capture, or show those that were dropped, and what they tell the current test."""
        from plinth.desk.measure.capture_dialog import CaptureDialog

        dialog = CaptureDialog(self, self._session, self.test.under_way, self.channels.channel)
        if paths:
            dialog.show_files(list(paths))
        ask(dialog)
        self.refresh()

    def show_record(self, record: InstrumentRecord) -> None:
        """Show a record that an instrument took, and what it tells the current test."""
        from plinth.desk.measure.capture_dialog import CaptureDialog

        dialog = CaptureDialog(self, self._session, self.test.under_way, self.channels.channel)
        dialog.show_record(record)
        ask(dialog)
        self.refresh()

    def show_kept_capture(self, kept: KeptCapture) -> None:
        """Show a capture that was kept."""
        from plinth.desk.measure.capture_dialog import CaptureDialog

        dialog = CaptureDialog(self, self._session, self.test.under_way, self.channels.channel)
        dialog.show_kept(kept)
        ask(dialog)
        self.refresh()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dropped_paths(event):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = dropped_paths(event)
        if paths:
            event.acceptProposedAction()
            # Whoever dragged it waits until the drop is over.
            QTimer.singleShot(0, self, lambda: self.show_capture(*paths))

    def _fit(self) -> None:
        self.left_area.setFixedWidth(look.column(252))
        self.right.setFixedWidth(look.column(250))

    def _if_shown(self) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Take channel and build anew."""
        for test in self.every_test:
            test.show_channel(self.channels.channel)
        self._show_held()
        self._show_set_up()

    def come_up(self) -> None:
        """Take channel and build anew; the current test asks for a reading."""
        self.refresh()
        self.test.field.setFocus()

    @property
    def under_way(self) -> Procedure:
        """The test in front."""
        return self.test.under_way

    @property
    def typed(self) -> str:
        return self.test.field.text()

    def guide_place(self) -> str:
        return f"measure#{OF_TEST[self._names[self.stack.currentIndex()]]}"

    def explained(self) -> tuple[Prediction | None, str]:
        """The figure of the current test."""
        name = FIGURES.get(self._names[self.stack.currentIndex()])
        return self.test.explained() if name is None else (None, name)

    @property
    def test(self) -> TestPage:
        """The current test."""
        return self.every_test[self.stack.currentIndex()]

    @property
    def clip(self) -> "ClipTest":
        """The clipping test."""
        return cast("ClipTest", self._named("Clipping power"))

    @property
    def response(self) -> "ResponseTest":
        """The response."""
        return cast("ResponseTest", self._named("Response"))

    def _named(self, name: str) -> TestPage:
        return self.every_test[self._names.index(name)]

    def sheet(self, name: str) -> "SheetTest":
        """The test of one sheet that has this name on its button."""
        return cast("SheetTest", self._named(name))

    def show_named(self, name: str) -> None:
        """Show a test by the name on its button."""
        self.show_test(self._names.index(name))

    def show_test(self, index: int) -> None:
        """Show a test by its place."""
        check(self.tests.button(index))
        # A change of look may not have come to it yet.
        look.settle(self.every_test[index])
        self.stack.setCurrentIndex(index)
        self._only_the_shown_one_asks_for_room()
        self._show_held()
        self._show_set_up()
        self._to_top()
        self.test.field.setFocus()

    def _to_top(self) -> None:
        """The question, and what holds it back, stand at the top."""
        viewport = self.parentWidget()
        area = viewport.parentWidget() if viewport is not None else None
        if isinstance(area, QScrollArea):
            area.verticalScrollBar().setValue(0)

    def _only_the_shown_one_asks_for_room(self) -> None:
        """Else the tallest test would make all of them scroll."""
        for k, test in enumerate(self.every_test):
            fits = QSizePolicy.Policy.Preferred if k == self.stack.currentIndex() else QSizePolicy.Policy.Ignored
            test.setSizePolicy(fits, fits)
        self.stack.updateGeometry()

    def _needed(self) -> tuple[str, ...]:
        return self.test.needed(self.channels.channel)

    def _show_held(self) -> None:
        held = self._session.bring_up.held_back(self._needed())
        words = ""
        if held:
            stands = to_loudspeaker(self._session.bring_up.stands(held[0]))
            done, every = sum(stand.settled for stand in stands), len(stands)
            words = (
                f"{held[0].capitalize()} is not brought up yet: {done} of {every} steps. Its readings wait for that, "
                "because a fault that Power up would find can burn module and load here."
            )
        self.held.setText(words)
        self.held.setVisible(bool(held))
        self.held_button.setVisible(bool(held) and not self.reason.isVisibleTo(self))
        if not held:
            self.reason.hide()
        newly = bool(held) and self.test.field.isEnabledTo(self.test)
        for test in self.every_test:
            test.block(words)
        if newly:
            # A field that is shut hands its focus on, and the page would follow that.
            self._to_top()

    def ask_reason(self) -> None:
        """Ask why what holds the current test is passed over."""
        self.reason.show()
        self.held_button.hide()
        self.reason.setFocus()

    def pass_over(self) -> None:
        """Write the reason down for every channel that is held, and let readings through."""
        reason = self.reason.text().strip()
        if len(reason) < 3:
            self.reason.setPlaceholderText("A reason in words is needed: found none.")
            return
        for channel in self._session.bring_up.held_back(self._needed()):
            self._session.records.keep(
                Override(
                    measure_gate(self._session.build, channel),
                    reason,
                    self._session.now(),
                    measure_conditions(self._session.build),
                )
            )
        self.reason.clear()
        self._show_held()
        self._to_top()
        self.test.field.setFocus()

    def _show_set_up(self) -> None:
        self.photos.show_subject(self.test.subject)
        self.captures.show_subject(self.test.subject)
        self._show_held()
        for test, push, name in zip(self.every_test, self.tests.buttons(), self._names, strict=True):
            have, every = test.counts()
            push.setText(f"{name}   {have} of {every}" if every else f"{name}   {have} read" if have else name)
            push.setToolTip(plain_tip(f"{name}: {have} of {every} readings" if every else f"{name}: {have} readings"))
        self._show_next()
        self._show_load()
        given = self.test.set_up(self.channels.channel)
        # It stands once: where the hand is, if it stands there. Before anything is known of a test it stands here.
        self.caution.setText(given.caution if given is not None and given.caution else CAUTION)
        self.caution.setVisible(self.caution.text() != self.test.cautioned)
        if given is None:
            return
        values = (self.generator, self.start, self.most)
        for what, value, (words, text) in zip(self.set_up_words, values, given.settings, strict=True):
            what.setText(words)
            value.setText(text)
        self.load_time.setText(given.load)
        self.wired.setText(given.wired)
        self.sketch.show_sketch(given.sketch)
        self.claim.setText(given.listing or "")
        for widget in (self.listing, self.claim, self._listing_rule):
            widget.setVisible(given.listing is not None)

    def _show_next(self) -> None:
        """What was not read yet, what is stale, and what would narrow the picture most."""
        session = self._session
        counts = [(name, test.counts()[0]) for name, test in zip(self._names, self.every_test, strict=True)]
        prediction = session.predictions.prediction
        narrowing = None if prediction is None else narrows_most(prediction)
        parts = (
            "" if narrowing is None else narrowing.words,
            gone_stale(session.records.book, session.build),
            untested(counts),
        )
        self.next.setText(" ".join(part for part in parts if part) or "Every test has a reading that counts.")

    # The dummy load's clock

    def toggle_load(self) -> None:
        """Start or stop the clock of the current load."""
        held = self.test.current_load()
        if held is None:
            return
        load, power_w = held
        now_ = self._session.loads.load_now(load, power_w)
        if now_ is not None and now_.driven_s is not None:
            self._session.loads.release_load(load)
        else:
            self._session.loads.drive_load(load, power_w)
        self._show_load()

    def _show_load(self) -> None:
        held = self.test.current_load()
        warm = None if held is None else self._session.loads.load_now(*held)
        for widget in (self.load_clock, self.load_warmth):
            widget.setVisible(warm is not None)
        if warm is None or held is None:
            self._ticking.stop()
            return
        running = warm.driven_s is not None
        self.load_clock.setText("Load off  Ctrl+J" if running else "Load on  Ctrl+J")
        self.load_warmth.setText(warmth_words(warm, held[1]))
        set_role(self.load_warmth, "caution" if running and warm.allowed_s <= 0.0 else "soft")
        moves = (running or warm.cold_s > 0.0) and self.isVisible()
        if moves and not self._ticking.isActive():
            self._ticking.start()
        elif not moves:
            self._ticking.stop()


def warmth_words(warm: LoadNow, power_w: float) -> str:
    """How warm a load is, how long it may take a power from now on, and when it is cold again."""
    guessed = " Some of it was not timed: ten seconds a reading are taken." if warm.guessed else ""
    if warm.usual_tau:
        guessed += " Its time constant is not stated: a usual one is taken, and above its rating a few seconds only."
    if warm.driven_s is not None:
        stays = f"{warm.allowed_s:.0f} s left" if math.isfinite(warm.allowed_s) else "it may stay on"
        left = stays if warm.allowed_s > 0.0 else "switch off: as warm as at its rating"
        return f"On for {warm.driven_s:.0f} s at up to {power_w:.0f} W: {left}.{guessed}"
    if warm.cold_s <= 0.0:
        return f"Cold.{guessed}" if warm.guessed else "Cold."
    may = f"{warm.allowed_s:.0f} s" if math.isfinite(warm.allowed_s) else "as long as you like"
    return (
        f"At {warm.share:.0%} of its rated rise: from now {may} at {power_w:.0f} W; "
        f"cold in {wait_words(warm.cold_s)}.{guessed}"
    ).replace("%", " %")
