"""A muting relay: what the module gives, and what arrives behind the contact."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import Capture, CaptureError
from plinth.captures.figure import FigureList
from plinth.captures.signal.scatter import white_noise

_BOUNCES_WITHIN_S = 0.06
_MEAN_OVER_S = 0.02


@dataclass(frozen=True)
class Contact:
    """Rows at which the contact closes and opens, in turn; the rows about which nothing is known at each."""

    closes: list[int]
    opens: list[int]
    blind: int


def contact_of(given: NDArray[np.float64], behind: NDArray[np.float64]) -> Contact:
    """When the contact is closed: what lies behind it follows what the module gives."""
    least = max(8.0 * white_noise(given), 8.0 * white_noise(behind), 0.08 * float(np.percentile(np.abs(given), 99.5)))
    sure = np.abs(given) > least
    ratios = behind[sure] / given[sure]
    through = ratios[np.abs(ratios) > 0.2]
    scale = float(np.median(through)) if len(through) else 1.0
    state = np.zeros(len(given), dtype=np.int8)
    state[sure] = np.where(behind[sure] / (scale * given[sure]) > 0.5, 1, -1)
    rows = np.flatnonzero(state)
    turns = np.flatnonzero(np.diff(state[rows]) != 0)
    closes = [int(rows[turn + 1]) for turn in turns if state[rows[turn + 1]] > 0]
    opens = [int(rows[turn + 1]) for turn in turns if state[rows[turn + 1]] < 0]
    if len(rows) and state[rows[0]] > 0:
        closes.insert(0, int(rows[0]))
    gaps = np.diff(rows)
    blind = int(np.percentile(gaps, 99.0)) if len(gaps) else len(given)
    return Contact(closes, opens, max(blind, 1))


def add_relay(figures: FigureList, capture: Capture) -> None:
    """Muting delay, bounce, time to trip on a direct voltage, and release after it."""
    if len(capture.channels) < 2:
        raise CaptureError("found one channel, expected what the module gives and what lies behind the contact")
    given, behind = capture.channels[0].samples, capture.channels[1].samples
    rate = capture.sample_rate_hz
    if float(np.ptp(given)) <= 0.0:
        figures.miss("figures of a relay", "the module gives nothing in it")
        return
    contact = contact_of(given, behind)
    direct = _direct(given, rate)
    within = (contact.blind + 1.0) / rate
    _add_muting(figures, given, contact, direct, rate, within)
    _add_trip(figures, contact, direct, rate, within)


def _direct(given: NDArray[np.float64], rate: float) -> list[tuple[int, int]]:
    """Stretches (from, to) in which the module gives a direct voltage that stays."""
    width = max(3, int(_MEAN_OVER_S * rate)) | 1
    padded = np.concatenate((np.full(width // 2, given[0]), given, np.full(width // 2, given[-1])))
    along = np.concatenate(([0.0], np.cumsum(padded)))
    mean = (along[width:] - along[:-width]) / width
    base = float(np.median(mean))
    top = float(np.max(np.abs(mean - base)))
    alternating = float(np.percentile(np.abs(given - mean), 95.0))
    if top < max(0.3, 0.1 * alternating) and top < 0.5 * float(np.max(np.abs(given))):
        return []
    high = np.abs(mean - base) > 0.5 * top
    edges = np.flatnonzero(np.diff(np.concatenate(([0], high.astype(np.int8), [0]))))
    stretches = [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a > 0.5 * width]
    return [(_sharpened(given, a, width), _sharpened(given, b, width)) for a, b in stretches]


def _sharpened(given: NDArray[np.float64], row: int, width: int) -> int:
    """A step found by a mean over ``width``, moved to the steepest change near it where one stands out."""
    low, high = max(1, row - width // 2), min(len(given) - 1, row + width // 2)
    if high - low < 3:
        return row
    changes = np.abs(np.diff(given[low:high]))
    best = int(np.argmax(changes))
    return low + best + 1 if changes[best] > 6.0 * float(np.median(changes)) else row


def _add_muting(
    figures: FigureList, given: NDArray[np.float64], contact: Contact, direct: list[tuple[int, int]], rate: float,
    within: float,
) -> None:  # fmt: skip
    least = max(8.0 * white_noise(given), 0.05 * float(np.max(np.abs(given))))
    begins = int(np.argmax(np.abs(given) > least))
    first_direct = direct[0][0] if direct else len(given)
    closes = [row for row in contact.closes if row < first_direct]
    if begins >= first_direct - 2 and direct:
        figures.miss("muting_delay_s, bounce_s", "the module gives nothing before the direct voltage")
        return
    if not closes:
        figures.miss("muting_delay_s, bounce_s", "the contact does not close in it")
        return
    first = closes[0]
    if first <= begins + contact.blind and begins <= contact.blind:
        figures.miss("muting_delay_s", "the contact is closed from the first sample on")
    else:
        figures.add(
            "muting_delay_s", (first - begins) / rate, within, "s",
            "from the first that the module gives to the contact's first closing"
            + ("" if begins > contact.blind else "; it gives from the first sample on, so from there"),
        )  # fmt: skip
        group = [first]
        for row in closes[1:]:
            if (row - group[-1]) / rate < _BOUNCES_WITHIN_S:
                group.append(row)
        figures.add(
            "bounce_s", (group[-1] - first) / rate, within if len(group) > 1 else contact.blind / rate, "s",
            f"from its first closing to its last ({len(group) - 1} openings between)",
        )  # fmt: skip


def _add_trip(figures: FigureList, contact: Contact, direct: list[tuple[int, int]], rate: float, within: float) -> None:
    if not direct:
        figures.miss("dc_trip_s, release_s", "no direct voltage is in what the module gives")
        return
    begin, end = direct[0]
    opens = [row for row in contact.opens if row > begin - contact.blind]
    if not opens or opens[0] > end + rate:
        figures.miss("dc_trip_s", "the contact does not open while the direct voltage lasts")
    else:
        figures.add(
            "dc_trip_s", (opens[0] - begin) / rate, within, "s",
            "from the direct voltage to the contact's first opening",
        )  # fmt: skip
    closes = [row for row in contact.closes if row > end - contact.blind]
    if not closes:
        figures.miss("release_s", "the contact does not close again after the direct voltage")
    else:
        figures.add(
            "release_s", (closes[0] - end) / rate, within, "s",
            "from the end of the direct voltage to the contact's next closing",
        )  # fmt: skip
