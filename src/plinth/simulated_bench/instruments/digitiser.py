"""A two-channel digitiser: channel 1 at the left input, channel 2 at the left output or at a rail."""

import numpy as np
from numpy.typing import NDArray

from plinth.simulated_bench.bench import Bench
from plinth.simulated_bench.instruments.on_bench import OnBench
from plinth.simulated_bench.scpi.errors import ScpiError
from plinth.simulated_bench.scpi.instrument import Handler, block
from plinth.simulated_bench.scpi.parameters import choice, number, shown

_PLACES = ("INPut", "OUTPut", "PRAil", "NRAil")
_BITS = 16
_MOST_POINTS = 4_000_000


class Digitiser(OnBench):
    """Points, rate and ranges are set, INITiate takes both channels at once, FETCh hands one over as a block."""

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench, "digitiser", "digitiser")

    def handlers(self) -> list[Handler]:
        """Settings, a record, its blocks."""
        self._defaults()
        return [
            Handler("SENSe:SWEep:POINts", False, self._set_points, 1, 1),
            Handler("SENSe:SWEep:POINts", True, lambda: str(self._points)),
            Handler("SENSe:SWEep:TINTerval", False, self._set_interval, 1, 1),
            Handler("SENSe:SWEep:TINTerval", True, lambda: shown(1.0 / self._rate_hz)),
            Handler("SENSe:SWEep:SRATe", False, self._set_rate, 1, 1),
            Handler("SENSe:SWEep:SRATe", True, lambda: shown(self._rate_hz)),
            Handler("SENSe:VOLTage#:RANGe[:UPPer]", False, self._set_range, 1, 1),
            Handler("SENSe:VOLTage#:RANGe[:UPPer]", True, lambda n: shown(self._ranges[self._channel(n)])),
            Handler("SENSe:FUNCtion#", False, self._set_place, 1, 1),
            Handler("SENSe:FUNCtion#", True, lambda n: self._short(n)),
            Handler("FORMat:BORDer", False, self._set_order, 1, 1),
            Handler("FORMat:BORDer", True, lambda: "NORM" if self._big_endian else "SWAP"),
            Handler("FORMat[:DATA]", True, lambda: "REAL,32"),
            Handler("INITiate[:IMMediate]", False, self._take),
            Handler("FETCh#[:VOLTage]", True, self._fetch),
            Handler("READ#[:VOLTage]", True, self._read),
        ]

    def reset(self) -> None:
        """10 000 points at 100 kHz, 20 V, channel 2 at the output; no record."""
        self._defaults()

    def _defaults(self) -> None:
        self._points, self._rate_hz = 10_000, 100_000.0
        self._ranges = [2.0, 100.0]
        self._places = ["INPut", "OUTPut"]
        self._big_endian = True
        self._record: list[NDArray[np.float64]] = []

    def _channel(self, number_said: int) -> int:
        if number_said not in (1, 2):
            raise ScpiError(-114, f"found {number_said}, expected 1 or 2")
        return number_said - 1

    def _short(self, channel: int) -> str:
        return "".join(letter for letter in self._places[self._channel(channel)] if letter.isupper())

    def _set_points(self, text: str) -> None:
        self._points = round(number(text, "", 16, _MOST_POINTS, 10_000))

    def _set_interval(self, text: str) -> None:
        self._rate_hz = 1.0 / number(text, "S", 2e-7, 1.0, 1e-5)

    def _set_rate(self, text: str) -> None:
        self._rate_hz = number(text, "HZ", 1.0, 5e6, 1e5)

    def _set_range(self, channel: int, text: str) -> None:
        self._ranges[self._channel(channel)] = number(text, "V", 0.01, 400.0, 20.0)

    def _set_place(self, channel: int, text: str) -> None:
        self._places[self._channel(channel)] = choice(text.strip("\"'"), _PLACES)

    def _set_order(self, text: str) -> None:
        self._big_endian = choice(text, ("NORMal", "SWAPped")) == "NORMal"

    def _take(self) -> None:
        t = np.arange(self._points) / self._rate_hz
        self._record = []
        for place, scale in zip(self._places, self._ranges, strict=True):
            step = 2.0 * scale / 2**_BITS
            noisy = self._wave(place, t) + 0.4 * step * self.bench.dice.standard_normal(len(t))
            self._record.append(np.clip(np.round(noisy / step) * step, -scale, scale - step))

    def _wave(self, place: str, t: NDArray[np.float64]) -> NDArray[np.float64]:
        if place == "INPut":
            return self.bench.input_wave(t)
        return self.bench.output_wave(t) if place == "OUTPut" else self.bench.rail_wave(t, plus=place == "PRAil")

    def _fetch(self, channel: int) -> bytes:
        index = self._channel(channel)
        if not self._record:
            raise ScpiError(-230, "no record is there: INITiate first")
        return block(self._record[index].astype(">f4" if self._big_endian else "<f4").tobytes())

    def _read(self, channel: int) -> bytes:
        self._channel(channel)
        self._take()
        return self._fetch(channel)
