"""Which figures of a capture answer what a test asks for, as texts that its field takes, with their uncertainty."""

import dataclasses
import math

from plinth.builds.instruments import BenchKit, Role
from plinth.captures.figure import Analysis, CaptureFigure
from plinth.captures.words import label_of
from plinth.record.probe import Point
from plinth.record.request import Request
from plinth.record.subject import WHOLE, Kind
from plinth.units.shown import shown

__all__ = ["CaptureAnswer", "answers_for", "why_none"]

# What a request's key begins with, and the figures that answer it, the best first.
_BY_KEY: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("mute", ("muting_delay_s",)),
    ("trip_", ("dc_trip_s",)),
    ("release", ("release_s",)),
    ("generator_rise", ("rise_10_90_s", "fall_10_90_s")),
    ("rise", ("rise_10_90_s", "fall_10_90_s")),
    ("overshoot", ("rise_overshoot_pct", "fall_overshoot_pct")),
    ("ringing", ("rise_ringing_hz", "fall_ringing_hz")),
    ("tilt", ("rise_droop_pct", "fall_droop_pct")),
    ("one", ("hum_50hz_rms", "hum_60hz_rms")),
    ("two", ("hum_100hz_rms", "hum_120hz_rms")),
    ("three", ("hum_150hz_rms", "hum_180hz_rms")),
    ("whole", ("noise_rms_20_20k", "rms_ac")),
    ("up", ("noise_rms_20_20k", "rms_ac")),
    ("source", ("noise_rms_20_20k", "rms_ac")),
    ("rest_crest", ("i_crest",)),
    ("full_crest", ("i_crest",)),
    ("inrush", ("i_peak_a",)),
)
# By unit and form of the request, where its key says nothing.
_BY_FORM: dict[tuple[str, str], tuple[str, ...]] = {
    ("V", "level"): ("rms_ac", "v_rms", "onset_rms_v", "level_at_1pct_thd_rms_v", "level_at_10pct_thd_rms_v"),
    ("V", "ripple"): ("pp_v", "pp"),
    ("V", "swing"): ("pp", "pp_v"),
    ("V", "plain"): ("mean_v", "v_rms", "rest_v", "dc", "mean"),
    ("V", "magnitude"): ("mean_v", "rest_v", "dc", "mean"),
    ("A", "plain"): ("i_rms", "mean"),
    ("A", "magnitude"): ("mean", "i_rms"),
    ("W", "plain"): ("p_w",),
    ("VA", "plain"): ("s_va",),
    ("", "plain"): ("pf",),
    ("s", "plain"): ("muting_delay_s", "dc_trip_s", "release_s", "rise_10_90_s"),
    ("Hz", "plain"): ("frequency_hz",),
}
# Read from the input's channel, which is the first of several.
_OF_THE_DRIVE = ("in_", "generator_rise")
# Figures of the whole record, which answer nothing where the record is a course of many levels or events.
_OF_ALL_OF_IT = frozenset({"rms_ac", "mean", "pp", "dc"})
_OF_MANY_THINGS = frozenset({"sweep", "levels", "edge", "relay", "intermodulation"})
# A tone off by more than this is another point of a response.
_SAME_FREQUENCY = 0.02
# Where clipping is asked for, by what it is counted at; the others lie a third apart and are no answer.
_CLIPPING = {
    Kind.CLIP: "onset_rms_v", Kind.CLIP_1: "level_at_1pct_thd_rms_v", Kind.CLIP_10: "level_at_10pct_thd_rms_v",
}  # fmt: skip


@dataclasses.dataclass(frozen=True)
class CaptureAnswer:
    """``text`` as a field takes it; ``u`` its standard uncertainty in the unit asked for (None: not known).

    ``channel`` and ``figure`` where it comes from; ``label`` what it is called on a screen.
    """

    label: str
    text: str
    u: float | None
    channel: str
    figure: str


