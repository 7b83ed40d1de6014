"""Rails in general, as elements: leakage, a second filter stage, unequal or coupled rails.

    source r - emf - R_source - L_source - diode - A - R_series - L_series - B - load
                                                   +- ESR - C                +- ESR - C
                                                   +- bleeder

One or two such rails, with ``r_shared_ohm`` that all their sources share. Without a second stage A is the load node.
"""

import dataclasses
import functools

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclasses.dataclass(frozen=True)
class RailElements:
    """One rail, SI. ``l_source_h`` 0: no leakage; ``c2_f`` 0: no second stage; ``l_series_h`` 0: a resistor there."""

    r_source_ohm: float
    c_f: float
    esr_ohm: float
    g_bleed_s: float = 0.0
    l_source_h: float = 0.0
    r_series_ohm: float = 0.0
    l_series_h: float = 0.0
    c2_f: float = 0.0
    esr2_ohm: float = 0.0

    @property
    def two_stages(self) -> bool:
        """Whether a second filter stage follows."""
        return self.c2_f > 0.0

    @functools.cached_property
    def states(self) -> tuple[str, ...]:
        """Names of this rail's state variables, in order."""
        names = ["i_source"] if self.l_source_h > 0.0 else []
        names.append("v_cap")
        if self.two_stages:
            names += ["i_series", "v_cap2"] if self.l_series_h > 0.0 else ["v_cap2"]
        return tuple(names)


@dataclasses.dataclass(frozen=True)
class RailNetwork:
    """One or two rails. ``g_load[r][c]`` amperes drawn from rail r per volt of rail c, besides the load current."""

    rails: tuple[RailElements, ...]
    r_shared_ohm: float = 0.0
    g_load: tuple[tuple[float, ...], ...] = ()

    @functools.cached_property
    def _hash(self) -> int:
        return hash((self.rails, self.r_shared_ohm, self.g_load))

    def __hash__(self) -> int:
        """Taken once: the matrices of a network are looked up by it at every march."""
        return self._hash

    @functools.cached_property
    def places(self) -> tuple[dict[str, int], ...]:
        """For each rail, where its state variables lie in the state vector."""
        placed, at = [], 0
        for rail in self.rails:
            placed.append({name: at + k for k, name in enumerate(rail.states)})
            at += len(rail.states)
        return tuple(placed)

    @functools.cached_property
    def size(self) -> int:
        """Number of state variables."""
        return sum(len(rail.states) for rail in self.rails)

    @functools.cached_property
    def conductance(self) -> Array:
        """``g_load`` as a matrix, zeros where none is given."""
        m = len(self.rails)
        return np.array(self.g_load) if self.g_load else np.zeros((m, m))
