"""Rules of the signal's way: source, preamplifier, volume control, input, noise, what hangs at the output."""

import math

from plinth.builds.build import Build
from plinth.judge.making import make_margin, said_margin, stated
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.physics.materials import wire_ohm
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.units.shown import shown

# Heard a metre from a loudspeaker of 90 dB: about 25 dB, the quiet of a bedroom at night.
HEARD_V = 0.5e-3
MOST_SPARE_DB = 12.0
# A cable of a metre or two from the volume control's wiper to the input.
WIPER_F = 200e-12
# What a capacitor may hang at an output that nobody states a limit for: 10 nF is what usual coils isolate.
USUAL_C_LOAD_F = 10e-9


def _chain_gain(build: Build) -> float:
    return build.module.gain * (build.preamplifier.gain if build.preamplifier.fitted else 1.0)


def gain_to_spare(build: Build, prediction: Prediction) -> Margin | None:
    """More gain than the source needs: noise is raised with it, and the knob works in its first tenth."""
    source = prediction.situation.source_v_rms
    if source is None:
        return None
    pre = build.preamplifier.gain if build.preamplifier.fitted else 1.0
    spare = 20.0 * math.log10(source * pre / prediction["drive_v_rms"].value)
    return make_margin(
        "gain_to_spare", "Gain to spare", "module",
        figure=stated("gain_spare_db", "gain to spare", spare, "dB", "source"), limit=MOST_SPARE_DB,
        words=f"at most {MOST_SPARE_DB:g} dB",
        sentences={
            State.CLEAR: "No more gain than the source can use.",
            State.CLOSE: "Nearly more gain than the source can use.",
            State.OVER: "Most of the gain is turned away at the knob, and its noise is heard all the same.",
        },
        fix="Less gain: no preamplifier, a module of less gain, or a divider at the input.",
    )  # fmt: skip


def preamplifier_reach(build: Build, prediction: Prediction) -> Margin | None:
    """Whether the preamplifier's own output reaches the drive that clips the modules."""
    part = build.preamplifier
    if not part.fitted:
        return None
    return make_margin(
        "preamplifier_reach", "Preamplifier's swing", "module", figure=prediction["drive_v_rms"],
        limit=part.v_out_max_rms,
        words="not stated" if part.v_out_max_rms is None else f"gives {part.v_out_max_rms:g} V rms",
        sentences={
            State.CLEAR: "The preamplifier drives the modules to clipping before it clips itself.",
            State.CLOSE: "The preamplifier just drives the modules to clipping.",
            State.UNKNOWN: "Nobody states how far the preamplifier swings.",
            State.OVER: "The preamplifier clips before the modules do.",
        },
        fix="Type it from its sheet."
        if part.v_out_max_rms is None
        else "Higher rails for it, or modules of more gain.",
    )  # fmt: skip


def hum(build: Build, prediction: Prediction) -> Margin | None:
    """Ripple of the rails at rest through the module's rejection, heard in a quiet room."""
    rejection = build.module.rejection_db
    ripple = prediction.get("rail_idle_ripple_v_pp")
    if rejection is None or ripple is None:
        return None
    # A sawtooth's rms is its p-p over 2 √3.
    share = 10.0 ** (-rejection / 20.0) / (2.0 * math.sqrt(3.0))
    figure = _scaled(ripple, "hum_v_rms", "hum at the output", share)
    return make_margin(
        "hum", "Hum from the rails", "module", figure=figure, limit=HEARD_V,
        words=f"at most {shown(HEARD_V, 'V')} rms, not heard at 1 m",
        sentences={
            State.CLEAR: f"{rejection:g} dB of rejection hold {shown(ripple.value, 'V')} of ripple down.",
            State.CLOSE: "In a quiet room the ripple begins to be heard.",
            State.OVER: "The ripple is heard through the module in a quiet room.",
        },
        fix="A second filter stage, larger reservoirs, or a module of better rejection.",
    )  # fmt: skip


def _scaled(figure: Figure, name: str, label: str, share: float) -> Figure:
    return Figure(name, label, figure.value * share, "V", figure.u * share, figure.origin)


