"""Parts by station. A field left out (None) is not stated: it is estimated, and says so, or stays unknown.

``*_tol`` are relative tolerances (0.2 for +-20 %) taken as bounds of a rectangular spread.
"""

from typing import Any, Literal

from pydantic import Field, model_validator

from plinth.builds.auxiliaries import RelaySupply, Trigger
from plinth.builds.hookup import Hookup, Insulator, Preamplifier, SpeakerCable, VolumeControl
from plinth.builds.modules import ClassABModule, ClassAModule, ClassDModule
from plinth.builds.properties import PartModel
from plinth.builds.quantities import (
    Amperes,
    AmpereSquareSeconds,
    Celsius,
    Fraction,
    GapMetres,
    Hertz,
    JoulePerKelvin,
    Kelvin,
    KelvinPerWatt,
    LoadOhms,
    MainsHertz,
    MainsVolts,
    Model,
    Name,
    Ohms,
    PlateArea,
    Ratio,
    Seconds,
    Share,
    SmallHenries,
    SmallVolts,
    SquareMetres,
    TimeConstant,
    Volts,
    WattPerKelvin,
    Watts,
)
from plinth.builds.supply_parts import (
    Battery,
    BatteryConverter,
    BenchPair,
    MainsSwitcher,
    Rectifier,
    Regulator,
    Reservoir,
    Smoothing,
    Transformer,
)
from plinth.builds.thermistor import with_thermistor_estimated
from plinth.physics.heat.thermal import gap_k_per_w, plate_k_per_w
from plinth.physics.stages.load_network import read_network


class Mains(PartModel):
    """The wall: nominal RMS volts, frequency, tolerance (EN 50160: +-10 %)."""

    v_nominal_rms: MainsVolts
    frequency_hz: MainsHertz
    tolerance: Fraction = 0.10


class Entry(PartModel):
    """Fuse, switch and soft start. ``fuse_kind`` T (time-lag) or F (quick), after IEC 60127; ``fuse_i2t_a2s`` to melt.

    ``r_soft_ohm`` ahead of the primary, cold; ``soft_bypass_s`` after which a relay bridges it (None: it stays). With
    the three ``ntc_*`` it is a thermistor whose resistance falls as it warms. Of one of which only its cold resistance
    and the steady current that it is rated for (``ntc_i_max_a``) are known, these three are estimated. ``p_soft_w``
    what a plain resistor bears for good, ``soft_contact_peak_a`` what the contact that bridges it bears for an instant.
    """

    fuse_a_rms: Amperes
    fuse_kind: Literal["T", "F"]
    fuse_i2t_a2s: AmpereSquareSeconds | None = None
    r_soft_ohm: Ohms | None = None
    soft_bypass_s: Seconds | None = None
    ntc_beta_k: Kelvin | None = None
    ntc_dissipation_w_per_k: WattPerKelvin | None = None
    ntc_heat_capacity_j_per_k: JoulePerKelvin | None = None
    ntc_i_max_a: Amperes | None = Field(default=None, exclude_if=lambda value: value is None)
    p_soft_w: Watts | None = Field(default=None, exclude_if=lambda value: value is None)
    soft_contact_peak_a: Amperes | None = Field(default=None, exclude_if=lambda value: value is None)

    @model_validator(mode="before")
    @classmethod
    def _thermistor_from_ohms_and_amperes(cls, document: Any) -> Any:
        return with_thermistor_estimated(document) if isinstance(document, dict) else document

    @model_validator(mode="after")
    def _soft_start_is_whole(self) -> "Entry":
        ntc = (self.ntc_beta_k, self.ntc_dissipation_w_per_k, self.ntc_heat_capacity_j_per_k)
        given = [value is not None for value in ntc]
        if any(given) and not all(given):
            raise ValueError(
                "found a part of the thermistor's data, expected B value, W/K and J/K together, or its rated current "
                "alone: add them"
            )
        rest = (self.ntc_i_max_a, self.soft_bypass_s, self.p_soft_w, self.soft_contact_peak_a)
        if self.r_soft_ohm is None and (any(given) or any(value is not None for value in rest)):
            raise ValueError("found soft-start data without r_soft_ohm, expected its cold resistance: add it")
        return self


