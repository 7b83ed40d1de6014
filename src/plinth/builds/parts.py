"""Parts by station. A field left out (None) is not stated: it is estimated, and says so, or stays unknown.

``*_tol`` are relative tolerances (0.2 for +-20 %) taken as bounds of a rectangular spread.
"""

from typing import Literal

from pydantic import Field, model_validator

from plinth.builds.quantities import (
    Amperes,
    Celsius,
    Farads,
    Fraction,
    Hertz,
    IdleAmperes,
    JoulePerKelvin,
    KelvinPerWatt,
    LoadOhms,
    MainsHertz,
    MainsVolts,
    Millivolts,
    Model,
    Name,
    Ohms,
    PerKelvin,
    Ratio,
    Regulation,
    Seconds,
    SmallOhms,
    SmallVolts,
    VoltAmperes,
    Volts,
    Watts,
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


class Transformer(Model):
    """Two equal halves: a centre tap, or two secondaries. Secondary volts per half at rated load."""

    name: Name
    maker: Name
    core: Literal["toroid", "ei"]
    secondaries: Literal["centre_tap", "two"]
    va: VoltAmperes
    v_primary_rms: Volts
    v_secondary_rms: Volts
    v_secondary_tol: Fraction = 0.02
    regulation: Regulation | None = None
    regulation_tol: Fraction = 0.10


class Rectifier(Model):
    """Bridge or bridges. ``one`` bridge over a centre tap: one drop per rail; ``two`` bridges: two drops."""

    name: Name
    maker: Name
    bridges: Literal["one", "two"]
    diode: Literal["silicon", "schottky"]
    i_rated_a: Amperes
    v_forward_v: SmallVolts | None = None
    r_dynamic_ohm: SmallOhms | None = None


class Reservoir(Model):
    """Per rail: capacitance in all, its ESR, its ratings, the bleeder across it (None: none fitted)."""

    name: Name
    maker: Name
    c_f: Farads
    c_tol: Fraction = 0.20
    v_rated: Volts
    esr_ohm: SmallOhms | None = None
    i_ripple_rated_a: Amperes | None = None
    r_bleeder_ohm: Ohms | None = None


class PowerClaim(Model):
    """A power that a listing states; ``definition`` how clipping is meant, where it says."""

    power_w: Watts
    r_load_ohm: LoadOhms
    definition: Literal["unstated", "onset", "thd_1", "thd_10"] = "unstated"


class BiasPoint(Model):
    """Quiescent setting as listed, and the resistor that is really on the board."""

    listed_mv: Millivolts
    r_listed_ohm: Ohms
    r_fitted_ohm: Ohms
    r_fitted_tol: Fraction = 0.05
    label: Name = "R_E"
    tempco_per_k: PerKelvin | None = None

    @property
    def i_pair_a(self) -> float:
        """Quiescent current of one output pair that the listing means."""
        return self.listed_mv / 1000.0 / self.r_listed_ohm


class ClassABModule(Model):
    """One channel of a class AB or chip amplifier module.

    ``i_driver_a`` input and driver stages per rail at ``v_rail_nominal``; ``settle_s`` how long the output
    takes to come to rest after power; ``c_local_f`` on the board per rail. A module with a trimmer has
    ``bias``, one without (most chips) states ``i_quiescent_stated_a``.
    """

    kind: Literal["class_ab"] = "class_ab"
    name: Name
    maker: Name
    v_rail_min: Volts
    v_rail_nominal: Volts
    v_rail_max: Volts
    v_sat_v: SmallVolts
    v_sat_tol: Fraction = 0.15
    r_out_ohm: SmallOhms | None = None
    i_limit_a: Amperes
    r_load_min_ohm: LoadOhms
    gain: Ratio
    gain_tol: Fraction = 0.03
    r_input_ohm: Ohms
    f_low_hz: Hertz
    f_high_hz: Hertz
    i_driver_a: IdleAmperes
    output_pairs: int = Field(ge=1, le=20)
    bias: BiasPoint | None = None
    i_quiescent_stated_a: IdleAmperes | None = None
    offset_max_v: SmallVolts
    settle_s: Seconds
    c_local_f: Farads
    r_discharge_ohm: Ohms | None = None
    r_junction_sink_k_per_w: KelvinPerWatt
    t_junction_max_c: Celsius | None = None
    claims: tuple[PowerClaim, ...] = ()

    @model_validator(mode="after")
    def _quiescent_current_is_given(self) -> "ClassABModule":
        if self.bias is None and self.i_quiescent_stated_a is None:
            raise ValueError("found neither bias nor i_quiescent_stated_a, expected one of them: add it")
        if self.v_rail_min >= self.v_rail_max:
            raise ValueError(
                f"found v_rail_min {self.v_rail_min:g} V, expected it below v_rail_max {self.v_rail_max:g} V"
            )
        return self

    @property
    def i_quiescent_a(self) -> float:
        """Quiescent current of all output pairs: as stated, else the listing's mV over the listing's resistor."""
        if self.i_quiescent_stated_a is not None:
            return self.i_quiescent_stated_a
        assert self.bias is not None, "held by validation"
        return self.output_pairs * self.bias.i_pair_a


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


class Load(Model):
    """A dummy load (or a loudspeaker taken as its resistance). ``r_ohm`` measured where it could be."""

    name: Name
    r_ohm: LoadOhms
    r_tol: Fraction = 0.01
    p_rated_w: Watts | None = None
    time_constant_s: Seconds | None = None


Part = Mains | Entry | Transformer | Rectifier | Reservoir | ClassABModule | HeatSink | Protection | Load
