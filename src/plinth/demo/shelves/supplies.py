"""Switchers, converters, batteries, bench supplies and regulators."""

from plinth.builds.supply_parts import Battery, BatteryConverter, BenchPair, MainsSwitcher, Regulator
from plinth.demo.shelf import CARTHORSE_300, SHUNTER_36, SHUNTER_45
from plinth.demo.shelves.entries import Entry, priced, usual


def _switcher(name: str, rails: str, volts: float, watts: float, amperes: float, price: float, **more: object) -> Entry:
    like = SHUNTER_36 if rails == "single" else SHUNTER_45
    part = MainsSwitcher.model_validate(
        like.model_dump()
        | {
            "name": name, "v_rail": volts, "p_continuous_w": watts, "p_short_w": 1.4 * watts, "i_limit_a": amperes,
            "c_bulk_f": 1.0e-6 * watts, "v_ov_lockout_v": round(1.25 * volts),
            "p_idle_w": round(2.0 + 0.015 * watts, 1),
        }
        | more
    )  # fmt: skip
    return part, priced(price, (4, round(0.9 * price, 2)))


SWITCHERS: tuple[Entry, ...] = (
    _switcher("Shunter 24", "single", 24, 150, 10, 31.0),
    _switcher("Shunter 30", "single", 30, 240, 14, 42.0),
    _switcher("Shunter 36 with corrector", "single", 36, 320, 16, 64.0, pfc=True, v_pfc_v=385, v_bulk_min_v=300),
    _switcher("Shunter 48", "single", 48, 480, 16, 66.0),
    _switcher("Shunter 2×24", "dual", 24, 200, 9, 44.0, control="regulated", droop=0.01),
    _switcher("Shunter 2×30", "dual", 30, 300, 11, 52.0, control="regulated", droop=0.01),
    _switcher("Shunter 2×36", "dual", 36, 350, 12, 57.0),
    _switcher("Shunter 2×50", "dual", 50, 500, 13, 74.0),
    _switcher("Shunter 2×60 with corrector", "dual", 60, 800, 17, 118.0, pfc=True, v_pfc_v=390, v_bulk_min_v=310),
    _switcher("Shunter 2×36, two mains", "dual", 36, 350, 12, 54.0, v_mains_min=95, v_mains_max=265,
              v_mains_jumper=230),
    usual(SHUNTER_45.model_copy(update={"name": "Any switcher, 2×40 V, 300 W", "maker": "–", "v_rail": 40.0,
                                        "p_continuous_w": 300.0})),
)  # fmt: skip


def _converter(name: str, volts: float, watts: float, turns: int, price: float) -> Entry:
    like, reference, bottom = CARTHORSE_300, 2.5, 1000.0
    part = BatteryConverter.model_validate(
        like.model_dump()
        | {
            "name": name, "v_rail": volts, "p_continuous_w": watts, "i_limit_a": round(0.046 * watts, 1),
            "turns_secondary": turns, "v_diode_rated_v": 200 if volts > 38 else 150,
            "r_divider_top_ohm": round((volts / reference - 1.0) * bottom), "v_ov_lockout_v": round(1.35 * volts),
        }
    )  # fmt: skip
    return part, priced(price, (4, round(0.92 * price, 2)))


CONVERTERS: tuple[Entry, ...] = (
    _converter("Carthorse 150", 24, 150, 6, 58.0),
    _converter("Carthorse 300/28", 28, 300, 7, 84.0),
    _converter("Carthorse 300/38", 38, 300, 10, 86.0),
    _converter("Carthorse 500", 36, 500, 9, 132.0),
    _converter("Carthorse 500/45", 45, 500, 12, 138.0),
)
BATTERIES: tuple[Entry, ...] = tuple(
    (
        Battery(name=name, maker=maker, v_nominal=volts, v_full=full, v_empty=empty, capacity_ah=hours,
                r_internal_ohm=ohms),
        priced(price, drawer=drawer),
    )
    for name, maker, volts, full, empty, hours, ohms, price, drawer in (
        ("Two lead blocks, 12 Ah", "Millrace", 24.0, 25.8, 21.0, 12, 0.030, 62.0, 1),
        ("Two lead blocks, 24 Ah", "Millrace", 24.0, 25.8, 21.0, 24, 0.018, 104.0, 0),
        ("Eight cells, 10 Ah", "Fennock", 25.6, 29.2, 22.0, 10, 0.022, 96.0, 0),
        ("Eight cells, 50 Ah", "Fennock", 25.6, 29.2, 22.0, 50, 0.006, 340.0, 0),
        ("Seven cells, 30 Ah", "Fennock", 25.9, 29.4, 21.0, 30, 0.011, 210.0, 0),
        ("Old gate opener blocks", "unknown", 24.0, 25.6, 21.0, 7, None, 0.0, 2),
    )
)  # fmt: skip
BENCH_SUPPLIES: tuple[Entry, ...] = (
    (BenchPair(name="One bench supply, 30 V", rails="single", v_rail=30, i_limit_a=3), priced(0.0, drawer=1)),
    (BenchPair(name="Two old bench supplies, 20 V", rails="dual", v_rail=20, r_source_ohm=0.12, i_limit_a=1.5),
     priced(0.0, drawer=1, note="the left one's knob slips")),
    (BenchPair(name="Two bench supplies, 60 V 5 A", rails="dual", v_rail=60, r_source_ohm=0.02, i_limit_a=5),
     priced(380.0)),
)  # fmt: skip
REGULATORS: tuple[Entry, ...] = tuple(
    (
        Regulator(name=name, maker=maker, v_out=volts, v_dropout_v=dropout, i_max_a=amperes, v_in_max=most,
                  r_junction_air_k_per_w=rth, t_junction_max_c=limit),
        priced(price, (10, round(0.8 * price, 2)), drawer=drawer),
    )
    for name, maker, volts, dropout, amperes, most, rth, limit, price, drawer in (
        ("Hushed 12", "Tallowick", 12, 2.0, 0.5, 35, 32, 125, 2.4, 4),
        ("Hushed 18", "Tallowick", 18, 2.0, 0.5, 35, 32, 125, 2.4, 0),
        ("Plain 15", "Wickstead", 15, 2.2, 1.0, 35, 50, 125, 0.7, 12),
        ("Plain 12", "Wickstead", 12, 2.2, 1.0, 35, 50, 125, 0.7, 9),
        ("Whisper 15", "Tallowick", 15, 0.6, 0.25, 20, 60, 125, 4.9, 0),
        ("Trimmed 24", "Tallowick", 24, 1.8, 1.5, 40, 35, None, 3.8, 2),
        ("Trimmed 5", "Tallowick", 5, 1.8, 1.5, None, 35, 125, 3.8, 0),
    )
)  # fmt: skip
SUPPLIES = (*SWITCHERS, *CONVERTERS, *BATTERIES, *BENCH_SUPPLIES, *REGULATORS)
