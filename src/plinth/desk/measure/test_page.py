"""What every test at the bench is to the Measure page: the widget that asks for readings, and what is set up for it."""

import dataclasses

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLineEdit, QWidget

from plinth.builds.parts import Load
from plinth.drawing.sketch import Sketch
from plinth.predict.prediction import Prediction
from plinth.session.procedure.taking import Procedure


@dataclasses.dataclass(frozen=True)
class SetUpShown:
    """Three settings with their names, what the dummy load may take, how it is wired, and what the listing says.

    ``listing`` None: the listing says nothing about such a test. ``caution`` of this test, where it has its own.
    ``sketch``
    the wiring, drawn.
    """

    settings: tuple[tuple[str, str], tuple[str, str], tuple[str, str]]
    load: str
    wired: str
    listing: str | None = None
    caution: str = ""
    sketch: Sketch | None = None


class TestPage(QWidget):
    """``changed`` after a reading was kept, or something else became current. ``field`` where a reading is typed."""

    __test__ = False  # it is no test of pytest's

    # Qt's own metaclass leaves no room for an abstract class: what a page must say of itself fails where it does not.

    changed = Signal()
    field: QLineEdit

    def show_channel(self, channel: str) -> None:
        """Go to a channel."""
        raise NotImplementedError

    def block(self, why: str) -> None:
        """Hold readings back and say why; empty lets them through."""
        raise NotImplementedError

    def counts(self) -> tuple[int, int]:
        """(Readings kept, readings asked for)."""
        raise NotImplementedError

    def needed(self, channel: str) -> tuple[str, ...]:
        """The channels that must be up for what is current."""
        return (channel,)

    @property
    def under_way(self) -> Procedure:
        """What is asked here, and what a value means, without the widget."""
        raise NotImplementedError

    @property
    def subject(self) -> str:
        """What a photo of what is current is of, as records have it; empty where there is nothing."""
        return ""

    @property
    def cautioned(self) -> str:
        """The caution that the page shows beside its question; empty where it shows none."""
        return ""

    def explained(self) -> tuple[Prediction | None, str]:
        """The figure that its readings are held against, and its prediction; None for that of the plan."""
        return None, "clip_power_w"

    def current_load(self) -> tuple[Load, float] | None:
        """The dummy load that is driven now, and the most watts that it may get; None where none is driven hard."""
        return None

    def set_up(self, channel: str) -> SetUpShown | None:
        """How to set up what is current; None while that is not known."""
        raise NotImplementedError
