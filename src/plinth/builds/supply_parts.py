"""Parts that supplies are made of. A field left out (None) is not stated: estimated, and marked so, or unknown."""

from typing import Literal

from pydantic import Field, model_validator

from plinth.builds.properties import PartModel
from plinth.builds.quantities import (
    AmpereHours,
    Amperes,
    Celsius,
    Efficiency,
    Farads,
    Fraction,
    Henries,
    IdleAmperes,
    KelvinPerWatt,
    MainsVolts,
    Metres,
    Name,
    Ohms,
    PrimaryVolts,
    Regulation,
    Seconds,
    Share,
    SmallFarads,
    SmallHenries,
    SmallOhms,
    SmallVolts,
    SquareMetres,
    Tesla,
    VoltAmperes,
    Volts,
    Watts,
    Year,
)


class Transformer(PartModel):
    """Two equal halves: a centre tap, or two secondaries; or a single winding. Secondary volts per half at rated load.

    ``leakage_h`` of each half, as seen from it; ``primary_share`` of the copper that all halves share (the primary).
    ``p_core_w`` core loss and ``i_magnetising_a`` magnetising current (RMS), both unloaded at the rated primary volts.
    """

    maker: Name
    core: Literal["toroid", "ei"]
    secondaries: Literal["centre_tap", "two", "one"]
    va: VoltAmperes
    v_primary_rms: PrimaryVolts
    v_secondary_rms: Volts
    v_secondary_tol: Fraction = 0.02
    regulation: Regulation | None = None
    regulation_tol: Fraction = 0.10
    leakage_h: SmallHenries | None = None
    primary_share: Share | None = None
    p_core_w: Watts | None = None
    i_magnetising_a: Amperes | None = None

    @property
    def halves(self) -> int:
        """How many secondary halves share the rating."""
        return 1 if self.secondaries == "one" else 2

    @property
    def i_rated_a(self) -> float:
        """Rated RMS amperes of each half."""
        return self.va / (self.halves * self.v_secondary_rms)


class Rectifier(PartModel):
    """Bridge or bridges. ``one`` bridge over a centre tap: one drop per rail; ``two`` bridges: two drops.

    One bridge on a single winding feeds a single rail, with two drops.
    """

    maker: Name
    bridges: Literal["one", "two"]
    diode: Literal["silicon", "schottky"]
    i_rated_a: Amperes
    v_forward_v: SmallVolts | None = None
    r_dynamic_ohm: SmallOhms | None = None


class Reservoir(PartModel):
    """Per rail: capacitance in all, its ESR, its ratings, the bleeder across it (None: none fitted).

    ``year`` in which it was made, where its sleeve tells.
    """

    maker: Name
    c_f: Farads
    c_tol: Fraction = 0.20
    v_rated: Volts
    esr_ohm: SmallOhms | None = None
    i_ripple_rated_a: Amperes | None = None
    r_bleeder_ohm: Ohms | None = None
    year: Year | None = None


class Smoothing(PartModel):
    """A second filter stage after the reservoir: resistor or choke (``r_ohm`` its DCR), then another capacitor."""

    maker: Name
    r_ohm: SmallOhms
    l_h: Henries | None = None
    c_f: Farads
    c_tol: Fraction = 0.20
    v_rated: Volts
    esr_ohm: SmallOhms | None = None
    i_rated_a: Amperes | None = None
    p_rated_w: Watts | None = None


class Regulator(PartModel):
    """A linear regulator per rail: what it needs above its output, and how its heat leaves."""

    maker: Name
    v_out: Volts
    v_dropout_v: SmallVolts
    i_max_a: Amperes
    i_ground_a: IdleAmperes = 0.005
    v_in_max: Volts | None = None
    r_junction_air_k_per_w: KelvinPerWatt
    t_junction_max_c: Celsius | None = None


