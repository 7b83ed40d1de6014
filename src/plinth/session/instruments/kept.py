"""The instruments of this bench as the workshop keeps them: where each is, by which map, and maps of one's own."""

import dataclasses
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from plinth.instruments.command_map import CommandMap, MapError, read_map, shipped_maps
from plinth.record.probe import Point
from plinth.session.core import Core
from plinth.session.instruments.connected import Connected
from plinth.workshop.kept_settings import INSTRUMENTS

MOST_MAP_BYTES = 200_000


@dataclasses.dataclass(frozen=True)
class KeptBench:
    """``instruments`` in the order added; ``own_maps`` the text of each map of one's own, by its name."""

    instruments: tuple[Connected, ...] = ()
    own_maps: Mapping[str, str] = dataclasses.field(default_factory=dict)


class KeptInstruments:
    """What the workshop keeps of the instruments of its bench; nothing of a simulated one."""

    def __init__(self, core: Core) -> None:
        self._core = core
        self._kept = core.workshop.setting_as(INSTRUMENTS, _read)

    @property
    def instruments(self) -> tuple[Connected, ...]:
        """All that are kept."""
        return self._kept.instruments

    @property
    def maps(self) -> tuple[CommandMap, ...]:
        """Every map that there is for real instruments: one's own first."""
        own = [read_map(text, name) for name, text in self._kept.own_maps.items()]
        return (*own, *(each for each in shipped_maps() if not each.simulated))

    def fitting(self, identity: str) -> CommandMap | None:
        """The map whose own pattern an identity fits; None where none names it."""
        return next((each for each in self.maps if each.fits(identity)), None)

    def keep(self, instrument: Connected) -> str:
        """Keep one, in place of what had its name; a sentence where that cannot be."""
        if not instrument.name.strip():
            return "Found no name, expected one: it stands with every reading of it."
        others = tuple(each for each in self.instruments if each.name != instrument.name)
        taken = [each.name for each in others if each.address == instrument.address]
        if taken:
            return f"Found {taken[0]} at {instrument.address} already, expected another address."
        return self._put(dataclasses.replace(self._kept, instruments=(*others, instrument)))

    def forget(self, name: str) -> str:
        """Forget one."""
        left = tuple(each for each in self.instruments if each.name != name)
        return self._put(dataclasses.replace(self._kept, instruments=left))

    def take_map(self, path: Path) -> str:
        """Take a map of one's own in; why it cannot be used, in a sentence, else empty."""
        try:
            if path.stat().st_size > MOST_MAP_BYTES:
                return f"{path.name}: found {path.stat().st_size} bytes, expected a command map, which is a short text."
            text = path.read_text(encoding="utf-8")
            own = read_map(text, path.name)
        except (OSError, UnicodeDecodeError) as error:
            return f"{path.name} cannot be read ({error}): expected a text file of commands."
        except MapError as error:
            return f"{error}."
        if own.simulated:
            return f"{path.name}: found simulated = true, expected a map of a real instrument."
        return self._put(dataclasses.replace(self._kept, own_maps={**self._kept.own_maps, own.name: text}))

    def _put(self, kept: KeptBench) -> str:
        value = {"instruments": [each.as_kept() for each in kept.instruments], "maps": dict(kept.own_maps)}
        if not self._core.attempt(lambda: self._core.workshop.set_setting(INSTRUMENTS, value)):
            return "It could not be kept."
        self._kept = kept
        return ""


def _read(value: dict[str, Any]) -> KeptBench:
    texts = {str(name): str(text) for name, text in value.get("maps", {}).items()}
    maps = {name: _map_of(text, name) for name, text in texts.items()}
    known = {each.name: each for each in (*(own for own in maps.values() if own), *shipped_maps())}
    rows = tuple(
        Connected(
            name=str(row["name"]), address=str(row["address"]), own=known[row["map"]], identity=str(row["identity"]),
            points=tuple(Point(point) for point in row["points"]), channel=str(row["channel"]),
        )
        for row in value.get("instruments", [])
        if row["map"] in known
    )  # fmt: skip
    return KeptBench(rows, {name: text for name, text in texts.items() if maps[name] is not None})


def _map_of(text: str, name: str) -> CommandMap | None:
    try:
        return read_map(text, name)
    except MapError:
        return None
