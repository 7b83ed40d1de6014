"""What a listing states in several numbers at once, as one line that can be typed: powers, a safe area.

``60 W 8R; 100 W 4R at 10 %; 130 W 4R on 42 V``, ``10 V 4 A; 30 V 1.2 A`` and ``1 kHz 0.01 %; 20 kHz 0.05 %``.
"""

import itertools
import re
from collections.abc import Callable
from typing import Any, TypeVar

import pydantic

from plinth.builds.invalid import words_of
from plinth.builds.modules import DistortionPoint, PowerClaim, SafeAreaPoint
from plinth.builds.quantities import Model
from plinth.units.errors import QuantityError
from plinth.units.shown import shown
from plinth.units.typed import read_number, read_quantity

ModelT = TypeVar("ModelT", PowerClaim, SafeAreaPoint, DistortionPoint)

_POWER = re.compile(
    r"^(?P<w>[\d.,]+ ?[mk]?W?) *(?:into|in|at|/|@)? *(?P<ohm>[\d.,]+ ?(?:R|Ω|ohm))"
    r"(?: *(?:at|with)? *(?P<thd>[\d.,]+) ?%)?(?: *(?:on|rails?|±)* *(?P<v>[\d.,]+) ?V)?$",
    re.IGNORECASE,
)
_DEFINITIONS = {1.0: "thd_1", 10.0: "thd_10"}


def claims_text(claims: tuple[PowerClaim, ...]) -> str:
    """Listed powers as a line."""
    parts = []
    for claim in claims:
        text = f"{claim.power_w:g} W {claim.r_load_ohm:g} Ω"
        text += {"thd_1": " at 1 %", "thd_10": " at 10 %"}.get(claim.definition, "")
        text += "" if claim.v_rail_v is None else f" on {claim.v_rail_v:g} V"
        parts.append(text)
    return "; ".join(parts)


def read_claims(text: str) -> tuple[PowerClaim, ...]:
    """The powers in a line. Raises QuantityError with found and expected."""
    claims: list[PowerClaim] = []
    for part in (entry.strip() for entry in text.split(";")):
        if not part:
            continue
        match = _POWER.match(part)
        if match is None:
            raise QuantityError(
                f"found {part[:40]!r}, expected powers such as 60 W 8R; 100 W 4R at 10 %; 130 W 4R on 42 V"
            )
        definition = "unstated"
        if match["thd"]:
            percent = read_number(match["thd"])
            if percent not in _DEFINITIONS:
                raise QuantityError(f"found {percent:g} % distortion, expected 1 % or 10 %: leave others out")
            definition = _DEFINITIONS[percent]
        claims.append(
            _made(
                PowerClaim,
                part,
                {
                    "power_w": read_quantity(match["w"], "W"),
                    "r_load_ohm": read_quantity(match["ohm"], "ohm"),
                    "definition": definition,
                    "v_rail_v": read_number(match["v"]) if match["v"] else None,
                },
            )
        )
    return tuple(claims)


def safe_area_text(points: tuple[SafeAreaPoint, ...]) -> str:
    """A safe area as a line."""
    return "; ".join(f"{shown(point.v_device_v, 'V')} {shown(point.i_a, 'A')}" for point in points)


def read_safe_area(text: str) -> tuple[SafeAreaPoint, ...]:
    """The points in a line. Raises QuantityError with found and expected."""
    points: list[SafeAreaPoint] = []
    for part in (entry.strip() for entry in text.split(";")):
        if not part:
            continue
        match = re.match(r"^([\d.,]+ ?m?V) *,? *([\d.,]+ ?m?A)$", part, re.IGNORECASE)
        if match is None:
            raise QuantityError(f"found {part[:40]!r}, expected points such as 10 V 4 A; 30 V 1.2 A, volts rising")
        points.append(
            _made(
                SafeAreaPoint, part, {"v_device_v": read_quantity(match[1], "V"), "i_a": read_quantity(match[2], "A")}
            )
        )
    return tuple(points)


def distortion_text(points: tuple[DistortionPoint, ...]) -> str:
    """A curve of distortion as a line."""
    return "; ".join(f"{shown(point.f_hz, 'Hz')} {100.0 * point.share:.3g} %" for point in points)


def read_distortion(text: str) -> tuple[DistortionPoint, ...]:
    """The points in a line. Raises QuantityError with found and expected."""
    points: list[DistortionPoint] = []
    for part in (entry.strip() for entry in text.split(";")):
        if not part:
            continue
        match = re.match(r"^([\d.,]+ ?k?(?:Hz)?) *,? *([\d.,]+) ?%$", part, re.IGNORECASE)
        if match is None:
            raise QuantityError(f"found {part[:40]!r}, expected points such as 1 kHz 0.01 %; 20 kHz 0.05 %")
        document: dict[str, object] = {"f_hz": read_quantity(match[1], "Hz"), "share": read_number(match[2]) / 100.0}
        points.append(_made(DistortionPoint, part, document))
    if any(a.f_hz >= b.f_hz for a, b in itertools.pairwise(points)):
        raise QuantityError("found frequencies out of order, expected them rising: sort them")
    return tuple(points)


def _made(model: type[ModelT], part: str, document: dict[str, object]) -> ModelT:
    try:
        return model.model_validate(document)
    except pydantic.ValidationError as error:
        raise QuantityError(words_of(error, repr(part))[0]) from error


# How each field of several numbers is written and read, by its name.
LISTED: dict[str, tuple[Callable[[Any], str], Callable[[str], tuple[Model, ...]]]] = {
    "claims": (claims_text, read_claims),
    "safe_area": (safe_area_text, read_safe_area),
    "distortion": (distortion_text, read_distortion),
}
