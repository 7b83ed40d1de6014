"""How everything on the bench is set, whoever sets it."""

from dataclasses import dataclass


@dataclass
class Settings:
    """Volts rms, hertz, ohms, amperes; what is on. All outputs are off to begin with.

    What a hand has done at it: ``one_board`` alone is wired to the supply; trimmers stand at ``trimmer``, as a share
    of the quiescent current.
    """

    mains_v: float = 230.0
    mains_hz: float = 50.0
    mains_on: bool = False
    generator_v: float = 0.1
    generator_hz: float = 1000.0
    generator_on: bool = False
    square: bool = False
    all_driven: bool = False
    supply_v: float = 0.0
    supply_limit_a: float = 0.1
    supply_on: bool = False
    load_ohm: float = 8.0
    load_on: bool = False
    one_board: bool = False
    trimmer: float = 1.0

    def circuit_key(self) -> tuple[float | bool, ...]:
        """What decides the steady state of the circuit."""
        source = (self.mains_v, self.mains_hz) if self.mains_on else (self.supply_v, self.supply_limit_a)
        signal = (self.generator_v, self.generator_hz) if self.generator_on else (0.0, 1000.0)
        load = self.load_ohm if self.load_on else 0.0
        return (self.mains_on, self.supply_on, *source, *signal, load, self.all_driven, self.one_board, self.trimmer)
