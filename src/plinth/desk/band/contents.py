"""What each station says: its two figures, its reading, its worst margin. Words only, no widgets."""

import dataclasses

from plinth.bench.clip_cell import clip_subject, conditions_of
from plinth.builds.build import Build
from plinth.builds.stations import station
from plinth.desk.session import BenchSession
from plinth.judge.state import State, worst
from plinth.physics.heat import rises
from plinth.physics.mains.lamp import glow
from plinth.predict.prediction import Prediction
from plinth.record.reading import Reading
from plinth.units.shown import shown, shown_with_spread, split


@dataclasses.dataclass(frozen=True)
class StationContent:
    """``main`` the figure that leads (``predicted`` paints it as one), ``aside`` small beside it, ``below`` a line.

    ``read`` a reading's line, which takes the place of ``below`` where there is one; ``shorter`` stands for
    ``below`` where that does not fit, ``brief`` for ``main``.
    """

    title: str
    state: State
    main: str
    aside: str = ""
    below: str = ""
    read: str = ""
    shorter: str = ""
    brief: str = ""
    predicted: bool = False


def station_contents(session: BenchSession) -> dict[str, StationContent]:
    """The content of all eight stations."""
    build, prediction = session.build, session.predictions.prediction
    states = {
        key: worst([m.state for m in session.predictions.margins if m.station == key])
        for key in ("entry", "transformer", "reservoir", "rails", "module", "protection", "load")
    }
    at_wall = [m.state for m in session.predictions.margins if m.station == "wall"]
    states["wall"] = worst(at_wall) if at_wall else State.CLEAR if prediction is not None else State.UNKNOWN
    contents = _parts(build, session, states)
    return contents if prediction is None else _with_figures(contents, session, prediction)


def _parts(build: Build, session: BenchSession, states: dict[str, State]) -> dict[str, StationContent]:
    situation, module = session.situation, build.module
    modules = len(build.channels) * build.modules_per_channel
    load = situation.load(build)
    rated = "" if build.load.p_carried_w is None else f"{build.load.p_carried_w:g} W"
    if abs(load - build.load.r_ohm) > 1e-9:
        rated = "what if"
    each = f" × {len(build.channels)}" if build.one_supply_per_channel else ""
    return {
        **_source_stations(build, session, states),
        "entry": StationContent(
            "Entry", states["entry"], f"{build.entry.fuse_kind} {build.entry.fuse_a_rms:g} A", "fuse"
        ),
        "reservoir": StationContent(
            build.supply.reservoir_name, states["reservoir"],
            f"{'' if build.supply.single_rail else '2 × '}{shown(build.supply.reservoir.c_f, 'F', 2)}",
            f"{build.supply.reservoir.v_rated:g} V{each}",
        ),
        "rails": StationContent("Rails", states["rails"], "–"),
        "module": StationContent(
            f"Module{'s, bridged' if build.wiring == 'bridged' else ''}", states["module"], module.name,
            f"× {modules}" if modules > 1 else "",
        ),
        "protection": StationContent(
            "Protection", states["protection"], f"{build.protection.mute_s:g} s", "mute",
            f"settles in {module.settling_s:g} s",
        ),
        "load": StationContent("Load", states["load"], f"{load:g} Ω", rated),
    }  # fmt: skip


def _source_stations(build: Build, session: BenchSession, states: dict[str, State]) -> dict[str, StationContent]:
    """Wall and transformer, or what stands in their place."""
    situation = session.situation
    wall = StationContent(
        "Wall", states["wall"], f"{situation.mains_rms(build):.0f} V", f"{situation.frequency_of_mains(build):g} Hz"
    )
    instead = build.supply.instead_of_wall(situation.battery(build))
    if instead is not None:
        name, volts, beside = instead
        wall = StationContent(name, states["wall"], volts, beside)
    volts, rated = build.supply.rated_words
    count = f"{len(build.channels)} × " if build.one_supply_per_channel else ""
    made = StationContent(station(build, "transformer").title, states["transformer"], volts, f"{count}{rated}")
    return {"wall": wall, "transformer": made}


