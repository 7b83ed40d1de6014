"""What cells of the clipping table say together: the resistance behind the output, and power over the source."""

import math
from collections.abc import Sequence

import numpy as np

from plinth.bench.clip_cell import ClipCell
from plinth.bench.sheet import Graph, Measured, apart
from plinth.drawing.series import Series
from plinth.judge.state import State
from plinth.physics.stages.levels import peak_from_rms, rms_for_power
from plinth.physics.stages.output_impedance import fitted_ohm
from plinth.record.reading import Reading
from plinth.units.shown import shown_with_spread

# How far two looks at the same flattening differ, as a share of the volts.
BY_EYE = 0.01
# What the prediction of a difference between two loads is worth at least.
LEAST_SHARE = 0.10

CellReading = Sequence[tuple[ClipCell, Reading]]


def behind_output(given: CellReading) -> tuple[Measured, Measured] | None:
    """Ohm behind the output at clipping as the readings say, and as predicted for the same loads; None for one load.

    The output clips at v = v0 - R v / R_load, rails sagging and stage saturating alike: a straight line of v over the
    load's current, whose slope is all that stands behind: supply, module, wiring.
    """
    loads = {cell.load.identity for cell, _ in given}
    if len(loads) < 2:
        return None
    r = np.array([cell.load.r_ohm for cell, _ in given])
    v = np.array([peak_from_rms(rms_for_power(reading.value, cell.load.r_ohm)) for cell, reading in given])
    u_p = np.array([(reading.u or 0.0) / reading.value for _, reading in given])
    tolerance = np.array([cell.load.r_tol / math.sqrt(3.0) for cell, _ in given])
    # The spread of a power counts the load's once more, which the fit does by itself.
    u_volts = v * np.hypot(BY_EYE, 0.5 * np.sqrt(np.maximum(u_p**2 - tolerance**2, 0.0)))
    value, u = fitted_ohm(r, v, u_volts, tolerance)
    expected_v = np.array([cell.v_peak.value for cell, _ in given])
    expected, _ = fitted_ohm(r, expected_v, np.full(len(given), 1e-3), np.zeros(len(given)))
    known = all(reading.u is not None for _, reading in given)
    return Measured(value, u if known else None), Measured(expected, LEAST_SHARE * abs(expected))


def behind_outputs(given: CellReading) -> list[str]:
    """For each source with two loads read, what stands behind the output, and what it says."""
    sentences = []
    for source in dict.fromkeys(cell.source for cell, _ in given):
        held = [(cell, reading) for cell, reading in given if cell.source == source and not reading.bound.one_sided]
        fit = behind_output(held)
        if fit is None:
            continue
        read, expected = fit
        u = read.u or 0.0
        words = shown_with_spread(read.value, 2.0 * u, "ohm") if read.u is not None else read.words("ohm")
        state = apart(read, expected.value, expected.u or 0.0)
        says = "as predicted"
        if state is not State.CLEAR:
            says = (
                "more than predicted: thin wiring, a weak joint, a smaller transformer, or a module that limits"
                if read.value > expected.value
                else "less than predicted: a larger supply than noted, or loads that are not what they are said to be"
            )
        ohms = shown_with_spread(expected.value, 2.0 * (expected.u or 0.0), "ohm")
        sentences.append(f"Behind the output, {source}: {words}, {ohms} expected; {says}.")
    return sentences


def power_over_source(cells: Sequence[ClipCell], given: CellReading) -> Graph | None:
    """Power over the rail without load, a curve for each load; None for one source only."""
    if len({cell.source for cell in cells}) < 2:
        return None
    curves = []
    for identity in dict.fromkeys(cell.load.identity for cell in cells):
        row = sorted((cell for cell in cells if cell.load.identity == identity), key=_rail)
        x = np.array([_rail(cell) for cell in row])
        y = np.array([cell.power.value for cell in row])
        spread = np.array([cell.power.spread for cell in row])
        name = f"{row[0].load.r_ohm:g} Ω"
        curves.append(
            Series(f"{name}, predicted", x, y, role="pred", unit="W", label=name, label_at="above", spread=spread)
        )
        points = [(_rail(cell), reading.value) for cell, reading in given if cell.load.identity == identity]
        if points:
            read = np.array(sorted(points))
            curves.append(Series(f"{name}, read", read[:, 0], read[:, 1], "ink", "W", discs=True))
    return Graph("Clip power over the source", "rail without load", "V", "W over V", tuple(curves))


def _rail(cell: ClipCell) -> float:
    return cell.prediction["rail_no_load_v"].value
