"""The Power up page: steps at the left, one question in the middle, what to check at the right."""

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QFileDialog, QLineEdit, QSizePolicy, QWidget

from plinth.desk.asking import ask
from plinth.desk.channels import ChannelChoice
from plinth.desk.habits import usual_paper
from plinth.desk.labels import button, clear, column, label, rule
from plinth.desk.look import look
from plinth.desk.pdf import pdf_of
from plinth.desk.photos.strip import PhotoStrip
from plinth.desk.power_up.causes_view import CausesView
from plinth.desk.power_up.glow_view import GlowView
from plinth.desk.power_up.over_time import OverTime
from plinth.desk.power_up.question import Question
from plinth.desk.power_up.reforming_dialog import ReformingDialog
from plinth.desk.power_up.step_list import StepList
from plinth.desk.session import BenchSession
from plinth.desk.side_area import SideArea, lay_columns
from plinth.desk.spoken import Spoken, question_words, sentences
from plinth.desk.stage_page import StagePage
from plinth.guide.judging import hint_for
from plinth.guide.progress import Stand, StepStand
from plinth.judge.state import State
from plinth.record.reading import Reading
from plinth.report.file_out import not_written_words, proposed_name, write_whole
from plinth.report.power_card import card_html
from plinth.session.procedure.bring_up import BringUpListener, BringUpProcedure


