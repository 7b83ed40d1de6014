"""What is typed and not kept belongs to the place it was typed at: it waits there, and turns up nowhere else."""

from collections.abc import Hashable

from PySide6.QtWidgets import QLineEdit


class UnkeptText:
    """The texts of some fields, by the place that was shown when they were typed."""

    def __init__(self, *fields: QLineEdit) -> None:
        self._fields = fields
        self._place: Hashable = None
        self._waiting: dict[Hashable, tuple[str, ...]] = {}

    def at(self, place: Hashable) -> bool:
        """Another place is shown: what waits there stands in the fields again. False where it is the same one."""
        if place == self._place:
            return False
        texts = tuple(field.text() for field in self._fields)
        if self._place is not None and any(text.strip() for text in texts):
            self._waiting[self._place] = texts
        self._place = place
        for field, text in zip(self._fields, self._waiting.pop(place, ("",) * len(self._fields)), strict=True):
            field.setText(text)
        return True
