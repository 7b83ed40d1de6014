"""What lies on the shelf of a workshop of one's own before anything is put there: plain parts of the usual series.

No maker, no price: the values are those of preferred numbers (IEC 60063), of the series in which fuses (IEC 60127-2),
cans and toroids are made, and of what boards usually are. Every number of them is marked as assumed.
"""

import functools
import itertools
from collections.abc import Iterator
from typing import Literal

from plinth.builds.auxiliaries import RelaySupply, Trigger
from plinth.builds.build import AnyModule
from plinth.builds.fields import part_fields
from plinth.builds.hookup import Hookup, Insulator, Preamplifier, SpeakerCable, VolumeControl
from plinth.builds.modules import MODULE_KINDS, BiasPoint, ClassABModule, ClassAModule
from plinth.builds.parts import Entry, HeatSink, Load, Mains, Part, Protection, VoiceCoil
from plinth.builds.properties import How, how_known, value_at
from plinth.builds.stock import Stock
from plinth.builds.supply_parts import (
    Battery,
    BatteryConverter,
    BenchPair,
    MainsSwitcher,
    Rectifier,
    Regulator,
    Reservoir,
    Smoothing,
    Transformer,
)
from plinth.shelf.from_zero import assumed, usual_board, usual_converter
from plinth.shelf.requirement import MAINS, Requirement
from plinth.units.shown import shown

_WIRING = Hookup(name="Wiring", ground="star", use="music")
NOTE = "usual series: no maker, every value assumed"
# Toroids: VA, and the secondary volts that are usually wound at that size (RMS, each of two).
_TOROIDS = (
    (30, (9, 12, 15, 18, 22)), (50, (9, 12, 15, 18, 22, 25)), (80, (12, 15, 18, 22, 25, 30)),
    (120, (12, 15, 18, 22, 25, 30, 35)), (160, (15, 18, 22, 25, 30, 35)), (225, (15, 18, 22, 25, 30, 35, 40)),
    (300, (18, 22, 25, 30, 35, 40, 45)), (500, (25, 30, 35, 40, 45, 50)), (625, (30, 35, 40, 45, 50, 55)),
    (800, (35, 40, 45, 50, 55)), (1000, (40, 45, 50, 55)),
)  # fmt: skip
_PRIMARIES_V = (230.0, 120.0)
_BRIDGES_A = (4, 8, 15, 25, 35, 50)
_CANS_F = (1e-3, 2.2e-3, 4.7e-3, 6.8e-3, 10e-3, 15e-3, 22e-3, 33e-3)
_CANS_V = (25, 35, 50, 63, 80, 100)
# R10 of IEC 60127-2, as far as supplies of amplifiers go; quick ones for batteries and rails.
_SLOW_A = (0.5, 0.63, 0.8, 1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0, 6.3, 8.0, 10.0)
_QUICK_A = (5.0, 10.0, 20.0, 30.0, 60.0)
# E6 of IEC 60063.
_SINKS_K_PER_W = (0.1, 0.15, 0.22, 0.33, 0.47, 0.68, 1.0, 1.5, 2.2, 3.3)
_LOADS_OHM, _LOADS_W = (2.0, 4.0, 8.0, 16.0), (10, 25, 50, 100, 200, 300)
# Rail volts of each of two; rated watts.
_SWITCHERS = ((24, 200), (30, 300), (36, 300), (36, 500), (45, 500), (55, 600), (65, 800))
_BOARDS_W = (30.0, 60.0, 100.0, 200.0)
# Cells of 3.2 V nominal; 3.65 V full and 2.75 V empty, at rest.
_CELLS, _CAPACITIES_AH = (4, 8, 12), (10, 20, 50)
_CONVERTERS = ((25, 200), (32, 300), (40, 400), (50, 600))


@functools.cache
def usual_series() -> tuple[tuple[Part, Stock], ...]:
    """All of them, in the order of the shelf, with their stock: none in the drawer."""
    groups = (
        _walls(), _entries(), _transformers(), _switchers(), _low_volts(), _rectifiers(), _cans(), _second_stages(),
        _boards(), _sinks(), _relays(), _loads(), _around(),
    )  # fmt: skip
    return tuple((part, Stock(note=NOTE)) for group in groups for part in group)


@functools.cache
def _without_a_number() -> tuple[Part, ...]:
    """Those of the series that have nothing to be marked as a guess."""
    return (*_walls(), _WIRING)


@functools.lru_cache(maxsize=512)
def is_usual(part: Part) -> bool:
    """Whether nobody said anything of a part yet: each of its numbers is a guess, or it is a plain one without any.

    Asked of every part at each look at a build, so without making the series.
    """
    paths = [field.path for field in part_fields(part) if field.number and value_at(part, field.path) is not None]
    return (bool(paths) and all(how_known(part, path) is How.ASSUMED for path in paths)) or part in _without_a_number()


def _walls() -> Iterator[Part]:
    for volts, hertz in MAINS:
        # Which wall it is is chosen, not guessed.
        yield Mains(name=f"Wall, {volts:g} V {hertz:g} Hz", v_nominal_rms=volts, frequency_hz=hertz)


