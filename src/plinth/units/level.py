"""Reading typed AC levels as meters and scopes say them: ``31.2pp``, ``15.5 rms``, ``31,2 Vpp``, ``22pk``."""

import dataclasses
import enum
import re

from plinth.physics.levels import rms_from_peak, rms_from_peak_to_peak
from plinth.units.errors import QuantityError
from plinth.units.typed import read_quantity


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
    """``volts`` in the form typed; ``form`` None where none was typed."""

    typed: str
    volts: float
    form: Form | None

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
_TAIL = re.compile(
    r"^(.*?)\s*(m?)(v?)\s*("
    + "|".join(sorted((w for many in _FORMS.values() for w in many), key=len, reverse=True))
    + r")\s*$",
    re.IGNORECASE,
)


def read_level(text: str) -> TypedLevel:
    """An AC level as typed. Raises QuantityError with what was found and expected; levels must be above 0."""
    stripped = text.strip()
    match = _TAIL.match(stripped)
    if match and any(c.isdigit() for c in match[1]):
        word = match[4].lower()
        form = next(f for f, words in _FORMS.items() if word in words)
        number = match[1] + match[2] + ("V" if match[2] else "")
        volts = _read_volts(number, stripped)
        return TypedLevel(stripped, volts, form)
    return TypedLevel(stripped, _read_volts(stripped, stripped), None)


def _read_volts(number: str, typed: str) -> float:
    try:
        volts = read_quantity(number, "V")
    except QuantityError as error:
        raise QuantityError(
            f"found {typed!r}, expected a level such as 31.2pp, 15.5 rms or 22 pk"
            if typed
            else "found nothing, expected a level such as 31.2pp or 15.5 rms"
        ) from error
    if volts <= 0.0:
        raise QuantityError(f"found {typed!r}, expected a level above 0 V")
    return volts
