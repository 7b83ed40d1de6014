"""Limits of protection and load."""

import dataclasses

from plinth.builds.build import Build
from plinth.judge.making import make_margin, stated
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction


def load_minimum(build: Build, prediction: Prediction) -> Margin:
    """The load against the lowest that the module's maker allows."""
    load = prediction.situation.load(build)
    least = build.module.r_load_min_ohm
    return make_margin(
        "load_minimum", "Load resistance", "load",
        figure=stated("load_ohm", "load", load, "ohm", build.load.name), limit=least, words=f"at least {least:g} Ω",
        sentences={
            State.CLEAR: "The load is one that the module may drive.",
            State.CLOSE: "The load is about the lowest that the module may drive.",
            State.OVER: "The load is lower than the module may drive.",
        },
        fix="Choose a load of higher resistance.", floor=True, limit_of=(build.module, "r_load_min_ohm"),
    )  # fmt: skip


def mute_outlasts_settling(build: Build, _prediction: Prediction) -> Margin:
    """Muting delay against the time the output takes to come to rest."""
    settle = build.module.settling_s
    if build.module.settle_s is None:
        return make_margin(
            "mute_settling",
            "Mute outlasts settling",
            "protection",
            figure=stated("mute_s", "muting delay", build.protection.mute_s, "s", build.protection.name),
            limit=None,
            words="not stated when the output is at rest",
            sentences={
                State.UNKNOWN: f"Nobody states how long the output moves after switch-on; {settle:g} s would be usual."
            },
            fix="Watch the output at first power and type the time.",
        )
    return make_margin(
        "mute_settling", "Mute outlasts settling", "protection",
        figure=stated("mute_s", "muting delay", build.protection.mute_s, "s", build.protection.name), limit=settle,
        words=f"output at rest after {settle:g} s",
        sentences={
            State.CLEAR: f"The output moves for {settle:g} s after switch-on; the relay waits longer.",
            State.CLOSE: f"The output moves for {settle:g} s after switch-on; the relay hardly waits longer.",
            State.OVER: f"The output still moves when the relay closes: {settle:g} s of DC reach the loudspeaker.",
        },
        fix="A longer muting delay.", floor=True, limit_of=(build.module, "settle_s"),
    )  # fmt: skip


# Steady DC that usual voice coils stand for good; a loudspeaker's own limit is a part of a later model.
DC_LIMIT_V = 3.0


def dc_detector(build: Build, _prediction: Prediction) -> Margin:
    """Whether anything is known about the DC detector at all."""
    threshold = build.protection.dc_threshold_v
    figure = (
        None if threshold is None else stated("dc_threshold", "DC threshold", threshold, "V", build.protection.name)
    )
    return make_margin(
        "dc_detector", "DC trip", "protection", figure=figure, limit=DC_LIMIT_V, words=f"at most {DC_LIMIT_V:g} V",
        sentences={
            State.CLEAR: "Trips before a loudspeaker is harmed by steady DC.",
            State.CLOSE: "Trips near the DC that a loudspeaker stands.",
            State.OVER: "Lets more steady DC through than loudspeakers stand.",
            State.UNKNOWN: "No threshold is stated for this board: unknown is not safe.",
        },
        fix="Type the threshold from the board, or measure it.", unit="V",
    )  # fmt: skip


def _other_load(build: Build, prediction: Prediction) -> bool:
    """Whether the load looked at is a what-if value and not the part in the station."""
    return abs(prediction.situation.load(build) - build.load.r_ohm) > 1e-9


def load_rating(build: Build, prediction: Prediction) -> Margin:
    """Dummy load rating against the power at the level asked for."""
    part, other = build.load, _other_load(build, prediction)
    rated = None if other else part.p_carried_w
    words = "not stated" if rated is None else f"rated {rated:g} W"
    field = "p_rated_w" if part.p_rated_w is not None or part.p_each_w is None else "p_each_w"
    if rated is not None and field == "p_each_w":
        words = f"carries {rated:.3g} W, its hottest resistor then at its {part.p_each_w:g} W"
    return make_margin(
        "load_rating", "Load rating", "load", figure=prediction["output_power_w"], limit=rated, words=words,
        sentences={
            State.CLEAR: "The load may carry this level for good.",
            State.CLOSE: "The load runs near its rating at this level, and hot.",
            State.UNKNOWN: "A what-if load is no part, so it has no rating."
            if other
            else "No rating is stated for this load: measure briefly.",
            State.OVER: "The load may carry this level only for a short time.",
        },
        fix="Choose a load of that resistance."
        if other
        else "Type the rating."
        if rated is None
        else "Keep it short, or put loads in series-parallel.",
        limit_of=None if other else (part, field),
    )  # fmt: skip


def _share_of(power: Figure, share: float) -> Figure:
    """A share of a predicted power, with its uncertainty and what that rests on."""
    rows = tuple(dataclasses.replace(row, u_figure=row.u_figure * share) for row in power.contributions)
    return dataclasses.replace(
        power, name="load_hottest_w", label="hottest resistor", value=power.value * share, u=power.u * share,
        contributions=rows,
    )  # fmt: skip


def load_network(build: Build, prediction: Prediction) -> Margin | None:
    """What the load's hottest resistor takes, where it is made of several."""
    part = build.load
    if part.network is None or prediction.situation.load_ohm is not None:
        return None
    return make_margin(
        "load_network", "Load, hottest resistor", "load",
        figure=_share_of(prediction["output_power_w"], part.hottest_share),
        limit=part.p_each_w, words="not stated" if part.p_each_w is None else f"rated {part.p_each_w:g} W each",
        sentences={
            State.CLEAR: "Every resistor of the load stays below its rating at this level.",
            State.CLOSE: "One resistor of the load is near its rating at this level.",
            State.UNKNOWN: "No rating is stated for its resistors.",
            State.OVER: "One resistor of the load is above its rating at this level: only for a short time.",
        },
        fix="Type the rating of one." if part.p_each_w is None else "Equal resistors share alike; or keep it short.",
        unit="W", limit_of=(part, "p_each_w"),
    )  # fmt: skip
