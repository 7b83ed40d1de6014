"""The circuit of a build as plain numbers: what feeds the rails, the rails, the stages, the load."""

import dataclasses
import functools
import math

from plinth.physics.mains import transformer, wave
from plinth.physics.rails.clip_onset import OutputLimit
from plinth.physics.rails.network_elements import RailElements, RailNetwork
from plinth.physics.rails.rail import RailCircuit
from plinth.physics.stages.kinds import CLASS_AB, StageKind, StageNumbers


@dataclasses.dataclass(frozen=True)
class PowerCircuit:
    """Every number of supply, modules and load; SI. ``i_idle_a`` per channel and rail.

    ``drops`` diodes in series per rail; ``v_primary_rms`` what the primary is wound for; ``halves`` secondary halves
    that share the rating; ``primary_share`` of the copper that they have in common. ``steady_v`` above 0: no mains and
    rectifier but volts behind ``steady_r`` that cannot take current back. ``c_minus_f`` 0: the - rail is like the +.
    ``modulation`` the largest output of a class D stage as a share of its rail; ``r_ahead`` ohm ahead of the primary.
    ``rail_load_a`` or ``rail_load_ohm``: what hangs on each rail in place of the modules. ``v_awake`` the lowest rail
    that the modules work from: below it what they draw at rest falls with the rail, or stops (``idle_stops``). Above it
    the share ``idle_rise`` of ``i_idle_a`` goes with the rail, all of it being drawn at ``v_idle``. ``i_limit_a`` the
    output current at which they limit themselves.
    """

    mains_v_rms: float
    mains_hz: float
    v_primary_rms: float
    va: float
    v_secondary: float
    regulation: float
    drops: int
    v_forward: float
    r_dynamic: float
    c: float
    esr: float
    g_bleed: float
    v_sat: float
    r_out: float
    r_load: float
    i_idle_a: float
    channels: int
    third_harmonic: float = 0.0
    halves: int = 2
    rails: int = 2
    l_leak: float = 0.0
    primary_share: float = 0.0
    c_minus: float = 0.0
    esr_minus: float = 0.0
    g_bleed_minus: float = 0.0
    r_series: float = 0.0
    l_series: float = 0.0
    c2: float = 0.0
    esr2: float = 0.0
    steady_v: float = 0.0
    steady_r: float = 0.0
    steady_shared_r: float = 0.0
    stage: StageKind = CLASS_AB
    i_bias_a: float = 0.0
    modulation: float = 1.0
    loss_share: float = 0.0
    own_drop: float = 0.0
    load_phase_deg: float = 0.0
    antiphase: bool = False
    r_ahead: float = 0.0
    rail_load_a: float | None = None
    rail_load_ohm: float | None = None
    v_awake: float = 0.0
    i_limit_a: float = math.inf
    idle_rise: float = 0.0
    v_idle: float = 1.0
    idle_stops: bool = False

    @property
    def modules_away(self) -> bool:
        """Whether something else hangs on the rails in place of the modules."""
        return self.rail_load_a is not None or self.rail_load_ohm is not None

    def i_idle_at(self, v_rail: float) -> float:
        """What a channel draws at rest from an awake rail of these volts, A."""
        return self.i_idle_a * (1.0 + self.idle_rise * (v_rail / self.v_idle - 1.0))

    @property
    def reservoirs(self) -> tuple[tuple[float, float], ...]:
        """Capacitance (F) and bleeder (S, 0 for none) of each rail, + first."""
        plus = (self.c, self.g_bleed)
        minus = (self.c_minus, self.g_bleed_minus) if self.c_minus else plus
        return (plus, minus)[: self.rails]

    @property
    def plain(self) -> bool:
        """Whether the quick way serves: two like rails from the mains, class AB, nothing that couples them."""
        further = (
            self.leakage_h,
            self.primary_share,
            self.c_minus,
            self.c2,
            self.steady_v,
            self.load_phase_deg,
            self.r_ahead,
            self.idle_rise,
        )
        return self.rails == 2 and self.stage is CLASS_AB and not any(further)

    @functools.cached_property
    def supply_alone(self) -> tuple[object, ...]:
        """What a rail at rest depends on: everything but what the module needs of the rail, and the load."""
        left_out = {
            "v_sat", "r_out", "r_load", "load_phase_deg", "antiphase", "modulation", "loss_share", "own_drop",
            "i_limit_a",
        }  # fmt: skip
        return tuple(getattr(self, f.name) for f in dataclasses.fields(self) if f.name not in left_out)

    @property
    def v_oc_rms(self) -> float:
        """Open-circuit volts of a half winding at the mains in force."""
        rated = transformer.open_circuit_v_rms(self.v_secondary, self.regulation)
        return rated * self.mains_v_rms / self.v_primary_rms

    @property
    def v_amplitude(self) -> float:
        """Amplitude of a pure sine of the open-circuit voltage's RMS; of a steady source its volts."""
        return self.steady_v if self.steady_v else transformer.crest_v(self.v_oc_rms)

    @property
    def v_crest(self) -> float:
        """Crest of the open-circuit voltage, flattened as the mains is."""
        return self.steady_v if self.steady_v else self.v_amplitude * wave.crest(self.third_harmonic)

    @property
    def turns_ratio(self) -> float:
        """Primary volts per secondary volt, open circuit."""
        return self.mains_v_rms / self.v_oc_rms

    @property
    def i_rated(self) -> float:
        """Rated RMS current of a half winding."""
        return self.va / (self.halves * self.v_secondary)

    @property
    def r_winding(self) -> float:
        """Resistance of a half winding with its share of the primary: that of rated load on all halves."""
        return transformer.winding_resistance_ohm(self.v_secondary, self.i_rated, self.regulation)

    @property
    def r_copper_shared(self) -> float:
        """Copper that both halves' currents pass: with both loaded alike it drops that share."""
        return 0.0 if self.halves == 1 else self.primary_share * self.r_winding / 2.0

    @property
    def r_shared(self) -> float:
        """All resistance that both halves' currents pass: copper, and what stands ahead of the primary."""
        return self.r_copper_shared + (self.r_ahead / self.turns_ratio**2 if self.r_ahead else 0.0)

    @property
    def r_own(self) -> float:
        """Winding resistance of a half alone."""
        return self.r_winding - 2.0 * self.r_copper_shared

    @property
    def v_drop(self) -> float:
        """Fixed diode drops per rail."""
        return 0.0 if self.steady_v else self.drops * self.v_forward

    @property
    def rail(self) -> RailCircuit:
        """One plain rail."""
        r_source = self.steady_r if self.steady_v else self.r_winding + self.drops * self.r_dynamic
        return RailCircuit(r_source, self.c, self.esr, self.g_bleed)

    @property
    def fastest_s(self) -> float:
        """The shortest time constant that the grid must follow: charging, build-up through leakage or a choke."""
        times_s = [self.rail.time_constant_on_s()]
        if self.leakage_h:
            times_s.append(self.leakage_h / self.rail.r_source_ohm)
        if self.l_series:
            times_s.append(self.l_series / max(self.r_series + self.esr + self.esr2, 1e-6))
        return min(times_s)

    @property
    def leakage_h(self) -> float:
        """Leakage inductance, 0 where it delays the current by less than 2 microseconds and so changes nothing."""
        r_source = self.r_winding + self.drops * self.r_dynamic
        return self.l_leak if self.l_leak > 2e-6 * r_source else 0.0

    @functools.cached_property
    def network(self) -> RailNetwork:
        """All rails with everything that is on them."""
        r_source = self.steady_r if self.steady_v else self.r_own + self.drops * self.r_dynamic
        plus = RailElements(
            r_source_ohm=r_source, c_f=self.c, esr_ohm=self.esr, g_bleed_s=self.g_bleed, l_source_h=self.leakage_h,
            r_series_ohm=self.r_series, l_series_h=self.l_series, c2_f=self.c2, esr2_ohm=self.esr2,
        )  # fmt: skip
        minus = plus
        if self.c_minus:
            minus = dataclasses.replace(plus, c_f=self.c_minus, esr_ohm=self.esr_minus, g_bleed_s=self.g_bleed_minus)
        return RailNetwork((plus, minus)[: self.rails], self.steady_shared_r if self.steady_v else self.r_shared)

    @property
    def stage_numbers(self) -> StageNumbers:
        """What the stage's laws are made of."""
        return StageNumbers(
            rails=self.rails, channels=self.channels, i_idle_a=self.i_idle_a, i_bias_a=self.i_bias_a, r_out=self.r_out,
            r_load=self.r_load, v_sat=self.v_sat, own_drop=self.own_drop, modulation=self.modulation,
            loss_share=self.loss_share, antiphase=self.antiphase,
        )  # fmt: skip

    @property
    def output_limit(self) -> OutputLimit:
        """What the output of a class AB stage needs of its rail."""
        return OutputLimit(self.v_sat + self.own_drop, 1.0 + self.r_out / self.r_load)

    @property
    def v_at_limit(self) -> float:
        """Output amplitude at which the load takes the modules' own current limit."""
        return self.i_limit_a * self.r_load

    @property
    def load_phase_rad(self) -> float:
        """Phase of the load, above 0 inductive, radians."""
        return math.radians(self.load_phase_deg)
