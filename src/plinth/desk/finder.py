"""The command finder: one keystroke, a few letters, Enter."""

from collections.abc import Callable, Mapping, Sequence
from types import MappingProxyType

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from plinth.desk.commands import Command
from plinth.desk.dialog import Dialog
from plinth.desk.labels import label
from plinth.desk.look import look

ChangeKeys = Callable[[QWidget, Command], Mapping[str, str]]
NO_KEYS: Mapping[str, str] = MappingProxyType({})


def matches(command: Command, typed: str) -> bool:
    """Whether every typed word begins or is inside a word of the command."""
    text = f"{command.group} {command.title}".lower()
    return all(word in text for word in typed.lower().split())


class Finder(Dialog):
    """Lists the commands that match; ``chosen`` holds the one to run after it closes.

    ``own`` keys by action; ``change_keys`` asks for those of an action, and gives all of them as they are then.
    """

    def __init__(
        self, parent: QWidget, commands: Sequence[Command], own: Mapping[str, str] = NO_KEYS,
        change_keys: ChangeKeys | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._own, self._change_keys = own, change_keys
        self.setWindowTitle("Find")
        look.size(self, 560, 420)
        self._commands = list(commands)
        self.chosen: Command | None = None
        self.field, self.list = QLineEdit(), QListWidget()
        self.field.setPlaceholderText("What do you want to do?")
        self.field.setAccessibleName("Find a command")
        self.field.setFont(look.font(15))
        self.list.setAccessibleName("Commands")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        box = QVBoxLayout(self)
        box.addWidget(self.field)
        box.addWidget(self.list)
        box.addWidget(label("⏎ does it    F2 a key of your own for it    Esc leaves", "small", wrap=True))
        self.field.textChanged.connect(self._fill)
        self.field.returnPressed.connect(self._take)
        self.list.itemClicked.connect(lambda _item: self._take())
        self.field.installEventFilter(self)
        self._fill("")
        self.field.setFocus()

    def _fill(self, typed: str) -> None:
        self.list.clear()
        for command in self._commands:
            if not matches(command, typed):
                continue
            both = [keys for keys in (command.keys, self._own.get(command.key, "")) if keys]
            keys = ", ".join(QKeySequence(each).toString(QKeySequence.SequenceFormat.NativeText) for each in both)
            able = command.enabled()
            item = QListWidgetItem(f"{command.group}: {command.title}" + (f"    {keys}" if keys else ""))
            item.setData(Qt.ItemDataRole.UserRole, command)
            if not able:
                item.setFlags(Qt.ItemFlag.NoItemFlags)
                item.setText(item.text() + "    (nothing to do)")
            self.list.addItem(item)
        self.list.setCurrentRow(next((r for r in range(self.list.count()) if self.list.item(r).flags()), -1))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if event.key() == Qt.Key.Key_F2:
                self.ask_keys()
                return True
            if step is not None:
                self.list.setCurrentRow(min(self.list.count() - 1, max(0, self.list.currentRow() + step)))
                return True
        return super().eventFilter(watched, event)

    def ask_keys(self) -> None:
        """A key of one's own for the action that is current."""
        item, row = self.list.currentItem(), self.list.currentRow()
        if item is not None and self._change_keys is not None:
            self._own = self._change_keys(self, item.data(Qt.ItemDataRole.UserRole))
            self._fill(self.field.text())
            self.list.setCurrentRow(row)

    def _take(self) -> None:
        item = self.list.currentItem()
        if item is not None and item.flags():
            self.chosen = item.data(Qt.ItemDataRole.UserRole)
            self.accept()