def noise(build: Build, _prediction: Prediction) -> Margin | None:
    """Noise at the loudspeaker: the module's own and the preamplifier's times its gain."""
    own = build.module.noise_v_rms
    if own is None:
        return None
    pre = build.preamplifier.noise_v_rms if build.preamplifier.fitted else 0.0
    total = math.hypot(own, (pre or 0.0) * build.module.gain)
    sentence = "" if pre is not None else " The preamplifier's own is not stated and not counted."
    return make_margin(
        "noise", "Noise at the loudspeaker", "module",
        figure=stated("noise_v_rms", "noise", total, "V", build.module.name), limit=HEARD_V,
        words=f"at most {shown(HEARD_V, 'V')} rms, not heard at 1 m",
        sentences={
            State.CLEAR: f"Not heard at a metre in a quiet room.{sentence}",
            State.CLOSE: f"Just heard in a quiet room.{sentence}",
            State.OVER: f"Heard in a quiet room.{sentence}",
        },
        fix="Less gain after the noisy stage, or a quieter preamplifier.",
    )  # fmt: skip


def volume_loading(build: Build, _prediction: Prediction) -> Margin | None:
    """A volume control against the input behind it: loaded too much, its law bends."""
    part = build.volume
    if not part.fitted or part.r_ohm is None:
        return None
    return make_margin(
        "volume_loading", "Volume control and input", "module",
        figure=stated("volume_ohm", "volume control", part.r_ohm, "ohm", part.name),
        limit=build.module.r_input_ohm / 2.0,
        words=f"at most half of the input's {shown(build.module.r_input_ohm, 'ohm')}",
        sentences={
            State.CLEAR: "The input hardly loads the wiper: the law stays as it was made.",
            State.CLOSE: "The input begins to load the wiper.",
            State.OVER: "The input loads the wiper: the law bends and gain is lost half way up.",
        },
        fix="A volume control of less resistance, or a buffer behind it.",
    )  # fmt: skip


def volume_corner(build: Build, _prediction: Prediction) -> Margin | None:
    """The wiper's resistance, at most a quarter of the whole, with the cable behind it: the treble."""
    part = build.volume
    if not part.fitted or part.r_ohm is None:
        return None
    corner = 1.0 / (2.0 * math.pi * part.r_ohm / 4.0 * WIPER_F)
    return make_margin(
        "volume_corner", "Treble behind the volume control", "module",
        figure=stated("volume_corner_hz", "corner", corner, "Hz", f"{shown(WIPER_F, 'F')} of cable, assumed"),
        limit=60e3, words="at least 60 kHz",
        sentences={
            State.CLEAR: "A metre or two of cable behind it costs no treble.",
            State.CLOSE: "A longer cable behind it begins to cost treble.",
            State.OVER: "The cable behind it costs treble at half volume.",
        },
        fix="A volume control of less resistance, a shorter cable, or a buffer.", floor=True,
    )  # fmt: skip


def volume_law(build: Build, _prediction: Prediction) -> Margin | None:
    """Ears go by ratios: a linear track does everything in its first tenth."""
    part = build.volume
    if not part.fitted or part.r_ohm is None:
        return None
    linear = part.law == "linear"
    return said_margin(
        "volume_law", "Volume control, law", "module", state=State.CLOSE if linear else State.CLEAR, said=part.law,
        words="logarithmic",
        sentence="A linear track is loud after a tenth of its way."
        if linear
        else "Equal turns sound like equal steps.",
        fix="A logarithmic one, or a resistor of a tenth from wiper to ground." if linear else "",
    )  # fmt: skip


def tracking(build: Build, _prediction: Prediction) -> Margin | None:
    """How far the channels differ at low settings."""
    part = build.volume
    if not part.fitted or part.tracking_db is None or len(build.channels) < 2:
        return None
    return make_margin(
        "tracking", "Volume control, gangs", "module",
        figure=stated("tracking_db", "gangs differ by", part.tracking_db, "dB", part.name), limit=2.0,
        words="at most 2 dB",
        sentences={
            State.CLEAR: "The stage stays in the middle at low settings.",
            State.CLOSE: "The stage moves a little at low settings.",
            State.OVER: "The stage moves to one side at low settings.",
        },
        fix="A stepped or better matched control.",
    )  # fmt: skip


def input_corner(build: Build, _prediction: Prediction) -> Margin | None:
    """The input capacitor with the input's resistance: the bass."""
    said, c = build.hookup.coupling, build.hookup.c_input_f
    if said in (None, "direct") or c is None:
        return None
    corner = 1.0 / (2.0 * math.pi * build.module.r_input_ohm * c)
    return make_margin(
        "input_corner", "Bass through the input capacitor", "rails",
        figure=stated("input_corner_hz", "corner", corner, "Hz", build.hookup.name), limit=7.0,
        words="at most 7 Hz: 0.5 dB at 20 Hz",
        sentences={
            State.CLEAR: "All bass passes the input capacitor.",
            State.CLOSE: "Nearly half a decibel is lost at 20 Hz.",
            State.OVER: "The input capacitor takes bass away.",
        },
        fix=f"At least {shown(1.0 / (2.0 * math.pi * build.module.r_input_ohm * 7.0), 'F', 2)} at this input.",
    )  # fmt: skip


