"""Orders to instruments by what they are for, over whatever carries them out."""

import dataclasses
import threading
import time
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.kinds import Action
from plinth.instruments.messages import Holds, MakeSafe, Order, Read, Record, Tell
from plinth.physics.numbers.errors import GivenUpError
from plinth.session.instruments.connected import Connected

Ask = Callable[[Order], object]
Array = NDArray[np.float64]


@dataclasses.dataclass(frozen=True)
class Orders:
    """``ask`` carries out, ``wanted`` says whether somebody still waits; ``wait`` lets seconds pass.

    ``recording`` is held while a record is set up, taken and read: two that read beside each other would mix theirs.
    """

    ask: Ask
    wanted: Callable[[], bool] = lambda: True
    wait: Callable[[float], None] = time.sleep
    recording: threading.Lock = dataclasses.field(default_factory=threading.Lock)

    def tell(
        self, who: Connected, action: Action, value: float | None = None, channel: int | None = None, place: str = ""
    ) -> None:
        """Set one thing. Raises InstrumentError, and GivenUpError where nobody waits any more."""
        if not self.wanted():
            raise GivenUpError("it was called off")
        self.ask(Tell(who.name, action, value, channel, place))

    def read(self, who: Connected, action: Action) -> float:
        """A value. Raises InstrumentError, and GivenUpError."""
        if not self.wanted():
            raise GivenUpError("it was called off")
        value = self.ask(Read(who.name, action))
        assert isinstance(value, float), "that is what was asked for"
        return value

    def samples(self, who: Connected, channel: int) -> Array:
        """A record that was taken, volts. Raises InstrumentError where it holds what is no number."""
        data = self.ask(Record(who.name, channel))
        assert isinstance(data, bytes), "that is what was asked for"
        values = np.frombuffer(data, ">f4").astype(np.float64)
        if not np.all(np.isfinite(values)):
            raise InstrumentError(ErrorKind.NO_NUMBER, who.name, "found a record with what is no number in it")
        return values

    def holds(self) -> None:
        """See that everything set still is. Raises InstrumentError."""
        self.ask(Holds())

    def make_safe(self) -> tuple[str, ...]:
        """Everything off; what may still be on, in sentences."""
        unsafe = self.ask(MakeSafe())
        assert isinstance(unsafe, tuple), "that is what was asked for"
        return unsafe
