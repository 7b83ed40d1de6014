"""Change what is stated of a part: one typed field each, empty where nothing is stated."""

import pydantic
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from plinth.builds.field_entry import field_text, field_value
from plinth.builds.fields import PartField, part_fields, parts_inside, with_values
from plinth.builds.invalid import invalid
from plinth.builds.parts import Part
from plinth.builds.properties import value_at
from plinth.desk.dialog import Dialog
from plinth.desk.labels import answer_row, label
from plinth.desk.look import look
from plinth.desk.side_area import SideArea
from plinth.units.errors import QuantityError

NOT_STATED, NEEDED = "not stated", "needed"


class PartForm(Dialog):
    """``part`` after it was accepted."""

    def __init__(self, parent: QWidget, part: Part) -> None:
        super().__init__(parent)
        self.setWindowTitle(part.name)
        look.size(self, 620, 640)
        self.part = part
        self.fields: dict[str, QLineEdit | QComboBox] = {}
        grid = QGridLayout()
        grid.setColumnStretch(0, 1)
        grid.setColumnStretch(1, 1)
        self._asked = part_fields(part)
        for row, field in enumerate(self._asked):
            grid.addWidget(label(field.words, wrap=True), row, 0)
            made = self._make(field, value_at(part, field.path))
            made.setAccessibleName(field.words)
            self.fields[field.path] = made
            grid.addWidget(made, row, 1)
        inner = QWidget()
        inner.setLayout(grid)
        area = SideArea(inner)
        self.said = label("", "over", wrap=True)
        box = QVBoxLayout(self)
        box.setSpacing(10)
        box.addWidget(label(f"What is stated of {part.name}", "title"))
        box.addWidget(
            label(f"Type 4k7, 6800u or 0R22. Leave empty what nobody states; what is {NEEDED} says so.", "soft")
        )
        box.addWidget(area, 1)
        box.addWidget(self.said)
        box.addLayout(answer_row(self, "Keep", self.take))
        first = next(iter(self.fields.values()))
        if isinstance(first, QLineEdit):
            # As a field reached by Tab: typing takes the place of what stands there.
            first.setFocus()
            first.selectAll()

    def _make(self, field: PartField, value: object) -> QLineEdit | QComboBox:
        if field.choices:
            choice = QComboBox()
            choice.addItems([NOT_STATED, *field.choices] if field.optional else list(field.choices))
            choice.setCurrentText(field_text(field, value) or NOT_STATED)
            return choice
        made = QLineEdit(field_text(field, value))
        made.setPlaceholderText(NOT_STATED if field.optional else NEEDED)
        made.setAlignment(Qt.AlignmentFlag.AlignRight if field.number else Qt.AlignmentFlag.AlignLeft)
        made.returnPressed.connect(self.take)
        return made

    def take(self) -> None:
        """Accept what can be understood, else say what is wrong and where; nothing typed is lost."""
        off = self._taken_off()
        values: dict[str, object] = dict.fromkeys(off)
        for field in self._asked:
            if field.path.partition(".")[0] in off:
                continue
            text = self._text(field)
            if text == field_text(field, value_at(self.part, field.path)):
                continue
            try:
                values[field.path] = field_value(field, text, self.part)
            except QuantityError as error:
                self._say(field, str(error))
                return
        try:
            self.part = with_values(self.part, values)
        except pydantic.ValidationError as error:
            first = invalid(error)[0]
            asked = next((f for f in self._asked if f.path == first.path), None)
            in_per_cent = " (as a fraction, not in per cent)" if asked is not None and asked.per_cent else ""
            self._say(asked, f"{first.reason}{in_per_cent}")
            return
        self.accept()

    def _text(self, field: PartField) -> str:
        made = self.fields[field.path]
        return made.currentText().replace(NOT_STATED, "") if isinstance(made, QComboBox) else made.text()

    def _taken_off(self) -> set[str]:
        """What stands inside it and was emptied of all that it needs: a board without a bias to set."""
        emptied = set()
        for whole in parts_inside(self.part):
            inside = [field for field in self._asked if field.path.startswith(f"{whole}.") and field.number]
            needed = [field for field in inside if not field.optional and not field.path.endswith("_tol")]
            if needed and not any(self._text(field).strip() for field in needed):
                emptied.add(whole)
        return emptied

    def _say(self, field: PartField | None, sentence: str) -> None:
        self.said.setText(f"{field.words}: {sentence}." if field else f"{sentence}.")
        if field is not None:
            self.fields[field.path].setFocus()
