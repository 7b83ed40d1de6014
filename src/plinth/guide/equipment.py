"""What a builder brings to first power: another lamp, a small transformer, a bench supply, a board that was set."""

import dataclasses
import math
import re

from pydantic import ValidationError

from plinth.builds.build import Build
from plinth.builds.invalid import words_of
from plinth.builds.supplies import LinearSupply
from plinth.builds.supply_parts import Transformer
from plinth.guide.board_windows import AT_LIMIT, rest_current, supply_setting
from plinth.units.errors import QuantityError

_NUMBER = r"(\d+(?:[.,]\d+)?)"
_LAMP = re.compile(rf"(?:lamp\s*)?{_NUMBER}\s*w(?:att)?(?:\s*lamp)?", re.IGNORECASE)
_TWO = re.compile(rf"2\s*[x×*]\s*{_NUMBER}\s*v?\s*,?\s*{_NUMBER}\s*va", re.IGNORECASE)
_TAPPED = re.compile(rf"{_NUMBER}\s*[-–]\s*0\s*[-–]\s*{_NUMBER}\s*v?\s*,?\s*{_NUMBER}\s*va", re.IGNORECASE)
_ONE = re.compile(rf"{_NUMBER}\s*v\s*,?\s*{_NUMBER}\s*va", re.IGNORECASE)
_BENCH = re.compile(rf"(?:±|\+-|\+/-)?\s*{_NUMBER}\s*v\s*,?\s*(?:at\s+)?{_NUMBER}\s*(ma|a)", re.IGNORECASE)
_SET = re.compile(r"bias\s+(?:was\s+|is\s+)?set(?:\s+at\s+(?:the\s+)?works)?", re.IGNORECASE)
_REFORM = re.compile(
    rf"re-?form(?:ed|ing)?(?:\s+from\s+(?:(?P<quarter>a\s+quarter)|{_NUMBER}\s*(?P<of>%|v)(?:\s+of\s+(?:the\s+)?mains)?))?"
    rf"(?:\s+(?:over|in)\s+(?:(?P<day>a\s+day)|{_NUMBER}\s*(?P<span>h|hours?|d|days?)))?",
    re.IGNORECASE,
)
# Below a tenth nothing forms; nobody sits by for less than an hour in all, or for longer than a week.
REFORM_FROM, REFORM_HOURS = (0.1, 0.8), (1.0, 168.0)
LAMP_W = (5.0, 500.0)
# So much heat in one part burns it within a second or two; less leaves time to switch off (practice).
BURNS_W = 20.0


@dataclasses.dataclass(frozen=True)
class BenchSetting:
    """The low rail that a board is begun at, V of each rail, and the bench supply's limit there, A."""

    v_rail: float
    i_limit_a: float


@dataclasses.dataclass(frozen=True)
class Equipment:
    """``lamp_w`` of the lamp, ``small`` the transformer that a supply is tried from first; None: none.

    ``bench`` the low rail and limit that a board is begun at (None: those computed); ``bias_set``: its bias was set at
    the works, and its trimmer is left alone. ``reform_from`` the share of the mains at which re-forming begins,
    ``reform_hours`` how long it takes in all (None: as it is usual).
    """

    lamp_w: float | None = None
    small: Transformer | None = None
    bench: BenchSetting | None = None
    bias_set: bool = False
    reform_from: float | None = None
    reform_hours: float | None = None

    @property
    def words(self) -> str:
        """As it was understood; empty for nothing."""
        said = [] if self.lamp_w is None else [f"lamp of {self.lamp_w:g} W"]
        if self.small is not None:
            half = f"{self.small.v_secondary_rms:g} V, {self.small.va:g} VA"
            said.append(f"small transformer {'' if self.small.secondaries == 'one' else '2 × '}{half}")
        if self.bench is not None:
            said.append(f"begun at {self.bench.v_rail:g} V, limit {self.bench.i_limit_a * 1000:.0f} mA")
        if self.bias_set:
            said.append("bias set at the works: the trimmer stays as it is")
        if self.reform_from is not None or self.reform_hours is not None:
            begin = "" if self.reform_from is None else f" from {100.0 * self.reform_from:.0f} % of the mains"
            span = "" if self.reform_hours is None else f" over {self.reform_hours:g} h"
            said.append(f"re-formed{begin}{span}")
        return "; ".join(said)


NOTHING = Equipment()


