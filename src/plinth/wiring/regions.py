"""Colours of mains conductors by region. A help to memory: what local code says, and a meter, come first."""

import dataclasses


@dataclasses.dataclass(frozen=True)
class Region:
    """Names of the colours of live, neutral and earth; ``volts`` nominal mains that are usual there."""

    name: str
    live: str
    neutral: str
    earth: str
    volts: tuple[float, ...]


# IEC 60445 for the first; NEC for the second; JIS practice for the third.
REGIONS = (
    Region("Europe and most others", "brown", "blue", "green-yellow", (220.0, 230.0, 240.0)),
    Region("North America", "black", "white", "green or bare", (120.0, 127.0, 110.0)),
    Region("Japan", "black", "white", "green", (100.0,)),
)


def region_for(v_nominal: float) -> Region:
    """The region whose mains is nearest to this one."""
    return min(REGIONS, key=lambda region: min(abs(volts - v_nominal) for volts in region.volts))
