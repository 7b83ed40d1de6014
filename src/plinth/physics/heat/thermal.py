"""Heat in time: junction, case, sink and air as thermal masses and resistances; and what limits a bias.

Sources: F. P. Incropera and D. P. DeWitt, Fundamentals of Heat and Mass Transfer, for plates in still air.
"""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

STEFAN_BOLTZMANN = 5.670e-8
AIR_W_PER_M_K = 0.026


@dataclasses.dataclass(frozen=True)
class ThermalNetwork:
    """N nodes and the air. ``c`` (N,) J/K above 0; ``g`` (N, N) W/K between nodes, ``g_air`` (N,) to the air."""

    c: Array
    g: Array
    g_air: Array

    @property
    def conductance(self) -> Array:
        """The Laplacian: heat leaving each node per kelvin of every node."""
        matrix: Array = np.diag(self.g.sum(axis=1) + self.g_air) - self.g
        return matrix

    def course_c(
        self, power_w: Array, ambient_c: float, start_c: Array, t_s: Array, feedback: Array | None = None
    ) -> Array:
        """Temperatures (times, N) under ``power_w``, exact: a sum of the network's modes.

        ``feedback`` (N, N) W/K: heat that node i gains for each kelvin of node j above ambient (a drifting bias). What
        feeds itself more than the air takes away rises without end.
        """
        rates, modes = self._modes(feedback)
        # Each mode on its own: z' = rate z + push.
        push = np.linalg.solve(modes, power_w / self.c)
        begin = np.linalg.solve(modes, start_c - ambient_c)
        grown = np.exp(np.outer(t_s, rates))
        still = np.abs(rates) < 1e-12
        lifted = np.where(still, t_s[:, None], (grown - 1.0) / np.where(still, 1.0, rates))
        return np.asarray(ambient_c + np.real((grown * begin + lifted * push) @ modes.T), dtype=np.float64)

    def slowest_s(self, feedback: Array | None = None) -> float:
        """The longest time constant, s; infinite where the network feeds itself beyond what it loses."""
        slowest = float(np.max(np.real(self._modes(feedback)[0])))
        return -1.0 / slowest if slowest < 0.0 else math.inf

    def _modes(self, feedback: Array | None) -> tuple[Array, Array]:
        """Rates (1/s, negative where they settle) and shapes of the modes."""
        gained = np.zeros_like(self.g) if feedback is None else feedback
        rates, modes = np.linalg.eig((gained - self.conductance) / self.c[:, None])
        return rates, modes


def chain(r_k_per_w: tuple[float, ...], c_j_per_k: tuple[float, ...]) -> ThermalNetwork:
    """Nodes in a row, the last to the air: ``r_k_per_w[k]`` from node k to the next (the last one to the air)."""
    n = len(c_j_per_k)
    g, g_air = np.zeros((n, n)), np.zeros(n)
    for k, r in enumerate(r_k_per_w):
        if k == n - 1:
            g_air[k] = 1.0 / r
        else:
            g[k, k + 1] = g[k + 1, k] = 1.0 / r
    return ThermalNetwork(np.array(c_j_per_k), g, g_air)


def plate_k_per_w(area_m2: float, rise_k: float, ambient_c: float, emissivity: float) -> float:
    """Thermal resistance of a plate or case in still air: natural convection and radiation side by side, K/W.

    h_c = 1.42 (rise / L)^0.25 for an upright plate of height L = sqrt(area / 2), both faces; h_r of a grey surface to
    surroundings at ambient. Falls as it warms: state the rise.
    """
    height = math.sqrt(area_m2 / 2.0)
    h_convection = 1.42 * (rise_k / height) ** 0.25
    warm, cool = ambient_c + rise_k + 273.15, ambient_c + 273.15
    h_radiation = emissivity * STEFAN_BOLTZMANN * (warm**2 + cool**2) * (warm + cool)
    return float(1.0 / (area_m2 * (h_convection + h_radiation)))


def gap_k_per_w(gap_m: float, area_m2: float) -> float:
    """Thermal resistance of still air between a device and its sink: d / (k A), k = 0.026 W/(m K)."""
    return gap_m / (AIR_W_PER_M_K * area_m2)


def bias_loop_gain(v_between_rails: float, i_quiescent_a: float, tempco_per_k: float, r_k_per_w: float) -> float:
    """Share of a small rise in heat that the bias adds again through its own drift; runs away at 1.

    V I tc R_th: the general form of g_m V_ce R_th tc < 1 with the drift of the current stated per kelvin.
    """
    return v_between_rails * i_quiescent_a * tempco_per_k * r_k_per_w


def wait_s(loop_gain: float, r_k_per_w: float, heat_capacity_j_per_k: float, share_left: float = 0.05) -> float:
    """Seconds until a drifting bias is within ``share_left`` of its final rise; infinite where it runs away."""
    if loop_gain >= 1.0:
        return math.inf
    return -r_k_per_w * heat_capacity_j_per_k / (1.0 - loop_gain) * math.log(share_left)
