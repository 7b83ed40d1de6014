"""What a file cannot tell and somebody says: scales, rate, load, how a sweep went."""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from pathlib import Path
from typing import Any

from plinth.captures.capture import CaptureError

KINDS = ("tone", "intermodulation", "levels", "rail", "edge", "sweep", "relay", "impedance", "mains", "plain")
TIME_UNITS = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "ns": 1e-9}


@dataclass(frozen=True)
class Sweep:
    """An exponential sweep: from and to in hertz, and how long in seconds."""

    f1_hz: float
    f2_hz: float
    seconds: float


@dataclass(frozen=True)
class Options:
    """What is stated beside a file; None where nothing is.

    ``volts_per_full_scale`` and ``probe``: one value for all channels or one each; ``rate_hz`` in place of what the
    file says; ``time_unit`` of a time column; ``load_ohm``; ``step_s`` of a level sweep; ``sweep``; ``at_hz`` the
    frequencies wanted of a sweep; ``open_file`` the same output without its load; ``band_hz`` for the noise;
    ``span_s`` the part, from and to, that figures are drawn from.
    """

    kind: str | None = None
    volts_per_full_scale: tuple[float, ...] = ()
    probe: tuple[float, ...] = ()
    rate_hz: float | None = None
    time_unit: str | None = None
    load_ohm: float | None = None
    step_s: float | None = None
    sweep: Sweep | None = None
    at_hz: tuple[float, ...] = ()
    open_file: Path | None = None
    band_hz: tuple[float, float] | None = None
    span_s: tuple[float, float] | None = None

    def __post_init__(self) -> None:
        if self.kind is not None and self.kind not in KINDS:
            raise CaptureError(f"found kind {self.kind!r}, expected one of {', '.join(KINDS)}")
        if self.time_unit is not None and self.time_unit not in TIME_UNITS:
            raise CaptureError(f"found time unit {self.time_unit!r}, expected s, ms, us or ns")
        for name, values in (
            ("--volts-per-full-scale", self.volts_per_full_scale),
            ("--probe", self.probe),
            ("--at", self.at_hz),
            ("--rate", () if self.rate_hz is None else (self.rate_hz,)),
            ("--load", () if self.load_ohm is None else (self.load_ohm,)),
            ("--step-s", () if self.step_s is None else (self.step_s,)),
            ("--band", self.band_hz or ()),
            ("--sweep", () if self.sweep is None else (self.sweep.f1_hz, self.sweep.f2_hz, self.sweep.seconds)),
        ):
            for value in values:
                if not 1e-9 < value < 1e12:
                    raise CaptureError(f"{name}: found {value:g}, expected a number above 0")
        if self.span_s is not None and not 0.0 <= self.span_s[0] < self.span_s[1] < 1e9:
            raise CaptureError(
                f"--span: found {self.span_s[0]:g} to {self.span_s[1]:g} s, expected the earlier first, from 0 on"
            )
        if self.sweep is not None and self.sweep.f2_hz <= self.sweep.f1_hz:
            raise CaptureError(
                f"--sweep: found {self.sweep.f1_hz:g} to {self.sweep.f2_hz:g} Hz, expected the lower frequency first"
            )
        if self.band_hz is not None and self.band_hz[1] <= self.band_hz[0]:
            raise CaptureError(
                f"--band: found {self.band_hz[0]:g} to {self.band_hz[1]:g} Hz, expected the lower frequency first"
            )

    def as_document(self) -> dict[str, Any]:
        """What is stated, as plain values; a file beside it by its name alone."""
        document: dict[str, Any] = {}
        for entry in fields(self):
            value = getattr(self, entry.name)
            if value in (None, ()):
                continue
            if isinstance(value, Sweep):
                value = [value.f1_hz, value.f2_hz, value.seconds]
            document[entry.name] = (
                value.name if isinstance(value, Path) else list(value) if isinstance(value, tuple) else value
            )
        return document

    def guessed_kind(self) -> str | None:
        """The kind that follows from what is stated, or None."""
        if self.kind is not None:
            return self.kind
        if self.open_file is not None:
            return "impedance"
        if self.sweep is not None:
            return "sweep"
        return "levels" if self.step_s is not None else None


def options_from(document: Mapping[str, Any]) -> Options:
    """Options from ``as_document``, without the file beside it. Raises CaptureError where they are none."""
    known = {entry.name for entry in fields(Options)} - {"open_file"}
    given: dict[str, Any] = {
        name: tuple(value) if isinstance(value, list) else value for name, value in document.items() if name in known
    }
    try:
        if "sweep" in given:
            given["sweep"] = Sweep(*map(float, given["sweep"]))
        return Options(**given)
    except (TypeError, ValueError) as error:
        raise CaptureError(f"found {dict(document)!r} stated beside it, expected what Plinth writes") from error


def numbers_of(option: str, text: str, *, separator: str = ",", count: int | None = None) -> tuple[float, ...]:
    """``50,4`` as numbers. Raises CaptureError with the option's name."""
    parts = text.split(separator)
    try:
        values = tuple(float(part) for part in parts)
    except ValueError:
        values = ()
    if not values or (count is not None and len(values) != count):
        wanted = "numbers with commas between" if count is None else f"{count} numbers with {separator!r} between"
        raise CaptureError(f"{option}: found {text!r}, expected {wanted}")
    return values
