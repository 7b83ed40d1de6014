"""One rail with leakage ahead of its reservoir, marched step by step over many mains half cycles.

The rules of ``physics.network`` for one rail of two states, taken singly: over seconds of switching on, a plain loop
over numbers is several times quicker than matrices, which pay off only where a run between two diode changes is long.
"""

import numpy as np

from plinth.physics.numbers.cancellation import still_wanted
from plinth.physics.rails.network import Drives, Motion, pieces_of
from plinth.physics.rails.network_elements import RailNetwork


def march_leaky(network: RailNetwork, drives: Drives, step_s: float, x_start: np.ndarray) -> Motion:
    """March a single rail with leakage and one stage from ``x_start`` (source amperes, capacitor volts)."""
    pieces = pieces_of(network, step_s)
    off, on = pieces[(False,)], pieces[(True,)]
    emf, late_emf, load = drives.emf[:, 0], drives.late_emf[:, 0], drives.load_mean[:, 0]
    ((a_ii, a_iv), (a_vi, a_vv)) = on.step.tolist()
    # What each step adds, normally and with a current that flows on past the mains' zero crossing.
    pushes = [
        ((wave[:-1, None] + wave[1:, None]) * on.push_emf + load[:, None] * on.push_load).T.tolist()
        for wave in (emf, late_emf)
    ]
    keep, push_off = float(off.step[1, 1]), (load * off.push_load[0, 1]).tolist()
    # An idle diode turns on where the capacitor is below this.
    turn_on = ((emf + drives.load_at[:, 0] * off.wants_load[0, 0]) / -off.wants_x[1, 0]).tolist()
    still_wanted()
    n, every = len(load), drives.zero_every

    i, v = float(x_start[0]), float(x_start[1])
    flows = i > 1e-12
    late = flows and every > 0
    late_until = 0
    acted = emf.copy()
    amperes, volts, runs = [i], [v], [(0, (flows,))]
    j = 0
    while j < n:
        if flows:
            if every and j % every == 0 and (j or late):
                late_until = min(j + every, n)
                acted[j : late_until + 1] = late_emf[j : late_until + 1]
            late = j < late_until
            stop = min(n, (j // every + 1) * every) if every else n
            push_i, push_v = pushes[late]
            while j < stop:
                i, v = a_ii * i + a_iv * v + push_i[j], a_vi * i + a_vv * v + push_v[j]
                if i < 0.0:
                    break
                amperes.append(i)
                volts.append(v)
                j += 1
            if j == stop:
                continue
        else:
            first = j
            while j < n:
                v = keep * v + push_off[j]
                j += 1
                if v < turn_on[j]:
                    j -= 1
                    break
                volts.append(v)
            amperes.extend([0.0] * (j - first))
            if j == n:
                continue
        # The step in which the diode changes, half of it in either state, from the last instant kept.
        before, after = (on, off) if flows else (off, on)
        wave = late_emf if flows and j < late_until else emf
        x = before.keep @ np.array([amperes[-1], volts[-1]])
        x += before.half_b @ np.array([wave[j], load[j]]) + after.half_b @ np.array([wave[j + 1], load[j]])
        i, v = (after.inverse @ x).tolist()
        if flows:
            late_until = 0
            acted[j + 2 :] = emf[j + 2 :]
        flows = not flows
        i = max(i, 0.0) if flows else 0.0
        j += 1
        amperes.append(i)
        volts.append(v)
        runs.append((j, (flows,)))
        acted[j] = emf[j]
    x_all = np.stack([np.array(amperes), np.array(volts)], axis=1)
    return Motion(x_all, acted[:, None], tuple(runs))
