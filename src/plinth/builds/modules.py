"""Amplifier modules, one channel each: class AB and chips, class A, class D."""

import abc
import dataclasses
import itertools
from typing import Literal

from pydantic import Field, model_validator

from plinth.builds.properties import PartModel
from plinth.builds.quantities import (
    Amperes,
    Celsius,
    Decibels,
    Distortion,
    Efficiency,
    Farads,
    Fraction,
    Henries,
    Hertz,
    IdleAmperes,
    KelvinPerWatt,
    LoadOhms,
    Millivolts,
    Model,
    Name,
    Ohms,
    PerKelvin,
    Ratio,
    Seconds,
    Share,
    SignalHertz,
    SmallFarads,
    SmallOhms,
    SmallVolts,
    Volts,
    VoltsPerSecond,
    Watts,
)

# What is taken where nobody states it; whoever uses these says so.
USUAL_DRIVER_A, USUAL_SETTLING_S = 0.015, 2.0


class PowerClaim(Model):
    """A power that a listing states; ``definition`` how clipping is meant, ``v_rail_v`` at which rail, if it says."""

    power_w: Watts
    r_load_ohm: LoadOhms
    definition: Literal["unstated", "onset", "thd_1", "thd_10"] = "unstated"
    v_rail_v: Volts | None = None


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


class DistortionPoint(Model):
    """One point of a listed curve of distortion over frequency, as a share of the output."""

    f_hz: SignalHertz
    share: Distortion


class SafeAreaPoint(Model):
    """One point of a safe-area limit: the current a device's own protection allows at this voltage across it."""

    v_device_v: Volts
    i_a: Amperes


@dataclasses.dataclass(frozen=True)
class OutputFilter:
    """Coil and capacitor between a switching stage and its load, and the clock that they keep away; H, F, Hz."""

    l_h: float
    c_f: float
    f_clock_hz: float


# Why a module cannot stand where it does: it wants two rails (or a bridged pair on one), a single one, or works alone.
Misfit = Literal["wants_two_rails", "wants_two_rails_or_a_pair", "wants_one_rail", "is_a_bridge", "never_bridged"]


class _Module(PartModel):
    """What every module states.

    ``i_driver_a`` input and driver stages per rail at ``v_rail_nominal``; ``settle_s`` how long the output takes to
    come to rest after power, ``starts_on_rail`` whether it sits on a rail until then; ``c_local_f`` on board, per rail.
    Who does not know ``i_driver_a``, ``settle_s``, ``r_junction_sink_k_per_w`` or (class A and AB) ``v_sat_v`` leaves
    them out: the usual value of the kind is then assumed, and marked.
    A module with a trimmer has ``bias``, one without (most chips, class D) states ``i_quiescent_stated_a``.
    ``own_rectifier``: the board has its own bridge, through which a rectified supply loses another diode drop.
    ``idle_follows_rail`` share of what it draws at rest that goes in proportion to the rail (0: held constant, 1: set
    by resistors alone), stated at ``v_rail_nominal``; ``idle_below_min`` whether that ``falls`` with the rail below
    ``v_rail_min`` or ``stops`` there. Left out, they are assumed: constant, and falling.
    ``rejection_db`` of ripple on a rail, at twice the mains; ``noise_v_rms`` at the output, input shorted, 20 kHz wide;
    ``c_load_max_f`` what may hang at the output; ``distortion`` a listed curve over frequency.
    """

    maker: Name
    v_rail_min: Volts
    v_rail_nominal: Volts
    v_rail_max: Volts
    i_limit_a: Amperes
    r_load_min_ohm: LoadOhms
    gain: Ratio
    gain_tol: Fraction = 0.03
    r_input_ohm: Ohms
    f_low_hz: Hertz
    f_high_hz: Hertz
    slew_v_per_s: VoltsPerSecond | None = None
    r_output_ohm: SmallOhms | None = None
    i_driver_a: IdleAmperes | None = None
    bias: BiasPoint | None = None
    i_quiescent_stated_a: IdleAmperes | None = None
    offset_max_v: SmallVolts
    settle_s: Seconds | None = None
    starts_on_rail: bool = False
    own_rectifier: bool = False
    idle_follows_rail: Share | None = None
    idle_below_min: Literal["falls", "stops"] | None = None
    c_local_f: Farads
    r_discharge_ohm: Ohms | None = None
    r_junction_sink_k_per_w: KelvinPerWatt | None = None
    t_junction_max_c: Celsius | None = None
    sensitivity_v_rms: SmallVolts | None = None
    inputs: Literal["single", "differential"] | None = None
    rejection_db: Decibels | None = None
    noise_v_rms: SmallVolts | None = None
    c_load_max_f: SmallFarads | None = None
    reverse_protected: bool | None = None
    distortion: tuple[DistortionPoint, ...] = ()
    claims: tuple[PowerClaim, ...] = ()

    @model_validator(mode="after")
    def _quiescent_current_is_given(self) -> "_Module":
        if self.bias is None and self.i_quiescent_stated_a is None:
            raise ValueError(
                "found neither bias nor i_quiescent_stated_a (the quiescent current), expected one of them: add it"
            )
        if self.v_rail_min >= self.v_rail_max:
            raise ValueError(
                f"found v_rail_min {self.v_rail_min:g} V, expected it below v_rail_max {self.v_rail_max:g} V"
            )
        return self

    @property
    def pairs(self) -> int:
        """Output pairs (1 where a kind has none of its own to set)."""
        return 1

    @property
    def output_filter(self) -> OutputFilter | None:
        """What filters a switching output; None where nothing switches."""
        return None

    @property
    def bridge_by_itself(self) -> bool:
        """Whether its load hangs between two outputs of its own."""
        return False

    @abc.abstractmethod
    def stage(self, *, bridged: bool) -> str:
        """The output stage that it makes, alone or as a bridged pair, by the name physics knows it by."""

    @abc.abstractmethod
    def misfit(self, *, single_rail: bool, bridged: bool) -> Misfit | None:
        """Why it cannot work on such rails, wired so; None where it can."""

    @property
    def driver_a(self) -> float:
        """Input and driver stages, per rail: as stated, else what is usual."""
        return USUAL_DRIVER_A if self.i_driver_a is None else self.i_driver_a

    @property
    def settling_s(self) -> float:
        """Until the output has come to rest: as stated, else what is usual."""
        return USUAL_SETTLING_S if self.settle_s is None else self.settle_s

    @property
    def i_quiescent_a(self) -> float:
        """Quiescent current of all output pairs: as stated, else the listing's mV over the listing's resistor."""
        if self.i_quiescent_stated_a is not None:
            return self.i_quiescent_stated_a
        assert self.bias is not None, "held by validation"
        return self.pairs * self.bias.i_pair_a


