"""Dummy loads and loudspeakers."""

from plinth.builds.parts import Load, VoiceCoil
from plinth.demo.shelves.entries import Entry, priced

_DUMMIES: tuple[tuple[str, float, float | None, float, float, int], ...] = (
    ("Wire 2", 2.02, 100, 120, 12.0, 1),
    ("Wire 4", 3.98, 100, 120, 12.0, 2),
    ("Wire 6", 6.1, 100, 120, 12.0, 0),
    ("Wire 8", 8.05, 200, 160, 19.0, 0),
    ("Oven element", 46.0, 1000, 60, 0.0, 1),
    ("Oil can 8", 8.2, 300, 900, 34.0, 0),
    ("Sandbox 4", 4.1, None, 200, 0.0, 1),
)
DUMMIES: tuple[Entry, ...] = (
    *(
        (
            Load(name=name, r_ohm=ohms, r_tol=0.01, p_rated_w=watts, time_constant_s=seconds),
            priced(price, drawer=drawer),
        )
        for name, ohms, watts, seconds, price, drawer in _DUMMIES
    ),
    (
        Load(
            name="Eight of 33R", r_ohm=4.13, r_tol=0.02, network="||".join(["33"] * 8), p_each_w=17, time_constant_s=70
        ),
        priced(16.0),
    ),
    (
        Load(name="Two of 15R", r_ohm=7.5, r_tol=0.02, network="15||15", p_each_w=50, time_constant_s=95),
        priced(11.0, drawer=1),
    ),
)
SPEAKERS: tuple[Entry, ...] = tuple(
    (
        Load(
            name=name,
            r_ohm=ohms,
            r_tol=0.15,
            p_rated_w=watts,
            voice_coil=VoiceCoil(r_dc_ohm=dc, f_resonance_hz=f, q_mechanical=qm, q_electrical=qe, l_coil_h=coil),
        ),
        priced(price, drawer=drawer),
    )
    for name, ohms, watts, dc, f, qm, qe, coil, price, drawer in (
        ("Paper cone 4", 4, 60, 3.2, 62, 3.6, 0.66, 0.4e-3, 0.0, 1),
        ("Stage box 8", 8, 150, 5.8, 52, 4.5, 0.45, 0.7e-3, 140.0, 0),
        ("Stage box 4", 4, 200, 3.1, 48, 5.1, 0.42, 0.5e-3, 165.0, 0),
        ("Horn of the carousel", 16, 25, 11.5, 180, 6.0, 0.9, 0.9e-3, 0.0, 1),
    )
)
LOADS = (*DUMMIES, *SPEAKERS)