class PowerUpPage(StagePage):
    """The steps of a channel's first power, one of them asked."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self.setObjectName("page")
        self._session = session
        self.procedure = BringUpProcedure(
            session,
            BringUpListener(
                shown=self.refresh,
                came_up=self._came_up,
                written=lambda: self.question.field.clear(),
                explained=lambda: self.question.in_words.clear(),
            ),
        )
        self.channels = ChannelChoice(session)
        self.steps, self.question = StepList(), Question(session, self.procedure)
        self.steps.title.hide()
        self.school = QComboBox()
        self.school.setAccessibleName("School of first power")
        self.school.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.school.activated.connect(self._choose_school)
        self.equipment = QLineEdit()
        self.equipment.setAccessibleName(
            "Equipment: a lamp, a small transformer, a low rail with its limit, a bias that was set"
        )
        self.equipment.setPlaceholderText("Equipment: 60 W; 14 V 400 mA; bias set")
        self.equipment.setToolTip(
            "Another lamp than the one chosen, a small transformer to try the supply from, a low rail with its limit, "
            "a bias that was set at the works; Enter"
        )
        self.equipment.returnPressed.connect(self.take_equipment)
        self.equipment_said = label("", "small", wrap=True)
        self.glows, self.over_time = GlowView(), OverTime()
        self.problem = label("", "problem", wrap=True)
        self.all_done = label("", "name", wrap=True)
        self.caution = label("", "caution", wrap=True)
        self.code = label(
            "Local electrical codes and licensed practice come before anything said here.", "small", wrap=True
        )
        self._hints = column(spacing=8)
        self.left = QWidget()
        self.card_button = button("Card for the bench …", "flat", tip="All steps on paper, with boxes to fill in")
        self.card_button.clicked.connect(self.ask_card)
        self.reforming_button = button("Hour by hour …", "flat", tip="All of the re-forming, for a calendar")
        self.reforming_button.clicked.connect(self.ask_reforming)
        self.said = label("", "small", wrap=True)
        self.said.hide()
        left = column(
            self.school,
            self.equipment,
            self.equipment_said,
            self.channels,
            self.steps,
            self.reforming_button,
            self.card_button,
            self.said,
            spacing=8,
        )
        self.left.setLayout(left)
        inner = QWidget()
        self.photos = PhotoStrip(session)
        middle = column(self.problem, self.all_done, self.question, self.photos, spacing=8, margins=(0, 0, 8, 0))
        middle.addStretch()
        inner.setLayout(middle)
        self.middle = SideArea(inner)
        right_inner = QWidget()
        self.behind = CausesView()
        right = column(
            self.behind, self.caution, self.over_time, self.glows,
            label("If it is outside, or odd", "title"),
            spacing=10, margins=(0, 0, 6, 0),
        )  # fmt: skip
        right.addLayout(self._hints)
        right.addStretch()
        right.addWidget(self.code)
        right_inner.setLayout(right)
        self.right = SideArea(right_inner)
        lay_columns(self, self.left, self.middle, self.right)
        self.channels.chosen.connect(lambda _name: self.to_due())
        self.steps.chosen.connect(self.procedure.choose)
        session.records_changed.connect(self.refresh)
        session.plan_changed.connect(self._take_plan)
        session.power_changed.connect(self._take_power)
        session.build_switched.connect(self.to_due)
        look.follow(self._fit)
        self._fit()
        self.to_due()

    def _fit(self) -> None:
        self.left.setFixedWidth(look.column(300))
        self.right.setFixedWidth(look.column(300))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        # Return in the list of steps leads to the question of the step chosen there.
        # One that a field has taken comes by here as well.
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and self.window().focusWidget() is self.steps.list:
            self.question.take_focus()
        else:
            super().keyPressEvent(event)

    @property
    def typed(self) -> str:
        return self.question.field.text()

    def spoken(self) -> Spoken:
        """A step may ask for something to be done in place of a reading; what burns cannot wait."""
        step, stand = self.procedure.step, self.procedure.stand
        held = self.question.held.text() if stand is not None else ""
        alarm = self.behind.off.text() if self.behind.off.isVisibleTo(self) and step is not None else ""
        outside = self.behind.stops.text() if self.behind.stops.isVisibleTo(self) else ""
        return Spoken(
            question=question_words(None if step is None else step.asks, sentences(held, self.question.key_words)),
            answer=self.question.answer_words,
            alarm=sentences(alarm, outside),
            wait=self.question.wait.text(),
        )

    def _take_power(self) -> None:
        """What was held may go on now: the hand is led there, unless it types elsewhere."""
        self.refresh()
        if self.isVisible() and not isinstance(self.window().focusWidget(), QLineEdit):
            self.question.take_focus()

    def _take_plan(self) -> None:
        """A slider changes the situation and no step."""
        stands = self._session.bring_up.stands(self.channels.channel)
        if not stands or stands is not self.procedure.stands:
            self.refresh()

    def refresh(self) -> None:
        """Take the stands anew and show the current step."""
        self._show_schools()
        self.procedure.channel.take(self.channels.channel)
        self.procedure.look_up()
        stands, stand = self.procedure.stands, self.procedure.stand
        self.problem.setText(
            ""
            if stands
            else self._session.predictions.problem
            or self._session.bring_up.waits
            or "This supply gives less than the module needs, so there is nothing to bring up. Fix it in Plan first."
        )
        self.problem.setVisible(not stands)
        self.question.setVisible(bool(stands))
        self.photos.setVisible(bool(stands))
        if stand is None:
            self.steps.show_stands((), -1)
            return
        self.steps.show_stands(stands, self.procedure.row)
        self.question.show_stand()
        self.photos.show_subject(stand.step.subject)
        self.all_done.setText(self._done_words())
        self.all_done.setVisible(bool(self.all_done.text()))
        self._show_hints(stand)

    def _done_words(self) -> str:
        """That a channel is up, at its last steps; empty before."""
        channel, stands, row = self.channels.channel, self.procedure.stands, self.procedure.row
        if not self._session.bring_up.brought_up(channel) or not stands[row].step.due_after:
            last = row == len(stands) - 1 and all(stand.settled for stand in stands)
            return f"{channel.capitalize()} is up, {_soak_words(stands)}. Go on in Measure." if last else ""
        return f"{channel.capitalize()} is up: a loudspeaker is allowed. Go on in Measure; the soak goes on beside it."

    def _show_hints(self, stand: StepStand) -> None:
        clear(self._hints)
        side = 0
        if isinstance(stand.record, Reading) and stand.record.state is State.OVER:
            window = stand.step.window
            side = -1 if window and window.low is not None and stand.record.value < window.low else 1
        fitting = hint_for(stand.step, side, stand.record.value) if side and isinstance(stand.record, Reading) else None
        for hint in sorted(stand.step.hints, key=lambda hint: hint is not fitting):
            self._hints.addWidget(rule())
            fits = hint is fitting
            self._hints.addWidget(label(("▶ " if fits else "") + hint.when, "name", wrap=True))
            self._hints.addWidget(label(hint.check, "soft", wrap=True))
        self.caution.setText(stand.step.caution)
        self.caution.setVisible(bool(stand.step.caution))
        self.over_time.show_watched(stand.step, self._session.bring_up.watched(stand.step))
        self.glows.show_glows(stand.step.glows)
        power, key = self._session.power.live, self._session.build.key_of(self.channels.channel)
        on = power is not None and power.build_id == self._session.stored.id and power.channel in (
            key, stand.step.about.channel
        )  # fmt: skip
        self.behind.show_causes(self._session.bring_up.causes(self.channels.channel), power_is_on=on)

    def _show_schools(self) -> None:
        schools, now = self._session.bring_up.schools, self._session.bring_up.school
        self.school.clear()
        for school, why_not in schools:
            self.school.addItem(f"{school.name} (not here)" if why_not else school.name, school.key)
            self.school.setItemData(self.school.count() - 1, why_not, Qt.ItemDataRole.ToolTipRole)
        self.school.setCurrentIndex([school for school, _ in schools].index(now))
        self.school.setToolTip(now.name)
        self.reforming_button.setVisible(self._session.bring_up.reforming_plan() is not None)
        if not self.equipment.hasFocus():
            self.equipment.setText(self._session.bring_up.equipment_text)
        self.equipment_said.setText(self._session.bring_up.equipment.words)
        self.equipment_said.setVisible(bool(self.equipment_said.text()))

    def _choose_school(self, row: int) -> None:
        school, why_not = self._session.bring_up.schools[row]
        if why_not:
            self.problem.setText(f"{school.name}: {why_not}. The school stays as it was.")
            self.problem.show()
            self.school.setCurrentIndex(
                [school for school, _ in self._session.bring_up.schools].index(self._session.bring_up.school)
            )
        elif school is not self._session.bring_up.school and self._session.bring_up.choose_school(school.key):
            self.to_due()

    def take_equipment(self) -> None:
        """Keep the equipment there is; what is wrong with it is said, and it stays in the field."""
        problem = self._session.bring_up.set_equipment(self.equipment.text())
        if problem:
            self.equipment_said.setText(problem)
            self.equipment_said.show()
        else:
            self.to_due()

    def ask_card(self) -> None:
        """Ask where to and write the card."""
        name, _ = QFileDialog.getSaveFileName(
            self, "Card for the bench", proposed_name(f"{self._session.build.name} first power", ".pdf"),
            "PDF (*.pdf);;HTML page (*.html)",
        )  # fmt: skip
        if name:
            self.save_card(Path(name))

    def ask_reforming(self) -> None:
        """The plan of the re-forming, hour by hour."""
        plan = self._session.bring_up.reforming_plan()
        if plan is not None:
            ask(ReformingDialog(self, self._session, plan))

    def save_card(self, path: Path) -> None:
        """Write the card of the current channel, by the file's ending; what came of it is said."""
        if not self.procedure.stands:
            self.said.setText("No card: this build cannot be brought up, so there are no steps.")
        else:
            channel = self.channels.channel
            page = card_html(
                self._session.build, channel, self._session.bring_up.school, self.procedure.stands, self._session.now()
            )
            try:
                write_whole(path, pdf_of(page, 6.0, usual_paper()) if path.suffix.lower() == ".pdf" else page)
            except OSError as error:
                self.said.setText(not_written_words(path, error))
            else:
                self.said.setText(f"Written: {path}.")
        self.said.show()

    def to_due(self) -> None:
        """Show the step that is due."""
        self.procedure.channel.take(self.channels.channel)
        self.procedure.to_due()

    @property
    def under_way(self) -> BringUpProcedure | None:
        """The steps; None where there are none."""
        return self.procedure if self.procedure.stands else None

    def come_up(self) -> None:
        """Show the step that is due."""
        self.to_due()

    def _came_up(self) -> None:
        self.refresh()
        self.question.take_focus()


def _soak_words(stands: Sequence[StepStand]) -> str:
    """Whether it has played for its week, or how much of that was passed over."""
    soak = [stand for stand in stands if stand.step.due_after and not stand.step.optional]
    passed = sum(stand.stand is not Stand.DONE for stand in soak)
    return f"with {passed} of {len(soak)} looks at its soak passed over" if passed else "and has played for a week"
