"""What each fault of the catalogue does to a bench that is simulated: to rails, output, draw and sound.

Sizes are orders of magnitude from practice, as in ``guide.given_readings``.
"""

import dataclasses

from plinth.guide.faults import FAULTS


@dataclasses.dataclass(frozen=True)
class Effects:
    """Shares of what is healthy (1: untouched), and what comes on top; ``dc_share`` of the + rail at the output.

    ``upstream``: it sits in the build's own supply, which a bench supply takes the place of.
    """

    plus: float = 1.0
    minus: float = 1.0
    dc_share: float = 0.0
    dc_v: float = 0.0
    idle: float = 1.0
    extra_a: float = 0.0
    ripple: float = 1.0
    wall: float = 1.0
    noise_v: float = 0.0
    gain: float = 1.0
    dead: bool = False
    no_mains: bool = False
    crossover_v: float = 0.0
    turned: bool = False
    upstream: bool = False


HEALTHY = Effects()
_BY_KEY: dict[str, Effects] = {
    "short": Effects(minus=0.03, extra_a=3.0),
    "device shorted": Effects(dc_share=0.96, extra_a=1.5, dead=True),
    "torn pad": Effects(dead=True, dc_share=0.3),
    "bias open": Effects(idle=10.0),
    "over-turned": Effects(idle=6.0),
    "set before": Effects(idle=2.5),
    "bias shorted": Effects(idle=0.2, crossover_v=0.6),
    "sensor off": Effects(idle=1.6),
    "oscillates": Effects(idle=4.0, noise_v=0.4),
    "feedback open": Effects(dc_share=-0.9, gain=20.0),
    "dead input device": Effects(dc_share=-0.95, dead=True),
    "offset": Effects(dc_v=0.25),
    "emitter open": Effects(idle=0.5, crossover_v=0.1),
    "other resistor": Effects(idle=0.7),
    "not connected": Effects(dead=True, idle=0.05),
    "swapped output": Effects(turned=True),
    "rail fuse open": Effects(plus=0.02, dc_share=0.0, dead=True),
    "mains fuse open": Effects(no_mains=True),
    "rail missing": Effects(minus=0.02, dead=True),
    "missing 0 V": Effects(plus=1.35, minus=0.65, dc_share=0.2),
    "half wave": Effects(plus=0.97, ripple=2.1),
    "bridge diode": Effects(extra_a=4.0, plus=0.5, minus=0.5),
    "reversed reservoir": Effects(plus=0.4, extra_a=2.0),
    "shorted turn": Effects(plus=0.93, minus=0.93, wall=2.5),
    "primary doubled": Effects(plus=0.5, minus=0.5),
    "primary halved": Effects(plus=2.0, minus=2.0),
    "leaking": Effects(extra_a=0.1, plus=0.99),
    "dried-out reservoir": Effects(ripple=4.0, plus=0.97),
    "slip": Effects(),
}


def effects_of(key: str | None) -> Effects:
    """The effects of a fault by its key in the catalogue. Raises KeyError for another."""
    if key is None:
        return HEALTHY
    fault = next((each for each in FAULTS if each.key == key), None)
    if fault is None:
        raise KeyError(key)
    return dataclasses.replace(_BY_KEY[key], upstream=fault.where == {"supply"})


def fault_keys() -> tuple[str, ...]:
    """Every fault that can be laid on."""
    return tuple(fault.key for fault in FAULTS)
