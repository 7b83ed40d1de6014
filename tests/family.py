"""One family of builds for all tests: every kind of supply with every stage and wiring that can go on it.

Plain sound parts, rails of about 30 V, so that whatever fails with one of them fails for its kind. ``FAMILY`` is
by name; ``EXTREMES`` are situations at the edge of what may be asked.
"""

from typing import Any

import pytest

from plinth.builds.build import Build
from plinth.builds.parts import Entry, HeatSink, Mains, Protection
from plinth.demo import shelf
from plinth.demo.builds import FOYER, MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX

_ENTRY = Entry(name="Inlet", fuse_a_rms=2.0, fuse_kind="T", fuse_i2t_a2s=20)
_MAINS = Mains(name="Wall", v_nominal_rms=230, frequency_hz=50)
_SINK = HeatSink(name="Fins", r_k_per_w=0.5, t_limit_c=75, heat_capacity_j_per_k=900)
_GUARD = Protection(name="Relay", maker="Copperfinch", mute_s=2.4, dc_threshold_v=1.6, dc_time_constant_s=0.33)

_AB = shelf.STAGEHAND_60.model_copy(update={"name": "AB", "v_rail_min": 10.0})
_CHIP = shelf.GREENROOM_30.model_copy(update={"name": "Chip", "v_rail_max": 45.0})
_A = shelf.CANDLE_12.model_copy(update={"name": "A", "v_rail_min": 10.0, "v_rail_max": 45.0})
_ONE_ENDED = _A.model_copy(update={"name": "Single-ended A", "topology": "single_ended"})
_HALF = shelf.LANTERN_100.model_copy(update={"name": "Half bridge", "v_rail_min": 10.0, "v_rail_max": 60.0})
_FULL = shelf.PARADE_150.model_copy(update={"name": "Full bridge", "v_rail_min": 10.0, "v_rail_max": 60.0})
# Name, module, wiring, channels, whether on a single rail.
_STAGES: tuple[tuple[str, Any, str, int, bool], ...] = (
    ("class AB", _AB, "single", 2, False),
    ("class AB, mono", _AB, "single", 1, False),
    ("chip", _CHIP, "single", 2, False),
    ("class AB, bridged", _AB, "bridged", 1, False),
    ("class A", _A, "single", 2, False),
    ("single-ended A", _ONE_ENDED, "single", 1, False),
    ("class D half bridge", _HALF, "single", 2, False),
    ("class D half bridges, bridged", _HALF, "bridged", 1, False),
    ("class D full bridge", _FULL, "single", 2, True),
    ("chips on one rail, bridged", _CHIP, "bridged", 1, True),
)


def _transformer(**changes: object) -> Any:
    return shelf.RING_225.model_copy(update={"v_secondary_rms": 22.0, "va": 400.0, **changes})


def _linear(*, single: bool = False, **more: object) -> dict[str, Any]:
    rectifier = STAGE_PAIR.supply.model_dump()["rectifier"] | {"bridges": "one" if single else "two"}
    found = {
        "kind": "linear",
        "transformer": _transformer(secondaries="one" if single else "two").model_dump(),
        "rectifier": rectifier,
        "reservoir": shelf.CAN_10M_50.model_dump(),
    }
    return found | more


def _switcher(*, single: bool, **changes: object) -> dict[str, Any]:
    part = shelf.SHUNTER_36 if single else shelf.SHUNTER_45
    switcher = part.model_copy(update={"v_rail": 30.0, "p_continuous_w": 400.0, **changes})
    return {"kind": "switcher", "switcher": switcher.model_dump(), "reservoir": shelf.CAN_10M_50.model_dump()}


def _direct(*, single: bool) -> dict[str, Any]:
    source = shelf.BENCH_PAIR.model_copy(update={"rails": "single" if single else "dual"})
    return {"kind": "direct", "source": source.model_dump(), "reservoir": shelf.CAN_10M_50.model_dump()}


def _battery() -> dict[str, Any]:
    return {
        "kind": "battery", "battery": shelf.EIGHT_CELLS_20.model_dump(), "converter": shelf.CARTHORSE_300.model_dump(),
        "reservoir": shelf.CAN_10M_50.model_dump(),
    }  # fmt: skip