def _entries() -> Iterator[Part]:
    for amperes in _SLOW_A:
        yield assumed(Entry(name=f"Inlet, fuse T {amperes:g} A", fuse_a_rms=amperes, fuse_kind="T"))
    for amperes in _QUICK_A:
        yield assumed(Entry(name=f"Fuse F {amperes:g} A", fuse_a_rms=amperes, fuse_kind="F"))


def _transformers() -> Iterator[Part]:
    for primary, (va, secondaries) in itertools.product(_PRIMARIES_V, _TOROIDS):
        wound_for = "" if primary == _PRIMARIES_V[0] else f" for {primary:g} V:"
        for volts in secondaries:
            yield assumed(
                Transformer(
                    name=f"Toroid{wound_for} 2×{volts} V {va} VA", maker="–", core="toroid", secondaries="two", va=va,
                    v_primary_rms=primary, v_secondary_rms=volts,
                )
            )  # fmt: skip


def _switchers() -> Iterator[Part]:
    for volts, watts in _SWITCHERS:
        yield assumed(
            MainsSwitcher(
                name=f"Switcher 2×{volts} V {watts} W", maker="–", rails="dual", v_rail=volts, control="regulated",
                droop=0.02, p_continuous_w=watts, i_limit_a=round(1.6 * watts / volts, 1), limit="hiccup",
                efficiency=0.88, p_idle_w=6, v_mains_min=185, v_mains_max=264,
            )
        )  # fmt: skip


def _low_volts() -> Iterator[Part]:
    for volts, rails in ((15, "dual"), (30, "dual"), (60, "dual"), (30, "single"), (60, "single")):
        name = f"Bench supply {'2×' if rails == 'dual' else ''}{volts} V"
        yield assumed(BenchPair.model_validate({"name": name, "rails": rails, "v_rail": volts, "i_limit_a": 3}))
    for cells, capacity in itertools.product(_CELLS, _CAPACITIES_AH):
        yield assumed(
            Battery(
                name=f"Battery {3.2 * cells:.1f} V {capacity} Ah", maker="–", v_nominal=round(3.2 * cells, 1),
                v_full=round(3.65 * cells, 2), v_empty=round(2.75 * cells, 2), capacity_ah=capacity,
            )
        )  # fmt: skip
    for volts, watts in _CONVERTERS:
        made: BatteryConverter = usual_converter(volts, watts, watts / volts)
        yield assumed(made.model_copy(update={"name": f"Battery converter 2×{volts} V {watts} W"}))


def _rectifiers() -> Iterator[Part]:
    for bridges, amperes in itertools.product(("two", "one"), _BRIDGES_A):
        name = f"{'Two bridges' if bridges == 'two' else 'Bridge'} {amperes} A"
        yield assumed(
            Rectifier.model_validate(
                {"name": name, "maker": "–", "bridges": bridges, "diode": "silicon", "i_rated_a": amperes}
            )
        )


def _cans() -> Iterator[Part]:
    for farads, volts in itertools.product(_CANS_F, _CANS_V):
        yield assumed(Reservoir(name=f"Can {_in_milli(farads)} {volts} V", maker="–", c_f=farads, v_rated=volts))


def _second_stages() -> Iterator[Part]:
    for ohms in (0.1, 0.22, 0.47):
        yield assumed(
            Smoothing(name=f"Resistor {shown(ohms, 'ohm')} and can 10 mF", maker="–", r_ohm=ohms, c_f=10e-3,
                      v_rated=63)
        )  # fmt: skip
    for henries, ohms in ((1e-3, 0.1), (2.2e-3, 0.15), (4.7e-3, 0.3)):
        yield assumed(
            Smoothing(name=f"Choke {shown(henries, 'H')} and can 10 mF", maker="–", r_ohm=ohms, l_h=henries,
                      c_f=10e-3, v_rated=63)
        )  # fmt: skip
    for volts in (5, 12, 15, 24):
        yield assumed(
            Regulator(name=f"Regulator {volts} V 1 A", maker="–", v_out=volts, v_dropout_v=2.5, i_max_a=1.0,
                      v_in_max=35, r_junction_air_k_per_w=50, t_junction_max_c=125)
        )  # fmt: skip


BoardKind = Literal["chip", "AB", "A", "half bridge", "full bridge"]


def _boards() -> Iterator[Part]:
    return itertools.chain.from_iterable(usual_boards().values())


@functools.cache
def usual_boards() -> dict[BoardKind, tuple[AnyModule, ...]]:
    """The boards of each kind, by rising watts."""
    return {
        "chip": tuple(_chip_board(*row) for row in ((25.0, 25.0, 5.0), (50.0, 35.0, 8.0))),
        "AB": tuple(_board(watts, f"Class AB board, {watts:g} W") for watts in _BOARDS_W),
        "A": tuple(_class_a_board(*row) for row in ((12.0, 20.0, 2), (25.0, 26.0, 4))),
        "half bridge": tuple(_board(watts, f"Class D half bridge, {watts:g} W", stage="D") for watts in _BOARDS_W),
        "full bridge": tuple(
            _board(watts, f"Class D full bridge, {watts:g} W", stage="D", single=True) for watts in _BOARDS_W
        ),
    }


