"""The faults that are met at first power, each a law: what it does to the rails and to everything that a step reads.

Rails come from the engine where it can lay the fault on the circuit, else from the circuit's plain laws. How usual a
fault is, and how far it varies, are orders of magnitude from practice, not counts. A reading that a fault does not
touch is as in a healthy build, so no reading speaks against a fault that it cannot see.
"""

import dataclasses
import math
from collections.abc import Callable, Mapping

from plinth.builds.modules import BiasPoint
from plinth.guide import given_readings as given
from plinth.guide.fault_bench import OF_A_FAULT, OF_A_RATIO, Bench, Expected, Where, behind_of, connected, healthy
from plinth.guide.given_readings import Dice, ReadingLaw, sound
from plinth.guide.step import Reads, Step
from plinth.physics.stages.bias import bias_mv
from plinth.predict.estimates import USUAL_AIR_C
from plinth.predict.fault_rails import RailFault, extra_wall_a, turn_behind_lamp_k

# How far another emitter resistor may be from the planned one, as a standard deviation of the logarithm.
ANY_RESISTOR = 0.8
# A filament that is not warmed, and how far an eye is off.
DARK_K, EYE_K = 300.0, 200.0


Expects = Callable[[Bench, Step], Expected | tuple[Expected, ...] | None]


@dataclasses.dataclass(frozen=True)
class Fault:
    """``words`` what it is, ``check`` how to see it, ``usual`` how often it is met (a weight), ``burns`` if left on.

    ``where`` it sits: it is thought of while that is connected. ``shows`` by what a step reads (``Step.reads``), one or
    more ways it may look; what it does not name is as in a healthy build. ``gives`` what a bench with the fault would
    read, drawn at random: wider than ``shows``, since sizes of faults, meters and hands vary more than one believes.
    """

    key: str
    words: str
    check: str
    usual: float
    burns: bool
    where: frozenset[Where]
    shows: Mapping[Reads, Expects]
    gives: Mapping[Reads, ReadingLaw] = dataclasses.field(default_factory=dict)

    def reading(self, bench: Bench, step: Step, dice: Dice) -> float:
        """What would be read at a step with this fault, at random; as in a healthy build where it does not touch it.

        SI, a filament in kelvin. What is not connected shows nothing.
        """
        law = self.gives.get(step.reads) if self.where & connected(step) else None
        value = None if law is None else law(step, bench.build, bench.full_v, dice)
        return sound(step, dice) if value is None else value

    def fits(self, bench: Bench) -> bool:
        """Whether a build has what the fault is about, and nobody says that it is not so."""
        if self.key == "set before" and bench.trimmer_at_least:
            return False
        return bench.build.module.bias is not None or self.key not in _OF_A_BIAS


# Faults of a bias that is trimmed across emitter resistors.
_OF_A_BIAS = frozenset({
    "bias open", "over-turned", "set before", "bias shorted", "sensor off", "emitter open", "other resistor",
})  # fmt: skip
_SUPPLY: frozenset[Where] = frozenset({"supply"})
_BOARD: frozenset[Where] = frozenset({"board"})
_EITHER: frozenset[Where] = _SUPPLY | _BOARD


# What each fault shows


def _rail(fault: RailFault, varies: float = OF_A_FAULT) -> Expects:
    return lambda bench, step: bench.rail(step, fault, varies)


def _volts(value: float, u: float) -> Expects:
    return lambda _bench, _step: Expected(value, u)


def _of_the_rail(share: float, u_share: float = 0.2) -> Expects:
    """A share of the rail in force; on which side of 0 V nobody knows, so volts are compared by their size."""
    return lambda bench, step: _of_the_rail_now(bench, step, share, u_share)


def _of_the_rail_now(bench: Bench, step: Step, share: float, u_share: float) -> Expected:
    rail = bench.full_v if step.most is None else step.most
    return Expected(share * rail, u_share * abs(rail) + 0.1, sized=True)


def _half_missing(bench: Bench, step: Step) -> Expected | None:
    """What the rail that is left makes of the output; with the only one gone there is nothing."""
    return Expected(0.0, 0.01) if bench.build.supply.single_rail else _of_the_rail_now(bench, step, 0.5, 0.3)


def _times(factor: float, u_factor: float = 0.4) -> Expects:
    """A multiple of what a healthy build shows."""

    def expects(_bench: Bench, step: Step) -> Expected | None:
        whole = healthy(step)
        return None if whole is None else Expected(factor * whole.value, u_factor * abs(factor * whole.value) + whole.u)

    return expects


