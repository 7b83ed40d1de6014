"""Whatever can be kept at a test can be shown: outcomes, graph and sentences of extreme readings, on every kind."""

import math

import numpy as np
import pytest

from plinth.bench.every_sheet import SHEETS
from plinth.record.request import Request
from plinth.report.reading_words import reading_words, sentence_of
from plinth.units.errors import QuantityError
from tests.bench.typed_bench import NO_NUMBER, TypedBench
from tests.family import DEMO, FAMILY
from tests.turns import crossed

BUILDS = {
    **{name: DEMO[name] for name in ("Stage pair", "Street box")},
    **{name: FAMILY[name] for name in ("class D full bridge on bench", "chip on linear, unequal")},
}
UNITS = {"ohm": "ohm", "%": "%", "": "", "°C": "°C", "dB": "dB"}
NUMBERS = ("0", "-0", "1e-320", "-1e-320", "1e-14", "1e-9", "1", "-1", "1e4", "1e9", ">0", "<0", "about 0")


def extremes(asked: Request) -> list[str]:
    """Numbers no sane meter shows, in the unit asked for; and the edges of what may be typed."""
    edges = [asked.least, asked.most, asked.window.low if asked.window else None,
             asked.window.high if asked.window else None]  # fmt: skip
    numbers = [*NUMBERS, *(f"{edge:.9g}" for edge in edges if edge is not None)]
    return [f"{number} {UNITS.get(asked.unit, asked.unit)}".strip() for number in numbers]


@pytest.mark.parametrize(("name", "test"), crossed(BUILDS, [kind.key for kind in SHEETS], 5))
def test_whatever_is_kept_is_shown(name: str, test: str) -> None:
    bench = TypedBench(test, BUILDS[name])
    dice = np.random.default_rng(7)
    kept = 0
    for _ in range(2):
        for asked in bench.asked:
            typed = extremes(asked)
            dice.shuffle(typed)
            for text in typed:
                try:
                    found = bench.understand(asked.key, text)
                except QuantityError:
                    continue
                # A question is answered in each way that it offers.
                for meaning in (*found.choices, *([found.taken] if found.taken else [])):
                    reading = bench.keep(meaning, text)
                    kept += 1
                    assert math.isfinite(reading.value)
                    words = f"{reading_words(reading)} {sentence_of(reading)}"
                    assert not NO_NUMBER.search(words), (asked.key, text, words)
                    bench.outcomes()
                    graph = bench.sheet.graph(bench.readings)
                    if graph is not None:
                        (x0, x1), (y0, y1) = graph.extent()
                        assert all(map(math.isfinite, (x0, x1, y0, y1))), (asked.key, text)
    assert kept > 10