def _with_figures(
    contents: dict[str, StationContent], session: BenchSession, prediction: Prediction
) -> dict[str, StationContent]:
    build, situation = session.build, session.situation
    who = "all" if situation.channels_driven == "all" and len(build.channels) > 1 else "one"
    rails = [prediction.get(name) for name in ("rail_plus_mean_v", "rail_minus_mean_v")]
    rail = min((f for f in rails if f is not None), key=lambda f: f.value)
    power = prediction["output_power_w"]
    level = "at clip" if situation.level == 1.0 else f"at {100 * situation.level:.0f} %"
    if situation.lamp_w is not None:
        level = "at rest"
    clip = clip_reading(session)
    sign = "" if build.supply.single_rail else "±"
    ripple = f"{shown(prediction['rail_plus_ripple_v_pp'].value, 'V', 2)}pp"
    rest = prediction["rail_no_load_v"].value
    below = {
        **_source_lines(prediction),
        "reservoir": (f"ripple {ripple}", ripple),
        "rails": (f"no load {sign}{shown(rest, 'V')}", f"idle {sign}{rest:.0f} V"),
        "module": (f"drive {shown(prediction['drive_v_rms'].value, 'V')}", ""),
        "protection": (contents["protection"].below, ""),
        "load": (_load_time(session, power.value), _load_time(session, power.value).removesuffix(" from cold")),
    }
    filled = {
        key: dataclasses.replace(content, below=below[key][0], shorter=below[key][1])
        for key, content in contents.items()
    }
    filled["rails"] = dataclasses.replace(
        filled["rails"], main=sign + shown_with_spread(rail.value, rail.spread, "V"), aside=level, predicted=True,
        brief=f"{sign}{shown(rail.value, 'V')}",
    )  # fmt: skip
    filled["module"] = dataclasses.replace(
        filled["module"],
        main=shown_with_spread(power.value, power.spread, "W"),
        brief=shown(power.value, "W"),
        aside=f"{situation.load(build):g} Ω {who}",
        read="" if clip is None else f"read {clip.bound.sign}{' '.join(split(clip.value, 'W'))}",
        predicted=True,
    )
    return filled


def _source_lines(prediction: Prediction) -> dict[str, tuple[str, str]]:
    """The line below wall, entry and transformer (or what stands there), and a shorter one."""
    lines = {"wall": ("", ""), "entry": ("", ""), "transformer": ("", "")}
    if prediction.wall is not None:
        rms = f"{shown(prediction['primary_rms_a'].value, 'A')} rms"
        lines["wall"] = (f"{rms}, PF {prediction['power_factor'].value:.2f}", rms)
    inrush = prediction.get("inrush_peak_a")
    second = prediction.get("bridged_peak_a")
    if inrush is not None and second is not None and second.value > inrush.value:
        lines["entry"] = (f"surge {shown(second.value, 'A', 2)}, bridged", "")
    elif inrush is not None:
        lines["entry"] = (f"inrush {shown(inrush.value, 'A', 2)}", "")
    if prediction.solution.lamp is not None:
        lamp = prediction.solution.lamp
        lines["entry"] = (f"{lamp.lamp.p_rated_w:g} W lamp, {glow(lamp.t_k)}", f"{lamp.lamp.p_rated_w:g} W lamp")
    if prediction.battery is not None:
        amperes = f"{shown(prediction['battery_i_mean_a'].value, 'A')}"
        lines["wall"] = (f"{amperes}, {shown(prediction['battery_v'].value, 'V')} under load", amperes)
        lines["entry"] = (f"runs {prediction['run_time_s'].value / 3600:.1f} h, music", "")
    winding, supply = prediction.get("winding_programme_ratio"), prediction.get("supply_programme_ratio")
    ratio = winding or supply
    if ratio is not None:
        words = f"{ratio.value:.2f} × {'rated' if winding else 'continuous'}"
        lines["transformer"] = (f"{words}, music", words)
    elif prediction.build.supply.set_by_hand:
        lines["transformer"] = (f"{shown(prediction['rail_plus_load_mean_a'].value, 'A')} per rail", "")
    return lines


def _load_time(session: BenchSession, power_w: float) -> str:
    part = session.build.load
    if abs(session.situation.load(session.build) - part.r_ohm) > 1e-9:
        return "no part chosen"
    if part.p_carried_w is None:
        return "rating not stated"
    if power_w <= part.p_carried_w:
        return "may stay on"
    if part.time_constant_s is None:
        return "seconds only"
    return f"{rises.time_to_rated_rise_s(power_w, part.p_carried_w, part.time_constant_s):.0f} s from cold"


def clip_reading(session: BenchSession) -> Reading | None:
    """The clipping reading for just this situation: this load at nominal mains, these channels, at clip."""
    build, situation = session.build, session.situation
    as_measured = situation.level == 1.0 and situation.frequency_hz == 1000.0
    if not as_measured or abs(situation.load(build) - build.load.r_ohm) > 1e-9:
        return None
    nominal = 0.0 if build.mains is None else build.mains.v_nominal_rms
    if abs(situation.mains_rms(build) - nominal) > 0.02 * nominal:
        return None
    for channel in build.channels:
        if session.predictions.prediction is None:
            break
        conditions = conditions_of(session.predictions.prediction, build.load)
        reading = session.records.reading(
            clip_subject(build, channel, situation.channels_driven, build.load), conditions
        )
        if reading is not None:
            return reading
    return None
