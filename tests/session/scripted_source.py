"""A source that reads by itself what a sound bench would show: its answers come from the requests alone."""

import dataclasses

from plinth.builds.instruments import Role
from plinth.physics.mains.lamp import glow
from plinth.record.giving import Giving
from plinth.record.origin import Giver, ReadingOrigin
from plinth.record.request import Request
from plinth.session.given import Given
from plinth.session.procedure.taking import Said

UNITS = {"ohm": "ohm", "°C": "", "": ""}


def expected(request: Request) -> float | None:
    """The middle of what is expected, inside what is usual; None where nothing is."""
    window = request.window
    if window is None:
        return None
    high = window.high if window.usual_high is None else window.usual_high
    low = window.low if window.usual_low is None else window.usual_low
    if high is None:
        return 2.0 * (low or 1.0)
    return 0.5 * high if low is None else 0.5 * (low + high)


@dataclasses.dataclass
class Script:
    """Gives what is expected times ``factor``; nothing for a role in ``lacks``. ``requests`` what it was asked."""

    origin: ReadingOrigin = dataclasses.field(default_factory=lambda: ReadingOrigin(Giver.INSTRUMENT, "bench-7"))
    factor: float = 1.0
    lacks: tuple[Role, ...] = ()
    choice: int | None = None
    requests: list[Request] = dataclasses.field(default_factory=list)

    def give(self, request: Request) -> Given | None:
        self.requests.append(request)
        value = expected(request)
        if value is None or request.role in self.lacks:
            return None
        return Given(spoken(request, value * self.factor), Giving(self.origin))

    def choose(self, _request: Request, _said: Said) -> int | None:
        return self.choice


def spoken(request: Request, value: float) -> str:
    """A value as an instrument of that form says it, with its unit."""
    match request.form:
        case "level":
            return f"{1e3 * value:.6g} mV rms" if request.bare_prefix == "m" else f"{value:.6g} rms"
        case "ripple":
            return f"{1e3 * value:.6g} mVpp" if request.bare_prefix == "m" else f"{value:.6g}pp"
        case "power":
            load = request.setting("load")
            assert load is not None
            return f"{(value * load.value) ** 0.5:.6g} rms"
        case "glow":
            return glow(value)
        case _:
            return f"{value:.6g} {UNITS.get(request.unit, request.unit)}".strip()
