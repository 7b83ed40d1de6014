"""Rules of how a build is put together: mains side, earth, ground, inputs, mounting. Facts that are said, no figures.

Each holds once its fact is said; what of them matters for safety and is not said stands in one margin of its own.
Sources: IEC 62368-1 for what may stay live and what is bonded; where builders hold different schools, the sentence says
which one is followed here and why, and the choice is the builder's. Local electrical codes come first.
"""

from plinth.builds.build import Build
from plinth.judge.making import make_margin, said_margin, stated
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.predict.prediction import Prediction
from plinth.units.shown import shown

# What a sink takes away in other places than on edge in free air, after the usual makers' tables for natural flow.
MOUNTED = {"vertical": 1.0, "flat": 1.25, "inside": 1.6}
# An indicator's own drop and the most that usual ones bear; a resistor near its rating browns what it stands on.
LED_V, LED_A, LED_DERATED = 2.0, 0.020, 0.5
_SAFETY = {"fuse_in": "fuse", "switch_in": "switch", "earth": "earth of the case"}


def wiring_said(build: Build, _prediction: Prediction) -> Margin | None:
    """What of the mains side nobody has said: unknown is not safe."""
    if build.mains is None or not build.supply.from_the_wall:
        return None
    missing = [words for field, words in _SAFETY.items() if getattr(build.hookup, field) is None]
    if not missing:
        return None
    return said_margin(
        "wiring_said", "Mains wiring", "rails", state=State.UNKNOWN, said="not said",
        words="fuse, switch and earth known", sentence=f"Not said: {', '.join(missing)}. Unknown is not safe.",
        fix="Say how it is wired, or take one of the shelf; keep to local code.",
    )  # fmt: skip


def fuse_conductor(build: Build, _prediction: Prediction) -> Margin | None:
    """The fuse belongs into the live conductor: in the neutral it leaves everything live when it blows."""
    place = build.hookup.fuse_in
    if place is None or build.mains is None:
        return None
    return said_margin(
        "fuse_conductor", "Fuse, which conductor", "rails",
        state={"live": State.CLEAR, "both": State.CLOSE}.get(place, State.OVER), said=f"in {place}", words="in live",
        sentence={
            "live": "A blown fuse leaves nothing live behind it.",
            "both": "Where the one in the neutral blows first, all stays live behind the other.",
            "neutral": "A blown fuse in the neutral leaves the whole primary live: it looks dead and is not.",
        }[place],
        fix=""
        if place == "live"
        else "Put the fuse into the live conductor, ahead of the switch; local code comes first.",
    )  # fmt: skip


def switch_conductor(build: Build, _prediction: Prediction) -> Margin | None:
    """A switch in the live conductor, or in both: in the neutral alone the inside stays live when off."""
    place = build.hookup.switch_in
    if place is None or build.mains is None:
        return None
    return said_margin(
        "switch_conductor", "Switch, which conductor", "rails",
        state=State.OVER if place == "neutral" else State.CLEAR, said=f"in {place}", words="in live or in both",
        sentence={
            "live": "Off leaves only the wire up to the switch live.",
            "both": "Off parts both conductors, so that a turned plug leaves nothing live.",
            "neutral": "Off leaves fuse, primary and every terminal live.",
        }[place],
        fix="Switch the live conductor, or both with a two-pole switch." if place == "neutral" else "",
    )  # fmt: skip


def switch_way(build: Build, _prediction: Prediction) -> Margin | None:
    """A two-way switch with live on its common: off puts the mains on the empty throw, a bare terminal."""
    way = build.hookup.switch_way
    if way is None or build.mains is None:
        return None
    bad = way == "two-way, live on common"
    return said_margin(
        "switch_way", "Switch, its empty throw", "rails", state=State.OVER if bad else State.CLEAR, said=way,
        words="nothing live on it",
        sentence="Off puts the live conductor on a bare terminal of the switch."
        if bad
        else "Off leaves no bare terminal live.",
        fix="Wire live to a throw and the load to the common, or take a one-way switch." if bad else "",
    )  # fmt: skip