def _guessed(board: AnyModule) -> AnyModule:
    part = assumed(board)
    assert isinstance(part, MODULE_KINDS), "it is what it was"
    return part


def _board(watts: float, name: str, *, stage: Literal["AB", "D"] = "AB", single: bool = False) -> AnyModule:
    board = usual_board(Requirement(watts, 8.0, stage=stage), single=single)
    return _guessed(board.model_copy(update={"name": name}))


def _chip_board(watts: float, rail: float, amperes: float) -> AnyModule:
    return _guessed(
        ClassABModule(
            name=f"Chip board, {watts:g} W", maker="–", v_rail_min=12, v_rail_nominal=rail,
            v_rail_max=1.2 * rail, i_limit_a=amperes, r_load_min_ohm=4, gain=22, r_input_ohm=22e3, f_low_hz=5,
            f_high_hz=90e3, i_driver_a=0.006, i_quiescent_stated_a=0.05, offset_max_v=0.03, settle_s=0.4,
            c_local_f=220e-6, r_junction_sink_k_per_w=1.5, v_sat_v=2.4, output_pairs=1,
        )
    )  # fmt: skip


def _class_a_board(watts: float, rail: float, pairs: int) -> AnyModule:
    return _guessed(
        ClassAModule(
            name=f"Class A board, {watts:g} W", maker="–", v_rail_min=0.7 * rail, v_rail_nominal=rail,
            v_rail_max=1.3 * rail, i_limit_a=6, r_load_min_ohm=4, gain=13, r_input_ohm=47e3, f_low_hz=2,
            f_high_hz=200e3, i_driver_a=0.02, bias=BiasPoint(listed_mv=120, r_listed_ohm=0.22, r_fitted_ohm=0.22),
            offset_max_v=0.05, settle_s=2, c_local_f=1e-3, r_junction_sink_k_per_w=0.55, t_junction_max_c=150,
            topology="push_pull", v_sat_v=2.2, output_pairs=pairs,
        )
    )  # fmt: skip


def _sinks() -> Iterator[Part]:
    for resistance in _SINKS_K_PER_W:
        yield assumed(HeatSink(name=f"Sink {resistance:g} K/W", r_k_per_w=resistance, t_limit_c=75))


def _relays() -> Iterator[Part]:
    for seconds in (2, 3, 5):
        yield assumed(
            Protection(name=f"Relay board, mutes {seconds} s", maker="–", mute_s=seconds, dc_threshold_v=2.0,
                       dc_time_constant_s=0.3)
        )  # fmt: skip
    for volts in (12, 24):
        regulator = {"maker": "–", "v_out": volts, "v_dropout_v": 2.5, "r_junction_air_k_per_w": 50}
        yield assumed(RelaySupply.model_validate({"name": f"Relay supply {volts} V from the + rail", **regulator}))
        wound = {"taken_from": "winding of its own", "v_winding_rms": 1.25 * volts, "c_f": 1e-3}
        yield assumed(
            RelaySupply.model_validate({"name": f"Relay supply {volts} V on its own winding", **regulator, **wound})
        )
    yield assumed(Trigger(name="Trigger relay 12 V", maker="–", coil_v=12, coil_ohm=270))


def _loads() -> Iterator[Part]:
    for ohms, watts in itertools.product(_LOADS_OHM, _LOADS_W):
        yield assumed(Load(name=f"Dummy {ohms:g} Ω {watts} W", r_ohm=ohms, r_tol=0.05, p_rated_w=watts))
    for ohms in (4.0, 8.0):
        coil = VoiceCoil(
            r_dc_ohm=0.75 * ohms, f_resonance_hz=50, q_mechanical=4, q_electrical=0.5, l_coil_h=0.06e-3 * ohms
        )
        yield assumed(
            Load(name=f"Loudspeaker {ohms:g} Ω", r_ohm=ohms, r_tol=0.15, p_rated_w=60, voice_coil=coil)
        )  # fmt: skip


def _around() -> Iterator[Part]:
    yield _WIRING
    yield assumed(Preamplifier(name="Preamplifier, gain 4", maker="–", gain=4, r_output_ohm=100, v_out_max_rms=7))
    for ohms in (10e3, 22e3, 47e3):
        yield assumed(VolumeControl(name=f"Control {shown(ohms, 'ohm')}, log", maker="–", r_ohm=ohms))
    for square_mm, metres in itertools.product((1.5, 2.5, 4.0), (2, 5)):
        yield assumed(
            SpeakerCable(name=f"Cable {square_mm:g} mm² {metres} m", maker="–", length_m=metres, a_m2=square_mm * 1e-6)
        )
    for name, resistance in (("Mica and grease", 0.4), ("Soft pad", 0.8), ("Ceramic and grease", 0.2)):
        yield assumed(Insulator(name=name, maker="–", r_k_per_w=resistance))


def _in_milli(farads: float) -> str:
    """As it is spoken: 4.7 mF."""
    return f"{1e3 * farads:g} mF"
