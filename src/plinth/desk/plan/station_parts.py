"""What stands in the chosen station: each part can be changed, or exchanged along the shelf."""

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QSizePolicy, QWidget

from plinth.builds.build import Build
from plinth.builds.fields import in_sentence
from plinth.builds.short_words import short_words
from plinth.builds.stations import is_there, part_in, station
from plinth.desk.asking import ask
from plinth.desk.labels import button, clear, column, label, plain_tip
from plinth.desk.part_form import PartForm
from plinth.desk.session import BenchSession
from plinth.desk.value_dialog import ValueDialog
from plinth.shelf.additions import additions, leaving_words, may_leave
from plinth.shelf.influence import still_assumed
from plinth.shelf.slots import KINDS, WORDS, slots_of
from plinth.units.shown import shown

# Taken out together with the first of them.
INPUT_STAGES, INPUT_STAGES_DRAW = "supply.input_supply.transformer", "supply.input_supply.i_load_a"
_WITH_ANOTHER = frozenset(f"supply.input_supply.{part}" for part in ("rectifier", "reservoir", "regulator"))


class StationParts(QWidget):
    """The parts of the current station, each to be changed; ``shelf_asked``, ``slot_asked`` for those of the shelf."""

    shelf_asked = Signal()
    slot_asked = Signal(str)

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self.title = label("", "title")
        self._rows = column(spacing=2)
        self.change_buttons: dict[str, QPushButton] = {}
        self.put_buttons: dict[str, QPushButton] = {}
        self.out_buttons: dict[str, QPushButton] = {}
        self.shelf_button = button("Shelf", "row")
        self.shelf_button.clicked.connect(self.shelf_asked)
        self.examples, self.assumed = label("", "caution", wrap=True), label("", "soft", wrap=True)
        for placed_elsewhere in (self.shelf_button, self.examples):
            # Until then: shown without a parent it would be a window of its own.
            placed_elsewhere.setParent(self)
        box = column(self.title, spacing=4)
        box.addLayout(self._rows)
        box.addWidget(self.assumed)
        self.setLayout(box)
        session.station_chosen.connect(self.refresh)
        session.plan_changed.connect(self.refresh)
        session.predicted.connect(self._say_assumed)
        self._shown: tuple[object, ...] = ()
        self.refresh()

    def refresh(self) -> None:
        """Show the parts for the current station."""
        session = self._session
        count, every = (0, 0) if session.demo else session.plan.examples
        self.examples.setText(
            f"Begun with plain parts: {count} of {every} are not yours yet. Exchange them, or change what is stated of "
            "them."
        )
        self.examples.setVisible(count > 0)
        here = station(session.build, session.station)
        fitted = [part_in(session.build, slot) for slot in here.slots]
        small = session.build.supply.input_supply
        extras = session.build.small_parts if here.key == "module" else ()
        drawn = None if small is None else (small.i_load_a, small.i_load_assumed)
        content = (here.key, extras, fitted, vacant := additions(session.build, here.key), drawn)
        if content == self._shown:
            return
        self._shown = content
        clear(self._rows)
        self.change_buttons, self.put_buttons, self.out_buttons = {}, {}, {}
        self.title.setText(here.title)
        self.shelf_button.setToolTip(
            plain_tip(f"{here.title}: other parts, and what this build becomes with each (Ctrl+Shift+S)")
        )
        self.shelf_button.setVisible(bool(slots_of(session.build, here.key)))
        words = _fixed_words(here.key, session)
        if words:
            self._rows.addWidget(label(words, "soft", wrap=True))
        for slot in here.slots:
            if is_there(session.build, slot):
                self._show_part(slot)
            else:
                put = _row(f"Put in a {WORDS[slot]} …", "Choose one along the shelf")
                put.clicked.connect(lambda _checked=False, slot=slot: self.slot_asked.emit(slot))
                self.put_buttons[slot] = put
                self._rows.addWidget(put)
        if any(slot == INPUT_STAGES for slot in here.slots):
            self._show_input_stages()
        for extra in extras:
            self._rows.addWidget(label(extra.words, "soft", wrap=True))
        for slot, what in vacant:
            put = _row(f"Put in a {what} …", "A plain one, every number assumed: change it then")
            put.clicked.connect(lambda _checked=False, slot=slot, what=what: session.plan.put_in(slot, what))
            self.put_buttons[slot] = put
            self._rows.addWidget(put)

    def _show_part(self, slot: str) -> None:
        """What stands in a slot, and what may be done with it."""
        session, part = self._session, part_in(self._session.build, slot)
        words = short_words(part)
        change = _act("Change …", f"Change {words} …: type what is stated of it")
        change.clicked.connect(lambda: self.change(slot))
        self.change_buttons[slot] = change
        acts = [change]
        if slot in KINDS and slot not in ("load", "mains", "hookup"):
            other = _act("another fitted", f"Another {part.name} was fitted: readings of the one before do not count")
            other.clicked.connect(lambda: session.plan.fit_another(slot))
            acts.append(other)
        if may_leave(session.build, slot) and slot not in _WITH_ANOTHER:
            what = leaving_words(session.build, slot)
            out = _act("take out", f"Take out {what}: the build without it; undo brings it back")
            out.clicked.connect(lambda: session.plan.take_out(slot))
            self.out_buttons[slot] = out
            acts.append(out)
        self._rows.addWidget(label(words, wrap=True))
        self._rows.addWidget(_beside(*acts))

    def _show_input_stages(self) -> None:
        """What the input stages draw from each regulated rail, which no part of their supply says."""
        supply = self._session.build.supply.input_supply
        assert supply is not None, "one of its slots is there"
        change = _act("Change …", "Change what the input stages draw: type it with its unit")
        change.clicked.connect(self.ask_input_stages)
        self.change_buttons[INPUT_STAGES_DRAW] = change
        doubt = " (assumed)" if supply.i_load_assumed else ""
        words = f"Input stages draw {shown(supply.i_load_a, 'A')} from each rail{doubt}"
        self._rows.addWidget(label(words, wrap=True))
        self._rows.addWidget(_beside(change))

    def ask_input_stages(self) -> None:
        """Ask what the input stages draw."""
        supply = self._session.build.supply.input_supply
        if supply is None:
            return
        ask(
            ValueDialog(
                self.window(), "What the input stages draw", "From each regulated rail, at rest: 18 mA, say.",
                shown(supply.i_load_a, "A"), self._session.plan.take_input_stages,
            )
        )  # fmt: skip

    def _say_assumed(self) -> None:
        """What is still assumed, and what of it is worth knowing first; nothing of a moving slider."""
        prediction = self._session.predictions.prediction_kept
        assumed_values = still_assumed(self._session.plan_kept.build, prediction)
        guessed = sum(estimate.guessed for estimate in assumed_values)
        first = ", ".join(
            f"{in_sentence(estimate.words)} ({estimate.part})"
            for estimate in assumed_values[:3]
            if estimate.share > 0.0
        )
        self.assumed.setText(
            f"Still assumed: {guessed} values. Worth knowing first: {first}." if guessed and first else ""
        )
        self.assumed.setVisible(bool(self.assumed.text()))

    def ask_change(self, at: QPoint) -> None:
        """Change the part of this station; where there are several, ask which, there on the screen."""
        rows = list(self.change_buttons.values())
        if len(rows) == 1:
            rows[0].click()
        elif rows:
            menu = QMenu(self)
            for slot, push in self.change_buttons.items():
                menu.addAction(self._words_of(slot).replace("&", "&&"), push.click)
            menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
            menu.popup(at)

    def _words_of(self, slot: str) -> str:
        if slot == INPUT_STAGES_DRAW:
            return "What the input stages draw …"
        return f"Change {short_words(part_in(self._session.build, slot))} …"

    def ask_makeup(self) -> None:
        """Ask how this build is made."""
        from plinth.desk.plan.makeup_form import MakeupForm

        ask(MakeupForm(self.window(), self._session, self._session.plan.remake))

    def change(self, slot: str) -> None:
        """Ask for what is stated of the part in ``slot``."""
        form = PartForm(self.window(), part_in(self._session.build, slot))
        if ask(form):
            self._session.plan.restate(slot, form.part)


