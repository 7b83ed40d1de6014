"""A build from what one has, as it is spoken: ``2x18 160VA, 2 chips 50W 8R 25V, 2x10m 50V, 8R2 100W``.

Each piece between commas is a part, or watts into ohms that are required. What is said is stated; the rest of the parts
are plain ones sized around it, and assumed.
"""

import dataclasses
import math
import re
from collections.abc import Sequence
from typing import Literal

from plinth.builds.build import AnyModule, Build
from plinth.builds.field_entry import field_text
from plinth.builds.fields import in_sentence, part_fields
from plinth.builds.makeup import MOST_CHANNELS, makeup_of, remade
from plinth.builds.modules import PowerClaim
from plinth.builds.parts import Entry, HeatSink, Load, Part
from plinth.builds.properties import How, PartT, Told, how_known, value_at, with_told
from plinth.builds.short_words import short_words
from plinth.builds.stations import part_in
from plinth.builds.supply_parts import MainsSwitcher, Rectifier, Reservoir, Transformer
from plinth.physics.numbers.errors import PhysicsError
from plinth.shelf.as_typed import SOURCE, as_typed
from plinth.shelf.from_zero import from_zero
from plinth.shelf.requirement import USUAL_OHM, Requirement, SourcePart, Spoken, SupplyKind, read_requirement
from plinth.shelf.slots import WORDS, joined_all
from plinth.shelf.usual_series import BoardKind, usual_boards
from plinth.units.errors import QuantityError
from plinth.units.typed import read_quantity

LONGEST_NAME = 120
_BETWEEN = re.compile(r"\s*(?:;|,\s|,$|\n)\s*")
_NUM = r"\d+(?:[.,]\d+)?"
_BOARD = re.compile(
    r"\b(?:chips?|boards?|modules?|amps?|amplifiers?|class|mono|stereo|bridged|(?:full|half)[- ]bridge)\b",
    re.IGNORECASE,
)
_COUNT = re.compile(r"^(?P<count>[1-8])\s*(?:[x×*]\s*)?(?=[a-z])", re.IGNORECASE)
_CLASS = re.compile(r"\bclass[- ]?(?P<name>AB|A|D)\b", re.IGNORECASE)
_WATTS = re.compile(rf"(?<![\w.])(?P<value>{_NUM})\s*W\b", re.IGNORECASE)
_OHMS = re.compile(rf"(?<![\w.])(?P<value>\d+R\d*|{_NUM}\s*(?:R|Ω|ohms?))(?!\w)", re.IGNORECASE)
_VOLTS = re.compile(rf"(?<![\w.])(?P<value>{_NUM})\s*V\b", re.IGNORECASE)
_WINDINGS = re.compile(r"VA\b|^[12]\s*[x×*]\s*[\d.,]+\s*V?(?![\w.,])|\d\s*-\s*0\s*-\s*\d", re.IGNORECASE)
# By what a piece says of itself, which kind of part it is and where it stands; the first that fits.
_SAYS: tuple[tuple[re.Pattern[str], str, type[Part]], ...] = (
    (re.compile(r"\b(?:switcher|smps|switch-mode)\b", re.IGNORECASE), "", MainsSwitcher),
    (re.compile(r"\bbridges?\b|\brectifiers?\b", re.IGNORECASE), "supply.rectifier", Rectifier),
    (_WINDINGS, "", Transformer),
    (re.compile(r"\d\s*(?:[uµμmn]F?|F)\b"), "supply.reservoir", Reservoir),
    (re.compile(r"K/W", re.IGNORECASE), "sink", HeatSink),
    (re.compile(r"\bfuse\b|^[TF]\s*\d", re.IGNORECASE), "entry", Entry),
    (re.compile(r"\d\s*(?:R\d*|Ω|ohms?)(?!\w)", re.IGNORECASE), "load", Load),
)
# Words that say which kind it is, and are no figure of it.
_KIND_WORDS = re.compile(
    r"\b(?:fuse|inlet|bridges?|rectifiers?|switcher|smps|load|dummy|sink|cans?)\b|^[TF](?=\s*\d)", re.IGNORECASE
)


@dataclasses.dataclass(frozen=True)
class SpokenBuild:
    """The rest of its ``parts`` by slot; ``required`` watts into ohms; ``count`` of channels, or 0."""

    module: AnyModule | None = None
    source: SourcePart | None = None
    parts: tuple[tuple[str, Part], ...] = ()
    required: Spoken | None = None
    count: int = 0
    bridged: bool = False

    @property
    def words(self) -> str:
        """How it was understood."""
        pieces = [] if self.source is None else [f"supply: {_words_of(self.source)}"]
        if self.module is not None:
            pieces.append(f"module: {_words_of(self.module)}")
        pieces += [f"{WORDS[slot]}: {_words_of(part)}" for slot, part in self.parts]
        if self.required is not None and self.required.power_w is not None:
            pieces.append(f"required: {self.required.power_w:g} W into {self.required.r_ohm:g} Ω")
        if self.count:
            pieces.append(f"{self.count} channel{'s' * (self.count != 1)}")
        return "; ".join([*pieces, *(["two bridged boards each"] if self.bridged else [])])


