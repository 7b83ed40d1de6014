"""An independent integration of one or two rails with everything on them: scipy's RK45, none of Plinth's code.

Written branch by branch, not with matrices: node volts from the states, currents from the node volts.
"""

import dataclasses
import math
from collections.abc import Callable

import numpy as np
from scipy.integrate import solve_ivp


@dataclasses.dataclass(frozen=True)
class Rail:
    """One rail's elements; ``l_source`` 0 for none, ``c2`` 0 for no second stage, ``l_series`` 0 for a resistor."""

    r_source: float
    c: float
    esr: float
    g_bleed: float = 0.0
    l_source: float = 0.0
    r_series: float = 0.0
    l_series: float = 0.0
    c2: float = 0.0
    esr2: float = 0.0


Emf = Callable[[float], float]
# (t, volts of all rails) -> amperes drawn from each
LoadOf = Callable[[float, list[float]], list[float]]


@dataclasses.dataclass(frozen=True)
class Run:
    """On a dense grid over the last period: load-node volts, source and first capacitor's currents, by rail."""

    t: np.ndarray
    v: np.ndarray
    i_source: np.ndarray
    i_cap: np.ndarray


class Reference:
    """Rails on one emf (volts less fixed drops, of time), with ``r_shared`` in common."""

    def __init__(self, rails: list[Rail], emf: Emf, load: LoadOf, r_shared: float = 0.0) -> None:
        self.rails, self.emf, self.load, self.r_shared = rails, emf, load, r_shared
        self.at: list[dict[str, int]] = []
        n = 0
        for rail in rails:
            names = (["i"] if rail.l_source else []) + ["v"]
            names += (["j"] if rail.l_series else []) + (["w"] if rail.c2 else [])
            self.at.append({name: n + k for k, name in enumerate(names)})
            n += len(names)
        self.size = n

    def branches(self, t: float, y: np.ndarray) -> tuple[list[float], list[float], list[float], list[float]]:
        """Source currents, second-stage currents, reservoir-node volts and load volts, by rail.

        The load depends on the rails, the rails (through the ESR) on the load: iterated to rest.
        """
        m = len(self.rails)
        e = self.emf(t)
        v_load = [float(y[at["w" if "w" in at else "v"]]) for at in self.at]
        for _ in range(6):
            i_load = self.load(t, v_load)
            i_series, v_node, before = [0.0] * m, [0.0] * m, list(v_load)
            # Volts of node A without and per ampere of source current.
            idle, gain = [0.0] * m, [0.0] * m
            for r, (rail, at) in enumerate(zip(self.rails, self.at, strict=True)):
                v = float(y[at["v"]])
                if not rail.c2:
                    i_series[r] = i_load[r]
                elif rail.l_series:
                    i_series[r] = float(y[at["j"]])
                g, out = rail.g_bleed, i_series[r]
                if rail.c2 and not rail.l_series:
                    # A resistor to the second capacitor: what flows depends on node A itself.
                    far = float(y[at["w"]]) - rail.esr2 * i_load[r]
                    g += 1.0 / (rail.r_series + rail.esr2)
                    out = -far / (rail.r_series + rail.esr2)
                idle[r] = (v - rail.esr * out) / (1.0 + rail.esr * g)
                gain[r] = rail.esr / (1.0 + rail.esr * g)
            i_source = self._sources(e, y, idle, gain)
            for r, (rail, at) in enumerate(zip(self.rails, self.at, strict=True)):
                v_node[r] = idle[r] + gain[r] * i_source[r]
                if not rail.c2:
                    v_load[r] = v_node[r]
                else:
                    if not rail.l_series:
                        far = float(y[at["w"]]) - rail.esr2 * i_load[r]
                        i_series[r] = (v_node[r] - far) / (rail.r_series + rail.esr2)
                    v_load[r] = float(y[at["w"]]) + rail.esr2 * (i_series[r] - i_load[r])
            if max(abs(a - b) for a, b in zip(before, v_load, strict=True)) < 1e-10:
                break
        return i_source, i_series, v_node, v_load

    def _sources(self, e: float, y: np.ndarray, idle: list[float], gain: list[float]) -> list[float]:
        m = len(self.rails)
        if self.rails[0].l_source:
            return [max(float(y[at["i"]]), 0.0) for at in self.at]
        alone = [max((e - idle[r]) / (self.rails[r].r_source + self.r_shared + gain[r]), 0.0) for r in range(m)]
        if m == 1 or self.r_shared == 0.0:
            return alone
        a = [self.rails[r].r_source + self.r_shared + gain[r] for r in range(m)]
        det = a[0] * a[1] - self.r_shared**2
        both = [
            (a[1] * (e - idle[0]) - self.r_shared * (e - idle[1])) / det,
            (a[0] * (e - idle[1]) - self.r_shared * (e - idle[0])) / det,
        ]
        if both[0] > 0.0 and both[1] > 0.0:
            return both
        return [alone[0], 0.0] if idle[0] < idle[1] else [0.0, alone[1]]

    def slope(self, t: float, y: np.ndarray) -> np.ndarray:
        """The state's slope."""
        i_source, i_series, v_node, v_load = self.branches(t, y)
        i_load = self.load(t, v_load)
        d = np.zeros(self.size)
        total = sum(i_source)
        for r, (rail, at) in enumerate(zip(self.rails, self.at, strict=True)):
            d[at["v"]] = (i_source[r] - i_series[r] - rail.g_bleed * v_node[r]) / rail.c
            if rail.l_series:
                d[at["j"]] = (v_node[r] - v_load[r] - rail.r_series * float(y[at["j"]])) / rail.l_series
            if rail.c2:
                d[at["w"]] = (i_series[r] - i_load[r]) / rail.c2
            if rail.l_source:
                over = self.emf(t) - v_node[r] - rail.r_source * i_source[r] - self.r_shared * total
                d[at["i"]] = over / rail.l_source if i_source[r] > 0.0 or over > 0.0 else 0.0
        return d

    def settle(self, period_s: float, x_start: np.ndarray, most: int = 80, samples: int = 4001) -> Run:
        """Integrate period after period until the states repeat, judged by how their change shrinks.

        Every third time it goes as far as such shrinking steps would lead; two plain periods after that must agree.
        """
        y, last, state = np.array(x_start, dtype=float), math.inf, None
        before = np.zeros(self.size)
        for count in range(most):
            state = solve_ivp(
                self.slope, (0.0, period_s), y, method="RK45", rtol=1e-7, atol=1e-7, max_step=1e-4, dense_output=True
            )
            step = state.y[:, -1] - y
            y = state.y[:, -1]
            size = float(np.max(np.abs(step)))
            rate = min(size / last, 0.999) if last > 0 else 0.0
            if math.isfinite(last) and size * rate / (1.0 - rate) < 3e-5:
                break
            last = size
            shrinks = float(step @ before / (before @ before)) if before.any() else 0.0
            before = step
            if count % 3 == 2 and 0.2 < shrinks < 0.99:
                y, last, before = y + step * shrinks / (1.0 - shrinks), math.inf, np.zeros(self.size)
        assert state is not None
        t = np.linspace(0.0, period_s, samples)
        x = state.sol(t)
        found = [self.branches(float(a), x[:, k]) for k, a in enumerate(t)]
        v = np.array([f[3] for f in found])
        i_source, i_series = np.array([f[0] for f in found]), np.array([f[1] for f in found])
        bleed = np.array([f[2] for f in found]) * np.array([rail.g_bleed for rail in self.rails])
        return Run(t, v, i_source, i_source - i_series - bleed)
