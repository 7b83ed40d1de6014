"""What every stage's page is."""

from PySide6.QtWidgets import QWidget


class StagePage(QWidget):
    """A page that is made when it is first asked for."""

    def come_up(self) -> None:
        """It is shown from now on: take what is new, and put the focus where one goes on."""

    def pieces(self) -> tuple[QWidget, ...]:
        """What is dressed piece by piece; large pages are of several, so that none of them takes long."""
        return (self,)
