"""One output resistance and one saturation from readings over sources and loads, of modules that truly have others."""

import functools
import math

import numpy as np
import pytest

from plinth.bench.clip_cell import ClipCell, clip_cells, further_cells
from plinth.bench.output_fit import OutputFit, fitted_module, output_fit
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.record.meaning import reading_of
from plinth.record.reading import Reading
from tests.bench.clip_readings import watts_read
from tests.bench.typed_bench import BEGIN
from tests.family import FAMILY

TRUE_SAT_V, TRUE_OHM = 3.4, 0.62
SOURCES_V = (16.0, 22.0)


@functools.cache
def cells_of(name: str, v_sat_v: float | None = None, r_out_ohm: float | None = None) -> tuple[ClipCell, ...]:
    build: Build = FAMILY[name]
    if v_sat_v is not None:
        module = build.module.model_copy(update={"v_sat_v": v_sat_v, "r_out_ohm": r_out_ohm})
        build = build.model_copy(update={"module": module})
    first = tuple(cell for cell in clip_cells(build, "left", Situation()) if cell.driven == "one")
    return (*first, *further_cells(first, build, Situation(), SOURCES_V))


def readings(watts: list[float], cells: tuple[ClipCell, ...], u_share: float = 0.0) -> list[tuple[ClipCell, Reading]]:
    return [
        (cell, reading_of(watts_read(cell, power, u_share * power), "typed", BEGIN))
        for cell, power in zip(cells, watts, strict=True)
    ]


def truly(name: str = "class AB on bench") -> list[float]:
    """Watts at onset of a module that is not what is stated of it, solved in full."""
    true = cells_of(name, TRUE_SAT_V, TRUE_OHM)
    return [cell.prediction["clip_v_peak"].value ** 2 / (2.0 * cell.load.r_ohm) for cell in true]


def test_the_values_of_another_module_are_found() -> None:
    fit = output_fit(readings(truly(), cells_of("class AB on bench")))
    assert fit is not None
    assert fit.fits
    assert fit.count == 6
    assert fit.v_sat == pytest.approx(TRUE_SAT_V, abs=0.06)
    assert fit.r_out == pytest.approx(TRUE_OHM, abs=0.02)
    assert "fit all 6 readings" in fit.sentence


def test_where_a_chip_limits_its_current_its_reading_tells_of_neither() -> None:
    name = "chip on bench"
    limited = [cell for cell in cells_of(name) if cell.v_peak.value == pytest.approx(5.0 * cell.load.r_ohm, rel=0.01)]
    fit = output_fit(readings(truly(name), cells_of(name)))
    assert limited
    assert fit is not None
    assert fit.count == 6 - len(limited)
    assert fit.v_sat == pytest.approx(TRUE_SAT_V, abs=2.0 * fit.u_v_sat)
    assert fit.r_out == pytest.approx(TRUE_OHM, abs=2.0 * fit.u_r_out)


def test_what_it_says_is_within_its_spread_as_often_as_it_says() -> None:
    """500 benches: an eye off by 1 % of the volts, a meter within 0.5 % of the watts."""
    cells, watts, dice = cells_of("class AB on bench"), truly(), np.random.default_rng(3)
    inside, likely, count = np.zeros(2), 0, 500
    for _ in range(count):
        off = (1.0 + 0.01 * dice.standard_normal(len(cells))) ** 2 * (1.0 + 0.005 * dice.standard_normal(len(cells)))
        fit = output_fit(readings(list(np.array(watts) * off), cells, 0.005))
        assert fit is not None
        inside += [abs(fit.v_sat - TRUE_SAT_V) < 2.0 * fit.u_v_sat, abs(fit.r_out - TRUE_OHM) < 2.0 * fit.u_r_out]
        likely += fit.fits
    assert inside.min() / count > 0.93
    # No wider than it must be: of a spread twice as wide next to none would lie outside.
    assert inside.max() / count < 0.99
    assert 0.92 < likely / count < 0.98


def test_readings_that_no_one_pair_fits_are_said_to_be_so() -> None:
    watts = truly()
    watts[3] *= 0.8
    cells = cells_of("class AB on bench")
    fit = output_fit(readings(watts, cells))
    assert fit is not None
    assert not fit.fits
    assert f"{cells[3].source}, {cells[3].load.r_ohm:g}" in fit.sentence
    assert fitted_module(cells[0].prediction.build.module, fit) is None


def test_too_little_to_part_the_two_tells_nothing() -> None:
    cells, watts = cells_of("class AB on bench"), truly()
    given = readings(watts, cells)
    assert output_fit(given[:2]) is None
    assert output_fit(given[:1] * 3) is None, "one load from one source, three times"
    assert output_fit([]) is None
    # A cell in which nothing was read tells nothing, and breaks nothing.
    dead = readings([0.0, *watts[1:]], cells)
    found = output_fit(dead)
    assert found is not None
    assert found.count == len(cells) - 1
    switching = cells_of("class D full bridge on bench")
    assert output_fit(readings([cell.power.value for cell in switching], switching)) is None


def test_a_fit_below_zero_is_no_module() -> None:
    module = FAMILY["class AB on bench"].module
    fit = OutputFit(-0.4, 0.1, 0.3, 0.1, 6, off=0.01, fits=True, furthest="")
    assert not fit.possible
    assert "no module has" in fit.sentence
    assert fitted_module(module, fit) is None


def test_what_fits_is_stated_of_the_module_and_predicts_the_readings() -> None:
    cells, watts = cells_of("class AB on bench"), truly()
    fit = output_fit(readings(watts, cells))
    assert fit is not None
    module = fitted_module(cells[0].prediction.build.module, fit)
    assert module is not None
    build = FAMILY["class AB on bench"].model_copy(update={"module": module})
    first = tuple(cell for cell in clip_cells(build, "left", Situation()) if cell.driven == "one")
    for cell, power in zip(first, watts, strict=False):
        volts = math.sqrt(2.0 * cell.load.r_ohm * power)
        assert cell.prediction["clip_v_peak"].value == pytest.approx(volts, rel=3e-3)
