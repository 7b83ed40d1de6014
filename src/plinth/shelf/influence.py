"""Which properties of a part move this build's figures most: what is worth knowing first."""

import dataclasses
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.fields import PartField, part_fields
from plinth.builds.parts import Part
from plinth.builds.properties import How, how_known, known_of
from plinth.builds.stations import part_in, stations
from plinth.predict.prediction import Prediction

# The properties behind each uncertain input; of two, each kind of part has one.
FIELDS_OF_INPUT: Mapping[str, tuple[str, ...]] = {
    "v_secondary": ("v_secondary_rms",), "regulation": ("regulation",), "v_forward": ("v_forward_v",),
    "r_dynamic": ("r_dynamic_ohm",), "c": ("c_f",), "c_minus": ("c_f",), "c2": ("c_f",), "esr": ("esr_ohm",),
    "esr_minus": ("esr_ohm",), "esr2": ("esr_ohm",), "r_series": ("r_ohm",), "l_series": ("l_h",),
    "r_source": ("r_source_ohm",), "v_set": ("v_rail",), "droop": ("droop",), "efficiency": ("efficiency",),
    "c_bulk": ("c_bulk_f",), "r_battery": ("r_internal_ohm",), "gain": ("gain",), "i_limit": ("i_limit_a",),
    "v_sat": ("v_sat_v",), "r_out": ("r_out_ohm", "r_on_ohm"), "efficiency_stage": ("efficiency",),
    "modulation": ("modulation_max",), "i_quiescent": ("i_quiescent_stated_a", "bias.listed_mv", "i_driver_a"),
    "r_junction": ("r_junction_sink_k_per_w",), "r_sink": ("r_k_per_w", "area_m2"), "r_load": ("r_ohm",),
    "relay_out": ("v_out",), "relay_winding": ("v_winding_rms",), "relay_regulation": ("winding_regulation",),
}  # fmt: skip
MOVING = frozenset(path for paths in FIELDS_OF_INPUT.values() for path in paths)
# What a builder looks at: where a property moves none of these it hardly matters.
LOOKED_AT = (
    "clip_worst_power_w", "rail_no_load_v", "rail_plus_mean_v", "winding_programme_ratio", "primary_rms_a", "sink_c",
    "junction_c", "drive_v_rms", "supply_programme_ratio", "battery_v", "pumped_20hz_v",
)  # fmt: skip
# Below this share of a figure nobody would see it move.
SEEN = 1e-3


def influence(prediction: Prediction) -> dict[str, float]:
    """How far each property (by its path) moves the figure that it moves most, as a share of that figure.

    Standard uncertainties, so what is known well counts for little: what is worth knowing better stands first.
    """
    shares: dict[str, float] = {}
    for name in LOOKED_AT:
        figure = prediction.get(name)
        if figure is None or not figure.known or figure.value == 0.0:
            continue
        for row in figure.contributions:
            for path in FIELDS_OF_INPUT.get(row.key, ()):
                share = abs(row.u_figure / figure.value)
                shares[path] = max(shares.get(path, 0.0), share)
    return shares


def ordered(part: Part, prediction: Prediction | None) -> tuple[list[PartField], list[PartField]]:
    """The fields of a part: those that move this build's figures, most first; then the others as they are declared."""
    shares = {} if prediction is None else influence(prediction)
    fields = [field for field in part_fields(part) if field.path not in ("name", "maker")]
    moving = [field for field in fields if shares.get(field.path, 0.0) >= SEEN]
    moving.sort(key=lambda field: -shares[field.path])
    return moving, [field for field in fields if field not in moving]


@dataclasses.dataclass(frozen=True)
class StillAssumed:
    """A property that nobody stands for: whose, its words, and how far it moves the figure that it moves most.

    ``guessed``: a value was told as a guess; else nothing was told, and the prediction takes what is usual.
    """

    part: str
    words: str
    share: float
    guessed: bool = True


def still_assumed(build: Build, prediction: Prediction | None) -> list[StillAssumed]:
    """What is assumed or estimated in a build, in the order in which knowing it would narrow the result most."""
    shares = {} if prediction is None else influence(prediction)
    assumed_values = []
    for slot in (slot for station in stations(build) for slot in station.slots):
        part = part_in(build, slot)
        for field in part_fields(part):
            # Only what a prediction rests on: a tolerance that is taken as usual is no value of its own.
            named = field.path in MOVING
            if field.path.endswith("_tol") or not field.number:
                continue
            known = known_of(part, field.path)
            guessed = bool(known) and not How(known[0].how).trusted
            if guessed or (named and how_known(part, field.path) is How.UNKNOWN):
                assumed_values.append(StillAssumed(part.name, field.words, shares.get(field.path, 0.0), guessed))
    return sorted(assumed_values, key=lambda row: -row.share)