def earth(build: Build, _prediction: Prediction) -> Margin | None:
    """A metal case is bonded to protective earth, whatever the audio ground does."""
    said = build.hookup.earth
    if said is None or build.mains is None:
        return None
    state = {"bonded": State.CLEAR, "lifter": State.CLEAR, "insulated": State.CLOSE}.get(said, State.OVER)
    return said_margin(
        "earth", "Earth of the case", "rails", state=state, said=said, words="case bonded, under 0.2 Ω",
        sentence={
            "bonded": "A live wire that comes loose blows the fuse and leaves the case at earth.",
            "lifter": "The case itself is bonded; the circuit hangs on it through diodes that carry a fault.",
            "insulated": "Insulated twice throughout asks for clearances that a home-made case seldom keeps.",
            "none": "A live wire that comes loose makes the case deadly, and the fuse stays whole.",
        }[said],
        fix={
            "insulated": "Bond the case to protective earth unless every clearance was checked.",
            "none": "Bond the case to protective earth with a bolt of its own, under 0.2 Ω, before anything else.",
        }.get(said, ""),
    )  # fmt: skip


def ground_school(build: Build, _prediction: Prediction) -> Margin | None:
    """Star or plane: both work; which one is followed here, and what it asks for."""
    ground = build.hookup.ground
    if ground is None:
        return None
    several = len(build.channels) > 1 and not build.one_supply_per_channel
    state = State.CLOSE if ground == "plane" and several else State.CLEAR
    return said_margin(
        "ground_school", "Audio ground", "rails", state=state, said=ground, words="two schools",
        sentence={
            "star": "Schools differ. Star is followed here: charging pulses and loudspeaker returns meet the signal in "
            "one point only, between the reservoirs. Keep each return a wire of its own.",
            "plane": "Schools differ. A plane keeps loops small and suits one board; with several boards on one supply "
            "charging pulses cross the sheet under the inputs.",
        }[ground],
        fix="Keep charging pulses off the sheet: join it to the reservoirs in one place."
        if state is State.CLOSE
        else "",
    )  # fmt: skip


def filter_school(build: Build, prediction: Prediction) -> Margin | None:
    """A straight reservoir, or a resistor or choke after it: what the build follows and what it costs."""
    supply = build.supply
    if supply.transformer is None:
        return None
    extra = supply.smoothing
    if extra is None:
        return said_margin(
            "filter_school", "Filter after the reservoir", "reservoir", state=State.CLEAR, said="none",
            words="schools differ",
            sentence="Schools differ. A straight reservoir is followed here: all watts, and the "
            "module's rejection holds the "
            "ripple.",
            fix="",
        )  # fmt: skip
    drop = stated("filter_drop_v", "drop in the filter", prediction["rail_plus_load_mean_a"].value * extra.r_ohm, "V",
                  extra.name)  # fmt: skip
    limit = 0.05 * prediction["rail_no_load_v"].value
    return make_margin(
        "filter_school", "Filter after the reservoir", "reservoir", figure=drop, limit=limit, words="5 % of the rail",
        sentences={
            State.CLEAR: f"Schools differ. {extra.name} takes little and leaves less ripple.",
            State.CLOSE: f"Schools differ. {extra.name} takes about as many watts as it is worth.",
            State.OVER: f"Schools differ. {extra.name} costs more rail than the ripple it takes away.",
        },
        fix="Less resistance, a choke in its place, or no second stage.",
    )  # fmt: skip


def unused_leg(build: Build, _prediction: Prediction) -> Margin | None:
    """A differential input that is driven from one side has its other leg tied to the source's ground."""
    said = build.hookup.unused_leg
    if said is None or build.module.inputs != "differential":
        return None
    tied = said == "tied"
    return said_margin(
        "unused_leg", "Unused leg of the input", "rails", state=State.CLEAR if tied else State.OVER, said=said,
        words="tied",
        sentence="Both legs see the source, and what they share cancels."
        if tied
        else "An open leg picks up hum and may put the output on a rail.",
        fix="" if tied else "Tie it to the source's ground, at the source.",
    )  # fmt: skip


