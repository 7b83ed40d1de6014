"""Which parts of a build are worth measuring before they are soldered in, with the windows of these very parts."""

from collections.abc import Iterator, Sequence

from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.builds.properties import how_known
from plinth.builds.supply_parts import Reservoir
from plinth.guide.part_tests.part_test import Aim, Matching, PartTest
from plinth.judge.window import Window
from plinth.physics.rails.reforming import sound_leakage_a
from plinth.physics.stages.sharing import shares_a, unevenness
from plinth.predict.inputs import inputs_of
from plinth.predict.reforming import is_old
from plinth.record.clock import now
from plinth.record.conditions import Conditions
from plinth.units.shown import shown

# What an old can may have lost of its capacitance, gained of ESR and leakage, and still serve.
OLD_LOSS, OLD_ESR, OLD_LEAK = 0.30, 3.0, 3.0
# A fresh one's ESR lies below its rated value; meters of the usual kind read a little more.
FRESH_ESR = 1.5
# Junction volts that a meter's diode test shows, at about a milliampere.
SILICON_V, SCHOTTKY_V = (0.35, 0.80), (0.10, 0.45)
# Control volts of power devices at a test current: a junction's lowest, a gate's highest.
CONTROL_V = (0.45, 5.0)
GAIN = (15.0, 800.0)
# Milliamperes into an output resistor at which output devices are compared.
TEST_A = 0.1


def part_tests_of(build: Build) -> tuple[PartTest, ...]:
    """All part tests of a build, by station; no two of one key."""
    return (*_reservoirs(build), *_bridges(build), *_boards(build))


def _supplies(build: Build) -> tuple[str, ...]:
    return build.channels if build.one_supply_per_channel else ("supply",)


def _conditions(build: Build, slot: str) -> Conditions:
    return {slot.replace(".", "_"): build.mark(slot)}


def _bridges(build: Build) -> Iterator[PartTest]:
    if build.supply.transformer is None:
        return
    part = build.supply.rectifier
    low, high = SCHOTTKY_V if part.diode == "schottky" else SILICON_V
    bridges = 2 if part.bridges == "two" else 1
    yield PartTest(
        "bridge_vf", "reservoir", "Bridge, each diode",
        ask="Diode test across each leg, then the other way round, which must show OL. Type the forward volts.",
        unit="V", bare_prefix="m", role=Role.METER, pieces=4 * bridges * len(_supplies(build)),
        window=Window(low, high, "V", f"A {part.diode} diode at the meter's milliampere."),
        bad_words="A short shows near 0, an open one OL both ways: another bridge.",
        conditions=_conditions(build, "supply.rectifier"),
    )  # fmt: skip


def _reservoirs(build: Build) -> Iterator[PartTest]:
    supply = build.supply
    can, minus = supply.reservoir, getattr(supply, "reservoir_minus", None)
    rails = 1 if supply.single_rail else 2
    if minus is None:
        yield from _cans(build, can, "reservoir", "Reservoir", rails * len(_supplies(build)), rails)
        return
    yield from _cans(build, can, "reservoir", "Reservoir of the + rail", len(_supplies(build)), 1)
    yield from _cans(build, minus, "reservoir_minus", "Reservoir of the − rail", len(_supplies(build)), 1)


def _year_words(can: Reservoir) -> str:
    if can.year is None:
        return "Nobody states its year"
    return f"Made {can.year}" if how_known(can, "year").trusted else f"Taken to be of {can.year}"


def _cans(build: Build, can: Reservoir, slot: str, name: str, pieces: int, rails: int) -> Iterator[PartTest]:
    old, known = is_old(can, now().year), _year_words(can)
    conditions = _conditions(build, f"supply.{slot}")
    low = can.c_f * (1.0 - can.c_tol)
    yield PartTest(
        f"{slot}_c", "reservoir", f"{name}, value",
        ask=f"Discharged. Capacitance meter on the range above {shown(can.c_f, 'F', 2)}; type it.", unit="F",
        bare_prefix="µ", role=Role.CAPACITANCE_METER, pieces=pieces,
        window=Window(
            low, can.c_f * (1.0 + can.c_tol), "F", f"{shown(can.c_f, 'F')} ±{100 * can.c_tol:.0f} %. {known}."
        ),
        aged=Window(can.c_f * (1.0 - OLD_LOSS), can.c_f * (1.0 + 2.0 * can.c_tol), "F", "") if old else None,
        aged_words="Ripple grows as much; re-form it before full volts, and read its ESR.",
        bad_words="Dried out, or another value: it does not go in.",
        matching=Matching(
            Aim.SETS,
            _supplies(build),
            rails,
            _apart,
            "The rails of a supply then ripple alike to {worst}; as they lay in the bag, to {bag}.",
        )
        if rails > 1
        else None,
        conditions=conditions,
    )  # fmt: skip
    esr = inputs_of(build)["esr_minus" if slot == "reservoir_minus" else "esr"].value
    yield PartTest(
        f"{slot}_esr", "reservoir", f"{name}, ESR", ask="Discharged. ESR meter, leads short, their own taken off.",
        unit="ohm", bare_prefix="m", role=Role.OHMMETER, pieces=pieces,
        window=Window(
            None,
            FRESH_ESR * esr,
            "ohm",
            f"{shown(esr, 'ohm', 2)} when new.",
            () if can.esr_ohm is not None else ("its ESR when new",),
        ),
        aged=Window(None, OLD_ESR * esr, "ohm", "") if old else None,
        aged_words="It warms more from ripple; not beside a sink.", bad_words="Dried out: it does not go in.",
        conditions=conditions,
    )  # fmt: skip
    v = min(can.v_rated, build.module.v_rail_max)
    maximum = sound_leakage_a(can.c_f, can.v_rated, v)
    yield PartTest(
        f"{slot}_leak", "reservoir", f"{name}, leakage",
        ask=f"Bench supply at {v:.0f} V through 1 kΩ, five minutes, then the milliamperes that still "
        "flow. Discharge it "
        "through the same resistor.",
        unit="A", bare_prefix="m", role=Role.METER, pieces=pieces,
        window=Window(None, maximum, "A", "0.01 µA per µF and volt after five minutes (IEC 60384-4)."),
        aged=Window(None, OLD_LEAK * maximum, "A", "") if old else None,
        aged_words="Re-form it over hours, then measure again.", bad_words="Its oxide is gone: it does not go in.",
        conditions=conditions,
    )  # fmt: skip


