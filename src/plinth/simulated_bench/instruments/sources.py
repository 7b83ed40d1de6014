"""What gives: the generator, the dual supply, the mains source with its power meter; and the switched load."""

from plinth.simulated_bench.bench import Bench
from plinth.simulated_bench.instruments.on_bench import OnBench, conflict
from plinth.simulated_bench.meter_error import Accuracy, MeterError
from plinth.simulated_bench.scpi.instrument import Handler
from plinth.simulated_bench.scpi.parameters import choice, number, shown

_VOLT = "SOURce:VOLTage[:LEVel][:IMMediate][:AMPLitude]"
_CURRENT = "SOURce:CURRent[:LEVel][:IMMediate][:AMPLitude]"
MOST_PASS_S = 1e6
_METER = Accuracy(share=0.001, of_range=0.0002, digits=100_000)


class Generator(OnBench):
    """A sine, or a square wave, into the left input."""

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench, "generator", "function generator")

    def handlers(self) -> list[Handler]:
        """Frequency, level (rms), shape, output."""
        return [
            *self.setting("SOURce:FREQuency[:CW]", "generator_hz", "HZ", 5.0, 100_000.0),
            *self.setting("SOURce:FREQuency:FIXed", "generator_hz", "HZ", 5.0, 100_000.0),
            *self.setting(_VOLT, "generator_v", "V", 0.0, 10.0),
            *self.state("OUTPut[:STATe]", "generator_on"),
            Handler("SOURce:FUNCtion[:SHAPe]", False, self._set_shape, 1, 1),
            Handler("SOURce:FUNCtion[:SHAPe]", True, lambda: "SQU" if self.bench.settings.square else "SIN"),
            # At every input, each output with a load like the left one's.
            *self.state("INSTrument:COUPle:ALL", "all_driven"),
        ]

    def _set_shape(self, text: str) -> None:
        self.put("square", choice(text, ("SINusoid", "SQUare")) == "SQUare")

    def reset(self) -> None:
        """A sine of 100 mV rms at 1 kHz into the left input, off."""
        self.put("generator_on", False)
        self.put("square", False)
        self.put("all_driven", False)
        self.put("generator_v", 0.1)
        self.put("generator_hz", 1000.0)


class Supply(OnBench):
    """Two supplies in series on the rails, in place of the build's own."""

    def __init__(self, bench: Bench) -> None:
        self._error = MeterError(_METER, bench.dice, bench.clock)
        super().__init__(bench, "supply", "dual supply")

    def handlers(self) -> list[Handler]:
        """Volts and limit of each, output; what it gives."""
        return [
            *self.setting(_VOLT, "supply_v", "V", 0.0, 80.0),
            *self.setting(_CURRENT, "supply_limit_a", "A", 0.01, 10.0),
            *self.state("OUTPut[:STATe]", "supply_on", self._may),
            Handler("MEASure[:SCALar]:CURRent[:DC]", True, self._amperes, 0, 2),
            Handler("MEASure[:SCALar]:VOLTage[:DC]", True, self._volts, 0, 2),
            # What a hand does at the bench: the left board alone is wired to it; the bias trimmers, as a share.
            *self.state("SIMulation:BOARd:ONE", "one_board"),
            *self.setting("SIMulation:TRIMmer", "trimmer", "", 0.0, 1.0),
            # Its own time: seconds, and so many that are let pass at once.
            Handler("SIMulation:TIME", True, lambda: shown(self.bench.clock.now()), 0, 0),
            Handler("SIMulation:PASS", False, self._let_pass, 1, 1),
        ]

    def reset(self) -> None:
        """0 V, 0.1 A, off."""
        self.put("supply_on", False)
        self.put("supply_v", 0.0)
        self.put("supply_limit_a", 0.1)
        self.put("one_board", False)
        self.put("trimmer", 1.0)

    def _let_pass(self, text: str) -> None:
        seconds = number(text, "S", 0.0, MOST_PASS_S, 0.0)
        # What warms or empties under way is worked out up to here first.
        self.bench.changing()
        self.bench.clock.let_pass(seconds)

    def _may(self) -> None:
        if self.bench.settings.mains_on:
            raise conflict("the mains source feeds the rails: switch it off first")

    def _amperes(self, *_range: str) -> str:
        state = self.bench.steady() if self.bench.settings.supply_on else None
        return shown(self._error.of(0.0 if state is None else state.supply_a, 10.0))

    def _volts(self, *_range: str) -> str:
        return shown(self._error.of(self.bench.rail_means()[0] if self.bench.settings.supply_on else 0.0, 100.0))


class MainsSource(OnBench):
    """An alternating source in place of the wall, with its power meter."""

    def __init__(self, bench: Bench) -> None:
        self._error = MeterError(Accuracy(share=0.002, of_range=0.0003, digits=50_000), bench.dice, bench.clock)
        super().__init__(bench, "mains", "mains source")

    def handlers(self) -> list[Handler]:
        """Volts, hertz, output; volts, amperes, watts, volt-amperes and power factor."""
        measured = {
            "MEASure[:SCALar]:VOLTage[:AC]": self._volts, "MEASure[:SCALar]:CURRent[:AC]": self._amperes,
            "MEASure[:SCALar]:POWer[:AC][:REAL]": self._watts,
            "MEASure[:SCALar]:POWer:AC:APParent": self._volt_amperes, "MEASure[:SCALar]:POWer:AC:PFACtor": self._factor,
        }  # fmt: skip
        return [
            *self.setting(_VOLT, "mains_v", "V", 20.0, 280.0),
            *self.setting("SOURce:FREQuency[:CW]", "mains_hz", "HZ", 45.0, 65.0),
            *self.state("OUTPut[:STATe]", "mains_on", self._may),
            *(Handler(pattern, True, run, 0, 2) for pattern, run in measured.items()),
        ]

    def reset(self) -> None:
        """The build's own mains, off."""
        self.put("mains_on", False)
        mains = self.bench.amplifier.build.mains
        self.put("mains_v", mains.v_nominal_rms if mains is not None else 230.0)
        self.put("mains_hz", mains.frequency_hz if mains is not None else 50.0)

    def _may(self) -> None:
        if not self.bench.amplifier.has_mains:
            raise conflict("this build is not fed from the mains")
        if self.bench.settings.supply_on:
            raise conflict("the bench supply feeds the rails: switch it off first")

    def _volts(self, *_range: str) -> str:
        return shown(self._error.of(self.bench.wall()[0], 300.0))

    def _amperes(self, *_range: str) -> str:
        return shown(self._error.of(self.bench.wall()[1], 10.0))

    def _watts(self, *_range: str) -> str:
        return shown(self._error.of(self.bench.wall()[2], 1000.0))

    def _volt_amperes(self, *_range: str) -> str:
        volts, amperes, _ = self.bench.wall()
        return shown(self._error.of(volts * amperes, 1000.0))

    def _factor(self, *_range: str) -> str:
        volts, amperes, watts = self.bench.wall()
        return shown(watts / (volts * amperes) if volts * amperes > 0.0 else 0.0)


class Load(OnBench):
    """Dummy resistors at the left output, switched."""

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench, "load", "switched load")

    def handlers(self) -> list[Handler]:
        """Ohms and whether they are connected."""
        return [
            *self.setting("SOURce:RESistance[:LEVel][:IMMediate][:AMPLitude]", "load_ohm", "OHM", 1.0, 1000.0),
            *self.state("INPut[:STATe]", "load_on"),
        ]

    def reset(self) -> None:
        """8 ohm, open."""
        self.put("load_on", False)
        self.put("load_ohm", 8.0)
