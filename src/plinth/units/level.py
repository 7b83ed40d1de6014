"""Reading typed AC levels as meters and scopes say them: ``26.4pp``, ``9.3 rms``, ``26,4 Vpp``, ``13.2pk``."""

import dataclasses
import enum
import re

from plinth.physics.stages.levels import rms_from_peak, rms_from_peak_to_peak
from plinth.units.bounds import Bound
from plinth.units.errors import AmbiguousError, QuantityError
from plinth.units.typed import LONGEST, OVERLOAD, read_quantity, without_bound

LEAST_V, MOST_V = 1e-6, 2000.0


class Form(enum.StrEnum):
    """How a level was stated."""

    PEAK_TO_PEAK = "pp"
    RMS = "rms"
    PEAK = "pk"

    @property
    def words(self) -> str:
        """In full, for sentences."""
        return {"pp": "peak to peak", "rms": "rms", "pk": "peak"}[self.value]

    @property
    def rms_per_unit(self) -> float:
        """RMS volts of a sine per volt in this form."""
        return {"pp": rms_from_peak_to_peak(1.0), "rms": 1.0, "pk": rms_from_peak(1.0)}[self.value]


@dataclasses.dataclass(frozen=True)
class TypedLevel:
    """``volts`` in the form typed; ``form`` None where none was typed; ``bound`` where they are only a bound."""

    typed: str
    volts: float
    form: Form | None
    bound: Bound = Bound.NONE

    def rms(self, form: Form | None = None) -> float:
        """RMS volts of a sine, taken in ``form`` or in the one typed."""
        taken = form or self.form
        if taken is None:
            raise QuantityError(f"found {self.typed!r} without pp, rms or pk, expected to know which it is")
        return self.volts * taken.rms_per_unit


_FORMS = {
    Form.PEAK_TO_PEAK: ("pp", "vpp", "p-p", "pkpk", "pk-pk", "ptp"),
    Form.RMS: ("rms", "vrms", "eff", "ac", "vac"),
    Form.PEAK: ("pk", "vpk", "peak", "vp", "p"),
}
_WORDS = sorted(((w, form) for form, many in _FORMS.items() for w in many), key=lambda pair: -len(pair[0]))


def read_level(text: str) -> TypedLevel:
    """An AC level as typed, or a bound (``>31pp``). Raises QuantityError with what was found and expected.

    Levels must be above 0. An overload alone gives no level: the range is asked for.
    """
    stripped = " ".join(text.split()) if len(text) <= 4 * LONGEST else text.strip()
    if len(stripped) > LONGEST:
        raise QuantityError(f"found {len(stripped)} characters, expected a level such as 26.4pp or 9.3 rms")
    if stripped.lower() in OVERLOAD:
        raise QuantityError(
            f"found {stripped!r}, which gives no level, expected one such as 26.4pp: take the next range, or type > "
            "and the top of this one"
        )
    bound, level = without_bound(stripped)
    # "p p", "p - p" and "p/p" are spoken as one word.
    joined = re.sub(r"p ?[-/ ] ?p$", "pp", level, flags=re.IGNORECASE)
    for word, form in _WORDS:
        number = joined[: len(joined) - len(word)].rstrip()
        if joined.lower().endswith(word) and number and (number[-1].isdigit() or number[-1] in "vVmMuµkK.,"):
            return TypedLevel(stripped, _read_volts(number, stripped), form, bound)
    return TypedLevel(stripped, _read_volts(level, stripped), None, bound)


def _read_volts(number: str, typed: str) -> float:
    try:
        volts = read_quantity(number, "V")
    except AmbiguousError:
        raise
    except QuantityError as error:
        raise QuantityError(
            f"found {typed!r}, expected a level such as 26.4pp, 9.3 rms or 13.2 pk, of at most {MOST_V:g} V"
            if typed
            else "found nothing, expected a level such as 26.4pp or 9.3 rms"
        ) from error
    if not LEAST_V <= volts <= MOST_V:
        if volts > 0.0:
            raise QuantityError(f"found {typed!r}, expected a level of 1 µV to {MOST_V:g} V, as a bench can show it")
        raise QuantityError(f"found {typed!r}, expected a level above 0 V")
    return volts
