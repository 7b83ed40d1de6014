"""The clipping test under way: its cells, the current one, what a level means there, and which comes next."""

import dataclasses
from collections.abc import Callable

from plinth.bench import clip_level, clipping, supply_draw
from plinth.bench.across_cells import behind_outputs, power_over_source
from plinth.bench.bias_change import Unexplained, bias_subjects, unexplained
from plinth.bench.clip_cell import DEFINITIONS, ClipCell, Definition, Driven, clip_cell, clip_places, further_cells
from plinth.bench.clip_verdict import unexplained_words
from plinth.bench.clipping import judge_clipping, sentence_of
from plinth.bench.output_fit import OutputFit, fitted_module, output_fit
from plinth.bench.sheet import Graph
from plinth.bench.test_conditions import from_source
from plinth.builds.build import Build
from plinth.builds.modules import Module
from plinth.builds.parts import Load
from plinth.builds.situation import Situation
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.record.giving import TYPED, Giving
from plinth.record.meaning import Meaning, reading_of
from plinth.record.reading import Reading
from plinth.record.request import Request
from plinth.record.slips import Understood
from plinth.session.current_channel import CurrentChannel
from plinth.session.procedure.taking import Said, Taken, given_by, not_understood, sentence
from plinth.session.runner import words_of
from plinth.session.session import Session
from plinth.units.bounds import Bound
from plinth.units.errors import QuantityError
from plinth.units.level import TypedLevel, read_level
from plinth.units.shown import shown

SHORT: dict[Definition, str] = {"onset": "Onset", "thd_1": "1 %", "thd_10": "10 %"}
# Whose cells are made: the channel, the build, the source.
CellsOf = tuple[str, Build, Situation]


@dataclasses.dataclass(frozen=True)
class ClipListener:
    """Who is told: that there are other cells, that another is current, and what could not be computed.

    ``written``: of level and draw, which are on disk, before the next cell is current. ``typing``: whether somebody is
    typing, so that the current cell stays.
    """

    laid_out: Callable[[], None]
    shown: Callable[[], None]
    written: Callable[[bool, bool], None]
    failed: Callable[[Exception], None]
    typing: Callable[[], bool]


