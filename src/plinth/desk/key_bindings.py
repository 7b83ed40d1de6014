"""The keys of a window's commands: as they ship, and those of one's own beside them."""

from collections.abc import Callable, Mapping, Sequence
from functools import partial

from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QWidget

from plinth.desk import preferences
from plinth.desk.asking import ask
from plinth.desk.commands import Command
from plinth.desk.own_keys import sound_keys, why_not


class KeyBindings:
    """``commands`` of a ``window``, each run by ``run``; ``own`` keys by command, beside those that ship."""

    def __init__(self, window: QWidget, commands: Sequence[Command], run: Callable[[Command], None]) -> None:
        self._window, self._commands, self._run = window, commands, run
        self.own: Mapping[str, str] = sound_keys(preferences.load_checked()[0].get("keys", {}), commands)
        self._own_shortcuts: list[QShortcut] = []
        for command in commands:
            if command.keys:
                self._bind(command.keys, command)
        # On many keyboards "+" is "=" with Shift.
        self._bind("Ctrl+=", next(command for command in commands if command.key == "larger"))
        self._bind_own()

    def _bind(self, keys: str, command: Command) -> QShortcut:
        shortcut = QShortcut(QKeySequence(keys), self._window)
        shortcut.activated.connect(partial(self._run, command))
        return shortcut

    def _bind_own(self) -> None:
        for old in self._own_shortcuts:
            old.setEnabled(False)
            old.deleteLater()
        by_key = {command.key: command for command in self._commands}
        self._own_shortcuts = [self._bind(keys, by_key[key]) for key, keys in self.own.items()]

    def change(self, parent: QWidget, command: Command) -> Mapping[str, str]:
        """Ask for keys of one's own for a command; all of them as they are then."""
        from plinth.desk.key_dialog import KeyDialog

        others = {key: keys for key, keys in self.own.items() if key != command.key}
        own = self.own.get(command.key, "")
        dialog = KeyDialog(parent, command, own, lambda keys: why_not(keys, command, self._commands, others))
        if ask(dialog):
            self.own = {**others, **({command.key: dialog.keys} if dialog.keys else {})}
            preferences.save_keys(self.own)
            self._bind_own()
        return self.own
