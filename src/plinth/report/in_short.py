"""What a reader wants first: is it brought up, what it gives into each load, what is open or over."""

import dataclasses
import math
from collections.abc import Callable, Sequence

from plinth.bench.clip_cell import clip_cell, clip_places
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.judge.claims import claim_for
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.prediction import Prediction
from plinth.record.book import RecordBook
from plinth.record.reading import Reading
from plinth.units.shown import shown, shown_with_spread

_NONE = "–"
# From here on a hand draws back (ISO 13732-1: metal held for a second).
_HOT_C = 55.0


@dataclasses.dataclass(frozen=True)
class PowerRow:
    """Watts into one load: who plays, what is claimed, predicted and read, and the state of what was read."""

    load: str
    who: str
    claimed: str
    predicted: str
    read: str
    state: str = ""


def power_rows(build: Build, situation: Situation, book: RecordBook) -> tuple[PowerRow, ...]:
    """A row a load, one channel and all of them; a load that it cannot drive is left out."""
    rows = []
    for who, load in clip_places(build):
        try:
            cells = [clip_cell(build, channel, situation, who, load) for channel in build.channels]
        except PhysicsError:
            continue
        read = [(cell, book.counting(cell.subject, cell.conditions)) for cell in cells]
        known = [(cell, record) for cell, record in read if isinstance(record, Reading)]
        claim = claim_for(build.module, load.r_ohm)
        power = cells[0].power
        worst = max((record.state for _, record in known), key=_SEVERITY.index, default=None)
        rows.append(
            PowerRow(
                f"{load.r_ohm:g} Ω", "one channel" if who == "one" else "all channels",
                _NONE if claim is None else shown(claim.power_w, "W"),
                shown_with_spread(power.value, power.spread, "W"),
                ", ".join(
                    f"{cell.channel} {_read(record)}" for cell, record in known
                ) or _NONE, "" if worst is None else str(worst),
            )
        )  # fmt: skip
    return tuple(rows)


_SEVERITY = (State.UNKNOWN, State.CLEAR, State.CLOSE, State.OVER)


def _read(reading: Reading) -> str:
    u = reading.u
    number = shown(reading.value, "W") if u is None else shown_with_spread(reading.value, 2.0 * u, "W")
    return f"{reading.bound.sign}{number}"


def cautions(prediction: Prediction) -> tuple[str, ...]:
    """What can hurt whoever opens it: mains, stored charge, heat, a bridge's outputs; with this build's own figures."""
    build, said = prediction.build, []
    if build.mains is not None:
        said.append(
            "Mains inside: pull the plug before it is opened. Work on the mains side follows your local electrical "
            "code; have it done where that asks for a licence."
        )
    elif build.supply.battery is not None:
        said.append("A battery gives hundreds of amperes into a slip: take its fuse out first, rings off.")
    stored, bleeds = prediction.get("stored_j"), prediction.get("bleed_s")
    if stored is not None and stored.known:
        wait = (
            f" Wait {shown(bleeds.high, 's')} after switching off"
            if bleeds is not None and bleeds.known and math.isfinite(bleeds.high)
            else " How long they take to empty is not known: wait"
        )
        said.append(f"Reservoirs hold {shown(stored.high, 'J')}.{wait}, and measure before you touch.")
    sink = prediction.get("sink_c")
    if sink is not None and sink.known and sink.high > _HOT_C:
        said.append(f"The sink may reach {shown(sink.high, '°C')} in programme: it burns fingers.")
    if build.wiring == "bridged":
        said.append("Both output terminals are driven: neither is ground, and no scope's clip goes to one.")
    return tuple(said)


def open_points(margins: Sequence[Margin], tests_without: Sequence[str], stale: int) -> tuple[str, ...]:
    """What is over, close, not tried, and what was read and counts no more, a sentence each."""
    over = [margin.label for margin in margins if margin.state is State.OVER]
    close = [margin.label for margin in margins if margin.state is State.CLOSE]
    said: list[str] = []
    _add(said, over, lambda words: f"Over its limit: {words}.")
    _add(said, close, lambda words: f"Close to its limit: {words}.")
    _add(said, list(tests_without), lambda words: f"Never tried: {words}.")
    if stale:
        said.append(f"{stale} reading{'s' * (stale != 1)} no longer count{'s' * (stale == 1)}; each is marked below.")
    return tuple(said)


def _add(said: list[str], names: list[str], sentence: Callable[[str], str]) -> None:
    if names:
        said.append(sentence(", ".join(name[:1].lower() + name[1:] for name in names)))
