"""The Measure page: tests at the left, the test in the middle, how to set it up at the right."""

import math

from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QLineEdit, QScrollArea, QStackedWidget, QWidget

from plinth.bench import clipping, frequency_response
from plinth.builds.build import Build
from plinth.desk.channels import ChannelChoice
from plinth.desk.labels import button, column, label, rule
from plinth.desk.look import look
from plinth.desk.measure.clipping_table import ClipTest
from plinth.desk.measure.response_curve import ResponseTest
from plinth.desk.session import BenchSession
from plinth.desk.side_area import SideArea
from plinth.desk.stage_page import StagePage
from plinth.guide.interlock import measure_conditions, measure_gate
from plinth.judge.claims import claim_for, power_claim
from plinth.record.clock import now
from plinth.record.reading import Override
from plinth.units.shown import shown, shown_with_spread

CAUTION = (
    "Dummy loads get hot enough to burn. The scope's clip goes to output 0 V, and only where that is ground: never to "
    "an output of a bridge. No loudspeaker while clipping is looked for; protect your ears at every sweep."
)


def scope_words(build: Build, channel: str) -> str:
    """Where the scope's tip and clip go: at a bridge its clip would short an output."""
    if build.both_outputs_live:
        return (
            f"Both {channel} outputs are live: one scope channel on each, the difference of the two read, and no clip "
            "at either; or a meter between them."
        )
    return f"Scope tip to {channel} output, clip to its 0 V: this output is ground referred, so the clip is safe."