@dataclasses.dataclass(frozen=True)
class TakenAt:
    """Where a record was taken, where that is known: the point, and whose (a channel's key, empty: any)."""

    point: Point
    channel: str = ""

    def elsewhere(self, request: Request) -> str:
        """Why what is asked for is not in a record from there; empty where it may be."""
        probe = request.probe
        if probe is None:
            return f"This record is of {self.point.words}, and this is not read by instruments: type it."
        if probe.point is not self.point:
            return f"This record is of {self.point.words}, and {probe.point.words} is asked for."
        if self.channel and probe.point.of_channel and request.channel not in (self.channel, "", WHOLE):
            return f"This record is of {self.point.words} of another channel than is asked for."
        return ""


def answers_for(request: Request, analysis: Analysis, kit: BenchKit) -> tuple[CaptureAnswer, ...]:
    """The figures that answer a request, best first; none where the capture holds none in the unit asked for."""
    if _other_frequency(request, analysis):
        return ()
    channels = list(analysis.channels)
    if len(channels) > 1 and not request.key.startswith(_OF_THE_DRIVE):
        # The output stands last.
        channels.reverse()
    drawn = (
        _answer(request, channel[name], channel.name, kit)
        for name in _names(request)
        if not (analysis.kind in _OF_MANY_THINGS and name in _OF_ALL_OF_IT)
        for channel in channels
        if name in channel
    )
    return tuple(answer for answer in drawn if answer is not None)


def why_none(request: Request, analysis: Analysis) -> str:
    """Why no figure answers the request, and what to do."""
    if _other_frequency(request, analysis):
        asked = request.setting("frequency")
        heard = next(ch["frequency_hz"].value for ch in reversed(analysis.channels) if "frequency_hz" in ch)
        assert asked is not None, "that is what it differs from"
        return f"It is a tone of {shown(heard, 'Hz')}, and {shown(asked.value, 'Hz')} is asked for."
    units = {figure.unit for channel in analysis.channels for figure in channel.figures}
    if "FS" in units and "V" not in units and request.unit in ("V", "W"):
        return "Its volts are not known: type what full scale is."
    if request.form == "power" and analysis.kind != "levels":
        return "Clipping is drawn from a sweep of levels: choose that it shows one."
    return f"Nothing in it answers '{request.title}'."


def _names(request: Request) -> tuple[str, ...]:
    for beginning, names in _BY_KEY:
        if request.key.startswith(beginning):
            return names
    if request.form == "power":
        return (_CLIPPING[request.about.kind],) if request.about.kind in _CLIPPING else ()
    return _BY_FORM.get((request.unit, request.form), ())


def _other_frequency(request: Request, analysis: Analysis) -> bool:
    asked = request.setting("frequency")
    tones = [channel["frequency_hz"] for channel in analysis.channels if "frequency_hz" in channel]
    if asked is None or asked.unit != "Hz" or not tones or analysis.kind != "tone":
        return False
    return abs(tones[-1].value / asked.value - 1.0) > _SAME_FREQUENCY


def _answer(request: Request, figure: CaptureFigure, channel: str, kit: BenchKit) -> CaptureAnswer | None:
    unit = "%" if figure.name.endswith("_pct") else figure.unit
    u = _u(figure, unit, kit)
    if request.form == "power" and unit == "V":
        load = request.setting("load")
        if load is None:
            return None
        # P = v^2 / R.
        u = None if u is None else 2.0 * figure.value * u / load.value
    elif unit != request.unit:
        return None
    value = abs(figure.value) if request.form == "magnitude" else figure.value
    rms, across = f"{unit} rms", f"{unit}pp"
    ending = {"level": rms, "power": rms, "ripple": across, "swing": across}.get(request.form, unit)
    return CaptureAnswer(label_of(figure.name), f"{value:.6g} {ending}".strip(), u, channel, figure.name)


def _u(figure: CaptureFigure, unit: str, kit: BenchKit) -> float | None:
    """Half the spread, and what the scope's own volts may be off by; a clamp's share nobody stated."""
    own = 0.5 * figure.spread
    if unit in ("s", "Hz", "%", ""):
        return own
    scope = kit.of(Role.SCOPE)
    if scope.accuracy is None or unit != "V":
        return None
    return math.hypot(own, scope.accuracy / math.sqrt(3.0) * abs(figure.value))