def _boards(build: Build) -> Iterator[PartTest]:
    module, bias = build.module, build.module.bias
    if bias is None:
        # A chip or a switching stage has no devices of its own to choose.
        return
    here = _conditions(build, "module")
    boards = build.modules_per_channel
    sets = tuple(
        f"{channel}{f', board {k + 1}' if boards > 1 else ''}" for channel in build.channels for k in range(boards)
    )
    tolerance = max(bias.r_fitted_tol, 0.05)
    r, pairs = bias.r_fitted_ohm, module.pairs
    yield PartTest(
        "emitter_r", "module", f"{bias.label} and its like",
        ask="Ohmmeter, the leads' own taken off; or volts across it at a known ampere.",
        unit="ohm", bare_prefix="", role=Role.OHMMETER, pieces=2 * pairs * len(sets),
        window=Window(r * (1.0 - tolerance), r * (1.0 + tolerance), "ohm", f"Fitted {r:g} Ω ±{100 * tolerance:.0f} %."),
        bad_words="Another value: every bias reading across it would mislead.",
        matching=Matching(
            Aim.SETS, sets, 2 * pairs, _apart,
            "The resistors of a board then differ by {worst}; as they lay in the bag, by {bag}.",
        ),
        conditions=here,
    )  # fmt: skip

    def uneven(control_v: Sequence[float]) -> float:
        return unevenness(shares_a(control_v, r, bias.i_pair_a * len(control_v)))

    for key, name in (("output_n", "upper"), ("output_p", "lower")):
        yield PartTest(
            key, "module", f"Output devices, {name}: control volts",
            ask=f"All at one current ({TEST_A * 1000:.0f} mA or so) and one temperature: base to emitter, or gate to "
            "source, without its sign.",
            unit="V", bare_prefix="", role=Role.METER, pieces=pairs * len(sets),
            window=Window(*CONTROL_V, "V", "A junction shows about 0.6 V, a gate 2 to 4.5 V."),
            bad_words="Shorted, open, or another device than its print says.",
            matching=Matching(
                Aim.SETS, sets, pairs, uneven,
                "One device of a set then carries {worst} more than its share at rest; as they lay in the bag, {bag}.",
            ) if pairs > 1 else None,
            conditions=here,
        )  # fmt: skip
    for key, name in (("driver_n", "upper"), ("driver_p", "lower")):
        yield PartTest(
            key, "module", f"Drivers, {name}: current gain",
            ask="Gain tester, all at one current. Field-effect ones have none: leave it.", unit="", bare_prefix="",
            role=Role.METER, pieces=len(sets), window=Window(*GAIN, "", "What is made lies between."),
            bad_words="Below it is broken, above it is shorted or mistaken.",
            matching=Matching(
                Aim.PAIRS,
                sets,
                1,
                _apart,
                "Upper and lower then differ by {worst} in gain, and so does what they ask of the stage before; as "
                "they lay in the bag, by {bag}.",
                "driver_p",
            )
            if key == "driver_n"
            else None,
            conditions=here,
        )  # fmt: skip
    maximum = module.offset_max_v
    yield PartTest(
        "input_pair", "module", "Input pair: control volts",
        ask="Both at one current and one temperature, fingers off: base to emitter, or gate to source.",
        unit="V", bare_prefix="", role=Role.METER, pieces=2 * len(sets),
        window=Window(0.4, 5.0, "V", "A junction shows about 0.6 V, a gate or channel more."),
        bad_words="Shorted, open, or another device than its print says.",
        matching=Matching(
            Aim.SETS, sets, 2, lambda values: (max(values) - min(values)) / max(maximum, 1e-6),
            f"A pair then adds {{worst}} of the {shown(maximum, 'V', 2)} of output DC allowed; as they lay in the bag, "
            "{bag}.",
        ),
        conditions=here,
    )  # fmt: skip


def _apart(values: Sequence[float]) -> float:
    """Range over mean."""
    mean = sum(values) / len(values)
    return (max(values) - min(values)) / mean if mean else 0.0
