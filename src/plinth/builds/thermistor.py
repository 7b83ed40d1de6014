"""An inrush thermistor of which only ohms and amperes are known: the rest estimated from usual discs."""

import math
from typing import Any

# A usual disc's B value, how hot its rated current makes it, and how long it takes to cool by 63 % (data sheets of
# inrush limiters lie within these: 2700 to 3300 K, 150 to 220 degrees, 50 to 120 s).
USUAL_BETA_K, USUAL_HOT_C, USUAL_COOLING_S = 3000.0, 190.0, 80.0
BETA_TOL, HEAT_TOL = 0.10, 0.50
SOURCE = "from its cold resistance and rated current, as usual discs have it"
_FIELDS = ("ntc_beta_k", "ntc_dissipation_w_per_k", "ntc_heat_capacity_j_per_k")
_ROOM_K, _KELVIN = 298.15, 273.15


def estimated(r_25_ohm: float, i_max_a: float) -> tuple[float, float, float]:
    """B value (K), loss (W/K) and heat capacity (J/K) of a disc that its rated current keeps at its usual heat.

    I^2 R(T) = d (T - 25 deg C) at that current; heat capacity = d times the time constant of cooling.
    """
    hot_ohm = r_25_ohm * math.exp(USUAL_BETA_K * (1.0 / (USUAL_HOT_C + _KELVIN) - 1.0 / _ROOM_K))
    loss = i_max_a**2 * hot_ohm / (USUAL_HOT_C + _KELVIN - _ROOM_K)
    return USUAL_BETA_K, float(f"{loss:.3g}"), float(f"{loss * USUAL_COOLING_S:.3g}")


def with_thermistor_estimated(document: dict[str, Any]) -> dict[str, Any]:
    """An entry's values with what follows from ohms and amperes, where that is all that is known of its thermistor.

    Anew where either of the two was changed since; nothing is changed where somebody stated any of the others.
    """
    r, i_max = document.get("r_soft_ohm"), document.get("ntc_i_max_a")
    told = [fact if isinstance(fact, dict) else fact.model_dump() for fact in document.get("told", ())]
    ours = {fact["field"] for fact in told if fact["field"] in _FIELDS and fact.get("source") == SOURCE}
    theirs = [name for name in _FIELDS if document.get(name) is not None and name not in ours]
    others = [fact for fact in told if not (fact["field"] in _FIELDS and fact.get("source") == SOURCE)]
    if theirs or not (ours or i_max):
        return document
    if not (isinstance(r, int | float) and isinstance(i_max, int | float) and r > 0.0 and i_max > 0.0):
        # Without either of the two nothing follows: what did is gone with it.
        return {**document, **dict.fromkeys(_FIELDS), "told": others} if ours else document
    values = dict(zip(_FIELDS, estimated(r, i_max), strict=True))
    facts = [
        {"field": name, "how": "estimated", "value": value, "source": SOURCE,
         "tol": BETA_TOL if name == "ntc_beta_k" else HEAT_TOL}
        for name, value in values.items()
    ]  # fmt: skip
    return {**document, **values, "told": [*others, *facts]}
