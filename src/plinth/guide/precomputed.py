"""What the windows of a school rest on and what takes longer than a moment: computed once, and handed on.

Whoever shows the steps has it made off the window's thread and passes it in; nothing is found again by chance.
"""

import functools
from collections.abc import Mapping
from types import MappingProxyType

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.guide.equipment import NOTHING, Equipment, on_small
from plinth.predict.estimates import LEFT_OVER_SHARE
from plinth.predict.fault_rails import Behind, RailFault
from plinth.predict.lamp_outlook import LampOutlook, lamp_outlook, one_channel
from plinth.predict.mains_steps import MainsStep, mains_steps, wall_at_rest
from plinth.predict.reforming import Reforming, reforming
from plinth.predict.trimmer import with_trimmer_at
from plinth.predict.unloaded_supply import OwnRails, own_rails

# The lower rail with a fault, V, by what it is and under what it is read; None where it cannot be told.
FaultRails = Mapping[tuple[RailFault, Behind], float | None]
NO_RAILS: FaultRails = MappingProxyType({})


class Precomputed:
    """For one build and the equipment there is: each value is computed when it is first asked for, and kept here.

    ``fault_rails`` what its rails would be with each fault. Each raises PhysicsError where it cannot be computed.
    """

    def __init__(self, build: Build, equipment: Equipment = NOTHING, fault_rails: FaultRails = NO_RAILS) -> None:
        self.build, self.equipment, self.fault_rails = build, equipment, fault_rails
        self._reforming: dict[int, Reforming] = {}

    @functools.cached_property
    def alone(self) -> OwnRails:
        """The rails of the supply alone."""
        return own_rails(self.build, board=False)

    @functools.cached_property
    def with_board(self) -> OwnRails:
        """The rails with one channel's board at rest."""
        return own_rails(self.build, board=True)

    @functools.cached_property
    def on_small(self) -> OwnRails:
        """The rails of the supply alone on the small transformer that there is."""
        assert self.equipment.small is not None, "asked for where there is one"
        return own_rails(on_small(self.build, self.equipment.small), board=False)

    @functools.cached_property
    def wall(self) -> MainsStep:
        """What the wall gives with one board at rest."""
        return wall_at_rest(self.build)

    @functools.cached_property
    def lamp(self) -> LampOutlook:
        """What to expect behind the lamp in series."""
        return lamp_outlook(self.build, self.equipment.lamp_w)

    @functools.cached_property
    def mains_turned_up(self) -> tuple[tuple[MainsStep, ...], tuple[MainsStep, ...]]:
        """The mains turned up for one channel's board: with its trimmer at its least, and with its whole bias set."""
        return _turned_up(self.build)

    def reforming(self, this_year: int) -> Reforming:
        """The schedule for its reservoirs."""
        if this_year not in self._reforming:
            self._reforming[this_year] = reforming(
                self.build, this_year, self.equipment.reform_from, self.equipment.reform_hours
            )
        return self._reforming[this_year]

    def of_its_own_supply(self) -> None:
        """Compute what every school needs of the build's own supply."""
        if self.equipment.small is not None:
            _ = self.on_small
        if self.build.supply.transformer is not None and self.build.mains is not None:
            _ = self.wall, self.with_board


def known_of(build: Build, given: Equipment | Precomputed) -> Precomputed:
    """What is known already, or what is computed when it is asked for."""
    return given if isinstance(given, Precomputed) else Precomputed(build, given)


# For whoever asks for the steps of one build again and again and keeps nothing: a report, a card.
@functools.lru_cache(maxsize=32)
def _turned_up(build: Build) -> tuple[tuple[MainsStep, ...], tuple[MainsStep, ...]]:
    single = one_channel(build)
    least = mains_steps(with_trimmer_at(single, LEFT_OVER_SHARE), Situation())
    return least, least if single.module.bias is None else mains_steps(single, Situation())
