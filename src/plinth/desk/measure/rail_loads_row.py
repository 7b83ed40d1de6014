"""A row of the rails' test: what hangs on the rails while the supply is tried alone, typed as a list."""

from plinth.builds.rail_load import rail_loads_text
from plinth.desk.measure.typed_list_row import TypedListRow
from plinth.desk.session import BenchSession

# What an example draws of the rail: little enough for every supply.
EXAMPLE_A = 0.3


class RailLoadsRow(TypedListRow):
    """Ohms and amperes on each rail in place of the boards."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__(
            session, "Supply alone into", "Loads on the rails for the supply alone, in ohms or amperes", "Add them",
            "An empty list asks for none",
        )  # fmt: skip

    def kept_text(self) -> str:
        return rail_loads_text(self._session.build.rail_loads)

    def take(self, text: str) -> str:
        return self._session.plan.take_rail_loads(text)

    def examples(self) -> tuple[str, str]:
        ohm = self._session.build.supply.rough_rail_v / EXAMPLE_A
        example = f"{round(ohm, -1):g} ohm, {1e3 * EXAMPLE_A:g} mA"
        return example, "Resistors or a set current from each rail to 0 V, boards unplugged: each has lines of its own"
