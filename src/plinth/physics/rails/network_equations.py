"""The equations of a network with one set of diodes conducting: dx/dt = a x + b (emf, load), and each branch."""

import dataclasses

import numpy as np
from numpy.typing import NDArray

from plinth.physics.rails.network_elements import RailElements, RailNetwork

Array = NDArray[np.float64]


@dataclasses.dataclass(frozen=True)
class StateEquations:
    """For n states of m rails and inputs u = (emf of each rail, load of each rail).

    ``a`` (n, n) and ``b`` (n, 2 m); ``from_x``, ``from_u`` the four currents of each rail (source, into C, into the
    second stage, into its C); ``v_a``, ``v_load`` volts of its nodes; ``over`` volts that drive its source's current.
    """

    a: Array
    b: Array
    from_x: Array
    from_u: Array
    v_a_x: Array
    v_a_u: Array
    v_load_x: Array
    v_load_u: Array
    over_x: Array
    over_u: Array


def state_equations(network: RailNetwork, on: tuple[bool, ...]) -> StateEquations:
    """The equations where the diodes of ``on`` conduct."""
    m, n = len(network.rails), network.size
    from_x, from_u = _branch_currents(network, on)
    a, b = np.zeros((n, n)), np.zeros((n, 2 * m))
    v_a_x, v_a_u = np.zeros((m, n)), np.zeros((m, 2 * m))
    v_load_x, v_load_u = np.zeros((m, n)), np.zeros((m, 2 * m))
    for r, (rail, place) in enumerate(zip(network.rails, network.places, strict=True)):
        i_c, i_2, i_c2 = 4 * r + 1, 4 * r + 2, 4 * r + 3
        v_cap = place["v_cap"]
        a[v_cap], b[v_cap] = from_x[i_c] / rail.c_f, from_u[i_c] / rail.c_f
        v_a_x[r], v_a_u[r] = rail.esr_ohm * from_x[i_c], rail.esr_ohm * from_u[i_c]
        v_a_x[r, v_cap] += 1.0
        v_load_x[r], v_load_u[r] = v_a_x[r], v_a_u[r]
        if rail.two_stages:
            at = place["v_cap2"]
            a[at], b[at] = from_x[i_c2] / rail.c2_f, from_u[i_c2] / rail.c2_f
            v_load_x[r], v_load_u[r] = rail.esr2_ohm * from_x[i_c2], rail.esr2_ohm * from_u[i_c2]
            v_load_x[r, at] += 1.0
            if rail.l_series_h > 0.0:
                at = place["i_series"]
                a[at] = (v_a_x[r] - v_load_x[r] - rail.r_series_ohm * from_x[i_2]) / rail.l_series_h
                b[at] = (v_a_u[r] - v_load_u[r] - rail.r_series_ohm * from_u[i_2]) / rail.l_series_h
    # Volts that drive each source's current: emf less what the shared resistance takes, less node A.
    shared_x = network.r_shared_ohm * sum(from_x[4 * r] for r in range(m))
    shared_u = network.r_shared_ohm * sum(from_u[4 * r] for r in range(m))
    over_x, over_u = -v_a_x - shared_x, -v_a_u - shared_u
    for r, (rail, place) in enumerate(zip(network.rails, network.places, strict=True)):
        over_u[r, r] += 1.0
        if on[r] and rail.l_source_h > 0.0:
            at = place["i_source"]
            a[at] = (over_x[r] - rail.r_source_ohm * from_x[4 * r]) / rail.l_source_h
            b[at] = (over_u[r] - rail.r_source_ohm * from_u[4 * r]) / rail.l_source_h
    return StateEquations(
        a,
        b,
        from_x,
        from_u=from_u,
        v_a_x=v_a_x,
        v_a_u=v_a_u,
        v_load_x=v_load_x,
        v_load_u=v_load_u,
        over_x=over_x,
        over_u=over_u,
    )


def _branch_currents(network: RailNetwork, on: tuple[bool, ...]) -> tuple[Array, Array]:
    """Every rail's four currents from states and inputs, by Kirchhoff's laws: k i = p x + q u."""
    m, n = len(network.rails), network.size
    k, p, q = np.zeros((4 * m, 4 * m)), np.zeros((4 * m, n)), np.zeros((4 * m, 2 * m))
    conductance = network.conductance
    for r, rail in enumerate(network.rails):
        _source_row(network, on, r, k, p, q)
        load_row = _node_rows(rail, network.places[r], r, k, p)
        q[load_row, m + r] = 1.0
        for c, other in enumerate(network.rails):
            g = float(conductance[r, c])
            if g:
                v_row, place_c = _load_voltage_row(network, c, n)
                k[load_row, place_c] -= g * (other.esr2_ohm if other.two_stages else other.esr_ohm)
                p[load_row] += g * v_row
    inner = np.asarray(np.linalg.solve(k, np.hstack([p, q])), dtype=np.float64)
    return inner[:, :n], inner[:, n:]


def _source_row(network: RailNetwork, on: tuple[bool, ...], r: int, k: Array, p: Array, q: Array) -> None:
    """The source's current: none through an idle diode, a state behind leakage, else by Ohm's law to node A."""
    rail, place, i_d = network.rails[r], network.places[r], 4 * r
    if not on[r]:
        k[i_d, i_d] = 1.0
    elif rail.l_source_h > 0.0:
        k[i_d, i_d], p[i_d, place["i_source"]] = 1.0, 1.0
    else:
        k[i_d, i_d] = rail.r_source_ohm
        for other in range(len(network.rails)):
            if on[other]:
                k[i_d, 4 * other] += network.r_shared_ohm
        k[i_d, i_d + 1], p[i_d, place["v_cap"]], q[i_d, r] = rail.esr_ohm, -1.0, 1.0


def _node_rows(rail: RailElements, place: dict[str, int], r: int, k: Array, p: Array) -> int:
    """Node A, and node B of a second stage; the row of the node that the load hangs on."""
    i_d, i_c, i_2, i_c2 = (4 * r + j for j in range(4))
    v_cap = place["v_cap"]
    # Node A: what comes in goes into C, bleeder, second stage or load.
    k[i_c, i_d], k[i_c, i_2] = 1.0, -1.0
    k[i_c, i_c], p[i_c, v_cap] = -(1.0 + rail.g_bleed_s * rail.esr_ohm), rail.g_bleed_s
    if not rail.two_stages:
        k[i_2, i_2] = k[i_c2, i_c2] = 1.0
        return i_c
    if rail.l_series_h > 0.0:
        k[i_2, i_2], p[i_2, place["i_series"]] = 1.0, 1.0
    else:
        k[i_2, i_2], k[i_2, i_c], k[i_2, i_c2] = rail.r_series_ohm, -rail.esr_ohm, rail.esr2_ohm
        p[i_2, v_cap], p[i_2, place["v_cap2"]] = 1.0, -1.0
    k[i_c2, i_2], k[i_c2, i_c2] = 1.0, -1.0
    return i_c2


def _load_voltage_row(network: RailNetwork, r: int, n: int) -> tuple[Array, int]:
    """The state whose voltage stands at rail r's load, as a row; and the unknown whose current its ESR carries."""
    rail, row = network.rails[r], np.zeros(n)
    row[network.places[r]["v_cap2" if rail.two_stages else "v_cap"]] = 1.0
    return row, 4 * r + (3 if rail.two_stages else 1)
