"""The invented shelf of the demo: whatever stands in its data files, and by name what builds and tests are made of."""

from typing import TypeVar

from plinth.builds.instruments import BenchKit
from plinth.builds.modules import ClassABModule, ClassAModule, ClassDModule
from plinth.builds.parts import Load
from plinth.builds.supply_parts import (
    Battery,
    BatteryConverter,
    BenchPair,
    MainsSwitcher,
    Regulator,
    Reservoir,
    Smoothing,
    Transformer,
)
from plinth.demo.data_files import Entry, document, entries

PartT = TypeVar("PartT")
# In this order, which is that of the shelf; the first is what the theatre's builds are made of.
FILES = (
    "theatre", "transformers", "supplies", "capacitors", "modules", "metalwork", "loads", "hookups", "generics",
    "relays",
)  # fmt: skip
_BY_FILE = {name: entries(f"shelf/{name}.toml") for name in FILES}
WHOLE: tuple[Entry, ...] = tuple(entry for entries in _BY_FILE.values() for entry in entries)
SHELF = tuple(part for part, _ in _BY_FILE["theatre"])
BENCH = BenchKit.model_validate(document("bench.toml"))


def _named(kind: type[PartT], name: str) -> PartT:
    """A part of the theatre's. Raises StopIteration where the data files have none of that kind and name."""
    return next(part for part in SHELF if isinstance(part, kind) and part.name == name)


RING_225 = _named(Transformer, "Ring 225")
RING_330 = _named(Transformer, "Ring 330")
RING_160 = _named(Transformer, "Ring 160")
STACK_120 = _named(Transformer, "Stack 120")
RING_250 = _named(Transformer, "Ring 250")
PRINTED_15 = _named(Transformer, "Printed 15")
TRIAL_10 = _named(Transformer, "Trial 10")
CAN_10M_50 = _named(Reservoir, "Can 10m/50")
CAN_10M_63 = _named(Reservoir, "Can 10m/63")
PAIR_22M_63 = _named(Reservoir, "Pair 22m/63")
SMALL_4M7_35 = _named(Reservoir, "Small 4m7/35")
SMALL_1M_50 = _named(Reservoir, "Small 1m/50")
CAN_15M_35 = _named(Reservoir, "Can 15m/35")
LOW_4M7_50 = _named(Reservoir, "Low 4m7/50")
LOW_2M2_63 = _named(Reservoir, "Low 2m2/63")
CHOKE_2M2 = _named(Smoothing, "Choke 2m2 and can 15m")
HUSHED_15 = _named(Regulator, "Hushed 15")
BENCH_PAIR = _named(BenchPair, "Two bench supplies in series")
CARTHORSE_300 = _named(BatteryConverter, "Carthorse 300")
EIGHT_CELLS_20 = _named(Battery, "Eight cells, 20 Ah")
SHUNTER_36 = _named(MainsSwitcher, "Shunter 36")
SHUNTER_45 = _named(MainsSwitcher, "Shunter 2×45")
STAGEHAND_60 = _named(ClassABModule, "Stagehand 60")
STAGEHAND_90 = _named(ClassABModule, "Stagehand 90")
GREENROOM_30 = _named(ClassABModule, "Greenroom 30")
CANDLE_12 = _named(ClassAModule, "Candle 12")
LANTERN_100 = _named(ClassDModule, "Lantern 100")
PARADE_150 = _named(ClassDModule, "Parade 150")
DUMMY_8 = _named(Load, "Dummy 8")
DUMMY_4 = _named(Load, "Dummy 4")
FOUR_IN_ALL = _named(Load, "Four of 8R2")
DUMMY_16 = _named(Load, "Dummy 16")
DUMMY_4_BIG = _named(Load, "Dummy 4, big")
PAPER_CONE = _named(Load, "Paper cone 8")