def read_equipment(text: str, build: Build) -> Equipment:
    """What is typed: ``60 W``, ``2x18 V 10 VA``, ``18-0-18 5VA``, ``14 V 400 mA``, ``bias set``; several with a ``;``.

    Raises QuantityError with a sentence for what is neither, or does not go with this build.
    """
    equipment = NOTHING
    words = [word.strip() for word in text.split(";") if word.strip()]
    # What a healthy board draws depends on whether its bias is set, wherever in the list that stands.
    if any(_SET.fullmatch(word) for word in words):
        if build.module.bias is None:
            raise QuantityError(f"found a bias that was set, expected none: {build.module.name} has no trimmer")
        equipment = dataclasses.replace(equipment, bias_set=True)
    for typed in (word for word in words if not _SET.fullmatch(word)):
        reform = _REFORM.fullmatch(typed)
        if reform is not None:
            begin, hours = _reform(typed, reform, build)
            equipment = dataclasses.replace(equipment, reform_from=begin, reform_hours=hours)
            continue
        bench = _BENCH.fullmatch(typed)
        if bench is not None:
            setting = _bench(typed, bench, build, bias_set=equipment.bias_set)
            equipment = dataclasses.replace(equipment, bench=setting)
            continue
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
                f"found {typed!r}, expected a lamp (60 W), a small transformer (2x18 V 10 VA, 18-0-18 5 VA), a low "
                "rail with its limit (14 V 400 mA), bias set, or: re-form from 25 % over 24 h"
            )
    return equipment


def _value(text: str) -> float:
    return float(text.replace(",", "."))


def _reform(typed: str, match: re.Match[str], build: Build) -> tuple[float | None, float | None]:
    """From which share of the mains, and over how many hours in all."""
    if build.supply.transformer is None or build.mains is None:
        raise QuantityError("found re-forming, expected none: no transformer hangs on the mains here to be turned up")
    if not any(match.groups()):
        raise QuantityError(f"found {typed!r}, expected from where or how long: re-form from 25 % over 24 h")
    begin = 0.25 if match["quarter"] else None
    if match[2] is not None:
        begin = _value(match[2]) / (100.0 if match["of"] == "%" else build.mains.v_nominal_rms)
    if begin is not None and not REFORM_FROM[0] <= begin <= REFORM_FROM[1]:
        raise QuantityError(
            f"found {typed!r}, expected to begin at {100 * REFORM_FROM[0]:.0f} to {100 * REFORM_FROM[1]:.0f} % of the "
            "mains"
        )
    hours = 24.0 if match["day"] else None
    if match["span"] is not None:
        hours = _value(match[5]) * (24.0 if match["span"].lower().startswith("d") else 1.0)
    if hours is not None and not REFORM_HOURS[0] <= hours <= REFORM_HOURS[1]:
        raise QuantityError(f"found {typed!r}, expected {REFORM_HOURS[0]:g} to {REFORM_HOURS[1]:g} hours in all")
    return begin, hours


def _bench(typed: str, match: re.Match[str], build: Build, *, bias_set: bool) -> BenchSetting:
    """A low rail with its limit: enough for a healthy board, and too little to burn a part of a faulty one."""
    module, volts, limit = (
        build.module,
        _value(match[1]),
        _value(match[2]) * (1e-3 if match[3].lower() == "ma" else 1.0),
    )
    if not module.v_rail_min <= volts <= module.v_rail_max:
        raise QuantityError(
            f"found {typed!r}, expected {module.v_rail_min:g} V to {module.v_rail_max:g} V: {module.name} works "
            "between these"
        )
    window = rest_current(build, volts, bias_set=bias_set)
    healthy = window.usual_high if window.usual_high is not None else window.high
    assert healthy is not None, "a current at rest has a highest"
    if limit * AT_LIMIT < healthy:
        raise QuantityError(
            f"found a limit of {limit * 1000:.0f} mA, expected at least {math.ceil(healthy / AT_LIMIT * 1000)} mA at "
            f"{volts:g} V: a healthy board draws up to {healthy * 1000:.0f} mA there"
        )
    most = max(BURNS_W / volts, supply_setting(build, volts, bias_set=bias_set).i_limit_a)
    if limit > most:
        raise QuantityError(
            f"found a limit of {limit * 1000:.0f} mA, expected at most {most * 1000:.0f} mA at {volts:g} V: with more, "
            f"a fault turns over {BURNS_W:g} W into heat in one part"
        )
    return BenchSetting(volts, limit)


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
