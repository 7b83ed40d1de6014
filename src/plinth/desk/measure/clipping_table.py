"""The clipping test: a table of cells, one reading typed at a time, a question where it could mean two things."""

import dataclasses
import math
from functools import partial

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from plinth.bench import clipping, supply_draw
from plinth.bench.across_cells import behind_outputs, power_over_source
from plinth.bench.bias_change import Unexplained, bias_subjects, unexplained
from plinth.bench.clip_verdict import unexplained_words
from plinth.bench.clipping import (
    DEFINITIONS,
    ClipCell,
    Definition,
    Driven,
    Interpretation,
    Understood,
    clip_cell,
    clip_places,
    further_cells,
    judge_clipping,
    reading_for_cell,
    sentence_of,
    understand,
)
from plinth.bench.hookup import hookup
from plinth.bench.signal_level import scope_words
from plinth.bench.under import from_source, load_warning
from plinth.builds.build import Build
from plinth.builds.parts import Load
from plinth.builds.situation import Situation
from plinth.desk.channels import ChannelInHand
from plinth.desk.choice_row import ChoiceRow
from plinth.desk.labels import button, column, label, put_away
from plinth.desk.look import look
from plinth.desk.marks import StateMark
from plinth.desk.measure.cell_view import CellView
from plinth.desk.measure.clip_matrix import ClipMatrix
from plinth.desk.measure.draw_field import DrawField
from plinth.desk.measure.test_page import SetUpShown, TestPage
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.desk.unkept import UnkeptText
from plinth.judge.claims import power_claim
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.record.clock import now
from plinth.record.conditions import Conditions
from plinth.record.reading import Reading
from plinth.session.runner import words_of
from plinth.units.bounds import Bound
from plinth.units.errors import QuantityError
from plinth.units.level import read_level
from plinth.units.shown import shown, shown_with_spread

# Whose cells are made: the channel, the build, the source.
Wanted = tuple[str, Build, Situation]
ALL = "All channels"
SHORT: dict[Definition, str] = {"onset": "Onset", "thd_1": "1 %", "thd_10": "10 %"}
_NAMED: dict[str, Definition] = {words: definition for definition, words in SHORT.items()}