def _about_times(factor: float, u_log: float) -> Expects:
    """A multiple of what a healthy build shows, known to a factor only."""

    def expects(_bench: Bench, step: Step) -> Expected | None:
        whole = healthy(step)
        return None if whole is None or whole.value <= 0.0 else Expected(factor * whole.value, u_log, log=True)

    return expects


def _limit(_bench: Bench, step: Step) -> Expected | None:
    """All that the supply's limit lets through."""
    return None if step.limit_a is None else Expected(step.limit_a, 0.07 * step.limit_a)


def _some_volts(_bench: Bench, step: Step) -> Expected | None:
    """A few times what is stated: more than healthy, far less than a rail."""
    whole = healthy(step)
    return None if whole is None else Expected(4.0 * 2.0 * whole.u, 4.0 * whole.u, sized=True)


def _ohms(value: float, decades: float = 0.7) -> Expects:
    return lambda _bench, _step: Expected(value, decades * math.log(10.0), log=True)


def _rise(factor: float, u_factor: float) -> Expects:
    """A sink that rises by a multiple of what it should."""

    def expects(_bench: Bench, step: Step) -> Expected | None:
        whole = healthy(step)
        if whole is None:
            return None
        rise = max(whole.value - USUAL_AIR_C, 2.0)
        return Expected(USUAL_AIR_C + factor * rise, u_factor * rise + whole.u)

    return expects


def _glows(share_of_short: float, u: float = EYE_K) -> Expects:
    """A filament as warm as with a short, or a share of it."""

    def expects(_bench: Bench, step: Step) -> Expected | None:
        return None if not step.glows else Expected(share_of_short * step.glows[-1].t_k, u)

    return expects


def _dark(_bench: Bench, step: Step) -> Expected | None:
    return Expected(DARK_K, EYE_K) if step.glows else None


def _turn_glows(bench: Bench, step: Step) -> Expected | None:
    t_k = turn_behind_lamp_k(bench.build, behind_of(step))
    return None if t_k is None else Expected(t_k, 1.5 * EYE_K)


def _turn_from_the_wall(bench: Bench, step: Step) -> Expected | None:
    whole, more = healthy(step), extra_wall_a(bench.build)
    return None if whole is None or more is None else Expected(whole.value + more, 0.7, log=True)


def _as_alone(bench: Bench, step: Step) -> Expected | None:
    """The rail as it stands without a board."""
    v = bench.rail_v("none", dataclasses.replace(behind_of(step), board=False))
    return None if v is None else Expected(v, 0.03 * v + 0.2)


def _set_before(bench: Bench, step: Step) -> Expected | None:
    """The whole quiescent current where what a trimmer at its least leaves is expected."""
    module, boards = bench.build.module, bench.build.modules_per_channel
    whole = boards * (module.driver_a + module.i_quiescent_a)
    if step.limit_a is not None:
        whole = min(whole, step.limit_a)
    return Expected(whole, 0.15 * whole)


def _other_resistor(bench: Bench, _step: Step) -> tuple[Expected, ...] | None:
    """The resistor of the listing where another one is planned; else one of any of the usual values about it."""
    bias = bench.build.module.bias
    if bias is None:
        return None
    listed = (Expected(bias.r_listed_ohm, 0.1, log=True),) if _listed_differs(bias) else ()
    return (*listed, Expected(bias.r_fitted_ohm, ANY_RESISTOR, log=True))


def _bias_over_it(bench: Bench, step: Step) -> tuple[Expected, ...] | None:
    """The bias as read across such a resistor."""
    bias, others = bench.build.module.bias, _other_resistor(bench, step)
    if bias is None or others is None:
        return None
    return tuple(
        Expected(volts := bias_mv(bias.i_pair_a, reading.value) / 1000.0, reading.u * volts) for reading in others
    )  # fmt: skip


def _listed_differs(bias: BiasPoint) -> bool:
    return abs(bias.r_listed_ohm / bias.r_fitted_ohm - 1.0) > 0.05


_NOTHING = _volts(0.0, 0.3)
# The diodes that are left hold a rail about a drop from 0 V.
_A_DROP = _volts(0.9, 0.6)
_DIODE_V = _volts(0.55, 0.25)

