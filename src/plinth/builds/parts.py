"""Parts by station. A field left out (None) is not stated: it is estimated, and says so, or stays unknown.

``*_tol`` are relative tolerances (0.2 for +-20 %) taken as bounds of a rectangular spread.
"""

from typing import Literal

from plinth.builds.modules import ClassABModule, ClassAModule, ClassDModule
from plinth.builds.quantities import (
    Amperes,
    Celsius,
    Fraction,
    Hertz,
    JoulePerKelvin,
    KelvinPerWatt,
    LoadOhms,
    MainsHertz,
    MainsVolts,
    Model,
    Name,
    Ratio,
    Seconds,
    SmallHenries,
    SmallVolts,
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


class Mains(Model):
    """The wall: nominal RMS volts, frequency, tolerance (EN 50160: +-10 %)."""

    name: Name
    v_nominal_rms: MainsVolts
    frequency_hz: MainsHertz
    tolerance: Fraction = 0.10


class Entry(Model):
    """Fuse and switch. ``fuse_kind`` T (time-lag) or F (quick), after IEC 60127."""

    name: Name
    fuse_a_rms: Amperes
    fuse_kind: Literal["T", "F"]


class HeatSink(Model):
    """The sink that all channels share; ``t_limit_c`` what its owner allows it to reach."""

    name: Name
    r_k_per_w: KelvinPerWatt
    r_tol: Fraction = 0.15
    t_limit_c: Celsius
    heat_capacity_j_per_k: JoulePerKelvin | None = None


class Protection(Model):
    """Muting relay and DC detector."""

    name: Name
    maker: Name
    mute_s: Seconds
    dc_threshold_v: SmallVolts | None = None


class VoiceCoil(Model):
    """A loudspeaker's impedance: DC resistance, one resonance, and the coil's inductance."""

    r_dc_ohm: LoadOhms
    f_resonance_hz: Hertz
    q_mechanical: Ratio
    q_electrical: Ratio
    l_coil_h: SmallHenries


class Load(Model):
    """A dummy load, ``r_ohm`` measured where it could be; or a loudspeaker: ``r_ohm`` nominal, ``voice_coil`` its Z."""

    name: Name
    r_ohm: LoadOhms
    r_tol: Fraction = 0.01
    p_rated_w: Watts | None = None
    time_constant_s: Seconds | None = None
    voice_coil: VoiceCoil | None = None


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
)
