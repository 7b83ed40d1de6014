"""The shelf of invented parts that a new workshop starts with, and the instruments of the demo bench."""

from plinth.builds.instruments import BenchKit, Instrument, Role
from plinth.builds.modules import (
    BiasPoint,
    ClassABModule,
    ClassAModule,
    ClassDModule,
    PowerClaim,
    SafeAreaPoint,
)
from plinth.builds.parts import Load, VoiceCoil
from plinth.builds.supply_parts import (
    Battery,
    BatteryConverter,
    BenchPair,
    MainsSwitcher,
    Regulator,
    Reservoir,
    Smoothing,
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
RING_250 = Transformer(
    name="Ring 250", maker="Brindlecoil", core="toroid", secondaries="two", va=250,
    v_primary_rms=230, v_secondary_rms=17, regulation=0.065, leakage_h=18e-6, primary_share=0.5,
)  # fmt: skip
PRINTED_15 = Transformer(
    name="Printed 15", maker="Oldmarrow Iron", core="ei", secondaries="two", va=15,
    v_primary_rms=230, v_secondary_rms=18,
)  # fmt: skip
TRIAL_10 = Transformer(
    name="Trial 10", maker="Oldmarrow Iron", core="ei", secondaries="two", va=10,
    v_primary_rms=230, v_secondary_rms=12,
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

SMALL_1M_50 = Reservoir(
    name="Small 1m/50", maker="Wickstead", c_f=1e-3, v_rated=50, r_bleeder_ohm=4700,
)  # fmt: skip
CAN_15M_35 = Reservoir(
    name="Can 15m/35", maker="Fennock", c_f=15e-3, v_rated=35, esr_ohm=0.018, i_ripple_rated_a=8.2, r_bleeder_ohm=1000,
)  # fmt: skip
LOW_4M7_50 = Reservoir(
    name="Low 4m7/50", maker="Fennock", c_f=4.7e-3, v_rated=50, esr_ohm=0.021, i_ripple_rated_a=5.6, r_bleeder_ohm=2200,
)  # fmt: skip
LOW_2M2_63 = Reservoir(
    name="Low 2m2/63", maker="Fennock", c_f=2.2e-3, v_rated=63, esr_ohm=0.028, i_ripple_rated_a=4.1, r_bleeder_ohm=3300,
)  # fmt: skip
CHOKE_2M2 = Smoothing(
    name="Choke 2m2 and can 15m", maker="Brindlecoil", r_ohm=0.13, l_h=2.2e-3, c_f=15e-3, v_rated=35, esr_ohm=0.018,
    i_rated_a=4.0,
)  # fmt: skip
HUSHED_15 = Regulator(
    name="Hushed 15", maker="Tallowick", v_out=15, v_dropout_v=2.0, i_max_a=0.5, v_in_max=35,
    r_junction_air_k_per_w=32, t_junction_max_c=125,
)  # fmt: skip
BENCH_PAIR = BenchPair(name="Two bench supplies in series", rails="dual", v_rail=30, i_limit_a=3)

CARTHORSE_300 = BatteryConverter(
    name="Carthorse 300", maker="Copperfinch", v_rail=32, control="regulated", droop=0.03, p_continuous_w=300,
    i_limit_a=14, efficiency=0.87, p_idle_w=7, r_timing_ohm=10_000, c_timing_f=1e-9, turns_primary=4,
    turns_secondary=8, a_core_m2=1.25e-4, b_max_t=0.20, d_wire_m=0.4e-3, i_in_ripple_rated_a=12, i_choke_rated_a=20,
    v_diode_rated_v=150, r_divider_top_ohm=11_800, r_divider_bottom_ohm=1000, v_reference_v=2.5, cable_m=3.0,
    a_cable_m2=6e-6, v_lockout_v=22.5, v_ov_lockout_v=45,
)  # fmt: skip
EIGHT_CELLS_20 = Battery(
    name="Eight cells, 20 Ah", maker="Fennock", v_nominal=25.6, v_full=29.2, v_empty=22.0, capacity_ah=20,
    r_internal_ohm=0.012,
)  # fmt: skip
SHUNTER_36 = MainsSwitcher(
    name="Shunter 36", maker="Wickstead", rails="single", v_rail=36, control="regulated", droop=0.012,
    p_continuous_w=300, p_short_w=420, short_s=2.0, i_limit_a=16, limit="hiccup", efficiency=0.90, p_idle_w=4.5,
    c_bulk_f=270e-6, v_bulk_min_v=215, r_inrush_ohm=5.0, v_ov_lockout_v=43, v_mains_min=190, v_mains_max=265,
)  # fmt: skip
SHUNTER_45 = MainsSwitcher(
    name="Shunter 2×45", maker="Wickstead", rails="dual", v_rail=45, control="proportional", droop=0.05,
    p_continuous_w=350, p_short_w=600, short_s=1.0, i_limit_a=12, limit="fold_back", efficiency=0.88, p_idle_w=9,
    c_bulk_f=330e-6, v_bulk_min_v=230, r_inrush_ohm=5.0, v_ov_lockout_v=60, v_mains_min=200, v_mains_max=253,
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
    safe_area=(
        SafeAreaPoint(v_device_v=20, i_a=5.0), SafeAreaPoint(v_device_v=35, i_a=3.0),
        SafeAreaPoint(v_device_v=60, i_a=1.1),
    ),
    claims=(PowerClaim(power_w=30, r_load_ohm=8), PowerClaim(power_w=45, r_load_ohm=4, definition="thd_10")),
)  # fmt: skip

CANDLE_12 = ClassAModule(
    name="Candle 12", maker="Tallowick", topology="push_pull", v_rail_min=14, v_rail_nominal=20, v_rail_max=26,
    v_sat_v=2.2, i_limit_a=6.0, r_load_min_ohm=4, gain=12.6, r_input_ohm=47e3, f_low_hz=2.1, f_high_hz=210e3,
    slew_v_per_s=18e6, r_output_ohm=0.06, i_driver_a=0.020, output_pairs=2,
    bias=BiasPoint(label="R9", listed_mv=120, r_listed_ohm=0.22, r_fitted_ohm=0.22, tempco_per_k=0.003),
    offset_max_v=0.035, settle_s=2.0, starts_on_rail=True, c_local_f=1e-3, r_discharge_ohm=4700,
    r_junction_sink_k_per_w=0.55, t_junction_max_c=150,
    claims=(PowerClaim(power_w=20, r_load_ohm=8),),
)  # fmt: skip
LANTERN_100 = ClassDModule(
    name="Lantern 100", maker="Copperfinch", bridge="half", v_rail_min=20, v_rail_nominal=32, v_rail_max=40,
    i_limit_a=12, r_load_min_ohm=3.5, gain=20.0, r_input_ohm=10e3, f_low_hz=4.0, f_high_hz=42e3,
    i_driver_a=0.018, i_quiescent_stated_a=0.030, r_on_ohm=0.11, efficiency=0.95, modulation_max=0.96,
    f_switching_hz=400e3, l_filter_h=22e-6, c_filter_f=680e-9, v_ov_lockout_v=38,
    offset_max_v=0.030, settle_s=0.6, c_local_f=470e-6, r_junction_sink_k_per_w=1.5, t_junction_max_c=125,
    claims=(PowerClaim(power_w=100, r_load_ohm=4, definition="thd_10"),),
)  # fmt: skip
PARADE_150 = ClassDModule(
    name="Parade 150", maker="Copperfinch", bridge="full", v_rail_min=12, v_rail_nominal=36, v_rail_max=39,
    i_limit_a=11, r_load_min_ohm=3.5, gain=20.0, r_input_ohm=20e3, f_low_hz=3.0, f_high_hz=38e3,
    i_driver_a=0.012, i_quiescent_stated_a=0.035, r_on_ohm=0.19, efficiency=0.96, modulation_max=0.95,
    f_switching_hz=480e3, l_filter_h=10e-6, c_filter_f=1e-6,
    offset_max_v=0.050, settle_s=0.3, c_local_f=1e-3, r_junction_sink_k_per_w=2.2, t_junction_max_c=125,
    claims=(PowerClaim(power_w=150, r_load_ohm=4, definition="thd_10"), PowerClaim(power_w=80, r_load_ohm=8)),
)  # fmt: skip

DUMMY_8 = Load(name="Dummy 8", r_ohm=8.11, r_tol=0.008, p_rated_w=100, time_constant_s=95)
DUMMY_4 = Load(name="Dummy 4", r_ohm=4.03, r_tol=0.008, p_rated_w=50, time_constant_s=95)
FOUR_IN_ALL = Load(
    name="Four of 8R2", r_ohm=8.16, r_tol=0.008, network="(8.2+8.2)||(8.2+8.2)", p_each_w=50, time_constant_s=95,
)  # fmt: skip
DUMMY_16 = Load(name="Dummy 16", r_ohm=16.2, r_tol=0.008, p_rated_w=25, time_constant_s=60)

DUMMY_4_BIG = Load(name="Dummy 4, big", r_ohm=4.05, r_tol=0.008, p_rated_w=200, time_constant_s=140)
PAPER_CONE = Load(
    name="Paper cone 8", r_ohm=8, r_tol=0.15, p_rated_w=60,
    voice_coil=VoiceCoil(r_dc_ohm=6.1, f_resonance_hz=58, q_mechanical=3.8, q_electrical=0.62, l_coil_h=0.55e-3),
)  # fmt: skip

SHELF = (
    RING_225, RING_330, RING_160, RING_250, STACK_120, PRINTED_15, TRIAL_10,
    CAN_10M_50, CAN_10M_63, PAIR_22M_63, SMALL_4M7_35, SMALL_1M_50, CAN_15M_35, LOW_4M7_50, LOW_2M2_63,
    CHOKE_2M2, HUSHED_15, BENCH_PAIR, CARTHORSE_300, EIGHT_CELLS_20, SHUNTER_36, SHUNTER_45,
    STAGEHAND_60, STAGEHAND_90, GREENROOM_30, CANDLE_12, LANTERN_100, PARADE_150,
    DUMMY_8, DUMMY_4, DUMMY_16, DUMMY_4_BIG, FOUR_IN_ALL, PAPER_CONE,
)  # fmt: skip

BENCH = BenchKit(
    instruments=(
        Instrument(name="Two-trace scope", role=Role.SCOPE, identity="scope-1", accuracy=0.03, floor=0.02),
        Instrument(name="Green meter, true rms", role=Role.METER, identity="green-volts", accuracy=0.008, floor=0.0002),
        Instrument(name="Green meter, ohms", role=Role.OHMMETER, identity="green-ohms", accuracy=0.005, floor=0.01),
        Instrument(name="Clip thermometer", role=Role.THERMOMETER, identity="clip-1", accuracy=0.0, floor=1.5),
        Instrument(name="Bench supply's own meter", role=Role.SUPPLY, identity="bench-1", accuracy=0.01, floor=0.002),
    )
)