class ClipTest(TestPage):
    """Cells of channels and loads, one in hand."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self._in_hand = ChannelInHand(session)
        self._onset: tuple[ClipCell, ...] = ()
        # Why there is no cell for a load into which it cannot run.
        self._cannot: list[str] = []
        self._made_for: Wanted | None = None
        self._row = 0
        # Asked of the diary when a level is typed, not at every record that is kept.
        self._biases: list[Reading] | None = None
        self.blocked, self._keeping = "", False
        self.title = label("Clipping power, 1 kHz", "title")
        self.state = label("", "soft", wrap=True)
        self.definition: Definition = "onset"
        self.driven = "one"
        # Cells at a distortion, by its name, in the places of those at onset.
        self._at: dict[Definition, tuple[ClipCell, ...]] = {}
        self.who = ChoiceRow("", "Channels that play")
        self.who.chosen.connect(lambda words: self.show_driven("all" if words == ALL else "one"))
        self.what = ChoiceRow("", "What is called clipping")
        self.what.chosen.connect(lambda words: self.show_definition(_NAMED[words]))
        head = QHBoxLayout()
        head.addWidget(self.title)
        head.addStretch()
        head.addWidget(self.who)
        head.addWidget(self.what)
        self.matrix = ClipMatrix()
        self.matrix.chosen.connect(self.choose)
        self.behind = label("", "soft", wrap=True)
        self.plot = Plot("Clip power over the source", "rail without load", "V")
        self.plot.aside.setText("W over V")
        self.plot.setMinimumHeight(look.px(170))
        self.prompt = label("", "ask", wrap=True)
        self.field = QLineEdit()
        self.field.setProperty("role", "reading")
        self.field.setPlaceholderText("26.4pp")
        self.field.setAccessibleName("Clipping reading")
        self.field.textChanged.connect(self._understand)
        self.field.returnPressed.connect(self.keep)
        self.mark, self.understood = StateMark(), label("", "name", wrap=True)
        self.against = label("", "soft", wrap=True)
        self._choices = QHBoxLayout()
        self._choice_buttons: list[QWidget] = []
        self.keep_button = button("Keep, next cell  ⏎", "main")
        self.keep_button.clicked.connect(self.keep)
        beside_top = QHBoxLayout()
        beside_top.addWidget(self.mark)
        beside_top.addWidget(self.understood, 1)
        beside = column(spacing=2)
        beside.addLayout(beside_top)
        beside.addWidget(self.against)
        beside.addLayout(self._choices)
        beside.addStretch()
        self.draw = DrawField()
        self.draw.entered.connect(self.keep)
        self._unkept = UnkeptText(self.field, self.draw.field)
        below_field = column(self.field, self.keep_button, spacing=8)
        below_field.addStretch()
        row = QHBoxLayout()
        row.setSpacing(16)
        row.addLayout(below_field)
        row.addLayout(beside, 1)
        box = column(spacing=8)
        box.addLayout(head)
        box.addWidget(self.prompt)
        box.addLayout(row)
        box.addWidget(self.draw)
        box.addWidget(self.state)
        box.addWidget(self.matrix)
        box.addWidget(self.behind)
        box.addWidget(self.plot)
        box.addStretch()
        self.setLayout(box)
        # Only once it has its place: shown before, it would be a window of its own.
        self.what.set_choices(tuple(_NAMED), SHORT["onset"])
        self._interpretation: Interpretation | None = None
        session.records_changed.connect(self._if_shown)
        look.follow(self._fit)
        self._fit()

    def _fit(self) -> None:
        self.field.setFixedWidth(look.column(220))

    # Cells

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show_cells()

    def _if_shown(self) -> None:
        # Of what it keeps itself it is shown once, when the next cell is in hand.
        if self.isVisible() and not self._keeping:
            self._show_cells()

    def show_channel(self, channel: str) -> None:
        """Compute the cells of a channel, off this thread, where they are not known yet."""
        session, build = self._session, self._session.build
        now = session.situation
        asked = Situation(mains_v_rms=now.mains_v_rms, mains_hz=now.mains_hz, battery_v=now.battery_v)
        self._in_hand.take(channel)
        if self._made_for == (channel, build, asked):
            self._show_cells()
            return
        self._made_for = (channel, build, asked)
        self.state.setText("Computing what to expect …")
        self._onset, self._at, self._cannot = (), {}, []
        self.matrix.empty()
        self._ask_cell(self._made_for, 0)

    def _ask_cell(self, wanted: Wanted, place: int) -> None:
        """One cell after the other, each shown as it comes; those from other sources follow."""
        channel, build, asked = wanted
        places = clip_places(build)
        if place == len(places):
            self._own_source_done(wanted)
            return
        who, load = places[place]
        self._session.jobs.ask(
            "clip", lambda _task: _cell(build, channel, asked, who, load),
            lambda found: self._solved(wanted, place, found), lambda error: self._failed(wanted, error),
        )  # fmt: skip

    def _ask_further(self, wanted: Wanted) -> None:
        """The cells from other sources follow when the first stand."""
        first, (_, build, asked) = self._onset, wanted

        def add(found: object) -> None:
            if wanted == self._made_for and isinstance(found, tuple) and found:
                self._onset = (*first, *found)
                self._lay_out()
                self._ask_distortion()
                self._show_cells()

        self._session.jobs.ask("clip further", lambda _task: further_cells(first, build, asked), add)

    def show_driven(self, driven: str) -> None:
        """Who plays: ``one`` or ``all``."""
        self.driven = driven
        here = [k for k, cell in enumerate(self._cells) if cell.driven == driven]
        if here and self.cell is not None and self.cell.driven != driven:
            self._row = next((k for k in here if self._session.reading(*_held(self._cells[k])) is None), here[0])
        self._lay_out()
        self._show_cells()
        self.field.setFocus()

    def show_definition(self, definition: Definition) -> None:
        """What is called clipping; the powers at a distortion are computed when they are first asked for."""
        self.definition = definition
        self.what.set_choices(tuple(_NAMED), SHORT[definition])
        self._say_how()
        self._ask_distortion()
        self._show_cells()
        self.field.setFocus()

    def _ask_distortion(self) -> None:
        """The powers at the distortion in hand, where they are not known of all cells yet."""
        definition, cells, wanted = self.definition, self._onset, self._made_for
        if definition == "onset" or not cells or len(self._at.get(definition, ())) == len(cells):
            return

        def take(found: object) -> None:
            if wanted == self._made_for and isinstance(found, tuple):
                self._at[definition] = found
                self._show_cells()

        self._session.jobs.ask(f"clip {definition}", lambda _task: tuple(cell.at(definition) for cell in cells), take)

    def _say_how(self) -> None:
        if self._made_for is None or not self._onset:
            return
        _, build, asked = self._made_for
        until = (
            "the top of the sine just flattens: read so, a scope or a meter says 1 to 3 % more volts than at the onset"
            if self.definition == "onset"
            else f"a distortion meter says {SHORT[self.definition]}, and type true rms volts"
        )
        how = f"This build {from_source(build, asked)}. Raise the level until {until}."
        self.state.setText(" ".join([how, *dict.fromkeys(self._cannot)]))

    @property
    def _cells(self) -> tuple[ClipCell, ...]:
        """The cells as clipping is defined now; while powers at a distortion are computed, without those."""
        if self.definition == "onset":
            return self._onset
        known = self._at.get(self.definition, ())
        if len(known) == len(self._onset):
            return known
        return tuple(dataclasses.replace(cell, definition=self.definition) for cell in self._onset)

    @property
    def _views(self) -> list[CellView]:
        return self.matrix.views

    def _failed(self, wanted: Wanted, error: Exception) -> None:
        if wanted == self._made_for:
            self.state.setText(words_of(error))
            self._show_cells()
        self._session.jobs.failed.emit("clip", error)

    def _solved(self, wanted: Wanted, place: int, found: object) -> None:
        if wanted != self._made_for:
            return
        if isinstance(found, ClipCell):
            self._onset = (*self._onset, found)
            self._row = min(self._row, len(self._onset) - 1)
            self._lay_out()
            self._show_cells()
        else:
            self._cannot.append(str(found))
        self._ask_cell(wanted, place + 1)

    def _own_source_done(self, wanted: Wanted) -> None:
        """The first cell without a reading is taken in hand; then come the other sources."""
        if not self._onset:
            self.state.setText(self._cannot[0] if self._cannot else "Nothing to expect.")
            self._show_cells()
            return
        self._say_how()
        cells = self._cells
        if not self.field.text().strip():
            # Whoever types already stays where the typing began.
            self._row = next((k for k, cell in enumerate(cells) if self._session.reading(*_held(cell)) is None), 0)
        self.driven = cells[self._row].driven
        self._lay_out()
        self._ask_distortion()
        self._show_cells()
        self._ask_further(wanted)

    def _lay_out(self) -> None:
        alone = f"{self._in_hand.name.capitalize()} alone"
        there = dict.fromkeys(cell.driven for cell in self._cells)
        choices = tuple(alone if one == "one" else ALL for one in there)
        self.who.set_choices(choices, alone if self.driven == "one" else ALL)
        self.matrix.lay_out(self._cells, self.driven)

    def _show_cells(self) -> None:
        cells = self._cells
        if not cells:
            self.behind.hide()
            self.plot.hide()
            self.changed.emit()
            return
        claims = [claim.power_w for claim in self._session.build.module.claims]
        most = max([cell.power.high for cell in cells] + claims)
        for index, (view, cell) in enumerate(zip(self._views, cells, strict=True)):
            read = self._session.reading(*_held(cell))
            draw = self._session.reading(supply_draw.subject(cell), cell.conditions)
            view.show_cell(cell, read, draw, most, self._further_words(index))
            view.setChecked(index == self._row)
        cell = cells[self._row]
        self.prompt.setText(f"Reading for {cell.label}")
        self._unkept.at((self._session.stored.id, cell.subject))
        self._show_over_cells()
        self._biases = None
        kept = self._session.reading(supply_draw.subject(cell), cell.conditions)
        self.draw.show_cell(cell, self._output_w(), self._session.kit, kept)
        self._understand()
        self.changed.emit()

    def _further_words(self, place: int) -> str:
        """What was read in a cell's place at the other definitions of clipping."""
        found = []
        for definition in DEFINITIONS:
            if definition != self.definition and place < len(self._onset):
                other = dataclasses.replace(self._onset[place], definition=definition)
                read = self._session.reading(*_held(other))
                if read is not None:
                    found.append(f"{SHORT[definition].lower()} {shown(read.value, 'W')}")
        return ", ".join(found)

    def _show_over_cells(self) -> None:
        """What all cells together say: the resistance behind the output, and power over the source."""
        cells = [cell for cell in self._cells if cell.driven == self.driven]
        read = {cell.subject + cell.source: self._session.reading(*_held(cell)) for cell in cells}
        given = [(cell, one) for cell in cells if (one := read[cell.subject + cell.source]) is not None]
        in_hand = self._cells[self._row].source
        here = [(cell, one) for cell, one in given if cell.source == in_hand]
        self.behind.setText(" ".join(behind_outputs(here)) if self.definition == "onset" else "")
        self.behind.setVisible(bool(self.behind.text()))
        curves = power_over_source(cells, given)
        self.plot.setVisible(curves is not None)
        if curves is not None:
            self.plot.set_series(curves.curves)
            self.plot.set_view(*curves.extent())

    @property
    def cell(self) -> ClipCell | None:
        """The cell in hand."""
        return self._cells[self._row] if self._cells else None

    @property
    def subject(self) -> str:
        """The cell in hand, as records have it."""
        return "" if self.cell is None else self.cell.subject

    def choose(self, index: int) -> None:
        """Take a cell in hand."""
        self._row = index
        if self._cells[index].driven != self.driven:
            self.driven = self._cells[index].driven
            self._lay_out()
        self._show_cells()
        self.field.setFocus()

    def counts(self) -> tuple[int, int]:
        """(cells with a reading, cells)."""
        return sum(self._session.reading(cell.subject, cell.conditions) is not None for cell in self._cells), len(
            self._cells
        )

    def load_in_hand(self) -> tuple[Load, float] | None:
        """The load of the cell in hand, with the most that it may get there."""
        cell = self.cell
        if cell is None:
            return None
        read = self._session.reading(*_held(cell))
        return cell.load, max(cell.power.high, 0.0 if read is None else read.value)

    def needed(self, channel: str) -> tuple[str, ...]:
        """Every channel where all play."""
        cell = self.cell
        return self._session.build.channels if cell is not None and cell.driven == "all" else (channel,)

    def set_up(self, channel: str) -> SetUpShown | None:
        """Generator, load and listing for the cell in hand; None while its prediction is computed."""
        cell = self.cell
        if cell is None:
            return None
        read = self._session.reading(cell.subject, cell.conditions)
        given = clipping.set_up(cell, None if read is None else read.value)
        claim = clipping.claim_of(cell)
        who = f"{channel} in" if cell.driven == "one" else "every input"
        at = f"{math.floor(given.start_v_rms * 1000):d} mV"
        return SetUpShown(
            (
                (
                    "Generator at onset",
                    f"{shown_with_spread(given.drive_v_rms.value, given.drive_v_rms.spread, 'V')} rms",
                ),
                ("Start at", f"{shown(given.start_v_rms, 'V')} rms"),
                ("Not above", f"{shown(given.most_v_rms, 'V')} rms"),
            ),
            f"{load_warning(cell.prediction.build)}{cell.load.name}, {cell.load.r_ohm:g} Ω. {given.rating}",
            f"Generator, 1 kHz, to {who}, beginning at {at}. {scope_words(self._session.build, channel)} "
            f"{cell.load.r_ohm:g} Ω across it.",
            "It names no power for this load."
            if claim is None
            else power_claim(claim, cell.power, cell.prediction["clip_v_peak"]).sentence,
            sketch=hookup("clip", cell.prediction.build, channel),
        )

    def block(self, why: str) -> None:
        """Hold readings back and say why; empty lets them through."""
        self.blocked = why
        for one in (self.field, self.keep_button, self.draw):
            one.setEnabled(not why)

    # The reading

    def _understand(self) -> None:
        self._ask(())
        self._interpretation = None
        # Of a level that is not typed any more no efficiency may stand.
        self.draw.with_output(self._output_w())
        text, cell = self.field.text().strip(), self.cell
        if cell is None:
            return
        if not text:
            kept = self._session.reading(cell.subject, cell.conditions)
            self.mark.set_state(kept.state if kept else State.UNKNOWN)
            self.understood.setText(f"Kept: {kept.typed}" if kept else "Type it as the scope or meter says it.")
            stale = self._session.records.why_not(cell.subject, cell.conditions)
            last = self._session.reading(cell.subject)
            if kept:
                self.against.setText(sentence_of(kept))
            elif stale and last is not None:
                self.against.setText(f"{last.typed} was read before and does not count here: {stale}.")
            else:
                self.against.setText("26.4pp, 9.3 rms, 13.2pk: each is understood.")
            return
        try:
            self._interpretation = understand(read_level(text), cell, self._session.kit)
        except QuantityError as error:
            self.mark.set_state(State.UNKNOWN)
            self.understood.setText("Not understood")
            self.against.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        taken = self._interpretation.taken
        if taken is not None:
            self.draw.with_output(_known_w(taken))
        if taken is None:
            self.mark.set_state(State.UNKNOWN)
            self.understood.setText(self._interpretation.sentence)
            self.against.setText("")
            self._ask(self._interpretation.choices)
            return
        self._show_taken(cell, taken, self._interpretation.sentence)

    def _show_taken(self, cell: ClipCell, taken: Understood, more: str) -> None:
        assert self._interpretation is not None
        volts = shown(self._interpretation.typed.volts, "V")
        verdict = judge_clipping(cell, taken.power_w, taken.u_power_w, taken.bound, taken.form)
        self.mark.set_state(verdict.state)
        self.understood.setText(f"{taken.bound.sign}{volts} {taken.form.words} = {taken.words}")
        beside = self._beside_earlier(cell, taken)
        told = "" if beside is None else f"{unexplained_words(taken.power_w, beside.facts)} {beside.what_would}"
        self.against.setText(" ".join(part for part in (verdict.sentence, more, told) if part))

    def _beside_earlier(self, cell: ClipCell, taken: Understood) -> Unexplained | None:
        """Where a bias changed since the last reading of this cell does not explain what lies between."""
        earlier = self._session.reading(cell.subject)
        if earlier is None or taken.bound is not Bound.NONE:
            return None
        if self._biases is None:
            self._biases = self._session.readings_of(bias_subjects(self._session.build, cell.channel))
        return unexplained(cell, taken.power_w, taken.u_power_w, earlier, self._biases)

    def _output_w(self) -> float | None:
        """Power read in the cell in hand, of each driven channel."""
        cell = self.cell
        kept = None if cell is None else self._session.reading(cell.subject, cell.conditions)
        return None if kept is None or kept.bound.one_sided else kept.value

    def _ask(self, choices: tuple[Understood, ...]) -> None:
        for one in self._choice_buttons:
            self._choices.removeWidget(one)
            put_away(one)
        self._choice_buttons = []
        for index, choice in enumerate(choices):
            words = choice.slip or choice.form.words
            one = button(f"{index + 1}  {words}: {shown(choice.power_w, 'W')}")
            one.setShortcut(f"Alt+{index + 1}")
            one.clicked.connect(partial(self.answer, choice))
            self._choices.addWidget(one)
            self._choice_buttons.append(one)

    @property
    def choices(self) -> list[QWidget]:
        """The buttons of the question, empty while nothing is asked."""
        return list(self._choice_buttons)

    def answer(self, choice: Understood, _checked: bool = False) -> None:
        """Answer the question and keep the reading."""
        self._keep(choice)

    def keep(self) -> None:
        """Keep what is typed, if it is understood; else the question stays."""
        if self._interpretation is None and not self.field.text().strip() and not self.blocked:
            self._keep_draw(self._output_w())
        if self._interpretation is None or self.blocked:
            return
        if self._interpretation.taken is None:
            if self._choice_buttons:
                self._choice_buttons[0].setFocus()
            return
        self._keep(self._interpretation.taken)

    def _keep(self, taken: Understood) -> None:
        cell = self.cell
        if cell is None or self.blocked:
            return
        beside = self._beside_earlier(cell, taken)
        facts = None if beside is None else beside.facts
        reading = reading_for_cell(cell, taken, self.field.text(), self._session.kit, now(), facts)
        output_w = _known_w(taken)
        if not self.draw.empty and self.draw.reading(output_w) is None:
            self.draw.with_output(output_w)
            # Not understood, and it says why: neither is kept in part.
            self.draw.field.setFocus()
            return
        self._keeping = True
        kept = self._session.keep(reading)
        self._keeping = False
        if kept:
            self.field.clear()
            if not self._keep_draw(output_w):
                # It stays typed in the cell that it belongs to, and what stands against it has been said.
                self.draw.field.setFocus()
                return
            self._row = self._next_row()
            self.choose(self._row)

    def _next_row(self) -> int:
        """The next cell without a reading: of this source and who plays first, then round all of them."""
        here = self._cells[self._row]

        def far(place: int) -> tuple[bool, bool, int]:
            one = self._cells[place]
            return one.source != here.source, one.driven != here.driven, place

        empty = [k for k, one in enumerate(self._cells) if self._session.reading(*_held(one)) is None]
        return min(empty, key=far, default=self._row)

    def _keep_draw(self, output_w: float | None) -> bool:
        """Keep the draw of the cell in hand, where one is typed; False where it is not understood, or not kept."""
        if self.draw.empty:
            return True
        draw = self.draw.reading(output_w)
        if draw is None or not self._session.keep(draw):
            return False
        self.draw.field.clear()
        return True


def _held(cell: ClipCell) -> tuple[str, Conditions]:
    """What a cell's readings are of, and under which conditions they count."""
    return cell.subject, cell.conditions


def _known_w(taken: Understood) -> float | None:
    """The power that a level tells, None where it is only a bound of it."""
    return None if taken.bound.one_sided else taken.power_w


def _cell(build: Build, channel: str, situation: Situation, who: Driven, load: Load) -> ClipCell | str:
    try:
        return clip_cell(build, channel, situation, who, load)
    except PhysicsError as error:
        return f"Nothing to expect into {load.r_ohm:g} Ω: {error}."
