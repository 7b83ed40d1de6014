"""The what-if sliders: each a label, a value that can be typed, and a slider that redraws while it moves."""

import dataclasses
import math

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QSlider, QWidget

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.desk.labels import button, column, label, plain_tip
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.units.errors import QuantityError
from plinth.units.typed import read_quantity

STEPS = 240
# Up to this text size a row is one line; larger text needs two. No bound, as Qt has it.
ONE_LINE_UP_TO, UNBOUND_PX = 1.2, 16_777_215


@dataclasses.dataclass(frozen=True)
class Knob:
    """A field of the situation that a slider sets; ``log`` spreads a wide range evenly by ratio.

    ``without`` what is shown while the field is left open; the slider's left end is then that. ``short`` its title
    where all of a row stands in one line.
    """

    field: str
    title: str
    short: str
    unit: str
    low: float
    high: float
    log: bool = False
    step: float = 1.0
    scale: float = 1.0
    without: str = ""

    def value_at(self, position: int) -> float | None:
        """The value at a slider position, rounded to ``step``; None where the field is left open."""
        if self.without and position == 0:
            return None
        share = position / STEPS
        if self.log:
            value = self.low * math.pow(self.high / self.low, share)
            digits = 1 - math.floor(math.log10(value))
            return min(self.high, max(self.low, round(value, digits)))
        stepped = round((self.low + share * (self.high - self.low)) / self.step) * self.step
        return min(self.high, max(self.low, stepped))

    def position_of(self, value: float | None) -> int:
        """The slider position nearest a value."""
        if value is None:
            return 0
        held = min(self.high, max(self.low, value))
        if self.log:
            return round(STEPS * math.log(held / self.low) / math.log(self.high / self.low))
        return round(STEPS * (held - self.low) / (self.high - self.low))


def knobs(build: Build) -> tuple[Knob, ...]:
    """The sliders of a build."""
    return (
        *_source_knob(build),
        Knob("load_ohm", "Load, each channel", "Load", "Ω", 2.0, 16.0, log=True),
        Knob("level", "Level, of clip", "Level", "%", 0.0, 100.0, scale=0.01),
        Knob("frequency_hz", "Signal", "Signal", "Hz", 20.0, 20_000.0, log=True),
        Knob("crest_db", "Music, peak over mean", "Music crest", "dB", 3.01, 20.0, step=0.5),
        Knob("ambient_c", "Air around it", "Air", "°C", 0.0, 45.0),
        Knob("source_v_rms", "Source gives at most", "Source, most", "V", 0.1, 10.0, log=True, without="not said"),
        *_lamp_knob(build),
    )


def _lamp_knob(build: Build) -> tuple[Knob, ...]:
    if build.supply.transformer is None:
        return ()
    return (Knob("lamp_w", "Lamp in series", "Series lamp", "W", 15.0, 200.0, log=True, without="none"),)


def _source_knob(build: Build) -> tuple[Knob, ...]:
    battery = build.supply.battery
    if battery is not None:
        return (Knob("battery_v", "Battery, at rest", "Battery", "V", battery.v_empty, battery.v_full, step=0.1),)
    if build.mains is None or not build.supply.from_the_wall:
        return ()
    mains = build.mains.v_nominal_rms
    return (Knob("mains_v_rms", "Mains", "Mains", "V", round(0.85 * mains), round(1.15 * mains)),)


def present(knob: Knob, build: Build, situation: Situation) -> float | None:
    """The value in force, in the knob's own scale; None where it is left open."""
    resolved = {
        "mains_v_rms": situation.mains_rms(build),
        "battery_v": situation.battery(build),
        "load_ohm": situation.load(build),
    }
    value: float | None = resolved.get(knob.field, getattr(situation, knob.field))
    return None if value is None else value / knob.scale


