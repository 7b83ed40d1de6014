"""Properties of materials that several formulas share."""

# Resistivity of annealed copper at 20 degrees, ohm m (IEC 60028: 1.7241e-8), and its rise with each kelvin.
COPPER_OHM_M = 1.72e-8
COPPER_PER_K = 0.0039


def wire_ohm(length_m: float, a_m2: float) -> float:
    """Resistance of a copper wire, ohm: rho l / A at 20 degrees, ``length_m`` metres of ``a_m2`` square metres."""
    return COPPER_OHM_M * length_m / a_m2