class MeasurePage(StagePage):
    """See the module."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self.setObjectName("page")
        self._session = session
        self.channels = ChannelChoice(session)
        self.clip, self.response = ClipTest(session), ResponseTest(session)
        self.tests = QButtonGroup(self)
        self.clip_button, self.response_button = button("", "row"), button("", "row")
        for index, one in enumerate((self.clip_button, self.response_button)):
            one.setCheckable(True)
            self.tests.addButton(one, index)
        self.clip_button.setChecked(True)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.clip)
        self.stack.addWidget(self.response)
        self.tests.idClicked.connect(self.show_test)
        self.held, self.held_button = label("", "caution", wrap=True), button("Measure anyway …")
        self.reason = QLineEdit()
        self.reason.setPlaceholderText("Why is it safe to measure it now? It is written into the diary.")
        self.reason.setAccessibleName("Reason for measuring before the bring-up is done")
        self.reason.returnPressed.connect(self.pass_over)
        self.reason.hide()
        self.held_button.clicked.connect(self._ask_reason)
        self.wired = label("", "soft", wrap=True)
        self.caution = label(CAUTION, "caution", wrap=True)
        self.generator, self.start, self.most = label("", "name"), label("", "name"), label("", "name")
        self.load_time, self.claim = label("", "soft", wrap=True), label("", "claim", wrap=True)
        self.set_up_words = label("", "soft"), label("", "soft"), label("", "soft")
        self.listing = label("The listing", "title")
        self._lay_out()
        self.channels.chosen.connect(lambda _name: self.refresh())
        self.clip.cell_chosen.connect(self._show_set_up)
        self.response.changed.connect(self._show_set_up)
        session.records_changed.connect(self._show_held)
        session.plan_changed.connect(self._if_shown)
        session.build_switched.connect(self._if_shown)
        look.changed.connect(self._fit)
        self._fit()
        self.refresh()

    def _lay_out(self) -> None:
        self.left = QWidget()
        left = column(self.channels, label("Tests", "title"), self.clip_button, self.response_button, spacing=6)
        left.addSpacing(8)
        for widget in (label("Wired like this", "title"), self.wired, self.caution):
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
        right.addWidget(rule())
        right.addWidget(self.listing)
        right.addWidget(self.claim)
        right.addStretch()
        right_inner.setLayout(right)
        self.right = SideArea(right_inner)
        box = QHBoxLayout(self)
        box.setContentsMargins(18, 12, 18, 12)
        box.setSpacing(24)
        box.addWidget(self.left_area)
        box.addLayout(middle, 1)
        box.addWidget(self.right)

    def _fit(self) -> None:
        self.left_area.setFixedWidth(look.column(252))
        self.right.setFixedWidth(look.column(250))

    def _if_shown(self) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Take channel and build anew."""
        self.clip.show_channel(self.channels.channel)
        self.response.show_channel(self.channels.channel)
        self._show_held()
        self._show_set_up()

    def come_up(self) -> None:
        """Take channel and build anew; the test in hand asks for a reading."""
        self.refresh()
        (self.clip if self.stack.currentIndex() == 0 else self.response).field.setFocus()

    def show_test(self, index: int) -> None:
        """Show clipping (0) or response (1)."""
        self.tests.button(index).setChecked(True)
        self.stack.setCurrentIndex(index)
        self._show_held()
        self._show_set_up()
        viewport = self.parentWidget()
        area = viewport.parentWidget() if viewport is not None else None
        if isinstance(area, QScrollArea):
            area.verticalScrollBar().setValue(0)  # the question stands at the top
        (self.clip.field if index == 0 else self.response.field).setFocus()

    def _needed(self) -> tuple[str, ...]:
        cell = self.clip.cell
        if self.stack.currentIndex() == 0 and cell is not None and cell.driven == "all":
            return self._session.build.channels
        return (self.channels.channel,)

    def _show_held(self) -> None:
        held = self._session.held_back(self._needed())
        words = ""
        if held:
            stands = self._session.bringup(held[0])
            done, every = sum(one.settled for one in stands), len(stands)
            words = (
                f"{held[0].capitalize()} is not brought up yet: {done} of {every} steps. Its readings wait for that, "
                "because a fault that Power up would find can burn module and load here."
            )
        self.held.setText(words)
        self.held.setVisible(bool(held))
        self.held_button.setVisible(bool(held) and not self.reason.isVisibleTo(self))
        if not held:
            self.reason.hide()
        self.clip.block(words)
        self.response.block(words)

    def _ask_reason(self) -> None:
        self.reason.show()
        self.held_button.hide()
        self.reason.setFocus()

    def pass_over(self) -> None:
        """Write the reason down for every channel that is held, and let readings through."""
        reason = self.reason.text().strip()
        if len(reason) < 3:
            self.reason.setPlaceholderText("A reason in words is needed: found none.")
            return
        for channel in self._session.held_back(self._needed()):
            self._session.keep(Override(measure_gate(channel), reason, now(), measure_conditions(self._session.build)))
        self.reason.clear()
        self._show_held()

    def _show_set_up(self) -> None:
        self._show_held()
        for test, one, name in (
            (self.clip, self.clip_button, "Clipping power"), (self.response, self.response_button, "Response")
        ):  # fmt: skip
            have, every = test.counts()
            one.setText(f"{name}   {have} of {every}")
            one.setToolTip(f"{name}: {have} of {every} readings")
        channel, build = self.channels.channel, self._session.build
        if self.stack.currentIndex() == 0:
            self._show_clip_set_up(channel)
        else:
            load = build.load
            self._name_set_up("Generator, all points", "Begin with", "Then")
            given = frequency_response.set_up(build, load)
            self.generator.setText(f"{shown(given.v_in_rms, 'V')} rms")
            self.start.setText("1 kHz")
            self.most.setText("10 Hz to 50 kHz")
            self.load_time.setText(
                f"{shown(given.v_out_rms, 'V')} rms into {load.r_ohm:g} Ω: {shown(given.power_w, 'W', 2)}, "
                "so it stays cool."
            )
            self.claim.setText("")
            self.wired.setText(
                f"Generator to {channel} in, one level for all points. Meter (true rms, good to 50 kHz) or scope "
                f"across the load of {load.r_ohm:g} Ω."
            )

    def _name_set_up(self, *words: str) -> None:
        for one, text in zip(self.set_up_words, words, strict=True):
            one.setText(text)
        self.listing.setVisible(self.stack.currentIndex() == 0)

    def _show_clip_set_up(self, channel: str) -> None:
        cell = self.clip.cell
        if cell is None:
            return
        self._name_set_up("Generator at onset", "Start at", "Not above")
        read = self._session.reading(cell.subject, cell.conditions)
        given = clipping.set_up(cell, None if read is None else read.value)
        self.generator.setText(f"{shown_with_spread(given.drive_v_rms.value, given.drive_v_rms.spread, 'V')} rms")
        self.start.setText(f"{shown(given.start_v_rms, 'V')} rms")
        self.most.setText(f"{shown(given.most_v_rms, 'V')} rms")
        self.load_time.setText(f"{cell.load.name}, {cell.load.r_ohm:g} Ω. {given.rating}")
        claim = claim_for(cell.prediction.build.module, cell.load.r_ohm)
        self.claim.setText(
            "It names no power for this load."
            if claim is None
            else power_claim(claim, cell.power, cell.prediction["clip_v_peak"]).sentence
        )
        who = f"{channel} in" if cell.driven == "one" else "every input"
        at = f"{math.floor(given.start_v_rms * 1000):d} mV"
        self.wired.setText(
            f"Generator, 1 kHz, to {who}, beginning at {at}. {scope_words(self._session.build, channel)} "
            f"{cell.load.r_ohm:g} Ω across it."
        )
