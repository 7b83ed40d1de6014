"""How to set up a clipping cell, in words."""

from plinth.bench.clip_cell import ClipCell, claim_of
from plinth.bench.clipping import SetUp
from plinth.bench.hookup import hookup
from plinth.bench.signal_level import scope_words
from plinth.bench.test_conditions import load_warning
from plinth.builds.build import Build
from plinth.desk.measure.test_page import SetUpShown
from plinth.judge.claims import power_claim
from plinth.units.shown import shown, shown_with_spread


def clip_set_up(build: Build, cell: ClipCell, given: SetUp, channel: str) -> SetUpShown:
    """Generator, load and listing for a cell of a build as it is now."""
    claim = claim_of(cell)
    who = f"{channel} in" if cell.driven == "one" else "every input"
    at = shown(given.start_v_rms, "V")
    level = shown_with_spread(given.drive_v_rms.value, given.drive_v_rms.spread, "V")
    return SetUpShown(
        (
            ("Generator at onset", f"{level} rms"), ("Start at", f"{at} rms"),
            ("Not above", f"{shown(given.most_v_rms, 'V')} rms"),
        ),
        f"{load_warning(cell.prediction.build)}{cell.load.name}, {cell.load.r_ohm:g} Ω. {given.rating}",
        f"Generator, 1 kHz, to {who}, beginning at {at}. "
        f"{scope_words(build, channel)} {cell.load.r_ohm:g} Ω across it.",
        "It names no power for this load."
        if claim is None
        else power_claim(claim, cell.power, cell.prediction["clip_v_peak"]).sentence,
        sketch=hookup("clip", cell.prediction.build, channel),
    )  # fmt: skip