def input_coupling(build: Build, _prediction: Prediction) -> Margin | None:
    """Film, electrolytic or none at the input: schools, and what each lets through."""
    said = build.hookup.coupling
    if said is None:
        return None
    return said_margin(
        "input_coupling", "Input coupled by", "rails", state=State.CLOSE if said == "direct" else State.CLEAR,
        said=said, words="schools differ",
        sentence={
            "film": "Schools differ. Film is followed here: no DC of a source reaches the output, and nothing dries.",
            "electrolytic": "Schools differ. An electrolytic serves where it is large for the bass: hardly any signal "
            "stands across it. It dries over the years.",
            "direct": "Schools differ. Without a capacitor every millivolt of DC from the source is amplified "
            f"{_chain_gain(build):.3g} times into the loudspeaker.",
        }[said],
        fix="Measure the source's DC before it is joined, or put a capacitor in." if said == "direct" else "",
    )  # fmt: skip


def capacitive_load(build: Build, _prediction: Prediction) -> Margin | None:
    """Capacitance at the output against what the module stays stable into."""
    part = build.cable
    cable = (part.c_per_m_f or 0.0) * (part.length_m or 0.0) if part.fitted else 0.0
    total = cable + (build.hookup.c_output_f or 0.0)
    if not total:
        return None
    known = build.module.c_load_max_f
    limit = USUAL_C_LOAD_F if known is None else known
    return make_margin(
        "capacitive_load", "Capacitance at the output", "load",
        figure=stated("c_output_f", "capacitance", total, "F", "cable and what hangs there"), limit=limit,
        words=f"at most {shown(limit, 'F', 2)}{', assumed' if known is None else ''}",
        sentences={
            State.CLEAR: "Too little to unsettle the output.",
            State.CLOSE: "Near what the output is stable into.",
            State.OVER: "The output may ring or oscillate into it, and get hot without a sound.",
        },
        fix="A coil of a few microhenries with a resistor across it at the output, or another cable.",
    )  # fmt: skip


def cable_resistance(build: Build, prediction: Prediction) -> Margin | None:
    """Copper there and back against the load: watts and damping lost in the cable."""
    part = build.cable
    if not part.fitted or part.length_m is None or part.a_m2 is None:
        return None
    r = 2.0 * wire_ohm(part.length_m, part.a_m2)
    load = prediction.situation.load(build)
    return make_margin(
        "cable_resistance", "Loudspeaker cable", "load", figure=stated("cable_ohm", "cable", r, "ohm", part.name),
        limit=0.05 * load, words="5 % of the load",
        sentences={
            State.CLEAR: f"The cable takes {100.0 * r / (load + r):.1f} % of the power.",
            State.CLOSE: f"The cable takes {100.0 * r / (load + r):.1f} % of the power.",
            State.OVER: f"The cable takes {100.0 * r / (load + r):.0f} % of the power, and the damping with it.",
        },
        fix="A thicker or shorter cable.",
    )  # fmt: skip


def connector_current(build: Build, prediction: Prediction) -> Margin | None:
    """What plug and socket carry at clip."""
    part = build.cable
    if not part.fitted or part.i_connector_a is None:
        return None
    rms = prediction["clip_v_peak"].value / math.sqrt(2.0) / prediction.situation.load(build)
    return make_margin(
        "connector_current", "Loudspeaker connectors", "load",
        figure=stated("connector_a_rms", "current at clip, rms", rms, "A", part.name), limit=part.i_connector_a,
        words=f"carry {part.i_connector_a:g} A",
        sentences={
            State.CLEAR: "Plugs and sockets carry a sine at clip.",
            State.CLOSE: "Plugs and sockets just carry a sine at clip.",
            State.OVER: "Plugs and sockets get hot on a sine at clip.",
        },
        fix="Connectors for more current; music asks less than a sine.",
    )  # fmt: skip


RULES = (
    gain_to_spare, preamplifier_reach, hum, noise, volume_loading, volume_corner, volume_law, tracking, input_corner,
    input_coupling, capacitive_load, cable_resistance, connector_current,
)  # fmt: skip
