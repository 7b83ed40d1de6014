"""The sources at which a builder measures clipping besides the usual ones, kept build by build."""

from plinth.bench.own_sources import read_sources
from plinth.session.core import Core
from plinth.units.errors import QuantityError
from plinth.workshop.kept_settings import OWN_SOURCES, by_build


class OwnSources:
    """Volts of the current build's own columns."""

    def __init__(self, core: Core) -> None:
        self._core = core
        self._volts = core.workshop.setting_as(OWN_SOURCES, by_build)

    @property
    def volts(self) -> tuple[float, ...]:
        """As they were typed for the current build, lowest first; empty where the usual ones stand."""
        return self._volts.get(str(self._core.current), ())

    def take(self, text: str) -> str:
        """Keep a typed list, an empty one for the usual sources; a sentence where it is none, or was not kept."""
        try:
            volts = read_sources(text, self._core.build)
        except QuantityError as error:
            return f"{str(error).capitalize()}."
        changed = {**self._volts, str(self._core.current): volts}
        changed = {number: each for number, each in changed.items() if each}
        kept = {number: list(each) for number, each in changed.items()}
        if not self._core.attempt(lambda: self._core.workshop.set_setting(OWN_SOURCES, kept)):
            return "It could not be kept: see the window."
        self._volts = changed
        return ""
