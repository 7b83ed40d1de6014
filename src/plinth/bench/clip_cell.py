"""The cells of the clipping table: who plays into which load from which source, and what is predicted there."""

import dataclasses
from collections.abc import Sequence
from typing import Literal

from plinth.bench.own_sources import at_source, in_range
from plinth.bench.test_conditions import MAINS_SHARE, source_words
from plinth.builds.build import Build
from plinth.builds.modules import PowerClaim
from plinth.builds.parts import Load
from plinth.builds.situation import Situation
from plinth.judge.claims import THD_OF, claim_for
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.stages import levels
from plinth.predict.distortion import power_figure_at
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve, worst_figures
from plinth.record.conditions import Conditions
from plinth.record.subject import Kind, Subject


def conditions_of(prediction: Prediction, load: Load) -> Conditions:
    """Under which conditions a clipping reading holds: boards, supply, rail without load, mains, and the load."""
    build = prediction.build
    conditions: dict[str, float | str] = {
        "module": build.mark("module"), "supply": build.mark("supply"), "load_ohm": load.r_ohm,
        "rail_v": prediction["rail_no_load_v"].value,
    }  # fmt: skip
    if build.mains is not None:
        conditions["mains_v"] = prediction.situation.mains_rms(build)
    return conditions


def clip_subject(build: Build, channel: str, driven: str, load: Load) -> str:
    """The subject of clipping readings of a channel into a load; ``driven`` one or all."""
    return Subject(Kind.CLIP, build.key_of(channel), load.identity, driven).text


Driven = Literal["one", "all"]
Definition = Literal["onset", "thd_1", "thd_10"]
DEFINITIONS: dict[Definition, str] = {"onset": "Onset, by eye", "thd_1": "1 % distortion", "thd_10": "10 % distortion"}
_KINDS = {"onset": Kind.CLIP, "thd_1": Kind.CLIP_1, "thd_10": Kind.CLIP_10}


@dataclasses.dataclass(frozen=True)
class ClipCell:
    """One cell of the table: which channels play into which load from which source, and what is predicted there.

    ``source`` the mains, battery or bench volts in words; ``definition`` what is called clipping: the onset by eye, or
    a distortion, which is another power and never held against the onset. ``at_thd`` the power predicted there, None
    where it is not computed.
    """

    channel: str
    driven: str
    load: Load
    prediction: Prediction
    source: str = ""
    definition: Definition = "onset"
    at_thd: Figure | None = None

    @property
    def subject(self) -> str:
        """The subject of its readings."""
        key = self.prediction.build.key_of(self.channel)
        return Subject(_KINDS[self.definition], key, self.load.identity, self.driven).text

    @property
    def conditions(self) -> Conditions:
        """What its readings hold for: these boards on this supply, at this rail and mains, into this load."""
        return conditions_of(self.prediction, self.load)

    @property
    def most_v_peak(self) -> float:
        """The most that the output can swing: its rail without load at high mains, with spread; a bridge, twice.

        At a distortion that of a sine of the same RMS, which a square wave of that height has.
        """
        build, rail = self.prediction.build, self.prediction["rail_no_load_high_v"].high
        swing = 2.0 * rail if build.wiring == "bridged" and not build.supply.single_rail else rail
        return swing if self.definition == "onset" else levels.peak_from_rms(swing)

    @property
    def label(self) -> str:
        """In words."""
        who = "alone" if self.driven == "one" else "all channels"
        source = f"{self.source}, " if self.source else ""
        what = "" if self.definition == "onset" else f", at {DEFINITIONS[self.definition]}"
        return f"{source}{self.channel}, {who}, {self.load.r_ohm:g} Ω{what}"

    @property
    def v_peak(self) -> Figure:
        """Predicted output at onset, volts of peak."""
        return self.prediction["clip_worst_v_peak"]

    @property
    def power(self) -> Figure:
        """Predicted power at onset, or at the distortion; of one that is not computed at least that of the onset."""
        return self.at_thd if self.at_thd is not None else self.prediction["clip_worst_power_w"]

    @property
    def is_predicted(self) -> bool:
        """Whether the power is predicted as it is defined here."""
        return self.definition == "onset" or self.at_thd is not None

    def at(self, definition: Definition) -> "ClipCell":
        """The same cell at another definition of clipping; takes as long as a few predictions. Raises PhysicsError."""
        if definition == "onset":
            return dataclasses.replace(self, definition=definition, at_thd=None)
        power = power_figure_at(self.prediction, THD_OF[definition])
        return dataclasses.replace(self, definition=definition, at_thd=power)


