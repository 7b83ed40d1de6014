"""Asking in a dialog: it is shown, answered, and gone afterwards."""

from PySide6.QtWidgets import QDialog


def ask(dialog: QDialog) -> bool:
    """Show a dialog until it is answered; whether it was accepted. Its fields can be read until the event loop runs."""
    accepted = bool(dialog.exec())
    # A dialog belongs to its window, so without this every one ever opened would stay in it.
    dialog.deleteLater()
    return accepted