def reverse_polarity(build: Build, _prediction: Prediction) -> Margin | None:
    """Something keeps swapped rails from the boards: a keyed plug, diodes, or the board itself."""
    said, stands = build.hookup.reverse, build.module.reverse_protected
    if said is None and stands is None:
        return None
    words = said or ("the board stands it" if stands else "none")
    if stands or said == "keyed":
        state, sentence = State.CLEAR, "Rails cannot reach the boards the wrong way round, or do no harm."
    elif said == "diodes":
        state, sentence = State.CLOSE, "Diodes across the rails blow the fuse before the boards go, mostly."
    else:
        state, sentence = State.OVER, "Rails plugged the wrong way round destroy every board on them at once."
    return said_margin(
        "reverse_polarity", "Swapped rails", "rails", state=state, said=words, words="keyed, or the board stands it",
        sentence=sentence,
        fix=""
        if state is State.CLEAR
        else "Keyed connectors, each tried once with a meter before a board hangs on it.",
    )  # fmt: skip


def own_bridge(build: Build, _prediction: Prediction) -> Margin | None:
    """A board with a rectifier of its own on rails that are rectified already: two more drops, or a bypass."""
    if not build.module.own_rectifier:
        return None
    said = build.hookup.own_bridge
    if said == "bypassed":
        return said_margin(
            "own_bridge", "Board's own bridge", "module", state=State.CLEAR, said=said,
            words="bypassed, + to + and − to −", sentence="Bypassed on the board: it takes no volts and no heat.",
            fix="",
        )  # fmt: skip
    return said_margin(
        "own_bridge", "Board's own bridge", "module", state=State.CLOSE if said == "kept" else State.UNKNOWN,
        said=said or "not said", words="bypassed, or kept on purpose",
        sentence="The rails pass a second rectifier on the board: about 1 V less on each, and heat in its diodes.",
        fix="Feed the winding to the board, or bypass its bridge: + to the + capacitor, − to the − one, never crossed.",
    )  # fmt: skip


def mounted(build: Build, prediction: Prediction) -> Margin | None:
    """Where the sink stands: lying flat or inside a case it takes less away than its sheet says."""
    place = build.hookup.mounting
    if place is None or build.sink.r_k_per_w is None:
        return None
    air = prediction.situation.ambient_c
    hottest = max(prediction["sink_c"].value, prediction["sink_idle_c"].value)
    there = air + (hottest - air) * MOUNTED[place]
    return make_margin(
        "mounted", "Sink where it stands", "module",
        figure=stated("sink_mounted_c", "sink as mounted", there, "°C", place), limit=build.sink.t_limit_c,
        words=f"at most {build.sink.t_limit_c:g} °C",
        sentences={
            State.CLEAR: f"Even {_PLACE[place]} it stays below its limit.",
            State.CLOSE: f"{_PLACE[place].capitalize()} it comes near its limit.",
            State.OVER: f"{_PLACE[place].capitalize()} it takes away {MOUNTED[place]:g} times less than free on edge.",
        },
        fix="Stand it on edge in free air, or give it vents above and below.",
    )  # fmt: skip


_PLACE = {"vertical": "on edge in free air", "flat": "lying flat", "inside": "inside a case"}


def air_gap(build: Build, _prediction: Prediction) -> Margin | None:
    """A spacer taller than the package leaves the device's tab hanging above the sink."""
    gap = build.sink.air_gap_m
    if gap is None:
        return None
    return make_margin(
        "air_gap", "Gap under the devices", "module",
        figure=stated("air_gap_m", "air gap", gap, "m", build.sink.name), limit=50e-6,
        words="at most 0.05 mm, as paste fills",
        sentences={
            State.CLEAR: "Paste fills what is left under the tabs.",
            State.CLOSE: "Paste just fills what is left under the tabs.",
            State.OVER: "The tabs hang above the sink: heat has to cross air, and the board bends when it is screwed.",
        },
        fix="A spacer as tall as package and pad, or one washer less.",
    )  # fmt: skip


