"""Numbers as shops write them: ``6,800``, ``22.000``, ``10 000``, ``8,5``.

What a separator means is judged by what the property can be; where it could be both, both stand, and it is asked.
"""

import re

_SPACE = "  \u202f'"
# Whole numbers, never the tail of one; none is longer, so that a page of digits is passed over at once.
NUM = (
    rf"((?<!\d)(?<!\d[.,{_SPACE}])(?:\d{{1,3}}(?:[.,{_SPACE}]\d{{3}})+(?!\d)(?:[.,]\d{{1,6}})?|\d{{1,9}}(?:[.,]\d{{1,9}})?)"
    r"(?!\d))"
)
_GROUPED = re.compile(rf"\d{{1,3}}(?:[.,{_SPACE}]\d{{3}})+")

# From where to where a property of a part can be, in its unit.
PLAUSIBLE: dict[str, tuple[float, float]] = {
    "va": (5.0, 5000.0), "v_secondary_rms": (5.0, 150.0), "v_primary_rms": (90.0, 500.0), "regulation": (0.005, 0.4),
    "amperes": (0.05, 100.0), "c_f": (100e-6, 1.0), "v_rated": (6.0, 550.0), "esr_ohm": (5e-4, 5.0),
    "i_ripple_rated_a": (0.1, 100.0), "c_tol": (0.01, 0.5), "v_rail_min": (4.0, 160.0), "v_rail_max": (6.0, 160.0),
    "v_rail_nominal": (5.0, 160.0), "gain": (1.5, 400.0), "sensitivity_v_rms": (0.05, 12.0),
    "r_input_ohm": (1e3, 1e6), "f_low_hz": (0.1, 300.0), "f_high_hz": (3e3, 5e6), "slew_v_per_s": (1e6, 2e9),
    "i_quiescent_stated_a": (1e-3, 6.0), "bias.listed_mv": (0.5, 900.0), "bias.r_listed_ohm": (0.05, 2.0),
    "r_load_min_ohm": (1.0, 32.0), "offset_max_v": (1e-4, 0.5), "efficiency": (0.15, 0.99),
    "f_switching_hz": (50e3, 3e6), "power_w": (1.0, 5000.0), "r_load_ohm": (1.0, 64.0), "thd_percent": (1e-5, 30.0),
}  # fmt: skip


def meanings(text: str) -> tuple[float, ...]:
    """What a written number may mean: one value, or a decimal one and one in thousands."""
    bare = text.strip()
    for space in _SPACE[1:]:
        bare = bare.replace(space, " ")
    if " " in bare:
        # A number before it may stand there by chance: 2 225.
        joined = bare.replace(" ", "")
        return (*meanings(joined), *meanings(bare.rsplit(" ", 1)[1]))
    if "." in bare and "," in bare:
        decimal = max(bare.rfind("."), bare.rfind(","))
        whole = re.sub(r"[.,]", "", bare[:decimal])
        return (float(f"{whole}.{bare[decimal + 1 :]}"),)
    seps = bare.count(".") + bare.count(",")
    thousands = float(re.sub(r"[.,]", "", bare))
    if seps > 1:
        return (thousands,)
    decimal_value = float(bare.replace(",", "."))
    if seps and _GROUPED.fullmatch(bare) and not bare.startswith("0"):
        return decimal_value, thousands
    return (decimal_value,)


def possible(text: str, path: str, factor: float = 1.0) -> tuple[float, ...]:
    """What a written number times ``factor`` can be as the property ``path``: none, one, or what is to be asked."""
    low, high = PLAUSIBLE[path]
    values = (value * factor for value in meanings(text))
    # The last binary digit of a factor puts nothing beyond an end.
    return tuple(dict.fromkeys(value for value in values if low * (1.0 - 1e-9) <= value <= high * (1.0 + 1e-9)))
