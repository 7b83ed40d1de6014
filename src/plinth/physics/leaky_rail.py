"""One rail with leakage ahead of its reservoir, marched step by step over many mains half cycles.

The rules of ``physics.network`` for one rail of two states, taken singly: over seconds of switching on, a plain loop
over numbers is several times quicker than matrices, which pay off only where a run between two diode changes is long.
"""

import numpy as np

from plinth.physics.network import Drives, Motion, RailNetwork, pieces_of


def march_leaky(network: RailNetwork, drives: Drives, step_s: float, x_start: np.ndarray) -> Motion:
    """March a single rail with leakage and one stage from ``x_start`` (source amperes, capacitor volts)."""
    pieces = pieces_of(network, step_s)
    off, on = pieces[(False,)], pieces[(True,)]
    ((a_ii, a_iv), (a_vi, a_vv)) = on.step.tolist()
    e_i, e_v = on.push_emf[0].tolist()
    l_i, l_v = on.push_load[0].tolist()
    keep_off, lost_off = float(off.step[1, 1]), float(off.push_load[0, 1])
    # Over an idle diode stand e - (what the node stands at by the capacitor and the load).
    node_v, node_load = float(off.wants_x[1, 0]), float(off.wants_load[0, 0])
    cross_x = (on.inverse @ off.keep).tolist(), (off.inverse @ on.keep).tolist()
    halves = off.half_b, on.half_b
    cross_e0 = [(after.inverse @ before).tolist() for after, before in ((on, halves[0][:, 0]), (off, halves[1][:, 0]))]
    cross_e1 = [(after.inverse @ after.half_b[:, 0]).tolist() for after in (on, off)]
    cross_load = [(after.inverse @ (halves[0] + halves[1])[:, 1]).tolist() for after in (on, off)]

    normal, late_emf = drives.emf[:, 0].tolist(), drives.late_emf[:, 0].tolist()
    load_at, load_mean = drives.load_at[:, 0].tolist(), drives.load_mean[:, 0].tolist()
    n, every = len(load_mean), drives.zero_every
    i, v = float(x_start[0]), float(x_start[1])
    flows = i > 1e-12
    late = flows and every > 0
    amperes, volts, acted = [i], [v], [late_emf[0] if late else normal[0]]
    runs = [(0, (flows,))]
    for j in range(n):
        if flows and every and j and j % every == 0:
            late = True
        emf = late_emf if late else normal
        e0, e1, mean = emf[j], emf[j + 1], load_mean[j]
        if flows:
            i1 = a_ii * i + a_iv * v + e_i * (e0 + e1) + l_i * mean
            v1 = a_vi * i + a_vv * v + e_v * (e0 + e1) + l_v * mean
            changes = i1 < 0.0
        else:
            i1, v1 = 0.0, keep_off * v + lost_off * mean
            changes = e1 + node_v * v1 + node_load * load_at[j + 1] > 0.0
        if changes:
            k = int(flows)
            (_, _), (b_vi, b_vv) = cross_x[k]
            b_ii, b_iv = cross_x[k][0]
            i1 = b_ii * i + b_iv * v + cross_e0[k][0] * e0 + cross_e1[k][0] * e1 + cross_load[k][0] * mean
            v1 = b_vi * i + b_vv * v + cross_e0[k][1] * e0 + cross_e1[k][1] * e1 + cross_load[k][1] * mean
            flows = not flows
            i1 = max(i1, 0.0) if flows else 0.0
            late = late and flows
            runs.append((j + 1, (flows,)))
        i, v = i1, v1
        amperes.append(i)
        volts.append(v)
        acted.append((late_emf if late else normal)[j + 1])
    x = np.stack([np.array(amperes), np.array(volts)], axis=1)
    return Motion(x, np.array(acted)[:, None], tuple(runs))
