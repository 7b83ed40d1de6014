"""What joins the stations: how a build is wired and earthed, and what may stand before, behind and under its modules.

None is not said. What is not ``fitted`` stands there only to say that there is none.
"""

from typing import Literal

from plinth.builds.properties import PartModel
from plinth.builds.quantities import (
    Amperes,
    Decibels,
    Metres,
    Name,
    Ohms,
    Ratio,
    SmallFarads,
    SmallVolts,
    SquareMetres,
    TestVolts,
    ThermalStep,
    Watts,
)

Conductor = Literal["live", "neutral", "both"]


class Hookup(PartModel):
    """How it is put together. ``fuse_in``, ``switch_in``: the mains conductor that each stands in.

    ``switch_way`` of a two-way switch where live is wired: on a throw off leaves nothing live, on the common a bare
    terminal.
    ``earth`` of a metal case: ``bonded``, with the circuit's ground behind a ``lifter``, ``none``, or ``insulated``
    twice throughout. ``ground`` the school of the audio ground. ``unused_leg`` of a differential input that is driven
    from one side. ``coupling`` at the input, by ``c_input_f``; ``c_output_f`` what hangs at the output besides the
    load. ``reverse`` what keeps swapped rails from the boards. ``own_bridge`` of a board that has one, fed with DC.
    ``r_led_ohm`` the resistor that drops a rail to an indicator lamp, ``p_led_w`` its rating.
    """

    fuse_in: Conductor | None = None
    switch_in: Conductor | None = None
    switch_way: Literal["one-way", "two-way, live on throw", "two-way, live on common"] | None = None
    earth: Literal["bonded", "lifter", "none", "insulated"] | None = None
    ground: Literal["star", "plane"] | None = None
    unused_leg: Literal["tied", "open"] | None = None
    coupling: Literal["film", "electrolytic", "direct"] | None = None
    c_input_f: SmallFarads | None = None
    c_output_f: SmallFarads | None = None
    reverse: Literal["keyed", "diodes", "none"] | None = None
    own_bridge: Literal["kept", "bypassed"] | None = None
    mounting: Literal["vertical", "flat", "inside"] | None = None
    use: Literal["music", "speech"] | None = None
    r_led_ohm: Ohms | None = None
    p_led_w: Watts | None = None


class Preamplifier(PartModel):
    """An input stage or preamplifier ahead of each channel; ``noise_v_rms`` at its output, 20 kHz wide."""

    maker: Name
    fitted: bool = True
    gain: Ratio = 1.0
    r_output_ohm: Ohms | None = None
    v_out_max_rms: SmallVolts | None = None
    noise_v_rms: SmallVolts | None = None


class VolumeControl(PartModel):
    """A volume control ahead of each channel: its whole resistance, its law, how far its gangs differ."""

    maker: Name
    fitted: bool = True
    r_ohm: Ohms | None = None
    law: Literal["log", "linear"] = "log"
    tracking_db: Decibels | None = None


class SpeakerCable(PartModel):
    """The cable of each loudspeaker: ``length_m`` one way, copper of ``a_m2``, the current its connectors carry."""

    maker: Name
    fitted: bool = True
    length_m: Metres | None = None
    a_m2: SquareMetres | None = None
    i_connector_a: Amperes | None = None
    c_per_m_f: SmallFarads | None = None


class Insulator(PartModel):
    """A pad under each output device, where the module's own junction to sink counts none: its K/W, its volts."""

    maker: Name
    fitted: bool = True
    r_k_per_w: ThermalStep = 0.0
    v_rated: TestVolts | None = None


PLAIN_HOOKUP = Hookup(name="Wiring, not said")
NO_PREAMPLIFIER = Preamplifier(name="No preamplifier", maker="–", fitted=False)
NO_VOLUME = VolumeControl(name="No volume control", maker="–", fitted=False)
NO_CABLE = SpeakerCable(name="No cable said", maker="–", fitted=False)
NO_INSULATOR = Insulator(name="No pad of its own", maker="–", fitted=False)
