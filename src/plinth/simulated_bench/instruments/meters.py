"""What reads: two multimeters and the thermometer."""

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from plinth.simulated_bench.bench import Bench
from plinth.simulated_bench.instruments.on_bench import OnBench, conflict
from plinth.simulated_bench.meter_error import Accuracy, MeterError
from plinth.simulated_bench.scpi.instrument import Handler
from plinth.simulated_bench.scpi.parameters import number, shown

# A prime count of samples over whole cycles meets every phase of a wave once, however high it is.
_SAMPLES, _SECONDS = 8191, 0.1
_AC = Accuracy(share=0.002, of_range=0.0003, digits=200_000)
_DC = Accuracy(share=0.0003, of_range=0.00003, digits=200_000)
_OHMS = Accuracy(share=0.001, of_range=0.0001, digits=200_000)
_RANGES_V = (0.2, 2.0, 20.0, 200.0, 1000.0)
_RANGES_OHM = (200.0, 2e3, 20e3, 200e3, 2e6, 20e6)
_OVERLOAD = 9.9e37


class Multimeter(OnBench):
    """Volts of one place, alternating and direct, and its ohms to 0 V with everything off."""

    def __init__(
        self, bench: Bench, role: str, model: str, wave: Callable[[NDArray[np.float64]], NDArray[np.float64]],
        ohms: Callable[[], float],
    ) -> None:  # fmt: skip
        self._wave, self._ohms = wave, ohms
        self._ac, self._dc, self._r = (MeterError(kind, bench.dice, bench.clock) for kind in (_AC, _DC, _OHMS))
        super().__init__(bench, role, model)

    def handlers(self) -> list[Handler]:
        """Volts and ohms; a range may be named."""
        return [
            Handler("MEASure[:SCALar]:VOLTage:AC", True, self._alternating, 0, 2),
            Handler("MEASure[:SCALar]:VOLTage[:DC]", True, self._direct, 0, 2),
            Handler("MEASure[:SCALar]:RESistance", True, self._resistance, 0, 2),
        ]

    def reset(self) -> None:
        """Nothing of it is set."""

    def _alternating(self, *stated: str) -> str:
        values = self._taken()
        return self._read(self._ac, float(np.std(values)), stated, _RANGES_V, "V")

    def _direct(self, *stated: str) -> str:
        return self._read(self._dc, float(np.mean(self._taken())), stated, _RANGES_V, "V")

    def _resistance(self, *stated: str) -> str:
        if not self.bench.is_dead():
            raise conflict("volts are on it: switch everything off and let the rails empty first")
        return self._read(self._r, self._ohms(), stated, _RANGES_OHM, "OHM")

    def _taken(self) -> NDArray[np.float64]:
        settings = self.bench.settings
        hz = settings.generator_hz if settings.generator_on else 2.0 * settings.mains_hz
        seconds = max(round(_SECONDS * hz), 1) / hz
        return self._wave(np.arange(_SAMPLES) * seconds / _SAMPLES)

    def _read(
        self, error: MeterError, value: float, stated: tuple[str, ...], ranges: tuple[float, ...], unit: str
    ) -> str:
        if stated and stated[0].upper() not in ("DEF", "DEFAULT", "AUTO"):
            wanted = number(stated[0], unit, 0.0, ranges[-1], ranges[0])
            scale = next(each for each in ranges if each >= wanted * (1.0 - 1e-9))
        else:
            scale = next((each for each in ranges if abs(value) <= 1.2 * each), ranges[-1])
        if abs(value) > 1.2 * scale or math.isinf(value):
            return shown(math.copysign(_OVERLOAD, value))
        return shown(error.of(value, scale))


def output_meter(bench: Bench) -> Multimeter:
    """Clipped to the left output."""
    return Multimeter(
        bench, "meter", "multimeter", bench.output_wave, lambda: bench.amplifier.load_seen_ohm(bench.settings)
    )


def rail_meter(bench: Bench) -> Multimeter:
    """Clipped to the + rail."""
    return Multimeter(
        bench, "second meter", "second multimeter", lambda t: bench.rail_wave(t, plus=True),
        lambda: bench.amplifier.bleeder_ohm,
    )  # fmt: skip


class Thermometer(OnBench):
    """On the sink."""

    def __init__(self, bench: Bench) -> None:
        self._error = MeterError(Accuracy(share=0.0, of_range=0.003, digits=2000), bench.dice, bench.clock)
        super().__init__(bench, "thermometer", "thermometer")

    def handlers(self) -> list[Handler]:
        """Degrees Celsius."""
        return [Handler("MEASure[:SCALar]:TEMPerature", True, self._degrees, 0, 2)]

    def reset(self) -> None:
        """Nothing of it is set."""

    def _degrees(self, *_range: str) -> str:
        return shown(self._error.of(self.bench.sink_c(), 200.0))