FAULTS: tuple[Fault, ...] = (
    # On the board
    Fault(
        "short", "a rail shorted to 0 V on the board: solder, a capacitor, both devices of a pair",
        "Off. Ohmmeter from each rail to 0 V, unpowered: near 0 Ω is it.", usual=1.0, burns=True, where=_BOARD,
        shows={
            "rail": _rail("short"),
            "current": _limit,
            "output_dc": _of_the_rail(0.9),
            "rail_ohm": _ohms(1.0),
            "glow": _glows(1.0),
            "wall_a": _about_times(20.0, 1.0),
            "sink_c": _rise(3.0, 1.5),
        },
        gives={
            "rail": given.engine("short"),
            "current": given.at_the_limit,
            "output_dc": given.of_the_rail(0.75, 1.0),
            "rail_ohm": given.between(0.1, 8.0),
            "glow": given.near_the_short(0.93, 1.02),
            "wall_a": given.times(8.0, 40.0),
        },
    ),
    Fault(
        "device shorted", "one output device shorted",
        "Off. Ohmmeter from each rail to the output, unpowered: near 0 Ω is it. From rail to 0 V it does not show.",
        usual=1.0, burns=True, where=_BOARD,
        shows={
            "rail": _rail("short"),
            "current": _limit,
            "output_dc": _of_the_rail(0.9),
            "rail_output_ohm": _ohms(0.8),
            "glow": _glows(0.95),
            "bias": _about_times(10.0, 0.8),
            "warm_bias": _about_times(10.0, 0.8),
            "wall_a": _about_times(15.0, 1.0),
        },
        gives={
            "rail": given.engine("short"),
            "current": given.at_the_limit,
            "output_dc": given.of_the_rail(0.75, 1.0),
            "rail_output_ohm": given.between(0.1, 6.0),
            "glow": given.near_the_short(0.9, 1.02),
            "wall_a": given.times(6.0, 40.0),
        },
    ),
    Fault(
        "torn pad", "an insulating pad torn, or a bushing missing: a device's tab on the sink",
        "Off. Take that device off, look at its pad, and read its tab to the sink again.", usual=0.8, burns=True,
        where=_BOARD, shows={"tab_ohm": _ohms(5.0, 1.2)}, gives={"tab_ohm": given.between(0.05, 200.0)},
    ),
    Fault(
        "bias open", "the bias trimmer open, or at its wrong end: the bias at its highest",
        "Off. Ohmmeter across the trimmer while it is turned: no jump, and the right end is the least.", usual=1.0,
        burns=True, where=_BOARD,
        shows={
            "rail": _rail("bias open"),
            "current": _limit,
            "bias": _about_times(8.0, 0.6),
            "warm_bias": _about_times(10.0, 0.6),
            "glow": _glows(0.85, 2.0 * EYE_K),
            "sink_c": _rise(4.0, 2.0),
            "wall_a": _about_times(5.0, 0.6),
        },
        gives={
            "rail": given.engine("bias open"),
            "current": given.at_the_limit,
            "bias": given.times(4.0, 12.0),
            "warm_bias": given.times(5.0, 14.0),
            "glow": given.near_the_short(0.7, 1.0),
            "sink_c": given.rises(2.5, 6.0),
        },
    ),
    Fault(
        "over-turned", "the trimmer turned too far, or too fast",
        "Turn it back to the window at once; the board is not broken by that.", usual=4.0, burns=False, where=_BOARD,
        shows={"bias": _about_times(1.5, 0.45)}, gives={"bias": given.times(1.25, 2.4)},
    ),
    Fault(
        "set before", "the trimmer is not at its least: this board was set before",
        "Turn the trimmer to its least, then read again.", usual=1.0, burns=False, where=_BOARD,
        shows={"rail": _rail("set before"), "current": _set_before, "glow": _glows(0.6, 1.5 * EYE_K)},
        gives={
            "rail": given.engine("set before"),
            "current": given.whole_current,
            "glow": given.near_the_short(0.4, 0.75),
        },
    ),
    Fault(
        "bias shorted", "the bias transistor or its spreader shorted, or the trimmer at its end",
        "Off. Ohmmeter across the spreader: near 0 Ω is it. Is the right resistor probed?", usual=0.5, burns=False,
        where=_BOARD, shows={"bias": _volts(0.0, 1e-3), "warm_bias": _volts(0.0, 1e-3)},
        gives={"bias": given.between(1e-6, 8e-4), "warm_bias": given.between(1e-6, 8e-4)},
    ),
    Fault(
        "sensor off", "the sensing transistor is not on the sink",
        "Off. Is it screwed down, and with paste? Warm it with a finger: the bias must fall.", usual=0.7, burns=True,
        where=_BOARD, shows={"warm_bias": _times(1.9, 0.3), "sink_c": _rise(2.5, 1.0)},
        gives={"warm_bias": given.times(1.5, 2.3), "sink_c": given.rises(1.8, 3.5)},
    ),
    Fault(
        "oscillates", "the stage oscillates",
        "Off, then scope at the output, no load: a band instead of a line. Look at the compensation, at long leads.",
        usual=0.25, burns=True, where=_BOARD,
        shows={
            "rail": _rail("oscillates"),
            "current": _about_times(3.0, 0.45),
            "output_dc": _some_volts,
            "bias": _times(1.7, 0.4),
            "warm_bias": _times(1.9, 0.5),
            "ripple": _about_times(1.9, 0.3),
            "sink_c": _rise(2.5, 1.2),
            "wall_a": _about_times(2.0, 0.5),
        },
        gives={
            "rail": given.engine("oscillates"),
            "current": given.times(2.0, 4.5),
            "output_dc": given.some_offset,
            "bias": given.times(1.3, 2.2),
            "warm_bias": given.times(1.5, 2.4),
            "ripple": given.times(1.3, 3.0),
            "sink_c": given.rises(1.6, 4.0),
            "wall_a": given.times(1.4, 3.5),
        },
    ),
    Fault(
        "feedback open", "the feedback is open, or the input floats",
        "Off. Is the input shorted? Ohmmeter along the feedback resistor.", usual=0.6, burns=True, where=_BOARD,
        shows={"output_dc": _of_the_rail(0.9)}, gives={"output_dc": given.of_the_rail(0.75, 1.0)},
    ),
    Fault(
        "dead input device", "a dead input device, or the input pair in backwards",
        "Off. Volts across the base and emitter of each input device: about 0.6 V, or it is dead.", usual=0.6,
        burns=True, where=_BOARD,
        shows={"output_dc": _of_the_rail(0.9), "bias": _about_times(0.5, 1.0), "current": _about_times(0.8, 0.4)},
        gives={
            "output_dc": given.of_the_rail(0.75, 1.0),
            "bias": given.times(0.1, 1.2),
            "current": given.times(0.5, 1.2),
        },
    ),
    Fault(
        "offset", "an input pair that does not match, or a leaking input capacitor",
        "Short the input behind its capacitor: what is left is the pair's.", usual=0.8, burns=False, where=_BOARD,
        shows={"output_dc": _some_volts}, gives={"output_dc": given.some_offset},
    ),
    Fault(
        "emitter open", "an open emitter resistor, or its joint", "Off. Ohmmeter across each emitter resistor.",
        usual=0.6, burns=False, where=_BOARD,
        shows={
            "bias": _DIODE_V,
            "warm_bias": _DIODE_V,
            "bias_ohm": _ohms(1e5, 1.5),
            "output_dc": _of_the_rail(0.3, 0.3),
            "current": _times(0.7),
        },
        gives={
            "bias": given.between(0.3, 0.9),
            "warm_bias": given.between(0.3, 0.9),
            "bias_ohm": given.between(3e3, 3e6),
            "output_dc": given.of_the_rail(0.1, 0.5),
            "current": given.times(0.5, 0.9),
        },
    ),
    Fault(
        "other resistor", "another emitter resistor is fitted than planned",
        "Read its stripes, or the ohmmeter with its leads' own resistance taken off.", usual=0.8, burns=False,
        where=_BOARD, shows={"bias_ohm": _other_resistor, "bias": _bias_over_it},
        gives={"bias_ohm": given.other_resistor},
    ),
    Fault(
        "not connected", "the board is not connected, not enabled, or a lead of it is off",
        "Off, discharged. Follow + rail, − rail and 0 V to the board; is it enabled?", usual=0.8, burns=False,
        where=_BOARD,
        shows={
            "current": _volts(0.0, 5e-4),
            "rail": _as_alone,
            "bias": _volts(0.0, 1e-3),
            "warm_bias": _volts(0.0, 1e-3),
            "sink_c": _volts(USUAL_AIR_C, 3.0),
            "glow": _dark,
            "wall_a": _about_times(0.4, 0.3),
        },
        gives={
            "current": given.between(1e-6, 4e-4),
            "rail": given.engine("none"),
            "bias": given.between(1e-7, 5e-4),
            "warm_bias": given.between(1e-7, 5e-4),
            "sink_c": given.air,
            "glow": given.dark,
            "wall_a": given.times(0.2, 0.6),
        },
    ),
    Fault(
        "swapped output", "the output terminals are swapped: the live one lies on 0 V, or on the case",
        "Off. Ohmmeter from the terminal marked − to 0 V: near 0 Ω on the right one only.", usual=0.4, burns=True,
        where=_BOARD,
        shows={
            "output_ohm": _ohms(0.5, 0.8),
            "current": _limit,
            "rail": _rail("bias open"),
            "output_dc": _volts(0.0, 2e-3),
            "glow": _glows(0.85, 2.0 * EYE_K),
            "wall_a": _about_times(5.0, 0.6),
        },
        gives={
            "output_ohm": given.between(0.05, 3.0),
            "current": given.at_the_limit,
            "rail": given.engine("bias open"),
            "output_dc": given.between(1e-5, 1e-3),
            "glow": given.near_the_short(0.7, 1.0),
            "wall_a": given.times(3.0, 10.0),
        },
    ),
    Fault(
        "rail fuse open", "a rail's fuse on the way to the board is open",
        "Off, discharged. Ohmmeter across that fuse; find out why it opened before another one goes in.", usual=0.7,
        burns=False, where=_BOARD,
        shows={
            "rail": _NOTHING,
            "output_dc": _of_the_rail(0.5, 0.3),
            "bias": _volts(0.0, 1e-3),
            "warm_bias": _volts(0.0, 1e-3),
            "wall_a": _about_times(0.6, 0.3),
        },
        gives={
            "rail": given.between(0.01, 0.4),
            "output_dc": given.of_the_rail(0.3, 0.8),
            "bias": given.between(1e-7, 5e-4),
        },
    ),
    # In the supply, or between both
    Fault(
        "mains fuse open", "no mains: the inlet's fuse is open, the switch off, the plug out",
        "Plug out. Ohmmeter across the fuse. Where it blew, look for a short before another one goes in.", usual=1.0,
        burns=False, where=_SUPPLY,
        shows={
            "rail": _NOTHING,
            "rail_alone": _NOTHING,
            "glow": _dark,
            "glow_alone": _dark,
            "wall_a": _volts(0.0, 2e-3),
            "ripple": _volts(0.0, 2e-3),
        },
        gives={
            "rail": given.between(0.001, 0.2),
            "rail_alone": given.between(0.001, 0.2),
            "glow": given.dark,
            "glow_alone": given.dark,
            "wall_a": given.between(1e-5, 1e-3),
            "ripple": given.between(1e-5, 1e-3),
        },
    ),
    Fault(
        "rail missing", "one rail is not there: wire, winding, diode or fuse",
        "Off. Follow that rail from the winding on with the ohmmeter.", usual=1.0, burns=False, where=_SUPPLY,
        shows={
            "rail": _rail("rail missing"),
            "rail_alone": _rail("rail missing"),
            "output_dc": _half_missing,
            "bias": _volts(0.0, 1e-3),
        },
        gives={
            "rail": given.between(0.01, 0.6),
            "rail_alone": given.between(0.01, 0.6),
            "output_dc": given.half_missing,
            "bias": given.between(1e-6, 1e-4),
        },
    ),
    Fault(
        "missing 0 V", "0 V is missing: the tap, or the lead between supply and board",
        "Off. Ohmmeter from the tap to the star, and from the star to the board: near 0 Ω.", usual=0.15, burns=True,
        where=_EITHER,
        shows={
            "rail": _times(0.5, 0.5),
            "rail_alone": _times(0.5, 0.5),
            "output_dc": _of_the_rail(0.5, 0.3),
            "current": _times(0.3, 0.7),
            "bias": _times(0.5, 1.0),
        },
        gives={
            "rail": given.of_the_healthy_rail(0.15, 0.8),
            "rail_alone": given.of_the_healthy_rail(0.15, 0.8),
            "output_dc": given.of_the_rail(0.15, 0.9),
            "current": given.times(0.05, 0.7),
        },
    ),
    Fault(
        "half wave", "half a winding reversed, or one diode of the bridge open",
        "Scope on the ripple: it comes once a period of the mains, not twice, and is twice as large.", usual=0.5,
        burns=False, where=_SUPPLY, shows={"rail": _rail("half wave"), "ripple": _times(2.1, 0.12)},
        gives={"rail": given.engine("half wave"), "ripple": given.times(1.85, 2.4)},
    ),
    Fault(
        "bridge diode", "a shorted diode of the bridge",
        "Off. Diode test across each leg of the bridge, winding disconnected.", usual=0.45, burns=True, where=_SUPPLY,
        shows={
            "rail": _A_DROP,
            "rail_alone": _A_DROP,
            "glow": _glows(0.97),
            "glow_alone": _glows(0.97),
            "wall_a": _about_times(20.0, 1.0),
        },
        gives={
            "rail": given.between(0.3, 2.5),
            "rail_alone": given.between(0.3, 2.5),
            "glow": given.near_the_short(0.92, 1.02),
            "glow_alone": given.near_the_short(0.92, 1.02),
            "wall_a": given.times(8.0, 40.0),
        },
    ),
    Fault(
        "reversed reservoir", "a reservoir fitted backwards, or shorted",
        "Off at once, cans covered, stay away until it is discharged. A reversed can bursts: look at every stripe.",
        usual=0.6, burns=True, where=_SUPPLY,
        shows={
            "rail": _about_times(0.08, 0.7),
            "rail_alone": _about_times(0.08, 0.7),
            "glow": _glows(0.95),
            "glow_alone": _glows(0.95),
            "wall_a": _about_times(15.0, 1.0),
        },
        gives={
            "rail": given.of_the_healthy_rail(0.03, 0.2),
            "rail_alone": given.of_the_healthy_rail(0.03, 0.2),
            "glow": given.near_the_short(0.88, 1.0),
            "glow_alone": given.near_the_short(0.88, 1.0),
        },
    ),
    Fault(
        "shorted turn", "a shorted turn in the transformer, or a bolt that closes one",
        "Off. Nothing on its secondaries: does it still hum, warm, or light the lamp? Is its bolt bonded at both ends?",
        usual=0.25, burns=True, where=_SUPPLY,
        shows={
            "rail": _rail("shorted turn"),
            "rail_alone": _rail("shorted turn"),
            "glow": _turn_glows,
            "glow_alone": _turn_glows,
            "wall_a": _turn_from_the_wall,
        },
        gives={
            "rail": given.engine("shorted turn"),
            "rail_alone": given.engine("shorted turn"),
            "glow": given.a_turn_glows,
            "glow_alone": given.a_turn_glows,
            "wall_a": given.a_turn_draws,
        },
    ),
    Fault(
        "primary doubled", "the primary is set for twice these mains",
        "Off. Two primaries of half the volts stand in series where they belong in parallel.", usual=0.6, burns=False,
        where=_SUPPLY,
        shows={"rail": _rail("primary doubled", OF_A_RATIO), "rail_alone": _rail("primary doubled", OF_A_RATIO)},
        gives={"rail": given.engine("primary doubled"), "rail_alone": given.engine("primary doubled")},
    ),
    Fault(
        "primary halved", "the primary is set for half of these mains",
        "Off at once, plug out. Primaries in parallel where they belong in series; look at every reservoir.",
        usual=0.4, burns=True, where=_SUPPLY,
        shows={
            "rail": _rail("primary halved", OF_A_RATIO),
            "rail_alone": _rail("primary halved", OF_A_RATIO),
            "glow": _glows(0.7, 2.0 * EYE_K),
            "glow_alone": _glows(0.6, 2.0 * EYE_K),
        },
        gives={
            "rail": given.engine("primary halved"),
            "rail_alone": given.engine("primary halved"),
            "glow": given.near_the_short(0.5, 0.95),
            "glow_alone": given.near_the_short(0.4, 0.9),
        },
    ),
    Fault(
        "leaking", "a reservoir that leaks",
        "Off. Discharged, board away: some minutes at a low rail behind a resistor. A leak falls as the oxide forms.",
        usual=0.5, burns=False, where=_EITHER,
        shows={"rail": _rail("leaking"), "rail_alone": _rail("leaking"), "rail_ohm": _ohms(300.0)},
        gives={
            "rail": given.engine("leaking"),
            "rail_alone": given.engine("leaking"),
            "rail_ohm": given.between(60.0, 900.0),
        },
    ),
    Fault(
        "dried-out reservoir", "a reservoir that dried out, or is smaller than planned",
        "Off, discharged. Capacitance and ESR of each can; a top that bulges goes.", usual=1.0, burns=False,
        where=_SUPPLY, shows={"rail": _rail("dried-out reservoir"), "ripple": _about_times(3.0, 0.5)},
        gives={"ripple": given.times(1.8, 7.0)},
    ),
    Fault(
        "slip", "a slip: prefix, decimal, range or points", "Read it once more, aloud, with its unit.", usual=0.5,
        burns=False, where=_EITHER, shows={},
    ),
)  # fmt: skip