def insulation(build: Build, prediction: Prediction) -> Margin | None:
    """The pad's voltage against the rails: tabs are at a rail or at the output."""
    pad = build.insulator
    if not pad.fitted:
        return None
    rail = prediction["rail_no_load_high_v"]
    return make_margin(
        "insulation", "Pad under the devices", "module", figure=rail,
        limit=None if pad.v_rated is None else 0.2 * pad.v_rated,
        words="not stated" if pad.v_rated is None else f"a fifth of {pad.v_rated:g} V",
        sentences={
            State.CLEAR: "The pad holds the rail with room for a scratch.",
            State.CLOSE: "The pad holds the rail, with little room for a burr or a scratch.",
            State.UNKNOWN: "Nobody states what this pad holds: measure tab to sink, open, before power.",
            State.OVER: "The pad is too weak for this rail: a burr puts it on the case.",
        },
        fix="Type it from the sheet."
        if pad.v_rated is None
        else "Another pad; measure tab to sink, open, before power.",
    )  # fmt: skip


def speech_only(build: Build, prediction: Prediction) -> Margin | None:
    """What serves for speech only: figures for its crest, and told so."""
    if build.hookup.use != "speech":
        return None
    crest = prediction.situation.crest_db
    return make_margin(
        "speech_only", "For speech only", "rails",
        figure=stated("crest_db", "crest of the programme", crest, "dB", "what if"), limit=15.0,
        words="speech, 15 dB of crest or more",
        sentences={
            State.CLEAR: "Heat and supply are judged for speech: nothing louder may be played through it.",
            State.CLOSE: "Heat and supply are judged for something denser than speech.",
            State.OVER: "Built for speech, but judged for music: it is hotter here than it will be.",
        },
        fix="Set the programme to speech, 15 dB, and write on the case that it is for speech.", floor=True,
    )  # fmt: skip


def led_heat(build: Build, prediction: Prediction) -> Margin | None:
    """The resistor of an indicator on a rail: what it turns into heat at high mains without load."""
    part, rail = build.hookup, prediction.get("rail_no_load_high_v")
    if part.r_led_ohm is None or rail is None:
        return None
    volts = max(rail.value - LED_V, 0.0)
    heat = stated("led_w", "heat", volts**2 / part.r_led_ohm, "W", f"({shown(rail.value, 'V')} − {LED_V:g} V)² / R")
    rated = part.p_led_w
    return make_margin(
        "led_heat", "Indicator's resistor, heat", "rails", figure=heat,
        limit=None if rated is None else LED_DERATED * rated,
        words="rating not stated" if rated is None else f"half of its {shown(rated, 'W')}",
        sentences={
            State.CLEAR: "It stays cool enough to touch its board for years.",
            State.CLOSE: "It gets hot, and browns its board over the years.",
            State.OVER: "It overheats on a high rail.",
            State.UNKNOWN: "Nobody states what it may turn into heat.",
        },
        fix="A larger rating, two in series, or a larger value: an indicator is bright enough at 2 mA.",
    )  # fmt: skip


def led_current(build: Build, prediction: Prediction) -> Margin | None:
    """The current through an indicator on a rail, against what usual ones bear."""
    part, rail = build.hookup, prediction.get("rail_no_load_high_v")
    if part.r_led_ohm is None or rail is None:
        return None
    current = max(rail.value - LED_V, 0.0) / part.r_led_ohm
    return make_margin(
        "led_current", "Indicator, current", "rails",
        figure=stated("led_a", "current", current, "A", "through its resistor"), limit=LED_A,
        words=f"at most {shown(LED_A, 'A')}, usual",
        sentences={
            State.CLEAR: "The indicator lasts.",
            State.CLOSE: "The indicator is as bright as it may be.",
            State.OVER: "The indicator burns out.",
        },
        fix=f"At least {shown(max(rail.value - LED_V, 0.0) / LED_A, 'ohm', 2)} ahead of it.",
    )  # fmt: skip


RULES = (
    wiring_said, fuse_conductor, switch_conductor, switch_way, earth, ground_school, filter_school, unused_leg,
    reverse_polarity,
    own_bridge, mounted, air_gap, insulation, speech_only, led_heat, led_current,
)  # fmt: skip