def _act(words: str, tip: str) -> QPushButton:
    """One of what may be done with a part, beside the others; heard with the part's name."""
    made = button(words, "flat", tip=tip)
    made.setAccessibleName(tip.partition(":")[0])
    return made


def _beside(*acts: QPushButton) -> QWidget:
    held = QWidget()
    line = QHBoxLayout(held)
    line.setContentsMargins(0, 0, 0, 4)
    line.setSpacing(2)
    for act in acts:
        line.addWidget(act)
    line.addStretch()
    return held


def _row(words: str, tip: str = "") -> QPushButton:
    """A row that gives way where the column is narrow, so that it does not push the values beside it out of sight."""
    made = button(words, "row", tip=f"{words}: {tip}" if tip else words)
    made.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
    return made


def _fixed_words(key: str, session: BenchSession) -> str:
    build = session.build
    match key:
        case "wall":
            if build.mains is None or not build.supply.from_the_wall:
                supply, volts = build.supply, session.situation.battery(build)
                holding = "bench supplies" if supply.set_by_hand else supply.words_at(volts)
                return f"Nothing comes from the wall: {holding} hold the rails."
            return (
                f"{build.mains.name}: {build.mains.v_nominal_rms:g} V, ±{100 * build.mains.tolerance:.0f} %, "
                f"{build.mains.frequency_hz:g} Hz. Move the mains slider to see a low or high day."
            )
        case "entry":
            return f"{build.entry.name}, fuse {build.entry.fuse_kind} {build.entry.fuse_a_rms:g} A."
        case "rails":
            made = [part_in(build, slot).name for key in ("transformer", "reservoir") for slot in _slots(build, key)]
            extra = ""
            if build.supply.transformer is not None and build.supply.input_supply is not None:
                count = len(build.channels) if build.one_supply_per_channel else 1
                extra = (
                    f" {'Each channel has' if count > 1 else 'The modules have'} a regulated input supply of its own."
                )
            return f"What {', '.join(made)} make. Choose the stations before to exchange a part.{extra}"
        case "protection":
            trip = build.protection.dc_threshold_v
            known = "DC threshold not stated" if trip is None else f"trips above {trip:g} V of DC"
            return f"{build.protection.name}: mutes for {build.protection.mute_s:g} s, {known}."
        case _:
            return ""


def _slots(build: Build, key: str) -> tuple[str, ...]:
    return station(build, key).slots
