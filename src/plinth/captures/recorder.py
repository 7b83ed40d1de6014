"""The recorder's own share: what a loop-back (its output into its input) tells, taken off where that is honest."""

import dataclasses
import math

from plinth.captures.capture import CaptureError
from plinth.captures.figure import Analysis, CaptureFigure, ChannelFigures

# A line of unknown phase within this of the recorder's own says nothing of the amplifier.
LIMIT_DB = 10.0
# Powers are taken from each other where the whole is more than this over the recorder's.
_LEAST_OVER = 1.4
_RESPONSES = ("gain_",)
_NOISES = ("noise_", "hum_")


def without_recorder(analysis: Analysis, own: Analysis) -> Analysis:
    """The figures with the recorder's own share taken off in magnitude; ``own`` its loop-back, of the same kind.

    Responses are divided; noise is taken off as power; distortion, whose phase in the recorder is not known, keeps its
    value with a wider spread, and is left out within 10 dB of the recorder's own. Raises CaptureError for another kind.
    """
    if analysis.kind != own.kind:
        raise CaptureError(f"found a loop-back read as {own.kind}, expected {analysis.kind} as the capture is")
    remarks: list[str] = []
    channels = []
    for k, channel in enumerate(analysis.channels):
        # The output of the amplifier, and of the loop, stands last.
        its = own.channels[-1] if k == len(analysis.channels) - 1 else None
        if its is None:
            channels.append(channel)
            continue
        figures = [_without(figure, its, remarks) for figure in channel.figures]
        channels.append(ChannelFigures(channel.name, tuple(figure for figure in figures if figure is not None)))
    return Analysis(analysis.kind, tuple(channels), (*analysis.remarks, *remarks))


def _without(figure: CaptureFigure, own: ChannelFigures, remarks: list[str]) -> CaptureFigure | None:
    name = figure.name
    if name not in own or own[name].unit != figure.unit:
        return figure
    its = own[name]
    if name.startswith(_RESPONSES):
        return _changed(figure, figure.value - its.value, math.hypot(figure.spread, its.spread), "divided by")
    if name.startswith(_NOISES):
        if figure.value < _LEAST_OVER * its.value:
            remarks.append(
                f"{name}: found {figure.value:.3g} {figure.unit}, of the recorder alone {its.value:.3g}: it tells of "
                "the recorder, not of the amplifier."
            )
            return None
        left = math.sqrt(figure.value**2 - its.value**2)
        spread = math.hypot(figure.value * figure.spread, its.value * its.spread) / left
        return _changed(figure, left, spread, "without the power of")
    if _is_distortion(name):
        over = figure.value - its.value if name != "sinad_db" else its.value - figure.value
        if over < LIMIT_DB:
            limit = its.value + LIMIT_DB if name != "sinad_db" else its.value - LIMIT_DB
            remarks.append(
                f"{name}: found {figure.value:.1f} dB, of the recorder alone {its.value:.1f}: "
                f"{'above' if name == 'sinad_db' else 'below'} {limit:.1f} dB it tells of the recorder."
            )
            return None
        # Of unknown phase it may stand with or against what is measured.
        wider = 20.0 * math.log10(1.0 / (1.0 - 10.0 ** (-over / 20.0)))
        return _changed(figure, figure.value, figure.spread + wider, "spread by")
    return figure


def _is_distortion(name: str) -> bool:
    return name.startswith(("thd", "imd", "sinad")) or (name.startswith("h") and name.endswith("_db"))


def _changed(figure: CaptureFigure, value: float, spread: float, how: str) -> CaptureFigure:
    return dataclasses.replace(
        figure, value=value, spread=spread, definition=f"{figure.definition}; {how} the recorder's own, by loop-back"
    )
