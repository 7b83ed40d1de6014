"""A transformer without a label: what was measured of it becomes a part with estimates and honest bands."""

import pydantic
from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from plinth.builds.invalid import invalid
from plinth.desk.dialog import Dialog
from plinth.desk.labels import answer_row, label
from plinth.desk.session import BenchSession
from plinth.shelf.from_measured import MeasuredTransformer, transformer_from
from plinth.units.errors import QuantityError
from plinth.units.shown import shown
from plinth.units.typed import read_quantity

FIELDS = {
    "name": ("What you call it", "drawer 3, grey"),
    "v_open_rms": ("Each half without load, rms", "27.4"),
    "v_mains_rms": ("Mains while it was read, rms", "231"),
    "r_half_ohm": ("Resistance of one half", "0.24; may be left"),
    "r_primary_ohm": ("Resistance of the primary", "6.1; may be left"),
    "weight_kg": ("Weight, kg", "2.1; may be left"),
    "core_cm2": ("Middle leg, cm²", "of a laminated core; may be left"),
}
NEEDED = ("v_open_rms", "v_mains_rms")
UNITS = {"v_open_rms": "V", "v_mains_rms": "V", "r_half_ohm": "ohm", "r_primary_ohm": "ohm"}
CORES = {"ring": "toroid", "laminated": "ei"}
WOUND = {"two halves apart": "two", "centre tap": "centre_tap", "one winding": "one"}


class MeasuredDialog(Dialog):
    """Readings of a transformer, and what they come to while they are typed."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle("A transformer I measured")
        self.fields = {key: QLineEdit() for key in FIELDS}
        self.core, self.wound = QComboBox(), QComboBox()
        self.core.addItems(list(CORES))
        self.wound.addItems(list(WOUND))
        self.core.setAccessibleName("Core")
        self.wound.setAccessibleName("Windings")
        self.becomes, self.said = label("", wrap=True), label("", "over", wrap=True)
        grid = QGridLayout()
        for row, (key, (words, example)) in enumerate(FIELDS.items()):
            field = self.fields[key]
            field.setAccessibleName(words)
            field.setPlaceholderText(example)
            field.setMinimumWidth(300)
            field.textChanged.connect(self._estimate)
            field.returnPressed.connect(self.take)
            grid.addWidget(label(words), row, 0)
            grid.addWidget(field, row, 1)
        for row, (words, combo) in enumerate((("Core", self.core), ("Windings", self.wound)), len(FIELDS)):
            grid.addWidget(label(words), row, 0)
            grid.addWidget(combo, row, 1)
            combo.currentIndexChanged.connect(self._estimate)
        box = QVBoxLayout(self)
        box.setSpacing(10)
        box.addWidget(label("A transformer I measured", "title"))
        caution = "Measure resistances unplugged. Volts are read on insulated leads: the primary side is mains."
        box.addWidget(label(caution, "caution", wrap=True))
        box.addLayout(grid)
        box.addWidget(self.becomes)
        box.addWidget(self.said)
        box.addLayout(answer_row(self, "Put it on the shelf", self.take))
        self.fields["name"].setFocus()

    @property
    def measured(self) -> MeasuredTransformer:
        """What is typed. Raises QuantityError."""
        values: dict[str, float | None] = {}
        for key in list(FIELDS)[1:]:
            text = self.fields[key].text().strip()
            if not text and key in NEEDED:
                raise QuantityError(
                    f"{FIELDS[key][0].lower()}: found nothing, expected a number such as {FIELDS[key][1]}"
                )
            values[key] = (
                read_quantity(text.removesuffix("kg").removesuffix("cm²").strip(), UNITS.get(key, "")) if text else None
            )
        document = values | {"core": CORES[self.core.currentText()], "secondaries": WOUND[self.wound.currentText()]}
        # By name; mypy cannot see which of the fields a dict fills.
        return MeasuredTransformer(**document)  # type: ignore[arg-type]

    def _estimate(self) -> None:
        try:
            part = transformer_from(self.measured, "it")
        except QuantityError:
            # Not all is typed yet: what is missing is said when it is to be kept.
            self.becomes.setText("")
            return
        bands = {fact.field: fact.tol or 0.0 for fact in part.told}
        self.becomes.setText(
            f"Estimated: {shown(part.va, 'VA')} ±{100.0 * bands['va']:.0f} %, {shown(part.v_secondary_rms, 'V')} there "
            f"regulation {100.0 * (part.regulation or 0.0):.1f} % ±{100.0 * bands['regulation']:.0f} % of it."
        )

    def take(self) -> None:
        """Put the part on the shelf, or say what is wrong; what was typed stays."""
        name = self.fields["name"].text().strip()
        if not name:
            self.said.setText("Found no name, expected one that you will know it by.")
            return
        try:
            part = transformer_from(self.measured, name[:120])
        except QuantityError as error:
            self.said.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        except pydantic.ValidationError as error:
            self.said.setText(f"{invalid(error)[0].words}.")
            return
        if self._session.shelf.put_on_shelf(part):
            self.accept()
