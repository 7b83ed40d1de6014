"""A row of the clipping test: further sources typed as a list, each a line of cells."""

from plinth.bench.own_sources import sources_text
from plinth.desk.measure.typed_list_row import TypedListRow
from plinth.desk.session import BenchSession


class OwnSourcesRow(TypedListRow):
    """Volts of mains, battery or bench supply at which clipping is read besides the usual ones."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__(
            session, "Further sources", "Further sources for clipping, in volts", "Add them",
            "An empty list brings the usual ones back",
        )  # fmt: skip

    def kept_text(self) -> str:
        return sources_text(self._session.own_sources.volts)

    def take(self, text: str) -> str:
        return self._session.own_sources.take(text)

    def examples(self) -> tuple[str, str]:
        build = self._session.build
        of = "mains" if build.mains is not None else "the battery" if build.supply.battery is not None else "each rail"
        example = f"{_example(build.supply.rough_rail_v, of)} V"
        return example, f"Volts of {of}, as many as you like: each is a line of its own"


def _example(rail_v: float, of: str) -> str:
    if of == "mains":
        return "195 210 250"
    return " ".join(f"{share * rail_v:.0f}" for share in (0.5, 0.7, 0.9))
