"""Builds for tests besides those of the demo."""

from plinth.builds.build import Build
from plinth.builds.supplies import LinearSupply
from plinth.demo.builds import STAGE_PAIR

# The stage pair as it was before it got a supply for each side: both channels on one transformer.
SHARED_PAIR = STAGE_PAIR.model_copy(
    update={"supply": STAGE_PAIR.supply.model_copy(update={"per_channel": False, "input_supply": None})}
)


def linear(build: Build) -> LinearSupply:
    """The build's supply, which must be a linear one."""
    assert isinstance(build.supply, LinearSupply)
    return build.supply