def _words_of(part: Part) -> str:
    """What was said of a part, and nothing that is assumed of it; its own words where it is one of the shelf."""
    said = {fact.field for fact in part.told if fact.source == SOURCE}
    words = [
        f"{in_sentence(f.words)} {field_text(f, value_at(part, f.path))}" for f in part_fields(part) if f.path in said
    ]
    if isinstance(part, Transformer) and said:
        words.insert(0, {"two": "two windings", "one": "one winding", "centre_tap": "centre tap"}[part.secondaries])
    words += [f"listed {claim.power_w:g} W into {claim.r_load_ohm:g} Ω" for claim in getattr(part, "claims", ())]
    return ", ".join(words) or short_words(part)


def read_spoken(text: str, modules: Sequence[AnyModule] = ()) -> SpokenBuild:
    """What one has, piece by piece. Raises QuantityError for a piece that is none, and for two of one place."""
    pieces = pieces_of(text)
    if not pieces:
        raise QuantityError("found nothing, expected what you have: 2x18 160VA, 2 chips 50W 8R, 10m 50V, 8R2 100W")
    spoken = SpokenBuild()
    for piece in pieces:
        spoken = _with_piece(spoken, piece, modules)
    return spoken


def pieces_of(text: str) -> list[str]:
    """What stands between the commas."""
    return [piece for piece in _BETWEEN.split(" ".join(text.split())) if piece]


def plain_board(name: str, *, rail_v: float, how: Literal[How.STATED, How.ASSUMED]) -> AnyModule:
    """The plain class AB board next to a rail, V; ``how`` its rail is known, everything else of it is assumed."""
    board = min(usual_boards()["AB"], key=lambda board: abs(math.log(board.v_rail_nominal / rail_v)))
    return on_rail(board, rail_v, how).model_copy(update={"name": name})


def on_rail(board: AnyModule, volts: float, how: Literal[How.STATED, How.ASSUMED]) -> AnyModule:
    """A board that is sold for a rail stands some more; how much nobody said."""
    board = _guessed(board, "v_rail_max", max(board.v_rail_max, round(1.2 * volts, 1)))
    board = _guessed(board, "v_rail_min", min(board.v_rail_min, round(0.6 * volts, 1)))
    source = SOURCE if how is How.STATED else "sized to what was said"
    return with_told(board, Told(field="v_rail_nominal", how=how, value=volts, source=source))


def _with_piece(spoken: SpokenBuild, piece: str, modules: Sequence[AnyModule]) -> SpokenBuild:
    longest_first = sorted(modules, key=lambda module: -len(module.name))
    named = next((module for module in longest_first if module.name.casefold() in piece.casefold()), None)
    try:
        required = None if named else read_requirement(piece)
    except QuantityError:
        required = None
    if required is not None:
        return dataclasses.replace(spoken, required=required)
    if named is not None or _BOARD.search(piece):
        board = named or _board(piece)
        _only_one(spoken.module, board, "module")
        if named is not None:
            _nothing_else(piece, named)
        bridged = re.search(r"\bbridged\b", piece, re.IGNORECASE) is not None
        return dataclasses.replace(spoken, module=board, count=_channels(piece, bridged=bridged), bridged=bridged)
    for says, slot, kind in _SAYS:
        part = _part(piece, kind) if says.search(piece) else None
        if isinstance(part, Transformer | MainsSwitcher):
            _only_one(spoken.source, part, "supply")
            return dataclasses.replace(spoken, source=part)
        if part is not None:
            _only_one(dict(spoken.parts).get(slot), part, WORDS[slot])
            return dataclasses.replace(spoken, parts=(*spoken.parts, (slot, part)))
    raise QuantityError(
        f"found {piece[:40]!r}, expected a part such as 2x18 160VA, 10m 50V, 8R2 100W or 2 chips 50W 8R 25V, or watts "
        "into ohms: 60 W 4R"
    )


def _nothing_else(piece: str, named: AnyModule) -> None:
    """Beside the name of a board on the shelf there is only how many of them there are."""
    at = piece.casefold().index(named.name.casefold())
    rest = f"{_COUNT.sub('', piece[:at])}{piece[at + len(named.name) :]}".strip()
    if rest and not re.fullmatch(r"(?:[1-8]\s*[x×*]?|mono|stereo|bridged|\s)+", rest, re.IGNORECASE):
        raise QuantityError(f"found {rest!r} beside {named.name}, expected a load such as 4R, or nothing")


def _part(piece: str, kind: type[Part], beside: Part | None = None) -> Part | None:
    """The part that a piece tells of; what it does not say is as in the part that it stands in for."""
    parts = as_typed(" ".join(_KIND_WORDS.sub(" ", piece).split()), (kind,), beside)
    # Of a bag of cans that which shares them out over both rails stands first.
    return parts[0].model_copy(update={"name": piece[:LONGEST_NAME]}) if parts else None


def _only_one(before: Part | None, part: Part, place: str) -> None:
    if before is not None:
        raise QuantityError(f"found {before.name} and {part.name}, expected one {place}: leave one of them out")


