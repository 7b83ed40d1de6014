"""The head: builds of this workshop, stages with their state, look, finder, what is kept."""

import datetime as dt
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QAction, QFontMetrics
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QMenu, QSizePolicy, QWidget

from plinth.desk.due_button import DueButton
from plinth.desk.labels import button, check, label, on_chosen, plain_tip, set_role
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.stages import STAGES, Stage
from plinth.units.moments import clock

NOT_KEPT = "not kept!"
# From these sizes of text on there is no room for what can be had elsewhere, and for the state of each stage.
_LARGE, _LARGER = 1.15, 1.35


class Head(QWidget):
    """``stage_chosen`` the key of a stage; the other signals ask the window to do something."""

    stage_chosen = Signal(str)
    new_build = Signal()
    copy_build = Signal()
    find_asked = Signal()
    toggle_dark = Signal()
    text_size = Signal(int)

    def __init__(self, session: BenchSession, stages: tuple[Stage, ...] = STAGES) -> None:
        super().__init__()
        self._in_order = stages
        self.setObjectName("head")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._session = session
        self.builds = button("", "flat", tip="Builds of this workshop: switch, new, copy (Ctrl+B)")
        self.builds.setMenu(QMenu(self.builds))
        self.builds.menu().aboutToShow.connect(self.fill_builds)
        self.place = label("", "small")
        self.stages = QButtonGroup(self)
        self.stage_row = QWidget()
        row = QHBoxLayout(self.stage_row)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2)
        for index, stage in enumerate(self._in_order):
            push = button(stage.name)
            push.setCheckable(True)
            self.stages.addButton(push, index)
            on_chosen(push, partial(self._choose, stage.key))
            row.addWidget(push)
        check(self.stages.button(0))
        self.due = DueButton(session, self)
        self.finder = button("Find  Ctrl+K", "flat", tip="Every action, by name")
        self.smaller, self.larger = (
            button("A−", "flat", tip="Smaller text (Ctrl+−)"),
            button("A+", "flat", tip="Larger text (Ctrl++)"),
        )
        self.smaller.setAccessibleName("Smaller text")
        self.larger.setAccessibleName("Larger text")
        self.dark = button("", "flat", tip="Light or dark (Ctrl+L)")
        self.kept = label("all kept", "small")
        self.kept.setMinimumWidth(1)
        self.kept.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
        self.finder.clicked.connect(self.find_asked)
        self.smaller.clicked.connect(lambda: self.text_size.emit(-1))
        self.larger.clicked.connect(lambda: self.text_size.emit(1))
        self.dark.clicked.connect(self.toggle_dark)
        box = self._box = QHBoxLayout(self)
        box.setContentsMargins(12, 0, 14, 0)
        box.setSpacing(8)
        box.addWidget(self.builds)
        box.addWidget(self.place)
        box.addStretch(1)
        box.addWidget(self.stage_row)
        box.addStretch(1)
        for widget in (self.due, self.finder, self.smaller, self.larger, self.dark, self.kept):
            box.addWidget(widget)
        session.kept.connect(self._say_kept)
        for signal in (session.build_switched, session.predicted, session.records_changed):
            signal.connect(self.refresh)
        look.changed.connect(self._fit)
        self._fit()
        self.refresh()

    def check(self, key: str) -> None:
        """The stage whose page is shown."""
        check(self.stages.button([stage.key for stage in self._in_order].index(key)))

    def _choose(self, key: str) -> None:
        self.stage_chosen.emit(key)

    def _fit(self) -> None:
        self.setFixedHeight(look.px(38))
        self._box.setSpacing(8 if look.scale < _LARGE else 2)
        self.dark.setText("light" if look.dark else "dark")
        self.dark.setAccessibleName("Change to light" if look.dark else "Change to dark")
        ink, soft, sunk = (look.token(name).name() for name in ("ink", "ink2", "sunk"))
        for push in self.stages.buttons():
            push.setStyleSheet(
                f"QPushButton {{ border: none; border-radius: 0; border-bottom: 3px solid transparent; color: {soft};"
                f" font-size: {look.px(14)}px; padding: {look.px(7)}px {look.px(9)}px {look.px(6)}px; }}"
                f"QPushButton:hover {{ background: {sunk}; }}"
                f"QPushButton:checked {{ color: {ink}; font-weight: bold; border-bottom: 3px solid {ink}; }}"
                f"QPushButton:focus {{ background: {sunk}; color: {ink}; text-decoration: underline; }}"
            )
        self.builds.setStyleSheet(f"font-size: {look.px(15)}px; font-weight: bold;")
        # Large text: what can be had elsewhere (keys, tool tips, the finder) leaves the head first.
        self.place.setVisible(look.scale < _LARGE)
        self._show_kept()
        self.smaller.setVisible(look.scale < _LARGE)
        self.larger.setVisible(look.scale < _LARGE)
        self.finder.setText("Find  Ctrl+K" if look.scale < _LARGE else "Find")
        self.refresh()

    def refresh(self) -> None:
        """Names and the state of every stage."""
        session = self._session
        name = QFontMetrics(look.font(15, bold=True)).elidedText(
            session.build.name, Qt.TextElideMode.ElideRight, look.column(190)
        )
        self.builds.setText(f"{name}  ▾")
        self.builds.setAccessibleName(f"Build {session.build.name}; choose another, new or copy")
        named = "demo workshop" if session.demo else session.workshop.path.stem
        self.place.setText(f"{named}, for practice" if session.practice and not named.endswith(" practice") else named)
        for index, stage in enumerate(self._in_order):
            name, state, push = stage.name, stage.state(session), self.stages.button(index)
            push.setText(f"{name}  {state}" if state and look.scale < _LARGER else name)
            push.setToolTip(plain_tip(f"{name}: {state}" if state else name))
            push.setAccessibleName(f"{name}, {state}" if state else name)

    def fill_builds(self) -> None:
        """Offer the builds there are."""
        menu = self.builds.menu()
        menu.clear()
        for stored in self._session.builds:
            action = QAction(stored.build.name, menu)
            action.setCheckable(True)
            action.setChecked(stored.id == self._session.stored.id)
            action.triggered.connect(lambda _checked=False, id_=stored.id: self._session.switch(id_))
            menu.addAction(action)
        for locked in self._session.locked:
            action = QAction(f"{locked.name}: cannot be read", menu)
            action.setEnabled(False)
            action.setToolTip(plain_tip(locked.why))
            menu.addAction(action)
        menu.addSeparator()
        menu.addAction("New build …", self.new_build.emit)
        menu.addAction("Copy this build …", self.copy_build.emit)

    def _say_kept(self, at: dt.datetime) -> None:
        self.kept.setText(f"all kept {clock(at)}")
        set_role(self.kept, "small")
        self._show_kept()

    def _show_kept(self) -> None:
        # At large text there is no room for good news; what is not kept is always said.
        self.kept.setVisible(look.scale < _LARGE or self.kept.text() == NOT_KEPT)

    def say_not_kept(self) -> None:
        """Something is not on disk."""
        self.kept.setText(NOT_KEPT)
        set_role(self.kept, "over")
        self._show_kept()
