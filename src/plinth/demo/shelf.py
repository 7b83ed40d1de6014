"""The shelf of invented parts that a new workshop starts with, and the instruments of the demo bench."""

from plinth.builds.instruments import BenchKit, Instrument
from plinth.builds.parts import (
    BiasPoint,
    ClassABModule,
    Load,
    PowerClaim,
    Reservoir,
    Transformer,
)

RING_225 = Transformer(
    name="Ring 225", maker="Brindlecoil", core="toroid", secondaries="two", va=225,
    v_primary_rms=230, v_secondary_rms=25,
)  # fmt: skip
RING_330 = Transformer(
    name="Ring 330", maker="Brindlecoil", core="toroid", secondaries="two", va=330,
    v_primary_rms=230, v_secondary_rms=28, regulation=0.06,
)  # fmt: skip
RING_160 = Transformer(
    name="Ring 160", maker="Brindlecoil", core="toroid", secondaries="two", va=160,
    v_primary_rms=230, v_secondary_rms=22, regulation=0.085,
)  # fmt: skip
STACK_120 = Transformer(
    name="Stack 120", maker="Oldmarrow Iron", core="ei", secondaries="centre_tap", va=120,
    v_primary_rms=230, v_secondary_rms=18, regulation=0.12,
)  # fmt: skip

CAN_10M_50 = Reservoir(
    name="Can 10m/50", maker="Fennock", c_f=10e-3, v_rated=50, esr_ohm=0.024, r_bleeder_ohm=2200,
)  # fmt: skip
CAN_10M_63 = Reservoir(
    name="Can 10m/63", maker="Fennock", c_f=10e-3, v_rated=63, esr_ohm=0.022, i_ripple_rated_a=7.4,
    r_bleeder_ohm=2200,
)  # fmt: skip
PAIR_22M_63 = Reservoir(
    name="Pair 22m/63", maker="Fennock", c_f=22e-3, v_rated=63, esr_ohm=0.011, i_ripple_rated_a=11.8,
    r_bleeder_ohm=1500,
)  # fmt: skip
SMALL_4M7_35 = Reservoir(
    name="Small 4m7/35", maker="Wickstead", c_f=4.7e-3, v_rated=35, i_ripple_rated_a=3.1, r_bleeder_ohm=2200,
)  # fmt: skip

STAGEHAND_60 = ClassABModule(
    name="Stagehand 60", maker="Copperfinch", v_rail_min=18, v_rail_nominal=36, v_rail_max=42,
    v_sat_v=2.9, r_out_ohm=0.42, i_limit_a=9.0, r_load_min_ohm=3.5, gain=22.4, r_input_ohm=22e3,
    f_low_hz=3.4, f_high_hz=118e3, i_driver_a=0.014, output_pairs=1,
    bias=BiasPoint(
        label="R17", listed_mv=22, r_listed_ohm=0.22, r_fitted_ohm=0.33, tempco_per_k=0.004
    ),
    offset_max_v=0.040, settle_s=1.1, c_local_f=470e-6, r_discharge_ohm=10_000,
    r_junction_sink_k_per_w=0.9, t_junction_max_c=150,
    claims=(PowerClaim(power_w=45, r_load_ohm=8), PowerClaim(power_w=100, r_load_ohm=4)),
)  # fmt: skip
STAGEHAND_90 = ClassABModule(
    name="Stagehand 90", maker="Copperfinch", v_rail_min=20, v_rail_nominal=42, v_rail_max=50,
    v_sat_v=3.2, r_out_ohm=0.24, i_limit_a=14.0, r_load_min_ohm=3, gain=26.0, r_input_ohm=22e3,
    f_low_hz=2.6, f_high_hz=140e3, i_driver_a=0.018, output_pairs=2,
    bias=BiasPoint(label="R21", listed_mv=15, r_listed_ohm=0.22, r_fitted_ohm=0.22, tempco_per_k=0.003),
    offset_max_v=0.030, settle_s=0.9, c_local_f=470e-6, r_discharge_ohm=10_000,
    r_junction_sink_k_per_w=0.6, t_junction_max_c=150,
    claims=(PowerClaim(power_w=70, r_load_ohm=8), PowerClaim(power_w=120, r_load_ohm=4)),
)  # fmt: skip
GREENROOM_30 = ClassABModule(
    name="Greenroom 30", maker="Tallowick", v_rail_min=12, v_rail_nominal=25, v_rail_max=32,
    v_sat_v=2.4, i_limit_a=5.0, r_load_min_ohm=4, gain=21.0, r_input_ohm=20e3,
    f_low_hz=7.5, f_high_hz=96e3, i_driver_a=0.006, output_pairs=1, i_quiescent_stated_a=0.050,
    offset_max_v=0.025, settle_s=0.4, c_local_f=220e-6, r_junction_sink_k_per_w=1.6,
    claims=(PowerClaim(power_w=30, r_load_ohm=8), PowerClaim(power_w=45, r_load_ohm=4, definition="thd_10")),
)  # fmt: skip

DUMMY_8 = Load(name="Dummy 8", r_ohm=8.11, r_tol=0.008, p_rated_w=100, time_constant_s=95)
DUMMY_4 = Load(name="Dummy 4", r_ohm=4.03, r_tol=0.008, p_rated_w=50, time_constant_s=95)
DUMMY_16 = Load(name="Dummy 16", r_ohm=16.2, r_tol=0.008, p_rated_w=25, time_constant_s=60)

SHELF = (
    RING_225, RING_330, RING_160, STACK_120,
    CAN_10M_50, CAN_10M_63, PAIR_22M_63, SMALL_4M7_35,
    STAGEHAND_60, STAGEHAND_90, GREENROOM_30,
    DUMMY_8, DUMMY_4, DUMMY_16,
)  # fmt: skip

BENCH = BenchKit(
    scope=Instrument(name="Two-trace scope", kind="scope", accuracy=0.03, floor=0.02),
    meter=Instrument(name="Green meter, true rms", kind="meter", accuracy=0.008, floor=0.0002),
    ohmmeter=Instrument(name="Green meter, ohms", kind="ohmmeter", accuracy=0.005, floor=0.01),
    thermometer=Instrument(name="Clip thermometer", kind="thermometer", accuracy=0.0, floor=1.5),
    supply=Instrument(name="Bench supply's own meter", kind="supply", accuracy=0.01, floor=0.002),
)