class ClipProcedure:
    """Cells of channels and loads, one of them current. ``words`` say how to read, or why nothing is expected."""

    def __init__(self, session: Session, listener: ClipListener) -> None:
        self._session, self._tell = session, listener
        self.channel = CurrentChannel(session)
        self.onset: tuple[ClipCell, ...] = ()
        # How many of them are of the source as it is: they come first.
        self._near = 0
        # The own sources that the others are of.
        self._further_at: tuple[float, ...] = ()
        # Why there is no cell for a load into which it cannot run.
        self._cannot: list[str] = []
        self._made_for: CellsOf | None = None
        # Cells at a distortion, by its name, in the places of those at onset.
        self.at_distortion: dict[Definition, tuple[ClipCell, ...]] = {}
        # Asked of the diary when a level is typed, not at every record that is kept.
        self._biases: list[Reading] | None = None
        self.row, self.driven = 0, "one"
        self.definition: Definition = "onset"
        self.blocked, self.words = "", ""

    # Cells

    def show_channel(self, channel: str) -> None:
        """Go to a channel; its cells are computed, one by one, where they are not known yet."""
        build, situation = self._session.build, self._session.situation
        asked = Situation(mains_v_rms=situation.mains_v_rms, mains_hz=situation.mains_hz, battery_v=situation.battery_v)
        self.channel.take(channel)
        if self._made_for == (channel, build, asked):
            self.sources_changed()
            self._tell.shown()
            return
        self._made_for = (channel, build, asked)
        self.words = "Computing what to expect …"
        self.onset, self.at_distortion, self._cannot, self._near = (), {}, [], 0
        self._tell.laid_out()
        self._tell.shown()
        self._ask_cell(self._made_for, 0)

    def _ask_cell(self, wanted: CellsOf, place: int) -> None:
        channel, build, asked = wanted
        places = clip_places(build)
        if place == len(places):
            self._own_source_done(wanted)
            return
        who, load = places[place]

        def take(answer: object) -> None:
            if wanted != self._made_for:
                return
            if isinstance(answer, ClipCell):
                self.onset = (*self.onset, answer)
                self.row = min(self.row, len(self.onset) - 1)
                self._tell.laid_out()
                self._tell.shown()
            else:
                self._cannot.append(str(answer))
            self._ask_cell(wanted, place + 1)

        def fail(error: Exception) -> None:
            if wanted == self._made_for:
                self.words = words_of(error)
                self._tell.shown()
            self._tell.failed(error)

        self._session.jobs.ask("clip", lambda _task: _cell(build, channel, asked, who, load), take, fail)

    def _own_source_done(self, wanted: CellsOf) -> None:
        """Go to the first cell without a reading; then come the other sources."""
        if not self.onset:
            self.words = self._cannot[0] if self._cannot else "Nothing to expect."
            self._tell.shown()
            return
        self._say_how()
        if not self._tell.typing():
            # Whoever types already stays where the typing began.
            self.row = next(iter(self._unread(range(len(self.cells)))), 0)
        self.driven = self.cells[self.row].driven
        self._tell.laid_out()
        self._ask_distortion()
        self._tell.shown()
        self._near = len(self.onset)
        self._ask_further(wanted)

    def sources_changed(self) -> None:
        """Other sources were chosen: their cells are computed, those of the source as it is stay."""
        if self._made_for is None or not self._near or self._further_at == self._session.own_sources.volts:
            return
        self.onset, self.at_distortion = self.onset[: self._near], {}
        self.row = min(self.row, self._near - 1)
        self._tell.laid_out()
        self._tell.shown()
        self._ask_further(self._made_for)

    def _ask_further(self, wanted: CellsOf) -> None:
        first, (_, build, asked), own_v = self.onset, wanted, self._session.own_sources.volts
        self._further_at = own_v

        def add(answer: object) -> None:
            if (wanted, own_v) == (self._made_for, self._further_at) and isinstance(answer, tuple):
                self.onset = (*first, *answer)
                self._tell.laid_out()
                self._ask_distortion()
                self._tell.shown()

        self._session.jobs.ask("clip further", lambda _task: further_cells(first, build, asked, own_v), add, long=True)

    def _ask_distortion(self) -> None:
        """The powers at the current distortion, where they are not known of all cells yet."""
        definition, cells = self.definition, self.onset
        if definition == "onset" or not cells or len(self.at_distortion.get(definition, ())) == len(cells):
            return

        def take(answer: object) -> None:
            # While they were computed other sources may have been chosen.
            if cells is self.onset and isinstance(answer, tuple):
                self.at_distortion[definition] = answer
                self._tell.shown()

        self._session.jobs.ask(
            f"clip {definition}", lambda _task: tuple(cell.at(definition) for cell in cells), take, long=True
        )

    def _say_how(self) -> None:
        if self._made_for is None or not self.onset:
            return
        _, build, asked = self._made_for
        until = (
            "the top of the sine just flattens: read so, a scope or a meter says 1 to 3 % more volts than at the onset"
            if self.definition == "onset"
            else f"a distortion meter says {SHORT[self.definition]}, and type true rms volts"
        )
        how = f"This build {from_source(build, asked)}. Raise the level until {until}."
        self.words = " ".join([how, *dict.fromkeys(self._cannot)])

    @property
    def cells(self) -> tuple[ClipCell, ...]:
        """The cells as clipping is defined now; while powers at a distortion are computed, without those."""
        if self.definition == "onset":
            return self.onset
        known = self.at_distortion.get(self.definition, ())
        if len(known) == len(self.onset):
            return known
        return tuple(dataclasses.replace(cell, definition=self.definition) for cell in self.onset)

    @property
    def cell(self) -> ClipCell | None:
        """The current cell."""
        return self.cells[self.row] if self.cells else None

    @property
    def request(self) -> Request | None:
        """The level of the current cell; None while there is none."""
        cell = self.cell
        if cell is None:
            return None
        kept = self.kept(cell)
        return clipping.request_for(cell, read_w=None if kept is None else kept.value)

    @property
    def draw_request(self) -> Request | None:
        """The draw of the supply in the current cell, for whoever can read it beside the level."""
        return None if self.cell is None else supply_draw.request_for(self.cell)

    @property
    def subject(self) -> str:
        """The current cell, as records have it."""
        return "" if self.cell is None else self.cell.subject

    @property
    def who_plays(self) -> tuple[str, ...]:
        """Who plays in the cells that there are: ``one``, ``all``."""
        return tuple(dict.fromkeys(cell.driven for cell in self.cells))

    # What is current

    def choose(self, place: int) -> None:
        """Go to a cell."""
        self.row = place
        if self.cells[place].driven != self.driven:
            self.driven = self.cells[place].driven
            self._tell.laid_out()
        self._tell.shown()

    def show_driven(self, driven: str) -> None:
        """Who plays: ``one`` or ``all``."""
        self.driven = driven
        here = [place for place, cell in enumerate(self.cells) if cell.driven == driven]
        if here and self.cell is not None and self.cell.driven != driven:
            self.row = next(iter(self._unread(here)), here[0])
        self._tell.laid_out()
        self._tell.shown()

    def show_definition(self, definition: Definition) -> None:
        """What is called clipping; the powers at a distortion are computed when they are first asked for."""
        self.definition = definition
        self._say_how()
        self._ask_distortion()
        self._tell.shown()

    def counts(self) -> tuple[int, int]:
        """(cells with a reading, cells)."""
        return sum(self.kept(cell) is not None for cell in self.cells), len(self.cells)

    def needed(self, channel: str) -> tuple[str, ...]:
        """The channels that must be up: every one where all play."""
        everyone = self.cell is not None and self.cell.driven == "all"
        return self._session.build.channels if everyone else (channel,)

    def current_load(self) -> tuple[Load, float] | None:
        """The load of the current cell, with the most that it may get there."""
        cell = self.cell
        if cell is None:
            return None
        kept = self.kept(cell)
        return cell.load, max(cell.power.high, 0.0 if kept is None else kept.value)

    def set_up(self) -> clipping.SetUp | None:
        """Generator and load for the current cell; None while there is none."""
        cell = self.cell
        if cell is None:
            return None
        kept = self.kept(cell)
        return clipping.set_up(cell, None if kept is None else kept.value)

    # What was read

    def kept(self, cell: ClipCell) -> Reading | None:
        """The level read in a cell that counts today."""
        return self._session.records.reading(cell.subject, cell.conditions)

    def kept_draw(self, cell: ClipCell) -> Reading | None:
        """The draw read in a cell that counts today."""
        return self._session.records.reading(supply_draw.subject(cell), cell.conditions)

    def at_other_definitions(self, place: int) -> str:
        """What was read in a cell's place at the other definitions of clipping, in words."""
        words = []
        for definition in DEFINITIONS:
            if definition != self.definition and place < len(self.onset):
                kept = self.kept(dataclasses.replace(self.onset[place], definition=definition))
                if kept is not None:
                    words.append(f"{SHORT[definition].lower()} {shown(kept.value, 'W')}")
        return ", ".join(words)

    def across_cells(self) -> tuple[str, Graph | None]:
        """What all cells of who plays say together: the resistance behind the output, and power over the source."""
        cell = self.cell
        if cell is None:
            return "", None
        cells = [each for each in self.cells if each.driven == self.driven]
        given = [(each, kept) for each in cells if (kept := self.kept(each)) is not None]
        here = [(each, kept) for each, kept in given if each.source == cell.source]
        behind = " ".join(behind_outputs(here)) if self.definition == "onset" else ""
        return behind, power_over_source(cells, given)

    def output_fit(self) -> OutputFit | None:
        """What fits all readings of this channel at the onset together; None where that cannot be told."""
        given = [(cell, kept) for cell in self.onset if (kept := self.kept(cell)) is not None]
        return output_fit(given)

    @property
    def fitted_module(self) -> Module | None:
        """The module with what fits all readings stated of it; None where nothing does, or it is stated already."""
        fit = self.output_fit()
        return None if fit is None else fitted_module(self._session.build.module, fit)

    def put_fit_in_plan(self) -> bool:
        """State of the module what fits all its readings: one step of undo. False where nothing fits."""
        fitted = self.fitted_module
        if fitted is None:
            return False
        self._session.plan.restate("module", fitted)
        return True

    # A level

    def said(self, text: str) -> Said:
        """What a level means in the current cell; of no text what was kept there."""
        cell = self.cell
        if cell is None:
            return Said(State.UNKNOWN, "")
        if not text.strip():
            return self._said_of_kept(cell)
        try:
            level = read_level(text.strip())
            meant = clip_level.understand(level, cell, self._session.kit)
        except QuantityError as error:
            return not_understood(error)
        if meant.taken is None:
            choices = tuple(f"{clip_level.how_taken(choice)}: {shown(choice.value, 'W')}" for choice in meant.choices)
            return Said(State.UNKNOWN, meant.sentence, "", choices)
        return self._said_of_level(cell, level, meant.taken, meant.sentence)

    def _said_of_kept(self, cell: ClipCell) -> Said:
        kept = self.kept(cell)
        if kept is not None:
            return Said(kept.state, f"Kept: {kept.typed}", sentence_of(kept))
        stale = self._session.records.book.why_not(cell.subject, cell.conditions)
        last = self._session.records.reading(cell.subject)
        before = f"{last.typed} was read before and does not count here: {stale}." if stale and last else ""
        return Said(
            State.UNKNOWN, "Type it as the scope or meter says it.",
            before or "26.4pp, 9.3 rms, 13.2pk: each is understood.",
        )  # fmt: skip

    def _said_of_level(self, cell: ClipCell, level: TypedLevel, taken: Meaning, how: str) -> Said:
        verdict = judge_clipping(cell, taken)
        beside = self._beside_earlier(cell, taken)
        bias = "" if beside is None else f"{unexplained_words(taken.value, beside.facts)} {beside.what_would}"
        further = " ".join(part for part in (verdict.sentence, how, bias) if part)
        return Said(verdict.state, clip_level.level_words(level, taken, cell), further)

    def _beside_earlier(self, cell: ClipCell, taken: Meaning) -> Unexplained | None:
        """Where a bias changed since the last reading of this cell does not explain what lies between."""
        earlier = self._session.records.reading(cell.subject)
        if earlier is None or taken.bound is not Bound.NONE:
            return None
        if self._biases is None:
            self._biases = self._session.records.readings_of(bias_subjects(self._session.build, cell.channel))
        return unexplained(cell, taken.value, taken.u, earlier, self._biases)

    def records_changed(self) -> None:
        """Something was kept: what the diary says of biases is asked anew."""
        self._biases = None

    def output_w(self, text: str = "") -> float | None:
        """Power of each driven channel in the current cell, by the level typed, else as read; None where unknown."""
        meant = self._meant(text)
        if meant is not None and meant.taken is not None:
            return _known_w(meant.taken)
        kept = None if self.cell is None else self.kept(self.cell)
        return None if kept is None or kept.bound.one_sided else kept.value

    def _meant(self, text: str) -> Understood | None:
        cell = self.cell
        if cell is None or not text.strip():
            return None
        try:
            return clip_level.understand(read_level(text.strip()), cell, self._session.kit)
        except QuantityError:
            return None

    def take(self, text: str, giving: Giving = TYPED, draw: str = "", draw_giving: Giving = TYPED) -> Taken:
        """Keep a level, with the draw of the supply where one is typed, and go to the next cell."""
        if self.blocked or self.cell is None:
            return Taken.HELD
        if not text.strip():
            if not draw.strip():
                return Taken.NOTHING
            if not self._keep_draw(draw, self.output_w(), draw_giving):
                return Taken.SECOND_NOT_UNDERSTOOD
            self._tell.written(False, True)
            return Taken.SECOND_KEPT
        meant = self._meant(text)
        if meant is None:
            return Taken.NOT_UNDERSTOOD
        if meant.taken is None:
            return Taken.ASKED
        return self._keep(self.cell, meant.taken, text, giving, draw, draw_giving)

    def answer(
        self,
        text: str,
        choice: int,
        giving: Giving = TYPED,
        draw: str = "",
        draw_giving: Giving = TYPED,
    ) -> Taken:
        """Keep a level as the choice of that place takes it."""
        if self.blocked or self.cell is None:
            return Taken.HELD
        meant = self._meant(text)
        if meant is None or choice >= len(meant.choices):
            return Taken.NOT_UNDERSTOOD
        return self._keep(self.cell, meant.choices[choice], text, giving, draw, draw_giving)

    def _keep(
        self,
        cell: ClipCell,
        taken: Meaning,
        text: str,
        giving: Giving,
        draw: str,
        draw_giving: Giving,
    ) -> Taken:
        output_w = _known_w(taken)
        if draw.strip() and self._draw_reading(cell, draw, output_w) is None:
            return Taken.SECOND_NOT_UNDERSTOOD
        beside = self._beside_earlier(cell, taken)
        facts = None if beside is None else beside.facts
        reading = reading_of(taken, text, self._session.now(), facts)
        if not self._session.records.keep(given_by(reading, giving)):
            return Taken.NOT_KEPT
        with_draw = bool(draw.strip()) and self._keep_draw(draw, output_w, draw_giving)
        self._tell.written(True, with_draw)
        if draw.strip() and not with_draw:
            return Taken.FIRST_KEPT
        self.choose(self._next_row())
        return Taken.KEPT

    def draw_said(self, draw: str, text: str = "") -> Said:
        """What a draw means beside the level typed, else beside the one kept; of none what was kept, or is expected."""
        cell = self.cell
        if cell is None:
            return Said(State.UNKNOWN, "")
        if not draw.strip():
            kept = self.kept_draw(cell)
            if kept is None:
                return Said(State.UNKNOWN, f"Expect {supply_draw.expectation(cell)}.")
            return Said(kept.state, f"Kept: {kept.typed}. {supply_draw.sentence_of(kept)}")
        output_w = self.output_w(text)
        try:
            meant = supply_draw.understand(draw, cell, output_w, self._session.kit)
        except QuantityError as error:
            return Said(State.UNKNOWN, sentence(error))
        assert meant.taken is not None, "a draw is never asked about"
        verdict = supply_draw.judge_draw(cell, meant.taken, output_w)
        said = f"{meant.sentence}." if meant.sentence else ""
        return Said(verdict.state, " ".join(part for part in (said, verdict.sentence, verdict.follows) if part))

    def _draw_reading(self, cell: ClipCell, draw: str, output_w: float | None) -> Reading | None:
        try:
            taken = supply_draw.understand(draw, cell, output_w, self._session.kit).taken
        except QuantityError:
            return None
        return None if taken is None else reading_of(taken, draw, self._session.now())

    def _keep_draw(self, draw: str, output_w: float | None, giving: Giving) -> bool:
        reading = None if self.cell is None else self._draw_reading(self.cell, draw, output_w)
        return reading is not None and self._session.records.keep(given_by(reading, giving))

    def _next_row(self) -> int:
        """The next cell without a reading: of this source and who plays first, then round all of them."""
        here = self.cells[self.row]

        def far(place: int) -> tuple[bool, bool, int]:
            cell = self.cells[place]
            return cell.source != here.source, cell.driven != here.driven, place

        return min(self._unread(range(len(self.cells))), key=far, default=self.row)

    def _unread(self, places: range | list[int]) -> list[int]:
        return [place for place in places if self.kept(self.cells[place]) is None]


def _known_w(taken: Meaning) -> float | None:
    """The power that a level tells, None where it is only a bound of it."""
    return None if taken.bound.one_sided else taken.value


def _cell(build: Build, channel: str, situation: Situation, who: Driven, load: Load) -> ClipCell | str:
    try:
        return clip_cell(build, channel, situation, who, load)
    except PhysicsError as error:
        return f"Nothing to expect into {load.r_ohm:g} Ω: {error}."
