"""Reservoirs, second stages and rectifiers."""

from plinth.builds.supply_parts import Rectifier, Reservoir, Smoothing
from plinth.demo.shelves.entries import Entry, priced, usual

# Name, maker, farads per rail, volts, ESR, ripple amperes, bleeder, price, drawer.
_CANS: tuple[tuple[str, str, float, float, float | None, float | None, float | None, float, int], ...] = (
    ("Small 2m2/35", "Wickstead", 2.2e-3, 35, None, 1.9, 4700, 0.9, 14),
    ("Small 2m2/50", "Wickstead", 2.2e-3, 50, None, 2.2, 4700, 1.1, 6),
    ("Small 4m7/50", "Wickstead", 4.7e-3, 50, None, 3.4, 2200, 1.9, 8),
    ("Small 4m7/63", "Wickstead", 4.7e-3, 63, None, 3.8, 3300, 2.4, 0),
    ("Can 6m8/50", "Fennock", 6.8e-3, 50, 0.030, 5.2, 2200, 3.6, 2),
    ("Can 6m8/63", "Fennock", 6.8e-3, 63, 0.028, 5.9, 3300, 4.4, 0),
    ("Can 10m/35", "Fennock", 10e-3, 35, 0.026, 5.4, 1500, 3.9, 0),
    ("Can 10m/80", "Fennock", 10e-3, 80, 0.020, 8.1, 4700, 7.9, 0),
    ("Can 15m/50", "Fennock", 15e-3, 50, 0.017, 8.8, 1500, 6.4, 2),
    ("Can 15m/63", "Fennock", 15e-3, 63, 0.016, 9.4, 2200, 7.8, 0),
    ("Can 22m/50", "Fennock", 22e-3, 50, 0.013, 10.6, 1500, 8.9, 0),
    ("Can 22m/80", "Fennock", 22e-3, 80, 0.010, 13.2, 2200, 15.4, 0),
    ("Pair 33m/63", "Fennock", 33e-3, 63, 0.008, 15.0, 1200, 19.0, 0),
    ("Four of 4m7/63", "Wickstead", 18.8e-3, 63, None, 15.2, 3300, 9.6, 0),
    ("Old blue cans 10m/40", "unknown", 10e-3, 40, None, None, None, 0.0, 4),
    ("Low 2m2/50", "Fennock", 2.2e-3, 50, 0.032, 3.8, 3300, 2.1, 6),
    ("Low 3m3/63", "Fennock", 3.3e-3, 63, 0.024, 5.0, 3300, 3.0, 0),
    ("Low 6m8/63", "Fennock", 6.8e-3, 63, 0.016, 7.2, 2200, 5.2, 0),
)
CANS: tuple[Entry, ...] = (
    *(
        (
            Reservoir(name=name, maker=maker, c_f=c, v_rated=volts, esr_ohm=esr, i_ripple_rated_a=ripple,
                      r_bleeder_ohm=bleeder),
            priced(price, (10, round(0.85 * price, 2)), drawer=drawer),
        )
        for name, maker, c, volts, esr, ripple, bleeder, price, drawer in _CANS
    ),
    usual(Reservoir(name="Any can, 10 mF, 63 V", maker="–", c_f=10e-3, v_rated=63, r_bleeder_ohm=2200)),
)  # fmt: skip
# Name, maker, ohms, henries, farads, volts, ESR, amperes, watts, price.
_STAGES: tuple[
    tuple[str, str, float, float | None, float, float, float | None, float | None, float | None, float], ...
] = (
    ("R22 and can 10m/50", "Wickstead", 0.22, None, 10e-3, 50, 0.024, None, 5.0, 5.6),
    ("R47 and can 10m/50", "Wickstead", 0.47, None, 10e-3, 50, 0.024, None, 10.0, 6.1),
    ("R10 and can 15m/50", "Wickstead", 0.10, None, 15e-3, 50, 0.017, None, 5.0, 7.7),
    ("Choke 1m and can 15m/50", "Brindlecoil", 0.09, 1.0e-3, 15e-3, 50, 0.017, 5.0, None, 28.0),
    ("Choke 2m2 and can 22m/50", "Brindlecoil", 0.13, 2.2e-3, 22e-3, 50, 0.013, 4.0, None, 36.0),
    ("Choke 4m7 and can 22m/35", "Brindlecoil", 0.24, 4.7e-3, 22e-3, 35, None, 3.0, None, 41.0),
    ("Choke 10m and can 10m/50", "Oldmarrow Iron", 0.55, 10e-3, 10e-3, 50, 0.024, None, None, 33.0),
)
STAGES: tuple[Entry, ...] = tuple(
    (
        Smoothing(name=name, maker=maker, r_ohm=ohms, l_h=henries, c_f=c, v_rated=volts, esr_ohm=esr,
                  i_rated_a=amperes, p_rated_w=watts),
        priced(price),
    )
    for name, maker, ohms, henries, c, volts, esr, amperes, watts, price in _STAGES
)  # fmt: skip
# Name, maker, bridges, diode, amperes, forward volts, slope, price, drawer.
_BRIDGES: tuple[tuple[str, str, str, str, float, float | None, float | None, float, int], ...] = (
    ("Bridge 4", "Wickstead", "one", "silicon", 4, None, None, 0.8, 10),
    ("Bridge 8", "Wickstead", "one", "silicon", 8, None, None, 1.4, 3),
    ("Bridge 15", "Wickstead", "one", "silicon", 15, 0.80, 0.020, 2.2, 2),
    ("Bridge 25", "Wickstead", "one", "silicon", 25, 0.78, 0.014, 3.1, 1),
    ("Bridge 35", "Wickstead", "one", "silicon", 35, 0.78, 0.010, 3.9, 0),
    ("Two bridges 8", "Wickstead", "two", "silicon", 8, None, None, 2.8, 1),
    ("Two bridges 25", "Wickstead", "two", "silicon", 25, 0.78, 0.014, 6.2, 1),
    ("Two bridges 35", "Wickstead", "two", "silicon", 35, 0.78, 0.010, 7.8, 0),
    ("Cool bridge 10", "Tallowick", "one", "schottky", 10, 0.42, 0.018, 4.6, 0),
    ("Cool bridge 20", "Tallowick", "one", "schottky", 20, 0.40, 0.011, 7.2, 0),
    ("Two cool bridges 20", "Tallowick", "two", "schottky", 20, 0.40, 0.011, 14.4, 0),
)
BRIDGES: tuple[Entry, ...] = (
    *(
        (
            Rectifier.model_validate({"name": name, "maker": maker, "bridges": bridges, "diode": diode,
                                      "i_rated_a": amperes, "v_forward_v": drop, "r_dynamic_ohm": slope}),
            priced(price, (10, round(0.85 * price, 2)), drawer=drawer),
        )
        for name, maker, bridges, diode, amperes, drop, slope, price, drawer in _BRIDGES
    ),
    usual(Rectifier(name="Any bridge, 25 A", maker="–", bridges="one", diode="silicon", i_rated_a=25,
                    v_forward_v=0.8, r_dynamic_ohm=0.015)),
)  # fmt: skip
CAPACITORS = (*CANS, *STAGES, *BRIDGES)