class ClassABModule(_Module):
    """Class AB, discrete or a chip. ``safe_area`` a chip's own limit, falling with the voltage across the device."""

    kind: Literal["class_ab"] = "class_ab"
    v_sat_v: SmallVolts | None = None
    v_sat_tol: Fraction = 0.15
    r_out_ohm: SmallOhms | None = None
    output_pairs: int = Field(ge=1, le=20)
    safe_area: tuple[SafeAreaPoint, ...] = ()

    @property
    def pairs(self) -> int:
        """Output pairs."""
        return self.output_pairs

    def stage(self, *, bridged: bool) -> str:
        """Class AB."""
        return "class_ab_bridged" if bridged else "class_ab"

    def misfit(self, *, single_rail: bool, bridged: bool) -> Misfit | None:
        """A bridged pair needs no middle, one alone does."""
        return "wants_two_rails_or_a_pair" if single_rail and not bridged else None

    @model_validator(mode="after")
    def _safe_area_falls(self) -> "ClassABModule":
        points = self.safe_area
        if any(a.v_device_v >= b.v_device_v or a.i_a < b.i_a for a, b in itertools.pairwise(points)):
            raise ValueError("found safe_area out of order, expected rising voltages with falling currents: sort it")
        return self


class ClassAModule(_Module):
    """Class A: ``push_pull`` leaves class A at twice its quiescent current, ``single_ended`` clips there.

    A single-ended stage is a follower on the + rail against a current source on the - rail.
    """

    kind: Literal["class_a"] = "class_a"
    topology: Literal["push_pull", "single_ended"]
    v_sat_v: SmallVolts | None = None
    v_sat_tol: Fraction = 0.15
    r_out_ohm: SmallOhms | None = None
    output_pairs: int = Field(ge=1, le=20)

    @property
    def pairs(self) -> int:
        """Output pairs."""
        return self.output_pairs

    def stage(self, *, bridged: bool) -> str:
        """Class A, which is never bridged."""
        del bridged
        return "single_ended" if self.topology == "single_ended" else "class_a"

    def misfit(self, *, single_rail: bool, bridged: bool) -> Misfit | None:
        """On two rails, and alone."""
        return "wants_two_rails" if single_rail else "never_bridged" if bridged else None


class ClassDModule(_Module):
    """Class D: ``half`` bridge on two rails, or ``full`` bridge (both outputs live) on one supply.

    ``r_on_ohm`` of the current's whole path, switches and coils; ``modulation_max`` largest output as a share of the
    rail; ``efficiency`` of the stage besides ``r_on_ohm`` and its idle current; ``v_ov_lockout_v`` where it shuts down.
    """

    kind: Literal["class_d"] = "class_d"
    bridge: Literal["half", "full"]
    r_on_ohm: SmallOhms
    modulation_max: Efficiency = 0.95
    efficiency: Efficiency
    f_switching_hz: Hertz
    l_filter_h: Henries
    c_filter_f: SmallFarads
    v_ov_lockout_v: Volts | None = None

    @property
    def output_filter(self) -> OutputFilter:
        """Its coil and capacitor."""
        return OutputFilter(self.l_filter_h, self.c_filter_f, self.f_switching_hz)

    @property
    def bridge_by_itself(self) -> bool:
        """A full bridge is one."""
        return self.bridge == "full"

    def stage(self, *, bridged: bool) -> str:
        """Class D: a half bridge, a pair of them, or a full one."""
        return "class_d_bridge" if self.bridge == "full" else "class_d_bridged" if bridged else "class_d"

    def misfit(self, *, single_rail: bool, bridged: bool) -> Misfit | None:
        """A full bridge on one rail and alone, a half one on two."""
        if self.bridge == "half":
            return "wants_two_rails" if single_rail else None
        return "wants_one_rail" if not single_rail else "is_a_bridge" if bridged else None


Module = ClassABModule | ClassAModule | ClassDModule
MODULE_KINDS: tuple[type[Module], ...] = (ClassABModule, ClassAModule, ClassDModule)
