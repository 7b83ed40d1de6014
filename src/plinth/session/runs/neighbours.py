"""The reading before and after the current one, in whichever procedure."""

from plinth.session.procedure.bring_up import BringUpProcedure
from plinth.session.procedure.clip_test import ClipProcedure
from plinth.session.procedure.response_test import ResponseProcedure
from plinth.session.procedure.sheet_test import SheetProcedure
from plinth.session.procedure.taking import Procedure


def place_of(procedure: Procedure) -> tuple[int, int]:
    """(place of what is current, how many there are); (0, 0) where there is nothing."""
    match procedure:
        case SheetProcedure():
            return procedure.row, len(procedure.asked)
        case ClipProcedure():
            return procedure.row, len(procedure.cells)
        case ResponseProcedure():
            frequencies = procedure.frequencies
            here = frequencies.index(procedure.f_hz) if procedure.f_hz in frequencies else 0
            return here, len(frequencies)
        case BringUpProcedure():
            return procedure.row, len(procedure.stands)
    return 0, 0


def go_by(procedure: Procedure, steps: int) -> None:
    """Go so many places on, or back; from the last to the first."""
    row, count = place_of(procedure)
    if count and isinstance(procedure, SheetProcedure | ClipProcedure | ResponseProcedure | BringUpProcedure):
        procedure.choose((row + steps) % count)
