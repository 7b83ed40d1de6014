"""What each station says: its two figures, its reading, its worst margin. Words only, no widgets."""

import dataclasses

from plinth.builds.build import Build
from plinth.desk.session import BenchSession
from plinth.judge.reading import Reading
from plinth.judge.state import State, worst
from plinth.physics import heat
from plinth.predict.solve import Prediction
from plinth.units.shown import shown, shown_with_spread, split


@dataclasses.dataclass(frozen=True)
class StationContent:
    """``main`` the figure that leads (``predicted`` paints it as one), ``aside`` small beside it, ``below`` a line.

    ``read`` a reading's line, which takes the place of ``below`` where there is one; ``shorter`` stands for
    ``below`` where that does not fit.
    """

    title: str
    state: State
    main: str
    aside: str = ""
    below: str = ""
    read: str = ""
    shorter: str = ""
    predicted: bool = False


def station_contents(session: BenchSession) -> dict[str, StationContent]:
    """The content of all eight stations."""
    build, prediction = session.build, session.prediction
    states = {
        key: worst([m.state for m in session.margins if m.station == key])
        for key in ("entry", "transformer", "reservoir", "rails", "module", "protection", "load")
    }
    states["wall"] = State.CLEAR if prediction is not None else State.UNKNOWN
    contents = _parts(build, session, states)
    return contents if prediction is None else _with_figures(contents, session, prediction)


def _parts(build: Build, session: BenchSession, states: dict[str, State]) -> dict[str, StationContent]:
    situation, supply, module = session.situation, build.supply, build.module
    channels = len(build.channels)
    half = f"{supply.transformer.v_secondary_rms:g}"
    tap = supply.transformer.secondaries == "centre_tap"
    load = situation.load(build)
    rated = "" if build.load.p_rated_w is None else f"{build.load.p_rated_w:g} W"
    if abs(load - build.load.r_ohm) > 1e-9:
        rated = "what if"
    return {
        "wall": StationContent(
            "Wall", states["wall"], f"{situation.mains_rms(build):.0f} V", f"{situation.frequency_of_mains(build):g} Hz"
        ),
        "entry": StationContent(
            "Entry", states["entry"], f"{build.entry.fuse_kind} {build.entry.fuse_a_rms:g} A", "fuse"
        ),
        "transformer": StationContent(
            "Transformer", states["transformer"], f"{half}-0-{half}" if tap else f"2 × {half} V",
            f"{supply.transformer.va:g} VA",
        ),
        "reservoir": StationContent(
            "Reservoir", states["reservoir"], f"2 × {shown(supply.reservoir.c_f, 'F', 2)}",
            f"{supply.reservoir.v_rated:g} V",
        ),
        "rails": StationContent("Rails", states["rails"], "–"),
        "module": StationContent("Module", states["module"], module.name, f"× {channels}" if channels > 1 else ""),
        "protection": StationContent(
            "Protection", states["protection"], f"{build.protection.mute_s:g} s", "mute",
            f"settles in {module.settle_s:g} s",
        ),
        "load": StationContent("Load", states["load"], f"{load:g} Ω", rated),
    }  # fmt: skip


def _with_figures(
    contents: dict[str, StationContent], session: BenchSession, prediction: Prediction
) -> dict[str, StationContent]:
    build, situation = session.build, session.situation
    who = "all" if situation.channels_driven == "all" and len(build.channels) > 1 else "one"
    rail = min((prediction["rail_plus_mean_v"], prediction["rail_minus_mean_v"]), key=lambda f: f.value)
    power = prediction["output_power_w"]
    level = "at clip" if situation.level == 1.0 else f"at {100 * situation.level:.0f} %"
    clip = clip_reading(session)
    below = {
        "wall": f"{shown(prediction['primary_rms_a'].value, 'A')} rms, PF {prediction['power_factor'].value:.2f}",
        "entry": f"inrush {shown(prediction['inrush_peak_a'].value, 'A', 2)}",
        "transformer": f"{prediction['winding_programme_ratio'].value:.2f} × rated, music",
        "reservoir": f"ripple {shown(prediction['rail_plus_ripple_v_pp'].value, 'V', 2)}pp",
        "rails": f"no load ±{shown(prediction['rail_no_load_v'].value, 'V')}",
        "module": f"drive {shown(prediction['drive_v_rms'].value, 'V')}",
        "protection": contents["protection"].below,
        "load": _load_time(session, power.value),
    }
    shorter = {
        "wall": f"{shown(prediction['primary_rms_a'].value, 'A')} rms",
        "transformer": f"{prediction['winding_programme_ratio'].value:.2f} × rated",
        "reservoir": f"{shown(prediction['rail_plus_ripple_v_pp'].value, 'V', 2)}pp",
        "rails": f"idle ±{prediction['rail_no_load_v'].value:.0f} V",
        "load": _load_time(session, power.value).removesuffix(" from cold"),
    }
    filled = {
        key: dataclasses.replace(content, below=below[key], shorter=shorter.get(key, ""))
        for key, content in contents.items()
    }
    filled["rails"] = dataclasses.replace(
        filled["rails"], main="±" + shown_with_spread(rail.value, rail.spread, "V"), aside=level, predicted=True
    )
    filled["module"] = dataclasses.replace(
        filled["module"],
        main=shown_with_spread(power.value, power.spread, "W"),
        aside=f"{situation.load(build):g} Ω {who}",
        read="" if clip is None else f"read {' '.join(split(clip.value, 'W'))}",
        predicted=True,
    )
    return filled


def _load_time(session: BenchSession, power_w: float) -> str:
    part = session.build.load
    if abs(session.situation.load(session.build) - part.r_ohm) > 1e-9:
        return "no part chosen"
    if part.p_rated_w is None:
        return "rating not stated"
    if power_w <= part.p_rated_w:
        return "may stay on"
    if part.time_constant_s is None:
        return "seconds only"
    return f"{heat.time_to_rated_rise_s(power_w, part.p_rated_w, part.time_constant_s):.0f} s from cold"


def clip_reading(session: BenchSession) -> Reading | None:
    """The clipping reading for just this situation: this load at nominal mains, these channels, at clip."""
    build, situation = session.build, session.situation
    as_measured = situation.level == 1.0 and situation.frequency_hz == 1000.0
    if not as_measured or abs(situation.load(build) - build.load.r_ohm) > 1e-9:
        return None
    if abs(situation.mains_rms(build) - build.mains.v_nominal_rms) > 0.02 * build.mains.v_nominal_rms:
        return None
    for channel in build.channels:
        found = session.reading(f"clip/{channel}/{situation.channels_driven}/{build.load.name}")
        if found is not None:
            return found
    return None
