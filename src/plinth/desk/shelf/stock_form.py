"""What is known of a part's stock: prices with their breaks, where it is, when it comes, who sells it."""

import datetime as dt

import pydantic
from PySide6.QtWidgets import QGridLayout, QLineEdit, QVBoxLayout, QWidget

from plinth.builds.invalid import invalid
from plinth.builds.stock import Stock, prices_text, read_prices
from plinth.desk.dialog import Dialog
from plinth.desk.labels import answer_row, label
from plinth.units.errors import QuantityError

FIELDS = {
    "prices": "Prices, each; from a count on", "currency": "Currency", "panel": "Boards on a panel",
    "in_drawer": "In the drawer", "ordered": "Ordered", "due": "Expected on (2026-12-24, or: unknown)",
    "supplier": "Sold by", "note": "Note",
}  # fmt: skip
NOBODY_KNOWS = "unknown"


class StockForm(Dialog):
    """``stock`` after it was accepted; what is typed stays until it can be used."""

    def __init__(self, parent: QWidget, name: str, stock: Stock) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Price and drawer: {name}")
        self.stock = stock
        due = NOBODY_KNOWS if stock.back_order else "" if stock.due is None else stock.due.isoformat()
        texts = {"prices": prices_text(stock.prices), "due": due}
        self.fields = {key: QLineEdit(texts.get(key, str(getattr(stock, key, "")))) for key in FIELDS}
        self.fields["prices"].setPlaceholderText("4.60; 10: 3.90")
        self.said = label("", "over", wrap=True)
        grid = QGridLayout()
        for row, (key, words) in enumerate(FIELDS.items()):
            field = self.fields[key]
            field.setAccessibleName(words)
            field.setMinimumWidth(300)
            field.returnPressed.connect(self.take)
            grid.addWidget(label(words), row, 0)
            grid.addWidget(field, row, 1)
        box = QVBoxLayout(self)
        box.addLayout(grid)
        box.addWidget(self.said)
        box.addLayout(answer_row(self, "Keep it", self.take))
        self.fields["prices"].setFocus()

    def take(self) -> None:
        """Accept what is typed, else say what is wrong with it."""
        try:
            self.stock = self._typed()
        except QuantityError as error:
            self.said.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
        except pydantic.ValidationError as error:
            self.said.setText(f"{invalid(error)[0].words}.")
        else:
            self.accept()

    def _typed(self) -> Stock:
        texts = {key: field.text().strip() for key, field in self.fields.items()}
        due = texts.pop("due")
        counts = {key: _count(FIELDS[key], texts.pop(key)) for key in ("panel", "in_drawer", "ordered")}
        document = self.stock.model_dump() | texts | counts
        document["prices"] = [price.model_dump() for price in read_prices(texts["prices"])]
        document["back_order"] = due.lower() == NOBODY_KNOWS
        document["due"] = None if document["back_order"] or not due else _date(due)
        return Stock.model_validate(document)


def _count(words: str, text: str) -> int:
    if not text.isdecimal():
        raise QuantityError(f"{words.lower()}: found {text[:20]!r}, expected a count such as 4")
    return int(text)


def _date(text: str) -> dt.date:
    try:
        return dt.date.fromisoformat(text)
    except ValueError:
        raise QuantityError(f"found {text[:20]!r}, expected a day such as 2026-12-24, or: unknown") from None
