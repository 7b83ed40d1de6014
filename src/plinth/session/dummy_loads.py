"""How warm the dummy loads of this workshop are: when each was driven, kept over a restart."""

import dataclasses
import datetime as dt
from collections.abc import Sequence
from typing import Any

from plinth.bench.load_heat import ONE_READING_S, LoadUse, allowed_s, cold_after_s, rise_share, still_felt
from plinth.builds.parts import Load
from plinth.record.reading import Reading, Record
from plinth.record.subject import Kind, read_subject
from plinth.session.core import Core
from plinth.workshop.errors import WorkshopError
from plinth.workshop.kept_settings import LOADS_DRIVEN


@dataclasses.dataclass(frozen=True)
class LoadNow:
    """``share`` of the rise at its rating, ``allowed_s`` for a power from now on, ``cold_s`` until it is cold again.

    ``driven_s`` how long its clock has run (None: it stands still); ``guessed``: some of what warmed it nobody timed;
    ``usual_tau``: nobody states its time constant.
    """

    share: float
    allowed_s: float
    cold_s: float
    driven_s: float | None
    guessed: bool
    usual_tau: bool


class DummyLoads:
    """A load is an object at the bench: its warmth is the workshop's, whichever build it hangs on."""

    def __init__(self, core: Core) -> None:
        self._core = core
        self._driven = core.workshop.setting_as(LOADS_DRIVEN, _read)

    def load_now(self, load: Load, power_w: float) -> LoadNow | None:
        """How warm a load is, and what it may take; None where no rating is stated."""
        at = self._core.now()
        share = rise_share(load, self._driven, at)
        if share is None:
            return None
        mine = [use for use in still_felt(self._driven, (load,), at) if use.load == load.identity]
        running = next((use for use in mine if use.ended is None), None)
        return LoadNow(
            share, allowed_s(load, share, power_w), cold_after_s(load, share),
            None if running is None else (at - running.begun).total_seconds(), any(not use.timed for use in mine),
            load.time_constant_s is None,
        )  # fmt: skip

    def drive_load(self, load: Load, power_w: float) -> bool:
        """Its clock starts: it takes ``power_w`` from now on."""
        return self._remember(
            (*self._ended(load, self._core.now()), LoadUse(load.identity, self._core.now(), None, power_w))
        )

    def release_load(self, load: Load) -> bool:
        """Its clock stops."""
        return self._remember(self._ended(load, self._core.now()))

    def warm(self, record: Record) -> None:
        """A power that was read without the load's clock warms it for as long as a reading usually takes."""
        if isinstance(record, Reading) and (self._core.practice or not record.simulated):
            about = read_subject(record.subject)
            timed = any(use.load == about.what and use.ended is None for use in self._driven)
            if about.kind in (Kind.CLIP, Kind.CLIP_1, Kind.CLIP_10) and not timed:
                begun = record.taken_at - dt.timedelta(seconds=ONE_READING_S)
                driven = LoadUse(about.what, begun, record.taken_at, record.value, timed=False)
                # The reading was announced already, and it is what was kept: this only goes with it.
                try:
                    self._write((*self._driven, driven))
                except WorkshopError as error:
                    self._core.tell.trouble(str(error))

    def _ended(self, load: Load, at: dt.datetime) -> tuple[LoadUse, ...]:
        return tuple(
            dataclasses.replace(use, ended=at) if use.load == load.identity and use.ended is None else use
            for use in self._driven
        )

    def _remember(self, driven: Sequence[LoadUse]) -> bool:
        return self._core.attempt(lambda: self._write(driven))

    def _write(self, driven: Sequence[LoadUse]) -> None:
        felt = still_felt(driven, (*self._core.build.loads, self._core.build.load), self._core.now())
        self._core.workshop.set_setting(LOADS_DRIVEN, _written(felt))
        self._driven = felt


def _written(driven: Sequence[LoadUse]) -> dict[str, Any]:
    return {
        "driven": [
            {
                **dataclasses.asdict(use), "begun": use.begun.isoformat(),
                "ended": None if use.ended is None else use.ended.isoformat(),
            }
            for use in driven
        ]
    }  # fmt: skip


def _read(setting: dict[str, Any]) -> tuple[LoadUse, ...]:
    return tuple(
        LoadUse(
            str(entry["load"]), dt.datetime.fromisoformat(entry["begun"]),
            None if entry["ended"] is None else dt.datetime.fromisoformat(entry["ended"]), float(entry["power_w"]),
            bool(entry["timed"]),
        )
        for entry in setting.get("driven", [])
    )  # fmt: skip