class BenchPair(PartModel):
    """Two bench supplies in series (or one, for a single rail), or any stiff source: volts behind a resistance."""

    rails: Literal["dual", "single"]
    v_rail: Volts
    r_source_ohm: SmallOhms | None = None
    i_limit_a: Amperes


class MainsSwitcher(PartModel):
    """A switch-mode supply. ``droop`` from no load to ``p_continuous_w`` as a share of ``v_rail``.

    ``proportional`` rails follow the mains, ``regulated`` ones do not. ``i_limit_a`` per rail, ``limit`` what happens
    there; ``c_bulk_f`` behind the mains rectifier, down to ``v_bulk_min_v`` at which the rails drop out; ``pfc`` a
    boost stage before it that holds ``v_pfc_v``; ``v_ov_lockout_v`` per rail; ``v_mains_jumper`` as it is set.
    """

    maker: Name
    rails: Literal["dual", "single"]
    v_rail: Volts
    v_rail_tol: Fraction = 0.02
    control: Literal["regulated", "proportional"]
    droop: Fraction
    p_continuous_w: Watts
    p_short_w: Watts | None = None
    short_s: Seconds | None = None
    i_limit_a: Amperes
    limit: Literal["fold_back", "hiccup"]
    efficiency: Efficiency
    p_idle_w: Watts
    c_bulk_f: Farads | None = None
    v_bulk_min_v: Volts | None = None
    r_inrush_ohm: SmallOhms | None = None
    pfc: bool = False
    v_pfc_v: Volts | None = None
    v_ov_lockout_v: Volts | None = None
    v_aux: Volts | None = None
    i_aux_a: Amperes | None = None
    v_mains_min: MainsVolts
    v_mains_max: MainsVolts
    v_mains_jumper: MainsVolts | None = None


class Battery(PartModel):
    """A battery: ``v_full`` and ``v_empty`` at rest, amperes times hours, resistance inside."""

    maker: Name
    v_nominal: Volts
    v_full: Volts
    v_empty: Volts
    capacity_ah: AmpereHours
    r_internal_ohm: SmallOhms | None = None

    @model_validator(mode="after")
    def _volts_in_order(self) -> "Battery":
        if not self.v_empty < self.v_nominal <= self.v_full:
            raise ValueError(
                f"found empty {self.v_empty:g} V, nominal {self.v_nominal:g} V, full {self.v_full:g} V, "
                "expected them rising: put them in order"
            )
        return self


class BatteryConverter(PartModel):
    """A push-pull converter. Turns of each half; ``r_timing_ohm`` and ``c_timing_f`` set its oscillator.

    ``regulated`` by ``v_reference_v`` and a divider from rail to rail, or ``proportional`` to the battery by its turns.
    ``a_core_m2`` effective core area, ``b_max_t`` the flux its material allows; ``d_wire_m`` of one strand;
    ``cable_m`` there and back, ``a_cable_m2``; ``v_lockout_v`` battery volts at which it stops.
    """

    maker: Name
    v_rail: Volts
    v_rail_tol: Fraction = 0.03
    control: Literal["regulated", "proportional"]
    droop: Fraction
    p_continuous_w: Watts
    i_limit_a: Amperes
    efficiency: Efficiency
    p_idle_w: Watts
    r_timing_ohm: Ohms
    c_timing_f: SmallFarads
    turns_primary: int = Field(ge=1, le=1000)
    turns_secondary: int = Field(ge=1, le=10_000)
    a_core_m2: SquareMetres
    b_max_t: Tesla
    d_wire_m: Metres
    i_in_ripple_rated_a: Amperes | None = None
    i_choke_rated_a: Amperes | None = None
    v_diode_rated_v: Volts
    r_divider_top_ohm: Ohms | None = None
    r_divider_bottom_ohm: Ohms | None = None
    v_reference_v: SmallVolts | None = None
    cable_m: Metres
    a_cable_m2: SquareMetres
    v_lockout_v: Volts
    v_ov_lockout_v: Volts | None = None
