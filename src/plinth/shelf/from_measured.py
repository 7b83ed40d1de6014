"""A transformer from what was measured of it: volts without load, winding resistances, weight or core, no label.

Weight and core area tell the rating as makers' tables do, within about 30 %: toroids 90 VA at a kilogram, rising with
its 1.2th power; laminated cores 46 VA, with its 1.25th; by area of the middle leg about (area in cm2 / 1.1) squared at
50 Hz (O. H. Schade and any transformer handbook give the like). The resistance of a half, with the primary's seen from
it, tells the regulation: V_oc = V_sec + R I, so that V_sec follows from a quadratic. Copper is taken 50 K warmer.
"""

import dataclasses
import math
from typing import Literal

from plinth.builds.properties import How, Told
from plinth.builds.supply_parts import Transformer
from plinth.physics.mains.transformer import estimate_regulation
from plinth.physics.materials import COPPER_PER_K
from plinth.physics.numbers.roots import bracketed
from plinth.units.errors import QuantityError
from plinth.units.shown import shown

WARM = 1.0 + COPPER_PER_K * 50.0
RATING_TOL, RATING_TOL_BY_COPPER = 0.30, 0.45
VOLTS_TOL, REGULATION_TOL, REGULATION_TOL_ESTIMATED = 0.03, 0.15, 0.35
LEAST_VA, MOST_VA = 1.0, 5000.0


@dataclasses.dataclass(frozen=True)
class MeasuredTransformer:
    """``v_open_rms`` of each half at ``v_mains_rms``; ``r_half_ohm`` and ``r_primary_ohm`` cold; None: not known.

    ``weight_kg`` or ``core_cm2``, the area of the middle leg of a laminated core.
    """

    v_open_rms: float
    v_mains_rms: float
    secondaries: Literal["centre_tap", "two", "one"] = "two"
    core: Literal["toroid", "ei"] = "toroid"
    r_half_ohm: float | None = None
    r_primary_ohm: float | None = None
    weight_kg: float | None = None
    core_cm2: float | None = None


def transformer_from(measured: MeasuredTransformer, name: str) -> Transformer:
    """The transformer, its rating and regulation estimated with honest bands. Raises QuantityError."""
    if not (0.5 <= measured.v_open_rms <= 1000.0 and 20.0 <= measured.v_mains_rms <= 500.0):
        raise QuantityError(
            f"found {measured.v_open_rms:g} V at a mains of {measured.v_mains_rms:g} V, expected each half's volts "
            "without load and the mains while they were read"
        )
    halves = 1 if measured.secondaries == "one" else 2
    r = _half_with_primary(measured, halves)
    va, va_tol, va_why = _rating(measured, halves, r)
    if r is None:
        regulation, u = estimate_regulation(va, measured.core)
        tol, why = max(REGULATION_TOL_ESTIMATED, 2.0 * u / regulation), f"usual for {va:.3g} VA"
        v_rated = measured.v_open_rms / (1.0 + regulation)
    else:
        v_rated = _rated_volts(measured.v_open_rms, r, va / halves)
        regulation = measured.v_open_rms / v_rated - 1.0
        # The rating's own doubt goes into the regulation one to one, but the resistance behind it is measured.
        tol = REGULATION_TOL + va_tol
        why = f"{shown(r, 'ohm')} of a half with the primary's, 50 K warmer"
    facts = (
        Told(field="va", how=How.ESTIMATED, value=_three(va), tol=va_tol, source=va_why),
        Told(field="regulation", how=How.ESTIMATED, value=_three(regulation), tol=min(tol, 0.9), source=why),
        Told(field="v_secondary_rms", how=How.ESTIMATED, value=_three(v_rated), tol=VOLTS_TOL,
             source=f"measured {shown(measured.v_open_rms, 'V')} without load"),
        Told(field="v_primary_rms", how=How.MEASURED, value=measured.v_mains_rms, source="the mains while it was read"),
    )  # fmt: skip
    return Transformer(
        name=name, maker="–", core=measured.core, secondaries=measured.secondaries, va=_three(va),
        v_primary_rms=measured.v_mains_rms, v_secondary_rms=_three(v_rated), v_secondary_tol=VOLTS_TOL,
        regulation=_three(regulation), told=facts,
    )  # fmt: skip


def _half_with_primary(measured: MeasuredTransformer, halves: int) -> float | None:
    """Resistance of a half with its share of the primary's, warm; an unknown primary counts as lossy as the halves."""
    if measured.r_half_ohm is None:
        return None
    ratio = measured.v_open_rms / measured.v_mains_rms
    primary = None if measured.r_primary_ohm is None else halves * ratio**2 * measured.r_primary_ohm
    # Makers share the copper about evenly.
    return WARM * (2.0 * measured.r_half_ohm if primary is None else measured.r_half_ohm + primary)


def _rating(measured: MeasuredTransformer, halves: int, r: float | None) -> tuple[float, float, str]:
    if measured.weight_kg is not None:
        if not 0.05 <= measured.weight_kg <= 60.0:
            raise QuantityError(f"found a weight of {measured.weight_kg:g} kg, expected 0.05 to 60 kg")
        toroid = measured.core == "toroid"
        va = 90.0 * measured.weight_kg**1.2 if toroid else 46.0 * measured.weight_kg**1.25
        return va, RATING_TOL, f"from its weight of {measured.weight_kg:g} kg"
    if measured.core_cm2 is not None:
        if measured.core == "toroid":
            raise QuantityError("found a core's area for a toroid, expected its weight: a ring has no middle leg")
        if not 0.5 <= measured.core_cm2 <= 80.0:
            raise QuantityError(f"found a middle leg of {measured.core_cm2:g} cm², expected 0.5 to 80 cm²")
        return (measured.core_cm2 / 1.1) ** 2, RATING_TOL, f"from its middle leg of {measured.core_cm2:g} cm²"
    if r is None:
        raise QuantityError(
            "found neither weight, core nor resistance, expected one of them: volts alone tell no rating"
        )

    def beyond(log_va: float) -> float:
        """How much more the copper loses at this rating than is usual for its size."""
        va = math.exp(log_va)
        lost = measured.v_open_rms / _rated_volts(measured.v_open_rms, r, va / halves) - 1.0
        return math.log(lost / estimate_regulation(va, measured.core)[0])

    low, high = math.log(LEAST_VA), math.log(_most_va(measured.v_open_rms, r, halves))
    if beyond(low) > 0.0 or beyond(high) < 0.0:
        raise QuantityError(
            f"found {shown(r, 'ohm')} behind {measured.v_open_rms:g} V, expected that of a winding of 1 to 5000 VA"
        )
    va = math.exp(bracketed(beyond, (low, beyond(low)), (high, beyond(high)), 1e-6))
    return va, RATING_TOL_BY_COPPER, "where its copper loses what is usual for the size"


def _most_va(v_open: float, r: float, halves: int) -> float:
    """Beyond this a half's copper alone would take its volts."""
    return min(MOST_VA, 0.98 * halves * v_open**2 / (4.0 * r))


def _rated_volts(v_open: float, r: float, va_half: float) -> float:
    """Volts at rated load: V_oc = V + R VA / V. Raises QuantityError where the copper could not carry the rating."""
    inside = v_open**2 - 4.0 * r * va_half
    if inside <= 0.0:
        raise QuantityError(
            f"found {shown(r, 'ohm')} of winding for {va_half:.3g} VA at {v_open:g} V, expected less: it cannot be "
            "that large; look at resistance (leads count) and weight again"
        )
    return (v_open + math.sqrt(inside)) / 2.0


def _three(value: float) -> float:
    return float(f"{value:.3g}")
