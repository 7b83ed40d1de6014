"""What may be put into a build or left out of it as a whole: a second stage, an input supply, a relay supply ...

What is put in is a plain thing whose every number is assumed, so that it can be changed or exchanged at once.
"""

import math
from typing import TypeVar

from plinth.builds.auxiliaries import NO_RELAY_SUPPLY, NO_TRIGGER
from plinth.builds.build import Build
from plinth.builds.hookup import NO_CABLE, NO_INSULATOR, NO_PREAMPLIFIER, NO_VOLUME
from plinth.builds.parts import Part
from plinth.builds.stations import is_there, part_in
from plinth.builds.supplies import InputSupply, LinearSupply
from plinth.builds.supply_parts import Rectifier, Regulator, Reservoir, Smoothing, Transformer
from plinth.shelf.from_zero import assumed

P = TypeVar("P", bound=Part)

INPUT_SUPPLY = "supply.input_supply"
# The station, and what may be put in there where it is not yet, in words.
_ADDITIONS: tuple[tuple[str, str, str], ...] = (
    ("reservoir", "supply.smoothing", "second filter stage"),
    ("reservoir", "supply.reservoir_minus", "reservoir for the − rail"),
    ("rails", INPUT_SUPPLY, "regulated supply for the input stages"),
)
_NONE = {
    "preamplifier": NO_PREAMPLIFIER, "volume": NO_VOLUME, "cable": NO_CABLE, "insulator": NO_INSULATOR,
    "relay_supply": NO_RELAY_SUPPLY, "trigger": NO_TRIGGER,
}  # fmt: skip
# What a plain second stage and a plain input supply are begun with.
SECOND_STAGE_OHM, SECOND_STAGE_W = 0.22, 5.0
DROPOUT_V, SMALL_VA, SMALL_CAN_F, INPUT_STAGES_A = 2.5, 15.0, 1e-3, 0.02


def additions(build: Build, station: str) -> tuple[tuple[str, str], ...]:
    """What may be put in at a station and is not there: its slot, and what it is in words."""
    supply = build.supply
    if not isinstance(supply, LinearSupply):
        return ()
    return tuple(
        (slot, words)
        for place, slot, words in _ADDITIONS
        if place == station
        and getattr(supply, slot.removeprefix("supply.")) is None
        and not (slot == "supply.reservoir_minus" and supply.single_rail)
    )


def with_addition(build: Build, slot: str) -> Build:
    """The build with a plain thing of its kind in an empty slot; every number of it assumed.

    Raises KeyError for a slot that is not offered, pydantic.ValidationError where it does not go with the rest.
    """
    supply = build.supply
    vacant = [known for station, _, _ in _ADDITIONS for known, _ in additions(build, station)]
    if slot not in vacant:
        raise KeyError(f"found {slot!r}, expected one of {', '.join(vacant) or 'none'}")
    assert isinstance(supply, LinearSupply), "only these have such slots"
    match slot:
        case "supply.smoothing":
            stage = Smoothing(
                name="Second stage, not chosen yet", maker="–", r_ohm=SECOND_STAGE_OHM, c_f=supply.reservoir.c_f,
                v_rated=supply.reservoir.v_rated, p_rated_w=SECOND_STAGE_W,
            )  # fmt: skip
            changed = supply.model_copy(update={"smoothing": _guessed(stage)})
        case "supply.reservoir_minus":
            changed = supply.model_copy(update={"reservoir_minus": supply.reservoir})
        case _:
            changed = supply.model_copy(update={"input_supply": plain_input_supply(supply)})
    return Build.model_validate(build.model_copy(update={"supply": changed}).model_dump())


def plain_input_supply(supply: LinearSupply) -> InputSupply:
    """Regulated rails at the volts that the output's rails have without load, from a small transformer that can.

    On mains 10 % low its crest stays above output, dropout and diodes.
    """
    v_out = float(round(supply.rough_rail_v))
    two = supply.transformer.secondaries == "two"
    v_secondary = math.ceil((v_out + DROPOUT_V + 2.0 + 0.05 * v_out) / (0.9 * math.sqrt(2.0)))
    rated = next((v for v in (25, 35, 50, 63, 80, 100, 160, 250, 400) if v > 1.25 * math.sqrt(2.0) * v_secondary), 450)
    transformer = Transformer(
        name="Small transformer, not chosen yet", maker="–", core="ei",
        secondaries=supply.transformer.secondaries, va=SMALL_VA,
        v_primary_rms=supply.transformer.v_primary_rms, v_secondary_rms=v_secondary,
    )  # fmt: skip
    return InputSupply(
        transformer=_guessed(transformer),
        rectifier=_guessed(
            Rectifier(
                name="Small bridge, not chosen yet", maker="–", bridges="two" if two else "one", diode="silicon",
                i_rated_a=1.5,
            )
        ),
        reservoir=_guessed(
            Reservoir(name="Small can, not chosen yet", maker="–", c_f=SMALL_CAN_F, v_rated=rated)
        ),
        regulator=_guessed(
            Regulator(
                name="Regulator, not chosen yet", maker="–", v_out=v_out, v_dropout_v=DROPOUT_V, i_max_a=0.5,
                r_junction_air_k_per_w=50.0,
            )
        ),
        i_load_a=INPUT_STAGES_A,
        i_load_assumed=True,
    )  # fmt: skip


def _guessed(part: P) -> P:
    made = assumed(part)
    assert isinstance(made, type(part)), "it is what it was"
    return made


def may_leave(build: Build, slot: str) -> bool:
    """Whether what stands in a slot may be taken out of the build as a whole."""
    if slot in _NONE:
        return is_there(build, slot)
    return slot in ("supply.smoothing", "supply.reservoir_minus") or slot.startswith(f"{INPUT_SUPPLY}.")


def without(build: Build, slot: str) -> Build:
    """The build without what stands there; of an input supply without all of it.

    Raises KeyError for what a build cannot be without, pydantic.ValidationError where the rest does not go together.
    """
    if not may_leave(build, slot):
        raise KeyError(f"found {slot!r}, expected something that a build can be without")
    document = build.model_dump()
    if slot in _NONE:
        document[slot] = _NONE[slot].model_dump()
    else:
        name = "input_supply" if slot.startswith(f"{INPUT_SUPPLY}.") else slot.removeprefix("supply.")
        document["supply"][name] = None
    return Build.model_validate(document)


def leaving_words(build: Build, slot: str) -> str:
    """What is taken out with a slot, in words."""
    return "the input stages' supply" if slot.startswith(f"{INPUT_SUPPLY}.") else part_in(build, slot).name


def draws_of_input_stages(build: Build, i_a: float) -> Build:
    """The build whose input stages draw ``i_a`` from each regulated rail.

    Raises ValueError where there is no such supply, pydantic.ValidationError for amperes that cannot be.
    """
    supply = build.supply
    if not isinstance(supply, LinearSupply) or supply.input_supply is None:
        raise ValueError("found no regulated supply for the input stages, expected one: put it in first")
    document = build.model_dump()
    document["supply"]["input_supply"] |= {"i_load_a": i_a, "i_load_assumed": False}
    return Build.model_validate(document)
