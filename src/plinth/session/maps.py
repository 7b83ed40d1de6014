"""Maps of clip power over two choices, as a window asks for them."""

import numpy as np

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.many_onsets import StoppedError
from plinth.predict.batch_onsets import Choice, ClipMap, GoOn, choices, clip_map, is_quick
from plinth.predict.circuits import circuit_of
from plinth.predict.inputs import inputs_of

__all__ = ["Choice", "ClipMap", "choices", "map_of", "place_in"]

# What the quick way solves within half a second; other kinds go one by one and get a coarser map.
FINE, ROUGH = (100, 80), (18, 14)


def map_of(build: Build, situation: Situation, across: Choice, up: Choice, go_on: GoOn) -> ClipMap | None:
    """The map, as fine as this kind of build allows; None where ``go_on``, told the share done, says no.

    Raises PhysicsError where no variant could run.
    """
    columns, rows = FINE if is_quick(build, situation) else ROUGH
    try:
        return clip_map(build, situation, across, up=up, x=across.values(columns), y=up.values(rows), go_on=go_on)
    except StoppedError:
        return None


def place_in(drawn: ClipMap, build: Build, situation: Situation) -> tuple[float, float] | None:
    """Where the build itself stands in a map (logarithms where an axis is logarithmic); None where it lies outside."""
    values = {key: quantity.value for key, quantity in inputs_of(build, situation).items()}
    try:
        circuit = circuit_of(build, situation, values)
    except PhysicsError:
        return None
    place = []
    for choice in (drawn.across, drawn.up):
        here = values.get(choice.key, getattr(circuit, choice.key, None))
        if here is None or not choice.low <= here <= choice.high:
            return None
        place.append(float(np.log10(here) if choice.log else here))
    return place[0], place[1]
