"""The kinds of supply, each a module that answers for itself. A new one joins ``Supply`` and ``SUPPLY_KINDS``."""

from typing import Annotated, Any

from pydantic import Field

from plinth.builds.supplies.battery import BatterySupply
from plinth.builds.supplies.direct import DirectSupply
from plinth.builds.supplies.kind import SupplyKind
from plinth.builds.supplies.linear import InputSupply, LinearSupply
from plinth.builds.supplies.switcher import SwitcherSupply

__all__ = [
    "SUPPLY_KINDS", "BatterySupply", "DirectSupply", "InputSupply", "LinearSupply", "Supply", "SupplyKind",
    "SwitcherSupply", "kind_with",
]  # fmt: skip

Supply = Annotated[LinearSupply | DirectSupply | SwitcherSupply | BatterySupply, Field(discriminator="kind")]
# Every kind, in the order in which they are offered.
SUPPLY_KINDS: tuple[type[SupplyKind], ...] = (LinearSupply, SwitcherSupply, BatterySupply, DirectSupply)


def kind_with(source: Any) -> type[SupplyKind] | None:
    """The kind of supply whose rails such a part makes; None for any other part."""
    return next((kind for kind in SUPPLY_KINDS if kind.source_type() is type(source)), None)
