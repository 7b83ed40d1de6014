"""Sinks and cases, protection boards, inlets with fuse and soft start, walls."""

from plinth.builds.parts import Entry as Inlet
from plinth.builds.parts import HeatSink, Mains, Protection
from plinth.demo.shelves.entries import Entry, priced, usual

# Name, K/W (None: from its area), area m2, emissivity, limit, J/K, price, drawer.
_SINKS: tuple[tuple[str, float | None, float | None, float | None, float, float | None, float, int], ...] = (
    ("Comb 100", 1.2, None, None, 75, 280, 9.0, 1),
    ("Comb 150", 0.85, None, None, 75, 420, 12.5, 0),
    ("Comb 200", 0.65, None, None, 75, 560, 16.0, 2),
    ("Comb 300", 0.45, None, None, 75, 840, 23.0, 0),
    ("Ribbed cheeks, both sides", 0.42, None, None, 65, 2600, 64.0, 0),
    ("Ribbed cheeks, tall", 0.28, None, None, 65, 3800, 92.0, 0),
    ("Side cheeks of the case", 0.48, None, None, 75, 900, 0.0, 1),
    ("Steel back plate", 1.3, None, None, 75, 480, 0.0, 1),
    ("Shallow case, aluminium 2 mm", None, 0.16, 0.8, 60, 900, 48.0, 0),
    ("Old record player case", None, 0.22, 0.9, 55, 1600, 0.0, 1),
    ("Rack case, one unit", None, 0.28, 0.85, 55, 1900, 71.0, 0),
    ("Bare plate 300 × 200", None, 0.12, 0.1, 70, 320, 7.5, 3),
    ("Lid of the box", 1.9, None, None, 70, 700, 0.0, 1),
)
SINKS: tuple[Entry, ...] = (
    *(
        (
            HeatSink(name=name, r_k_per_w=rth, area_m2=area, emissivity=emissivity, t_limit_c=limit,
                     heat_capacity_j_per_k=heat),
            priced(price, drawer=drawer),
        )
        for name, rth, area, emissivity, limit, heat, price, drawer in _SINKS
    ),
    usual(HeatSink(name="Any sink, 0.6 K/W", r_k_per_w=0.6, t_limit_c=75, heat_capacity_j_per_k=600)),
)  # fmt: skip
_COILS = {"coil_v": 12, "coil_ohm": 270, "coils": 2, "coil_wiring": "series"}
GUARDS: tuple[Entry, ...] = tuple(
    (Protection.model_validate({"name": name, "maker": maker, "mute_s": mute} | more), priced(price, drawer=drawer))
    for name, maker, mute, more, price, drawer in (
        ("Hush relay", "Copperfinch", 2.4, {"dc_threshold_v": 1.6, "dc_time_constant_s": 0.33}, 14.0, 1),
        ("Hush relay, no sheet", "Copperfinch", 2.4, {}, 11.0, 0),
        ("Hush relay, both sides", "Copperfinch", 2.4,
         {"dc_threshold_v": 1.6, "dc_time_constant_s": 0.33, "r_dropper_ohm": 82, "p_dropper_rated_w": 0.5,
          "contact_dc_v": 30, "contact_dc_a": 8, **_COILS}, 17.0, 0),
        ("Doorkeeper", "Tallowick", 4.0,
         {"dc_threshold_v": 1.2, "dc_time_constant_s": 0.22, "r_dropper_ohm": 560, "p_dropper_rated_w": 3.0,
          "contact_dc_v": 60, "contact_dc_a": 10, **_COILS}, 26.0, 0),
        ("Doorkeeper, slow", "Tallowick", 4.0, {"dc_threshold_v": 1.2, "dc_time_constant_s": 1.1}, 24.0, 0),
        ("Latch 2", "Wickstead", 1.5, {"dc_threshold_v": 2.0, "dc_time_constant_s": 0.15}, 7.5, 2),
        ("Latch 2 with solid switch", "Wickstead", 1.5,
         {"dc_threshold_v": 2.0, "dc_time_constant_s": 0.05, "contact_dc_v": 80, "contact_dc_a": 20}, 19.0, 0),
    )
)  # fmt: skip
_NTC = {"r_soft_ohm": 10, "ntc_beta_k": 3200, "ntc_dissipation_w_per_k": 0.025, "ntc_heat_capacity_j_per_k": 2.5}
INLETS: tuple[Entry, ...] = tuple(
    (
        Inlet.model_validate({"name": name, "fuse_a_rms": amperes, "fuse_kind": kind} | more),
        priced(price, drawer=drawer),
    )
    for name, amperes, kind, more, price, drawer in (
        ("Inlet, T 630 mA", 0.63, "T", {}, 6.5, 2),
        ("Inlet, T 1 A", 1.0, "T", {}, 6.5, 2),
        ("Inlet, T 2 A", 2.0, "T", {"fuse_i2t_a2s": 24}, 6.5, 1),
        ("Inlet, T 3.15 A", 3.15, "T", {"fuse_i2t_a2s": 62}, 6.5, 1),
        ("Inlet, F 2 A", 2.0, "F", {"fuse_i2t_a2s": 2.6}, 6.5, 0),
        ("Inlet, T 2 A, soft start by relay", 2.0, "T",
         {"fuse_i2t_a2s": 24, "r_soft_ohm": 47, "soft_bypass_s": 0.4}, 21.0, 0),
        ("Inlet, T 3.15 A, soft start by relay", 3.15, "T",
         {"fuse_i2t_a2s": 62, "r_soft_ohm": 33, "soft_bypass_s": 0.6}, 23.0, 0),
        ("Inlet, T 2 A, thermistor", 2.0, "T", {"fuse_i2t_a2s": 24, **_NTC}, 8.4, 0),
        ("Blade fuse 20 A at the battery", 20.0, "F", {}, 3.2, 3),
        ("Blade fuse 30 A at the battery", 30.0, "F", {}, 3.2, 2),
    )
)  # fmt: skip
WALLS: tuple[Entry, ...] = (
    (Mains(name="Wall, 230 V", v_nominal_rms=230, frequency_hz=50), priced(0.0, drawer=1)),
    (Mains(name="Wall, 120 V", v_nominal_rms=120, frequency_hz=60), priced(0.0, drawer=1)),
    (Mains(name="Fairground generator", v_nominal_rms=230, frequency_hz=50, tolerance=0.15), priced(0.0, drawer=1)),
)
METALWORK = (*SINKS, *GUARDS, *INLETS, *WALLS)
