"""Who gave a reading: a builder who typed it, an instrument, a capture that it was drawn from, or a stand-in."""

import dataclasses
import enum


class Giver(enum.StrEnum):
    """Who gave a value. The values are what files hold."""

    TYPED = "typed"
    INSTRUMENT = "instrument"
    CAPTURE = "capture"
    SIMULATED = "simulated"


@dataclasses.dataclass(frozen=True)
class ReadingOrigin:
    """``giver`` of a value; ``instrument_id`` the very instrument, where it is known; ``capture`` it was drawn from.

    Raises ValueError for a capture that is not named, and for a name of one where the value was not drawn from it.
    """

    giver: Giver = Giver.TYPED
    instrument_id: str = ""
    capture: str = ""

    def __post_init__(self) -> None:
        if bool(self.capture) != (self.giver is Giver.CAPTURE):
            raise ValueError(
                f"found a value {self.giver.value} with the capture {self.capture!r}, expected a capture's name just "
                "where it was drawn from one"
            )


BY_HAND = ReadingOrigin()
