"""What a verdict rests on: how much was read, what was never tried, what differs for sure."""

from plinth.bench.coverage import untested
from plinth.decide.difference import DifferenceWord
from plinth.decide.side_by_side import SideBySide


def rests_on(sides: SideBySide, counts: list[tuple[str, int]]) -> str:
    """In words: how many figures of the pair were read on both, how many differ; what was never tried (``counts``)."""
    words = [row.difference.word for row in sides.rows]
    both = [word for word in words if word in _READ]
    first, second = (sides.sides[place].name for place in sides.pair)
    if not both:
        told = f"Nothing was read both of {first} and of {second}: whatever is decided rests on the prediction."
    else:
        apart = words.count(DifferenceWord.DIFFERENCE)
        read = f"{len(both)} figures were" if len(both) != 1 else "1 figure was"
        told = f"{read} read of both, {apart} of them with a difference."
    never = untested(counts)
    return f"{told} {never}".strip()


_READ = (DifferenceWord.DIFFERENCE, DifferenceWord.ALIKE, DifferenceWord.SAME, DifferenceWord.UNKNOWN_SPREAD)