def _channels(piece: str, *, bridged: bool) -> int:
    """How many channels so many boards make, two to each where they are bridged; 0 where it is not said."""
    counted = _COUNT.match(piece)
    if counted is not None:
        count = int(counted["count"])
        if bridged and count % 2:
            raise QuantityError(f"found {piece[:40]!r}, expected two boards for each bridged channel: an even number")
        return count // 2 if bridged else count
    return next((n for n, word in ((1, "mono"), (2, "stereo")) if re.search(rf"\b{word}\b", piece, re.IGNORECASE)), 0)


def _board(piece: str) -> AnyModule:
    """The plain board that is next to what is said of it, with what is said stated."""
    watts, volts, ohms = _said(_WATTS, piece, "W"), _said(_VOLTS, piece, "V"), _said(_OHMS, piece, "ohm")

    def apart(board: AnyModule) -> float:
        if volts is not None:
            return abs(math.log(board.v_rail_nominal / volts))
        # What a board gives into 8 ohm goes with the square of its rail.
        return abs(math.log((board.v_rail_nominal - 3.0) ** 2 / 16.0 / watts)) if watts else 0.0

    board = min(usual_boards()[_kind(piece)], key=apart)
    changes: dict[str, object] = {"name": piece[:LONGEST_NAME]}
    if volts is not None:
        board = on_rail(board, volts, How.STATED)
    if watts is not None and ohms is not None:
        changes["claims"] = (PowerClaim(power_w=watts, r_load_ohm=ohms, v_rail_v=volts),)
    return board.model_copy(update=changes)


def _guessed(part: PartT, path: str, value: float) -> PartT:
    """The part with another guess of a property: in its figures and in what is told of them."""
    return with_told(part, Told(field=path, how=How.ASSUMED, value=value, source="sized to what was said"))


def _kind(piece: str) -> BoardKind:
    named = _CLASS.search(piece)
    stage = "" if named is None else named["name"].upper()
    if stage == "D" or re.search(r"\b(?:full|half)[- ]bridge\b", piece, re.IGNORECASE):
        single = re.search(r"\bfull[- ]bridge\b|\bsingle[- ]rail\b", piece, re.IGNORECASE)
        return "full bridge" if single else "half bridge"
    return "A" if stage == "A" else "chip" if re.search(r"\bchips?\b", piece, re.IGNORECASE) else "AB"


def _said(form: re.Pattern[str], piece: str, unit: str) -> float | None:
    match = form.search(piece)
    if match is None:
        return None
    return read_quantity(match["value"] if unit == "ohm" else f"{match['value']} {unit}", unit)


def build_of(
    spoken: SpokenBuild, channels: tuple[str, ...], mains_v: float, supply: SupplyKind = "transformer"
) -> Build:
    """The build around what one has. Raises PhysicsError or QuantityError where it does not go together, with why."""
    parts, source, required = dict(spoken.parts), spoken.source, spoken.required
    watts = 0.0 if required is None else required.power_w or 0.0
    if not watts and spoken.module is None and source is None:
        raise QuantityError(
            "found neither watts into ohms, nor a board, nor a transformer, expected one of them: 60 W 4R"
        )
    load = parts.get("load")
    ohms = required.r_ohm if required is not None else load.r_ohm if isinstance(load, Load) else USUAL_OHM
    if isinstance(source, Transformer) and how_known(source, "v_primary_rms") is How.ASSUMED:
        # Nobody said for which wall it is wound: for this one. What is stated of it stays, and is judged.
        source = _guessed(source, "v_primary_rms", mains_v)
    asked = Requirement(
        watts, ohms, _names(spoken.count, channels), supply, mains_v=mains_v, module=spoken.module, source=source
    )
    if required is not None and required.stage is not None:
        asked = dataclasses.replace(asked, stage=required.stage)
    build = from_zero(asked)
    if parts:
        # What was not said of them is sized to the rest: cans stand these rails.
        sized = {slot: _part(part.name, type(part), part_in(build, slot)) or part for slot, part in parts.items()}
        with_all = joined_all(build, sized)
        if isinstance(with_all, str):
            names = ", ".join(part.name for part in parts.values())
            raise PhysicsError(f"{names} cannot join the rest: {with_all}")
        build = with_all
    if spoken.bridged:
        try:
            build = remade(build, dataclasses.replace(makeup_of(build), bridged=True))
        except ValueError as error:
            raise PhysicsError("these boards cannot be wired as bridged pairs on this supply") from error
    note = f"Begun with {spoken.words}. Every other value in it is assumed until somebody says better."
    return build.model_copy(update={"note": note[:2000]})


def _names(count: int, channels: tuple[str, ...]) -> tuple[str, ...]:
    """The names of the channels: those that are typed, where there are as many."""
    if not count or count == len(channels):
        return channels
    named: dict[int, tuple[str, ...]] = {1: ("mono",), 2: ("left", "right")}
    return named.get(count, tuple(f"channel {k + 1}" for k in range(min(count, MOST_CHANNELS))))
