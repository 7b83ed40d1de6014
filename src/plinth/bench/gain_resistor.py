"""The gain-resistor helper: from a gain or a sensitivity wanted to values that can be bought, and what each makes."""

import dataclasses

from plinth.physics.numbers.preferred import SERIES
from plinth.physics.stages.gain_setting import Arrangement, Made, gain_with, made_near, resistor_for
from plinth.physics.stages.levels import decibels
from plinth.units.errors import QuantityError
from plinth.units.shown import shown

# In the words of a board: which resistor is chosen, and which stays.
ARRANGEMENTS: dict[str, tuple[Arrangement, str]] = {
    "Feedback: the one to ground": ("feedback to ground", "the one from output to input stays"),
    "Feedback: the one from the output": ("feedback to output", "the one to ground stays"),
    "Inverting: the one at the input": ("inverting input", "the feedback resistor stays"),
    "Divider before the input: the upper": ("divider top", "the lower one stays"),
    "Divider before the input: the lower": ("divider bottom", "the upper one stays"),
}
SERIES_NAMES = tuple(SERIES)


@dataclasses.dataclass(frozen=True)
class GainChoice:
    """One way to make the resistor: its parts, the gain with it, and the input that then clips."""

    made: Made
    gain: float
    off_db: float
    to_clip_v_rms: float

    @property
    def parts(self) -> str:
        """``680 Ω``, ``1 kΩ + 47 Ω``, ``820 Ω ∥ 4.7 kΩ``."""
        joined = {"": "", "series": " + ", "parallel": " ∥ "}[self.made.how]
        return joined.join(shown(part, "ohm") for part in self.made.parts)


def choices(
    arrangement: Arrangement, gain: float, fixed_ohm: float, series: str, pairs: bool, behind: float, clip_v_rms: float
) -> tuple[float, tuple[GainChoice, ...]]:
    """The exact value (ohm), where a trimmer would stand, and the nearest that can be bought with what they make.

    ``gain`` of this arrangement alone, ``behind`` that of what stands behind a divider (1 for the feedback itself);
    ``clip_v_rms`` at the output. Raises QuantityError where no resistor gives that gain.
    """
    try:
        wanted = resistor_for(arrangement, gain, fixed_ohm)
    except ValueError as error:
        raise QuantityError(str(error)) from error
    offered = []
    for made in made_near(wanted, SERIES[series], pairs):
        with_it = gain_with(arrangement, made.ohm, fixed_ohm)
        offered.append(GainChoice(made, with_it, decibels(with_it, gain), clip_v_rms / (with_it * behind)))
    return wanted, tuple(offered)
