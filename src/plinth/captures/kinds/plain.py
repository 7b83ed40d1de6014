"""A record of nothing in particular: its extremes."""

import numpy as np

from plinth.captures.capture import Channel
from plinth.captures.figure import FigureList


def add_plain(figures: FigureList, channel: Channel) -> None:
    """Highest, lowest and from one to the other, as recorded."""
    low, high = float(np.min(channel.samples)), float(np.max(channel.samples))
    figures.add("lowest", low, channel.step, channel.unit, "lowest sample")
    figures.add("highest", high, channel.step, channel.unit, "highest sample")
    figures.add("pp", high - low, 2.0 * channel.step, channel.unit, "from the lowest sample to the highest")