class KnobRow(QWidget):
    """One knob."""

    moved = Signal(str, object, bool)

    def __init__(self, knob: Knob) -> None:
        super().__init__()
        self.knob = knob
        self.field = QLineEdit()
        self.field.setProperty("role", "value")
        self.field.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.field.setAccessibleName(f"{knob.title}, typed, {knob.low:g} to {knob.high:g} {knob.unit}")
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, STEPS)
        self.slider.setPageStep(STEPS // 12)
        self.slider.setAccessibleName(knob.title)
        self.slider.setToolTip(f"{knob.low:g} to {knob.high:g} {knob.unit}; arrow keys, or type the value")
        self.note = label("", "over", wrap=True)
        self.note.hide()
        self.title = label(knob.title, wrap=True)
        self.title.setToolTip(plain_tip(knob.title))
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(0)
        self.slider.valueChanged.connect(self._slid)
        self.slider.sliderReleased.connect(self._released)
        self.field.returnPressed.connect(self._typed)
        self.field.editingFinished.connect(self._typed)
        look.changed.connect(self._fit)
        self._fit()

    def _fit(self) -> None:
        for widget in (self.title, self.field, self.slider, self.note):
            self._grid.removeWidget(widget)
        places: tuple[tuple[QWidget, int, int, int], ...]
        one_line = look.scale <= ONE_LINE_UP_TO
        self.field.setFixedWidth(look.column(76 if one_line else 92))
        if one_line:
            self.title.setText(self.knob.short)
            self.title.setFixedWidth(look.column(84))
            places = ((self.title, 0, 0, 1), (self.slider, 0, 1, 1), (self.field, 0, 2, 1), (self.note, 1, 0, 3))
        else:
            self.title.setText(self.knob.title)
            self.title.setMinimumWidth(0)
            self.title.setMaximumWidth(UNBOUND_PX)
            places = ((self.title, 0, 0, 2), (self.field, 0, 2, 1), (self.slider, 1, 0, 3), (self.note, 2, 0, 3))
        for widget, row, column_, span in places:
            self._grid.addWidget(widget, row, column_, 1, span)
        self._grid.setColumnStretch(1, 1)

    def show_value(self, value: float | None) -> None:
        """Show the value in force."""
        if value is None:
            self._show(self.knob.without, None)
            return
        shown = f"{value:.1f}" if self.knob.step < 1 or (self.knob.log and value < 10) else f"{value:.0f}"
        if self.knob.log and value >= 1000:
            self._show(f"{value / 1000:g} k{self.knob.unit}", value)
            return
        if self.knob.field == "load_ohm":
            shown = f"{value:g}"
        self._show(f"{shown} {self.knob.unit}", value)

    def set_idle(self, words: str) -> None:
        """Put the row out of use while something else decides, with words in place of its value; empty: in use."""
        self.setEnabled(not words)
        if words:
            self._show(words, None)

    def _show(self, text: str, value: float | None) -> None:
        if not self.field.hasFocus() or not self.field.isModified():
            self.field.setText(text)
        if not self.slider.isSliderDown():
            self.slider.blockSignals(True)
            self.slider.setValue(self.knob.position_of(value))
            self.slider.blockSignals(False)
        self.slider.setAccessibleDescription(text)

    def _slid(self, position: int) -> None:
        self._say("")
        self.field.setModified(False)
        self._tell(self.knob.value_at(position), self.slider.isSliderDown())

    def _released(self) -> None:
        self._tell(self.knob.value_at(self.slider.value()), False)

    def _tell(self, value: float | None, live: bool) -> None:
        self.moved.emit(self.knob.field, None if value is None else value * self.knob.scale, live)

    def _typed(self) -> None:
        if not self.field.isModified():
            return
        text = self.field.text().strip()
        if self.knob.without and text.lower() in ("", self.knob.without, "no", "none"):
            self._say("")
            self.field.setModified(False)
            self._tell(None, False)
            return
        unit = {"Ω": "ohm"}.get(self.knob.unit, self.knob.unit)
        try:
            value = read_quantity(text, unit)
        except QuantityError as error:
            self._say(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        if not self.knob.low <= value <= self.knob.high:
            self._say(f"Found {value:g}, expected {self.knob.low:g} to {self.knob.high:g} {self.knob.unit}.")
            return
        self._say("")
        self.field.setModified(False)
        self._tell(value, False)

    def _say(self, words: str) -> None:
        self.note.setText(words)
        self.note.setVisible(bool(words))


class WhatIf(QWidget):
    """All knobs of the current build."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self.back = button("all back", "flat", tip="Put every slider back to the build as it is")
        self.back.clicked.connect(session.plan.reset_what_if)
        head = QHBoxLayout()
        head.addWidget(label("What if", "title"))
        head.addStretch()
        head.addWidget(self.back)
        self.channels = button("", "flat", tip="Switch between one and all channels driven")
        self.channels.clicked.connect(self._toggle_channels)
        driven = QHBoxLayout()
        driven.addWidget(label("Channels driven"))
        driven.addStretch()
        driven.addWidget(self.channels)
        self._box = column(spacing=6)
        self._box.addLayout(head)
        self._rows_box = column(spacing=1)
        self._box.addLayout(self._rows_box)
        self._box.addLayout(driven)
        self.setLayout(self._box)
        self.rows: dict[str, KnobRow] = {}
        self._make_rows()
        session.build_switched.connect(self._make_rows)
        session.plan_changed.connect(self.refresh)

    def _make_rows(self) -> None:
        for row in self.rows.values():
            row.setParent(None)
            row.deleteLater()
        self.rows = {}
        for knob in knobs(self._session.build):
            row = KnobRow(knob)
            row.moved.connect(self._moved)
            self.rows[knob.field] = row
            self._rows_box.addWidget(row)
        self.refresh()

    def refresh(self) -> None:
        """Show the values in force."""
        build, situation = self._session.build, self._session.situation
        for row in self.rows.values():
            row.show_value(present(row.knob, build, situation))
        # Behind a lamp nothing plays.
        for field in ("level", "crest_db"):
            self.rows[field].set_idle("at rest" if situation.lamp_w is not None else "")
        several = len(build.channels) > 1
        self.channels.setVisible(several)
        words = "all" if situation.channels_driven == "all" else "one"
        self.channels.setText(words)
        self.channels.setAccessibleName(f"Channels driven: {words}")
        self.back.setEnabled(situation != Situation())

    def _moved(self, field: str, value: float | None, live: bool) -> None:
        self._session.plan.what_if(live=live, **{field: value})

    def _toggle_channels(self) -> None:
        other = "one" if self._session.situation.channels_driven == "all" else "all"
        self._session.plan.what_if(live=False, channels_driven=other)
