"""Transformers: name, core, secondaries, VA, volts of each half, regulation (None: the maker is silent), price."""

from plinth.builds.supply_parts import Transformer
from plinth.demo.shelves.entries import Entry, priced, usual

_ROWS: tuple[tuple[str, str, str, str, float, float, float | None, float, int], ...] = (
    ("Ring 30/12", "Brindlecoil", "toroid", "two", 30, 12, 0.18, 14.5, 1),
    ("Ring 50/15", "Brindlecoil", "toroid", "two", 50, 15, 0.14, 17.0, 0),
    ("Ring 80/18", "Brindlecoil", "toroid", "two", 80, 18, 0.12, 21.0, 2),
    ("Ring 120/18", "Brindlecoil", "toroid", "two", 120, 18, 0.095, 24.5, 0),
    ("Ring 120/22", "Brindlecoil", "toroid", "two", 120, 22, 0.095, 24.5, 1),
    ("Ring 160/25", "Brindlecoil", "toroid", "two", 160, 25, None, 27.5, 0),
    ("Ring 200/24", "Brindlecoil", "toroid", "two", 200, 24, 0.083, 31.0, 0),
    ("Ring 225/30", "Brindlecoil", "toroid", "two", 225, 30, 0.075, 34.0, 0),
    ("Ring 250/24", "Brindlecoil", "toroid", "two", 250, 24, 0.065, 38.5, 0),
    ("Ring 300/24", "Brindlecoil", "toroid", "two", 300, 24, 0.06, 46.0, 0),
    ("Ring 300/35", "Brindlecoil", "toroid", "two", 300, 35, 0.06, 46.0, 1),
    ("Ring 400/30", "Brindlecoil", "toroid", "two", 400, 30, 0.052, 58.0, 0),
    ("Ring 500/35", "Brindlecoil", "toroid", "two", 500, 35, 0.046, 69.0, 0),
    ("Ring 500/40", "Brindlecoil", "toroid", "two", 500, 40, 0.046, 69.0, 0),
    ("Ring 800/45", "Brindlecoil", "toroid", "two", 800, 45, 0.038, 98.0, 0),
    ("Stack 60/15", "Oldmarrow Iron", "ei", "centre_tap", 60, 15, 0.17, 12.0, 3),
    ("Stack 80/20", "Oldmarrow Iron", "ei", "centre_tap", 80, 20, 0.15, 13.5, 0),
    ("Stack 150/22", "Oldmarrow Iron", "ei", "centre_tap", 150, 22, 0.115, 19.0, 0),
    ("Stack 180/25", "Oldmarrow Iron", "ei", "centre_tap", 180, 25, 0.11, 22.0, 4),
    ("Stack 200/24", "Oldmarrow Iron", "ei", "two", 200, 24, None, 29.0, 1),
    ("Stack 250/30", "Oldmarrow Iron", "ei", "two", 250, 30, 0.10, 33.0, 0),
    ("Lone 150/24", "Oldmarrow Iron", "ei", "one", 150, 24, 0.12, 18.0, 0),
    ("Lone 200/28", "Brindlecoil", "toroid", "one", 200, 28, 0.08, 29.5, 0),
    ("Printed 6/15", "Oldmarrow Iron", "ei", "two", 6, 15, None, 6.8, 5),
    ("Printed 25/18", "Oldmarrow Iron", "ei", "two", 25, 18, 0.22, 9.9, 0),
)


def _entry(row: tuple[str, str, str, str, float, float, float | None, float, int]) -> Entry:
    name, maker, core, secondaries, va, volts, regulation, price, drawer = row
    part = Transformer.model_validate(
        {
            "name": name, "maker": maker, "core": core, "secondaries": secondaries, "va": va, "v_primary_rms": 230,
            "v_secondary_rms": volts, "regulation": regulation,
        }
    )  # fmt: skip
    return part, priced(price, (5, round(0.92 * price, 2)), drawer=drawer)


TRANSFORMERS: tuple[Entry, ...] = (
    *(_entry(row) for row in _ROWS),
    (
        Transformer(
            name="Ring 330/33", maker="Brindlecoil", core="toroid", secondaries="two", va=330, v_primary_rms=230,
            v_secondary_rms=33,
        ),
        # The listing contradicts itself, as listings do.
        priced(49.0, ordered=1, due="2026-12-09", note="listing: 330 VA, and 4.2 A each at 33 V, which is 277 VA"),
    ),
    (
        Transformer(
            name="Theatre dimmer iron", maker="unknown", core="ei", secondaries="centre_tap", va=200, v_primary_rms=230,
            v_secondary_rms=26,
        ),
        priced(0.0, drawer=1, note="out of a scrapped dimmer rack, 4.1 kg, no label"),
    ),
    usual(Transformer(name="Any toroid, 160 VA", maker="–", core="toroid", secondaries="two", va=160, v_primary_rms=230,
                      v_secondary_rms=24), "v_primary_rms"),
)  # fmt: skip