class HeatSink(PartModel):
    """The sink that all channels share; ``t_limit_c`` what its owner allows it to reach.

    Without ``r_k_per_w`` it is estimated from ``area_m2``, the free outer area of a metal case or plate, by natural
    convection and radiation. ``air_gap_m`` under each device whose spacer is taller than its package.
    """

    r_k_per_w: KelvinPerWatt | None = None
    r_tol: Fraction = 0.15
    area_m2: PlateArea | None = None
    emissivity: Share | None = None
    air_gap_m: GapMetres | None = None
    a_device_m2: SquareMetres | None = None
    t_limit_c: Celsius
    heat_capacity_j_per_k: JoulePerKelvin | None = None

    @model_validator(mode="after")
    def _heat_leaves_somehow(self) -> "HeatSink":
        if self.r_k_per_w is None and self.area_m2 is None:
            raise ValueError(
                "found neither r_k_per_w nor area_m2, expected one of them: add the sink's K/W or its area"
            )
        if self.air_gap_m is not None and self.a_device_m2 is None:
            raise ValueError("found air_gap_m without a_device_m2, expected the area of the device's back: add it")
        return self

    @property
    def to_air_k_per_w(self) -> float:
        """Sink to air: as stated, else estimated from its area at 40 K above air of 25 degrees."""
        if self.r_k_per_w is not None:
            return self.r_k_per_w
        assert self.area_m2 is not None, "held by validation"
        # Painted or anodised metal radiates well, bare metal hardly: half way between where nobody says.
        emissivity = 0.5 if self.emissivity is None else self.emissivity
        return plate_k_per_w(self.area_m2, 40.0, 25.0, emissivity)

    @property
    def gap_k_per_w(self) -> float:
        """What an air gap under a device adds between it and the sink; 0 where it lies flat."""
        if self.air_gap_m is None or self.a_device_m2 is None:
            return 0.0
        return gap_k_per_w(self.air_gap_m, self.a_device_m2)


class Protection(PartModel):
    """Muting relay and DC detector.

    ``dc_time_constant_s`` of the detector's low-pass. ``coils`` relay coils of ``coil_v`` and ``coil_ohm``, in series
    or in parallel, fed from one rail through ``r_dropper_ohm``; ``contact_dc_v`` what one contact may break at
    ``contact_dc_a``.
    """

    maker: Name
    mute_s: Seconds
    dc_threshold_v: SmallVolts | None = None
    dc_time_constant_s: TimeConstant | None = None
    coil_v: Volts | None = None
    coil_ohm: Ohms | None = None
    coils: int = Field(default=1, ge=1, le=8)
    coil_wiring: Literal["series", "parallel"] = "parallel"
    r_dropper_ohm: Ohms | None = None
    p_dropper_rated_w: Watts | None = None
    contact_dc_v: Volts | None = None
    contact_dc_a: Amperes | None = None


class VoiceCoil(Model):
    """A loudspeaker's impedance: DC resistance, one resonance, and the coil's inductance."""

    r_dc_ohm: LoadOhms
    f_resonance_hz: Hertz
    q_mechanical: Ratio
    q_electrical: Ratio
    l_coil_h: SmallHenries


class Load(PartModel):
    """A dummy load, ``r_ohm`` measured where it could be; or a loudspeaker: ``r_ohm`` nominal, ``voice_coil`` its Z.

    ``network`` how it is made of resistors, as it is spoken (``2x(8.2+8.2)`` two strings of two): then ``r_ohm`` must
    agree with it. ``p_each_w`` the rating of one resistor of the network.
    """

    r_ohm: LoadOhms
    network: Name | None = None
    p_each_w: Watts | None = None
    r_tol: Fraction = 0.01
    p_rated_w: Watts | None = None
    time_constant_s: TimeConstant | None = None
    voice_coil: VoiceCoil | None = None

    @model_validator(mode="after")
    def _network_agrees(self) -> "Load":
        if self.network is not None:
            made = read_network(self.network).r_ohm
            if abs(made - self.r_ohm) > 0.1 * made:
                raise ValueError(
                    f"found {self.r_ohm:g} ohm measured and {self.network}, which makes {made:.3g} ohm, expected them "
                    "to agree within 10 %: correct one of them"
                )
        return self

    @property
    def hottest_share(self) -> float:
        """Share of the power that the hottest of its resistors takes."""
        return 1.0 if self.network is None else read_network(self.network).hottest_share

    @property
    def p_carried_w(self) -> float | None:
        """What it may carry for good: as stated, else until the hottest resistor of its network is at its rating."""
        if self.p_rated_w is not None or self.network is None or self.p_each_w is None:
            return self.p_rated_w
        return self.p_each_w / self.hottest_share


Part = (
    Mains
    | Entry
    | Transformer
    | Rectifier
    | Reservoir
    | Smoothing
    | Regulator
    | BenchPair
    | MainsSwitcher
    | Battery
    | BatteryConverter
    | ClassABModule
    | ClassAModule
    | ClassDModule
    | HeatSink
    | Protection
    | Load
    | Hookup
    | Preamplifier
    | VolumeControl
    | SpeakerCable
    | Insulator
    | RelaySupply
    | Trigger
)
# By the name of the class, which files keep.
PART_KINDS: dict[str, type[Part]] = {kind.__name__: kind for kind in Part.__args__}
