"""The gain-resistor helper as a form: what is wanted at the left, what can be bought and what it makes below."""

import re

from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from plinth.bench.gain import gain_of
from plinth.bench.gain_resistor import ARRANGEMENTS, SERIES_NAMES, GainChoice, choices
from plinth.builds.build import Build
from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, label
from plinth.desk.look import look
from plinth.physics.stages.gain_setting import gain_with
from plinth.units.errors import QuantityError
from plinth.units.shown import shown
from plinth.units.typed import read_number, read_quantity

# Digits with a letter that only resistances have.
_OHMS = re.compile(r"[\d.,]+\s*(?:[kKMR]\d*|[kKM]?\s*(?:ohms?|Ω))\s*", re.IGNORECASE)

HEADS = ("Resistor", "Gain", "dB off", "Clips at, input")


class GainDialog(Dialog):
    """Every change is worked out at once; nothing is kept, and no part is changed."""

    def __init__(self, parent: QWidget, build: Build, clip_v_rms: float) -> None:
        super().__init__(parent)
        self.setWindowTitle("Gain resistor")
        self._gain, self._clip_v = gain_of(build).value / build.modules_per_channel, clip_v_rms
        self.arrangement, self.series, self.pairs = QComboBox(), QComboBox(), QCheckBox("two of them")
        self.arrangement.addItems(list(ARRANGEMENTS))
        self.series.addItems(list(SERIES_NAMES))
        self.series.setCurrentIndex(1)
        self.fixed, self.wanted = QLineEdit("22k"), QLineEdit(f"{self._gain:.3g}")
        self.stays = label("", "small")
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        rows: tuple[tuple[str, QWidget], ...] = (
            ("Which is chosen", self.arrangement), ("The other one", self.fixed), ("Gain wanted, or ohms turned to",
            self.wanted), ("Series", self.series), ("", self.pairs),
        )  # fmt: skip
        for row, (words, widget) in enumerate(rows):
            grid.addWidget(label(words), row, 0)
            grid.addWidget(widget, row, 1)
            widget.setAccessibleName(words or "Two resistors")
        grid.addWidget(self.stays, 1, 2)
        grid.addWidget(label("a gain (22), dB (27 dB), volts to clip (0.5 V), or ohms (57k)", "small"), 2, 2)
        self.said = label("", "name", wrap=True)
        self.table = QGridLayout()
        self.table.setHorizontalSpacing(24)
        self.rows: list[list[QWidget]] = []
        self._cells = [[label("", "small" if not r else "") for _ in HEADS] for r in range(5)]
        for r, cells in enumerate(self._cells):
            for c, cell in enumerate(cells):
                self.table.addWidget(cell, r, c)
        for cell, words in zip(self._cells[0], HEADS, strict=True):
            cell.setText(words)
        box = QVBoxLayout(self)
        box.setSpacing(10)
        box.addWidget(label("Gain resistor", "title"))
        box.addLayout(grid)
        box.addWidget(self.said)
        box.addLayout(self.table)
        box.addWidget(
            label(
                "Change it unpowered and discharged. Less gain needs a stage that stays stable with it: its maker says "
                "how little.", "caution", wrap=True,
            )
        )  # fmt: skip
        close = button("Close  Esc", "flat")
        close.clicked.connect(self.reject)
        box.addWidget(close)
        for field in (self.fixed, self.wanted):
            field.textChanged.connect(self.work_out)
        self.arrangement.currentIndexChanged.connect(self.work_out)
        self.series.currentIndexChanged.connect(self.work_out)
        self.pairs.toggled.connect(self.work_out)
        self.found: tuple[GainChoice, ...] = ()
        look.size(self, 640, 430)
        self.work_out()

    def work_out(self) -> None:
        """Work everything out from what stands in the fields; nonsense is explained."""
        arrangement, stays = ARRANGEMENTS[self.arrangement.currentText()]
        self.stays.setText(stays)
        divider = arrangement.startswith("divider")
        behind = self._gain if divider else 1.0
        try:
            fixed = read_quantity(self.fixed.text(), "ohm")
            if fixed <= 0.0:
                raise QuantityError(f"found {self.fixed.text()!r}, expected more than 0 Ω")
            found_ohm = self._found_ohm()
            gain = gain_with(arrangement, found_ohm, fixed) if found_ohm else self._wanted_gain() / behind
            exact, self.found = choices(
                arrangement,
                gain,
                fixed,
                series=self.series.currentText(),
                pairs=self.pairs.isChecked(),
                behind=behind,
                clip_v_rms=self._clip_v,
            )
        except QuantityError as error:
            self.found = ()
            self.said.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
        else:
            level = shown(self._clip_v / (gain * behind), "V")
            self.said.setText(
                f"With {shown(exact, 'ohm')} the gain is {gain * behind:.4g}, and {level} rms at the input clips it."
                if found_ohm
                else f"Exactly {shown(exact, 'ohm')} for a gain of {gain * behind:.3g}: there a trimmer of "
                f"{shown(2.0 * exact, 'ohm', 2)} would stand half way."
            )
        for cells, choice in zip(self._cells[1:], (*self.found, *[None] * 4), strict=False):
            texts = ("", "", "", "") if choice is None else (
                choice.parts, f"× {choice.gain * behind:.4g}", f"{choice.off_db:+.2f}".replace("-", "−"),
                f"{shown(choice.to_clip_v_rms, 'V')} rms",
            )  # fmt: skip
            for cell, text in zip(cells, texts, strict=True):
                cell.setText(text)

    def _found_ohm(self) -> float | None:
        """The ohms that a trimmer was turned to, where that is what is typed: ``57k``, ``820 ohm``, ``4k7``."""
        text = self.wanted.text().strip()
        if not _OHMS.fullmatch(text):
            return None
        ohm = read_quantity(text, "ohm")
        if ohm <= 0.0:
            raise QuantityError(f"found {text!r}, expected more than 0 Ω")
        return ohm

    def _wanted_gain(self) -> float:
        """The gain of the whole channel that is wanted: as such, in dB, or by the input volts that are to clip it."""
        text = self.wanted.text().strip()
        if text.lower().endswith("db"):
            decibels = read_quantity(text, "dB")
            if not -60.0 <= decibels <= 80.0:
                raise QuantityError(f"found {text!r}, expected a gain of −60 to 80 dB")
            return float(10.0 ** (decibels / 20.0))
        if text.lower().endswith("v") or text.lower().endswith("rms"):
            volts = read_quantity(text.lower().removesuffix("rms").strip(), "V")
            if volts <= 0.0:
                raise QuantityError(f"found {text!r}, expected an input level above 0 V")
            return self._clip_v / volts
        gain = read_number(text.lstrip("x× "))
        if not 1e-3 <= gain <= 1e4:
            raise QuantityError(f"found {text!r}, expected a gain of 0.001 to 10000, such as 22 or 27 dB")
        return gain
