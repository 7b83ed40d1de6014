"""Small things of their own beside the power path: what feeds relays and small boards, and a remote switch-on.

None is not said. What is not ``fitted`` stands there only to say that there is none.
"""

from typing import Literal

from pydantic import model_validator

from plinth.builds.properties import PartModel
from plinth.builds.quantities import (
    Amperes,
    Celsius,
    Farads,
    IdleAmperes,
    KelvinPerWatt,
    Name,
    Ohms,
    Regulation,
    SmallVolts,
    Volts,
)


class RelaySupply(PartModel):
    """A regulator that feeds the protection's coils and small boards, from the + rail or from a winding of its own.

    A winding: ``v_winding_rms`` at its full load, through a bridge into ``c_f``; ``winding_regulation`` how far it
    rises without load. ``i_boards_a`` what small boards draw besides the coils. ``v_in_max`` the regulator's absolute
    maximum, ``r_junction_air_k_per_w`` with whatever sink it has.
    """

    maker: Name
    fitted: bool = True
    taken_from: Literal["+ rail", "winding of its own"] = "+ rail"
    v_winding_rms: Volts | None = None
    winding_regulation: Regulation | None = None
    c_f: Farads | None = None
    v_out: Volts
    v_dropout_v: SmallVolts
    i_max_a: Amperes | None = None
    i_ground_a: IdleAmperes = 0.005
    i_boards_a: IdleAmperes = 0.0
    v_in_max: Volts | None = None
    r_junction_air_k_per_w: KelvinPerWatt
    t_junction_max_c: Celsius | None = None

    @model_validator(mode="after")
    def _winding_is_whole(self) -> "RelaySupply":
        if self.fitted and self.own_winding and (self.v_winding_rms is None or self.c_f is None):
            raise ValueError(
                "found a relay supply on a winding of its own without its volts or its capacitor, expected both: add "
                "them"
            )
        return self

    @property
    def own_winding(self) -> bool:
        """Whether it has a winding of its own."""
        return self.taken_from == "winding of its own"


class Trigger(PartModel):
    """A relay in the mains inlet that a preamplifier switches: ``v_trigger_v`` at its socket, ``i_max_a`` from it.

    ``contact_peak_a`` what its mains contact bears for the instant in which the reservoirs fill.
    """

    maker: Name
    fitted: bool = True
    v_trigger_v: Volts = 12.0
    i_max_a: Amperes | None = None
    coil_v: Volts | None = None
    coil_ohm: Ohms | None = None
    contact_peak_a: Amperes | None = None


NO_RELAY_SUPPLY = RelaySupply(
    name="No relay supply of its own", maker="–", fitted=False, v_out=12.0, v_dropout_v=2.5, r_junction_air_k_per_w=50.0
)
NO_TRIGGER = Trigger(name="No trigger", maker="–", fitted=False)
