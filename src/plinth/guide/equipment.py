"""The equipment a builder has for first power: another lamp than the one that suits best, a small transformer."""

import dataclasses
import re

from pydantic import ValidationError

from plinth.builds.build import Build
from plinth.builds.files import words_of
from plinth.builds.supplies import LinearSupply
from plinth.builds.supply_parts import Transformer
from plinth.units.errors import QuantityError

_NUMBER = r"(\d+(?:[.,]\d+)?)"
_LAMP = re.compile(rf"(?:lamp\s*)?{_NUMBER}\s*w(?:att)?(?:\s*lamp)?", re.IGNORECASE)
_TWO = re.compile(rf"2\s*[x×*]\s*{_NUMBER}\s*v?\s*,?\s*{_NUMBER}\s*va", re.IGNORECASE)
_TAPPED = re.compile(rf"{_NUMBER}\s*[-–]\s*0\s*[-–]\s*{_NUMBER}\s*v?\s*,?\s*{_NUMBER}\s*va", re.IGNORECASE)
_ONE = re.compile(rf"{_NUMBER}\s*v\s*,?\s*{_NUMBER}\s*va", re.IGNORECASE)
LAMP_W = (5.0, 500.0)


@dataclasses.dataclass(frozen=True)
class Equipment:
    """``lamp_w`` of the lamp, ``small`` the transformer that a supply is tried from first; None: none."""

    lamp_w: float | None = None
    small: Transformer | None = None

    @property
    def words(self) -> str:
        """As it was understood; empty for nothing."""
        said = [] if self.lamp_w is None else [f"lamp of {self.lamp_w:g} W"]
        if self.small is not None:
            half = f"{self.small.v_secondary_rms:g} V, {self.small.va:g} VA"
            said.append(f"small transformer {'' if self.small.secondaries == 'one' else '2 × '}{half}")
        return "; ".join(said)


NOTHING = Equipment()


def read_equipment(text: str, build: Build) -> Equipment:
    """What is typed: ``60 W``, ``2x18 V 10 VA``, ``18-0-18 5VA``, several with ; between.

    Raises QuantityError with a sentence for what is neither, or does not go with this build.
    """
    equipment = NOTHING
    for typed in (word.strip() for word in text.split(";") if word.strip()):
        small = _transformer(typed, build)
        if small is not None:
            equipment = dataclasses.replace(equipment, small=small)
        elif (lamp := _LAMP.fullmatch(typed)) is not None:
            watts = _value(lamp[1])
            if not LAMP_W[0] <= watts <= LAMP_W[1]:
                raise QuantityError(
                    f"found a lamp of {watts:g} W, expected {LAMP_W[0]:g} to {LAMP_W[1]:g} W: take another"
                )
            equipment = dataclasses.replace(equipment, lamp_w=watts)
        else:
            raise QuantityError(
                f"found {typed!r}, expected a lamp (60 W) or a small transformer (2x18 V 10 VA, 18-0-18 5 VA)"
            )
    return equipment


def _value(text: str) -> float:
    return float(text.replace(",", "."))


def _transformer(typed: str, build: Build) -> Transformer | None:
    two, tapped, plain = _TWO.fullmatch(typed), _TAPPED.fullmatch(typed), _ONE.fullmatch(typed)
    if two is not None:
        kind, volts, va = "two", _value(two[1]), _value(two[2])
    elif tapped is not None:
        if tapped[1] != tapped[2]:
            raise QuantityError(f"found {typed!r}, expected two equal halves: {tapped[1]}-0-{tapped[1]}")
        kind, volts, va = "centre_tap", _value(tapped[1]), _value(tapped[3])
    elif plain is not None:
        kind, volts, va = "one", _value(plain[1]), _value(plain[2])
    else:
        return None
    if build.supply.transformer is None or build.mains is None:
        raise QuantityError("found a transformer, expected none: this supply has no transformer in whose place it goes")
    try:
        small = Transformer.model_validate({
            "name": f"Small {typed}", "maker": "–", "core": "ei", "secondaries": kind, "va": va,
            "v_primary_rms": build.mains.v_nominal_rms, "v_secondary_rms": volts,
        })  # fmt: skip
        LinearSupply.model_validate(build.supply.model_dump() | {"transformer": small.model_dump()})
    except ValidationError as error:
        raise QuantityError(words_of(error, typed)[0]) from error
    if (kind == "one") != build.supply.single_rail:
        raise QuantityError(f"found {typed!r}, expected as many windings as this supply has rails")
    return small


def on_small(build: Build, small: Transformer) -> Build:
    """The build with its supply on that transformer."""
    assert build.supply.transformer is not None, "it was read for such a build"
    return build.model_copy(update={"supply": build.supply.model_copy(update={"transformer": small})})
