"""The whole invented shelf with its stock."""

from plinth.builds.stock import Stock
from plinth.demo import shelf
from plinth.demo.shelves.capacitors import CAPACITORS
from plinth.demo.shelves.entries import Entry, priced
from plinth.demo.shelves.generics import GENERICS
from plinth.demo.shelves.hookups import HOOKED
from plinth.demo.shelves.loads import LOADS
from plinth.demo.shelves.metalwork import METALWORK
from plinth.demo.shelves.modules import MODULES
from plinth.demo.shelves.supplies import SUPPLIES
from plinth.demo.shelves.transformers import TRANSFORMERS

# What is known of the stock of the parts that the theatre's builds are made of.
_STOCK: dict[str, Stock] = {
    "Ring 225": priced(34.0, (5, 31.0), drawer=2),
    "Ring 330": priced(47.0, (5, 43.0)),
    "Ring 160": priced(27.5),
    "Ring 250": priced(39.0),
    "Stack 120": priced(16.5, drawer=1),
    "Can 10m/50": priced(4.6, (10, 3.9), drawer=4),
    "Can 10m/63": priced(5.4, (10, 4.7)),
    "Pair 22m/63": priced(14.0, ordered=2, due="2026-12-04"),
    "Stagehand 60": priced(22.0, (2, 21.0), (10, 17.0), drawer=2),
    "Stagehand 90": priced(28.0, (2, 26.5), ordered=2, due="back order"),
    "Greenroom 30": priced(8.2, (2, 7.5), drawer=2),
    "Candle 12": priced(31.0),
    "Lantern 100": priced(21.0, (2, 19.5)),
    "Printed 15": priced(7.9, ordered=2, due="2026-12-02"),
    "Small 1m/50": priced(0.9, (10, 0.7), drawer=4),
    "Hushed 15": priced(3.4, (8, 2.6), panel=4),
    "Parade 150": priced(16.0, (2, 15.0)),
}
WHOLE: tuple[Entry, ...] = (
    *((part, _STOCK.get(part.name, Stock())) for part in shelf.SHELF),
    *TRANSFORMERS, *SUPPLIES, *CAPACITORS, *MODULES, *METALWORK, *LOADS, *HOOKED, *GENERICS,
)  # fmt: skip
