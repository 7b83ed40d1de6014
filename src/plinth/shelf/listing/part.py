"""A part from what was accepted of a listing: the rest of it stays assumed, and says so."""

from collections.abc import Sequence

from plinth.builds.fields import part_fields
from plinth.builds.listed import read_claims
from plinth.builds.modules import ClassDModule
from plinth.builds.parts import Part
from plinth.builds.properties import How, Told
from plinth.builds.stations import part_in, stations
from plinth.shelf.from_zero import begun_with
from plinth.shelf.listing.read import Listing
from plinth.shelf.listing.words import ListedValue
from plinth.shelf.requirement import Requirement

# What a kind is when nobody says anything of it: the parts of a build for so much into so much.
_USUAL_W, _USUAL_OHM = 50.0, 8.0


def usual_part(kind: type[Part]) -> Part:
    """A part of a kind with usual values, each marked as assumed. Raises ValueError where none is known."""
    build = begun_with(Requirement(_USUAL_W, _USUAL_OHM, stage="D" if kind is ClassDModule else "AB"))
    for slot in (slot for station in stations(build) for slot in station.slots):
        part = part_in(build, slot)
        if type(part) is kind:
            return part
    raise ValueError(f"found no usual {kind.__name__}, expected one of the kinds that listings are read for")


def part_from(listing: Listing, accepted: Sequence[ListedValue], name: str) -> Part:
    """The part that a listing tells of. Raises pydantic.ValidationError where what was accepted cannot be together."""
    base = usual_part(listing.kind)
    own = {field.path for field in part_fields(base)}
    taken = [fact for fact in accepted if fact.path in own]
    paths = {fact.path for fact in taken}
    document = base.model_dump()
    facts = [fact.model_dump() for fact in base.told if fact.field not in paths]
    for fact in taken:
        target = document
        *steps, last = fact.path.split(".")
        for step in steps:
            target = target[step]
        target[last] = fact.value
        facts.append(
            Told(field=fact.path, how=How.STATED, value=fact.value, source=f"listing: {fact.words}").model_dump()
        )
    document |= {"name": name, "told": facts}
    claims = [claim for fact in accepted if fact.path == "claim" for claim in read_claims(str(fact.value))]
    if "claims" in document and claims:
        document["claims"] = [claim.model_dump() for claim in claims]
    return type(base).model_validate(document)
