"""Quiescent current and what a meter shows of it."""


def bias_mv(i_quiescent_a: float, r_ohm: float) -> float:
    """Millivolts across a resistor of ``r_ohm`` that carries ``i_quiescent_a``."""
    return 1000.0 * i_quiescent_a * r_ohm


def quiescent_a(bias_mv_read: float, r_ohm: float) -> float:
    """Amperes behind a reading of ``bias_mv_read`` millivolts across ``r_ohm`` (> 0)."""
    return bias_mv_read / 1000.0 / r_ohm


def idle_driver_current_a(i_nominal_a: float, v_rail: float, v_rail_nominal: float) -> tuple[float, float]:
    """Least and most current of the input and driver stages at a rail below nominal, amperes.

    Current sources hold it constant, resistors make it fall with the rail; a board does something between,
    so both ends are given: (I V / V_nominal, I). Above nominal the two change places.
    """
    scaled = i_nominal_a * v_rail / v_rail_nominal
    return min(scaled, i_nominal_a), max(scaled, i_nominal_a)


def drifted_a(i_cold_a: float, tempco_per_k: float, rise_k: float) -> float:
    """Quiescent current after the sink has warmed by ``rise_k``; ``tempco_per_k`` as a fraction per kelvin."""
    return i_cold_a * (1.0 + tempco_per_k * rise_k)
