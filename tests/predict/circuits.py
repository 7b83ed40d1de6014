"""Circuits generated for tests, spread over what people build."""

import random

from plinth.predict.circuit import PowerCircuit


def random_circuit(seed: int) -> PowerCircuit:
    pick = random.Random(seed)
    va = pick.choice([50, 80, 120, 160, 225, 330, 500])
    v_secondary = pick.uniform(12, 40)
    return PowerCircuit(
        mains_v_rms=230 * pick.uniform(0.9, 1.1),
        mains_hz=pick.choice([50.0, 60.0]),
        v_primary_rms=230,
        va=va,
        v_secondary=v_secondary,
        regulation=pick.uniform(0.04, 0.15),
        drops=pick.choice([1, 2]),
        v_forward=pick.uniform(0.4, 0.9),
        r_dynamic=pick.uniform(0.005, 0.03),
        c=pick.choice([2.2e-3, 4.7e-3, 10e-3, 22e-3]),
        esr=pick.uniform(0.0, 0.06),
        g_bleed=pick.choice([0.0, 1 / 2200, 1 / 680]),
        v_sat=pick.uniform(1.5, 4.0),
        r_out=pick.uniform(0.1, 0.5),
        r_load=pick.choice([4.0, 8.0, 16.0]),
        i_idle_a=pick.uniform(0.02, 0.15),
        channels=pick.choice([1, 2]),
    )
