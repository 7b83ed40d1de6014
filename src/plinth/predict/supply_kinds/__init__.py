"""The kinds of supply in numbers, a module each. A new one joins ``SUPPLY_NUMBERS``."""

from plinth.builds.supplies import BatterySupply, DirectSupply, LinearSupply, SupplyKind, SwitcherSupply
from plinth.predict.supply_kinds.battery import BATTERY
from plinth.predict.supply_kinds.direct import DIRECT
from plinth.predict.supply_kinds.linear import LINEAR
from plinth.predict.supply_kinds.numbers import SupplyNumbers
from plinth.predict.supply_kinds.switcher import SWITCHER

SUPPLY_NUMBERS: dict[type[SupplyKind], SupplyNumbers] = {
    LinearSupply: LINEAR, DirectSupply: DIRECT, SwitcherSupply: SWITCHER, BatterySupply: BATTERY,
}  # fmt: skip


def supply_numbers(supply: SupplyKind) -> SupplyNumbers:
    """What a prediction asks of a supply."""
    return SUPPLY_NUMBERS[type(supply)]