def _supplies(single: bool) -> dict[str, dict[str, Any]]:
    found = {
        "linear": _linear(single=single),
        "switcher": _switcher(single=single),
        "corrected switcher": _switcher(single=single, pfc=True, v_pfc_v=390.0),
        "bench": _direct(single=single),
    }
    if not single:
        choke = shelf.CHOKE_2M2.model_copy(update={"v_rated": 63.0}).model_dump()
        found |= {
            "dual mono": _linear(per_channel=True, input_supply=STAGE_PAIR.supply.model_dump()["input_supply"]),
            "linear with chokes": _linear(smoothing=choke),
            "linear, unequal": _linear(reservoir_minus=shelf.SMALL_4M7_35.model_dump() | {"v_rated": 50.0}),
            "linear, leaky": _linear(
                transformer=_transformer(secondaries="two", leakage_h=60e-6, primary_share=0.5).model_dump()
            ),
            "battery": _battery(),
        }
    return found


def _build(name: str, supply: dict[str, Any], module: Any, wiring: str, channels: int) -> Build:
    wall = supply["kind"] in ("linear", "switcher")
    return Build.model_validate(
        {
            "name": name, "mains": _MAINS if wall else None, "entry": _ENTRY, "supply": supply,
            "module": module.model_dump(), "wiring": wiring, "channels": ("left", "right")[:channels], "sink": _SINK,
            "protection": _GUARD, "load": shelf.DUMMY_8, "loads": (shelf.DUMMY_8, shelf.DUMMY_4),
        }
    )  # fmt: skip


DEMO = {one.name: one for one in (STAGE_PAIR, REHEARSAL_ROOM, FOYER, STREET_BOX, MARKET_BOX)}
FAMILY: dict[str, Build] = {
    f"{stage} on {kind}": _build(f"{stage} on {kind}", supply, module, wiring, channels)
    for stage, module, wiring, channels, single in _STAGES
    for kind, supply in _supplies(single).items()
}
# What stands beside the path, on two of them: the relays' supply either way, and a trigger.
_COILS = {"coil_v": 12.0, "coil_ohm": 260.0, "coils": 2, "coil_wiring": "parallel"}
_BESIDE: dict[str, dict[str, Any]] = {
    "class AB on dual mono": {
        "relay_supply": {
            "name": "Small winding", "maker": "Copperfinch", "taken_from": "winding of its own", "v_winding_rms": 13.0,
            "c_f": 1e-3, "v_out": 12.0, "v_dropout_v": 1.5, "i_max_a": 0.5, "r_junction_air_k_per_w": 40.0,
        },
        "trigger": {"name": "Porter", "maker": "Copperfinch", "coil_v": 12.0, "coil_ohm": 280.0},
    },
    "class D full bridge on corrected switcher": {
        "relay_supply": {
            "name": "From the rail", "maker": "Copperfinch", "v_out": 12.0, "v_dropout_v": 2.0, "i_boards_a": 0.04,
            "v_in_max": 40.0, "r_junction_air_k_per_w": 25.0, "t_junction_max_c": 125.0,
        },
    },
}  # fmt: skip
for _name, _parts in _BESIDE.items():
    _bare = FAMILY[_name].model_dump()
    FAMILY[_name] = Build.model_validate(_bare | _parts | {"protection": _bare["protection"] | _COILS})
# One of each kind of supply and one of each stage: what the ordinary run takes where all would take too long.
FEW: tuple[str, ...] = (
    "class AB on dual mono", "class AB, mono on linear, leaky", "chip on linear, unequal",
    "class AB, bridged on linear",
    "class A on linear with chokes", "single-ended A on bench", "class D half bridge on battery",
    "class D half bridges, bridged on switcher", "class D full bridge on corrected switcher",
    "class D full bridge on bench", "chips on one rail, bridged on linear",
)  # fmt: skip

# The whole family, of which the ordinary run takes those few, and ``pytest -m slow`` the others.
FEW_FIRST = [
    pytest.param(build, id=name, marks=() if name in FEW else pytest.mark.slow) for name, build in FAMILY.items()
]

EXTREMES: dict[str, dict[str, object]] = {
    "as it is": {},
    "low mains": {"mains_v_rms": 196.0},
    "high mains": {"mains_v_rms": 264.0, "third_harmonic": 0.06},
    "idle": {"level": 0.0},
    "bass, one channel": {"frequency_hz": 20.0, "channels_driven": "one"},
    "loudspeaker's phase": {"load_ohm": 6.0, "load_phase_deg": 45.0},
    "heavy": {"load_ohm": 2.0},
    "light": {"load_ohm": 600.0, "ambient_c": 45.0},
    "supply alone": {"rail_load_a": 0.5},
}
