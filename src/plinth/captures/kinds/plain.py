"""A record of nothing in particular: its extremes, and what a switch-on makes of it."""

import numpy as np

from plinth.captures.capture import Channel
from plinth.captures.figure import FigureList
from plinth.captures.kinds.switch_on import add_switch_on


def add_plain(figures: FigureList, channel: Channel, rate_hz: float) -> None:
    """Highest, lowest and from one to the other, as recorded; step and time to rest where it is switched on."""
    low, high = float(np.min(channel.samples)), float(np.max(channel.samples))
    figures.add("lowest", low, channel.step, channel.unit, "lowest sample")
    figures.add("highest", high, channel.step, channel.unit, "highest sample")
    figures.add("pp", high - low, 2.0 * channel.step, channel.unit, "from the lowest sample to the highest")
    add_switch_on(figures, channel, rate_hz)