def clip_cells(build: Build, channel: str, situation: Situation) -> tuple[ClipCell, ...]:
    """All cells for ``channel`` from the source as it is."""
    return tuple(clip_cell(build, channel, situation, who, load) for who, load in clip_places(build))


def clip_places(build: Build) -> tuple[tuple[Driven, Load], ...]:
    """Who plays into which load: alone and all driven, each of the build's dummy loads."""
    driven: tuple[Driven, ...] = ("one",) if len(build.channels) == 1 else ("one", "all")
    return tuple((who, load) for who in driven for load in build.loads or (build.load,))


def clip_cell(build: Build, channel: str, situation: Situation, who: Driven, load: Load) -> ClipCell:
    """One cell from the source as it is. Raises PhysicsError where it cannot run so."""
    here = build.model_copy(update={"load": load})
    asked = situation.model_copy(
        update={"channels_driven": who, "load_ohm": None, "level": 1.0, "frequency_hz": 1000.0}
    )
    return ClipCell(channel, who, load, solve(here, asked), source_words(build, asked))


def further_sources(
    build: Build, situation: Situation, own_v: Sequence[float] = ()
) -> tuple[tuple[Build, Situation], ...]:
    """The same build from other sources: at ``own_v``, where a builder chose some, each but the one it has now.

    Else as low and as high as its source may be: mains 10 % off, a battery empty and full; bench supplies at half and
    three quarters of their volts, where the module works from them.
    """
    here = source_words(build, situation)
    chosen = [
        at_source(build, situation, volts) for volts in in_range(build, own_v) or _usual_sources(build, situation)
    ]
    return tuple(pair for pair in chosen if source_words(*pair) != here)


def _usual_sources(build: Build, situation: Situation) -> list[float]:
    if build.mains is not None:
        mains = situation.mains_rms(build)
        return [float(round(mains * factor)) for factor in (1.0 - MAINS_SHARE, 1.0 + MAINS_SHARE)]
    battery = build.supply.battery
    if battery is not None:
        ends = (battery.v_empty, battery.v_full)
        return [end_v for end_v in ends if abs(end_v - situation.battery(build)) > 0.01 * end_v]
    shares = [float(f"{share * build.supply.rough_rail_v:.2g}") for share in (0.5, 0.75)]
    return [volts for volts in shares if volts >= build.module.v_rail_min]


def _at_source(cell: ClipCell, build: Build, situation: Situation) -> Prediction:
    """A cell's prediction at another source; its worst phase is that of the cell."""
    known, here = cell.prediction, build.model_copy(update={"load": cell.load})
    if build.supply.set_by_hand:
        # Half the volts are another build: what is lost below the rail weighs twice as much there.
        return solve(here, situation)
    solved = solve(here, situation, known)
    ratio = known["clip_worst_v_peak"].value / known["clip_v_peak"].value
    return dataclasses.replace(solved, figures={**solved.figures, **worst_figures(solved.figures, ratio)})


def further_cells(
    cells: tuple[ClipCell, ...], build: Build, situation: Situation, own_v: Sequence[float] = ()
) -> tuple[ClipCell, ...]:
    """The same cells from ``further_sources``; those from which it cannot run are left out.

    Their spreads are those of the cell at the source as it is, relative to the power: the same parts make them.
    """
    at_sources = []
    for here, at in further_sources(build, situation, own_v):
        for cell in cells:
            changed = cell.prediction.situation.model_copy(
                update={"mains_v_rms": at.mains_v_rms, "battery_v": at.battery_v}
            )
            try:
                prediction = _at_source(cell, here, changed)
            except PhysicsError:
                continue
            at_sources.append(dataclasses.replace(cell, prediction=prediction, source=source_words(here, changed)))
    return tuple(at_sources)


def claim_of(cell: ClipCell) -> PowerClaim | None:
    """What the listing claims for a cell: the claim that means its definition, where there is one."""
    module = cell.prediction.build.module
    meant = [claim for claim in module.claims if claim.definition == cell.definition]
    own = claim_for(module.model_copy(update={"claims": tuple(meant)}), cell.load.r_ohm) if meant else None
    return own or claim_for(module, cell.load.r_ohm)
