"""What every instrument of the bench shares: the bench behind it, and settings that tell it before they change."""

import abc
from collections.abc import Callable

from plinth.simulated_bench.bench import Bench
from plinth.simulated_bench.scpi.errors import ScpiError
from plinth.simulated_bench.scpi.instrument import Handler, Instrument
from plinth.simulated_bench.scpi.parameters import number, shown, switch


class OnBench(Instrument, abc.ABC):
    """An instrument of a bench."""

    def __init__(self, bench: Bench, role: str, model: str) -> None:
        self.bench = bench
        super().__init__(role, model)

    def setting(
        self, pattern: str, name: str, unit: str, low: float, high: float, check: Callable[[float], None] | None = None
    ) -> list[Handler]:
        """A number of ``bench.settings``: set within bounds, and asked for (also its bounds)."""
        default = float(getattr(self.bench.settings, name))

        def put(text: str) -> None:
            value = number(text, unit, low, high, default)
            if check is not None:
                check(value)
            self.put(name, value)

        def ask(which: str | None = None) -> str:
            value = getattr(self.bench.settings, name) if which is None else number(which, unit, low, high, default)
            return shown(float(value))

        return [Handler(pattern, False, put, 1, 1), Handler(pattern, True, ask, 0, 1)]

    def state(self, pattern: str, name: str, may: Callable[[], None] | None = None) -> list[Handler]:
        """An output or input that is on or off; ``may`` raises ScpiError where it must not come on."""

        def put(text: str) -> None:
            on = switch(text)
            if on and may is not None:
                may()
            self.put(name, on)

        def ask() -> str:
            return str(int(bool(getattr(self.bench.settings, name))))

        return [Handler(pattern, False, put, 1, 1), Handler(pattern, True, ask)]

    def put(self, name: str, value: float | bool) -> None:
        """Set a value, once rails and sink have come as far as they have."""
        if getattr(self.bench.settings, name) != value:
            self.bench.changing()
            setattr(self.bench.settings, name, value)


def conflict(words: str) -> ScpiError:
    """Settings that do not go together."""
    return ScpiError(-221, words)
