"""The wiring of a build: source side, output side, and what is to be known of both."""

from plinth.builds.build import Build
from plinth.predict.prediction import Prediction
from plinth.wiring.board import Board
from plinth.wiring.drawing import Wiring
from plinth.wiring.output_side import output_side
from plinth.wiring.regions import Region
from plinth.wiring.source_side import source_side

WIDTH, HEIGHT = 1280.0, 670.0
MAINS = (
    "Mains can kill. Local electrical codes come first; let somebody licensed do or check what you are not trained "
    "for. Unplug, wait, measure before touching."
)


def wiring_of(build: Build, prediction: Prediction, region: Region) -> Wiring:
    """The drawing of a build, with what its prediction says of each wire."""
    board = Board(build, prediction, region)
    source_side(board)
    output_side(board)
    alike = len(build.channels) if build.one_supply_per_channel else 1
    title = f"{build.name}: wiring" + (f", one of {alike} supplies alike" if alike > 1 else "")
    rest = (*board.notes, *_after(build))
    dangers = [caution for caution in rest if caution.startswith("Danger")]
    notes = (*_first(build), *dangers, *(caution for caution in rest if caution not in dangers))
    return Wiring(title, WIDTH, HEIGHT, tuple(board.boxes.values()), tuple(board.wires), notes)


def _first(build: Build) -> tuple[str, ...]:
    if build.mains is None or not build.supply.from_the_wall:
        return ()
    return (MAINS,)


def _after(build: Build) -> list[str]:
    notes = []
    if build.mains is not None and build.supply.from_the_wall and build.hookup.switch_way is None:
        notes.append(
            "A two-way switch has a good and a bad way: live into one throw and the load on the common leaves nothing "
            "else live when off; live into the common puts it on the empty throw, a bare terminal. Say which it is."
        )
    if build.module.own_rectifier:
        notes.append(
            "The board has a bridge of its own: feed it with the winding, or bypass it: + to the + of its capacitor, "
            "− to the −, never crossed; left in, it costs two more drops."
        )
    if build.both_outputs_live:
        notes.append("Both loudspeaker posts are live: no ground clip on either, no common return between channels.")
    if build.hookup.unused_leg == "open" and build.module.inputs == "differential":
        notes.append("The unused leg of the input is open: tie it to the source's ground.")
    if build.one_supply_per_channel:
        notes.append("Each channel has a supply of its own: their grounds meet in one place only, at the case.")
    if build.module.output_filter is not None:
        notes.append("Keep loudspeaker leads of class D twisted and away from inputs: they carry its clock.")
    return notes
