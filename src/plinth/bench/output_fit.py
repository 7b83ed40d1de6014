"""One output resistance and one saturation of a module that fit all its clipping readings together."""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

from plinth.bench.across_cells import BY_EYE, CellReading
from plinth.bench.clip_cell import ClipCell
from plinth.builds.modules import Module
from plinth.physics.stages.levels import peak_from_rms, rms_for_power
from plinth.record.reading import Reading
from plinth.units.shown import shown, shown_with_spread

# Two are fitted: of fewer readings nothing would be left over by which to see whether they fit.
FEWEST = 3
# A fit whose readings lie further from it than they may in one of twenty cases is none.
UNLIKELY = 0.05
KEYS = ("v_sat", "r_out")
# Nearer to what is stated than this share of its standard uncertainty a fit says nothing new.
ALREADY = 0.5


@dataclasses.dataclass(frozen=True)
class OutputFit:
    """Saturation (V) and output resistance (ohm) with standard uncertainties, ``count`` readings that they rest on.

    ``off`` how far the readings lie from the fit, RMS, as a share of their volts; ``fits`` whether such a distance is
    likely; ``furthest`` the reading that lies furthest off, in words.
    """

    v_sat: float
    u_v_sat: float
    r_out: float
    u_r_out: float
    count: int
    off: float
    fits: bool
    furthest: str

    @property
    def possible(self) -> bool:
        """Whether a module can be so: neither below zero."""
        return self.v_sat >= 0.0 and self.r_out >= 0.0

    @property
    def sentence(self) -> str:
        """What was fitted, to how many readings, and how well."""
        both = (
            f"output resistance of {shown_with_spread(self.r_out, 2.0 * self.u_r_out, 'ohm')} and one saturation of "
            f"{shown_with_spread(self.v_sat, 2.0 * self.u_v_sat, 'V')}"
        )
        if not self.fits:
            return (
                f"No one output resistance and saturation fit all {self.count} readings: nearest come an {both}, and "
                f"{self.furthest} stands furthest off."
            )
        if not self.possible:
            return (
                f"All {self.count} readings are fitted by one {both}, which no module has: the supply gives more than "
                "is stated, or a load is not what it is said to be."
            )
        return f"One {both} fit all {self.count} readings (to {100.0 * self.off:.1f} % of their volts)."


def output_fit(given: CellReading) -> OutputFit | None:
    """The saturation and output resistance that fit readings of the onset best, the rest of the build as predicted.

    The predicted volts at clip of each cell are taken as straight in both (their slopes come with the prediction), and
    weighted by what eye, meter and load leave open (least squares). None for fewer than three readings, for cells that
    cannot part the two, and for modules that have no saturation of their own.
    """
    held, slopes = [], []
    for cell, reading in given:
        # No power at all tells of no onset.
        tells = cell.definition == "onset" and not reading.bound.one_sided and reading.value > 0.0
        slope = _slopes(cell) if tells else None
        if slope is not None:
            held.append((cell, reading))
            slopes.append(slope)
    if len(held) < FEWEST:
        return None
    # Late, and not the whole of its statistics: this is asked whenever a cell is shown.
    from scipy.special import chdtri

    matrix = np.array([[slope[key][1] for key in KEYS] for slope in slopes])
    at = np.array([[slope[key][0] for key in KEYS] for slope in slopes])
    volts, u = _volts_read(held)
    known = np.array([cell.prediction["clip_v_peak"].value for cell, _ in held])
    # As if neither were there: what is left is what the two have to explain.
    wanted = volts - known + np.sum(matrix * at, axis=1)
    weighted = matrix / u[:, None]
    if np.linalg.cond(weighted / np.linalg.norm(weighted, axis=0)) > _MOST_ALIKE:
        return None
    values, *_ = np.linalg.lstsq(weighted, wanted / u, rcond=None)
    left = wanted - matrix @ values
    square = float(np.sum((left / u) ** 2))
    spare = len(held) - len(KEYS)
    spreads = np.sqrt(np.diag(np.linalg.inv(weighted.T @ weighted)) * max(1.0, square / spare))
    worst = held[int(np.argmax(np.abs(left / u)))][0]
    return OutputFit(
        float(values[0]), float(spreads[0]), float(values[1]), float(spreads[1]), len(held),
        off=float(np.sqrt(np.mean((left / volts) ** 2))),
        fits=square <= float(chdtri(spare, UNLIKELY)),
        furthest=f"{worst.source}, {shown(worst.load.r_ohm, 'ohm')}",
    )  # fmt: skip


def fitted_module(module: Module, fit: OutputFit) -> Module | None:
    """The module with what was fitted stated of it; None where it has no such values, or states them already."""
    if not {"v_sat_v", "r_out_ohm"} <= set(type(module).model_fields) or not (fit.fits and fit.possible):
        return None
    found = {"v_sat_v": (fit.v_sat, fit.u_v_sat), "r_out_ohm": (fit.r_out, fit.u_r_out)}
    stated = {name: getattr(module, name) for name in found}
    if all(stated[name] is not None and abs(stated[name] - value) < ALREADY * u for name, (value, u) in found.items()):
        return None
    return type(module).model_validate(
        module.model_dump() | {"v_sat_v": float(f"{fit.v_sat:.3g}"), "r_out_ohm": float(f"{fit.r_out:.3g}")}
    )


# Beyond this one column of the fit is nearly a multiple of the other: one load from one source tells only their sum.
_MOST_ALIKE = 60.0


def _slopes(cell: ClipCell) -> dict[str, tuple[float, float]] | None:
    """Of each value fitted what it was taken as, and by how many volts of peak it moves the onset; None without them.

    Where a current limit decides the onset, it tells of neither.
    """
    rows = {row.key: row for row in cell.prediction["clip_v_peak"].contributions}
    if not all(key in rows and rows[key].u_input > 0.0 for key in KEYS):
        return None
    return {key: (rows[key].value, rows[key].u_figure / rows[key].u_input) for key in KEYS}


def _volts_read(held: list[tuple[ClipCell, Reading]]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Volts of peak at the onset that the readings mean, and their standard uncertainties."""
    volts, spreads = [], []
    for cell, reading in held:
        watts = reading.value / (reading.number("reads_times") or 1.0)
        v = peak_from_rms(rms_for_power(watts, cell.load.r_ohm))
        share = 0.5 * (reading.u or 0.0) / reading.value
        volts.append(v)
        spreads.append(v * math.hypot(BY_EYE, share))
    return np.array(volts), np.array(spreads)
