"""The shelf: parts that could stand in the chosen station; one press exchanges them."""

from PySide6.QtWidgets import QButtonGroup, QPushButton, QSizePolicy, QWidget

from plinth.builds.build import Build
from plinth.builds.modules import ClassABModule, ClassAModule, ClassDModule
from plinth.builds.parts import Load, Part
from plinth.builds.short_words import short_words
from plinth.builds.stations import part_in, station
from plinth.builds.supply_parts import (
    Battery,
    BatteryConverter,
    BenchPair,
    MainsSwitcher,
    Reservoir,
    Transformer,
)
from plinth.desk.asking import ask
from plinth.desk.labels import button, clear, column, label
from plinth.desk.plan.part_form import PartForm
from plinth.desk.session import BenchSession

_FROM_THE_WALL: tuple[type[Part], ...] = (Transformer, MainsSwitcher, BenchPair)
_MODULES: tuple[type[Part], ...] = (ClassABModule, ClassAModule, ClassDModule)

# What may be exchanged in a slot. A switcher or bench supplies in the transformer's place change the kind of supply.
KINDS: dict[str, tuple[type[Part], ...]] = {
    "supply.transformer": _FROM_THE_WALL,
    "supply.switcher": _FROM_THE_WALL,
    "supply.source": _FROM_THE_WALL,
    "supply.battery": (Battery,),
    "supply.converter": (BatteryConverter,),
    "supply.reservoir": (Reservoir,),
    "module": _MODULES,
    "load": (Load,),
}


class Shelf(QWidget):
    """Rows of parts for the station in hand, the one fitted pressed in; below, every part there can be changed."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self.title = label("", "title")
        self._rows = column(spacing=2)
        self._group = QButtonGroup(self)
        self.change_buttons: dict[str, QPushButton] = {}
        self.invented = label("", "caution", wrap=True)
        self.makeup_button = button(
            "How this build is made …", "row", tip="Name, channels, wiring, supply (Ctrl+Shift+M)"
        )
        self.makeup_button.clicked.connect(self.ask_makeup)
        box = column(self.invented, self.makeup_button, self.title, spacing=4)
        box.addLayout(self._rows)
        self.setLayout(box)
        session.station_chosen.connect(self.refresh)
        session.plan_changed.connect(self.refresh)
        self._shown: tuple[object, ...] = ()
        self.refresh()

    def refresh(self) -> None:
        """Show the parts for the station in hand."""
        session = self._session
        count, every = session.invented
        self.invented.setText(
            f"An invented example until every part is yours: {count} of {every} are still invented. Exchange them, or "
            "change what is stated of them."
        )
        self.invented.setVisible(count > 0 and not session.demo)
        here = station(session.build, session.station)
        swapped = next((slot for slot in here.slots if slot in KINDS), None)
        parts = _fitting(session, KINDS[swapped]) if swapped else []
        fitted = [part_in(session.build, slot) for slot in here.slots]
        if (here.key, fitted, parts) == self._shown:
            return
        self._shown = (here.key, fitted, parts)
        had_focus = any(b.hasFocus() for b in self._group.buttons())
        clear(self._rows)
        self._group, self.change_buttons = QButtonGroup(self), {}
        self.title.setText(f"{here.title}: on the shelf" if swapped else here.title)
        if swapped:
            self._add_rows(swapped, parts, part_in(session.build, swapped), had_focus)
            self._offer_to_keep(parts, part_in(session.build, swapped))
        else:
            self._rows.addWidget(label(_fixed_words(here.key, session), "soft", wrap=True))
        for slot in here.slots:
            part = part_in(session.build, slot)
            one = _row(f"Change {part.name} …", "Type what is stated of it")
            one.clicked.connect(lambda _checked=False, slot=slot: self.change(slot))
            self.change_buttons[slot] = one
            self._rows.addWidget(one)
            if slot in KINDS and slot != "load":
                other = _row(f"Another {part.name} was fitted", "Readings of the one before do not count for it")
                other.clicked.connect(lambda _checked=False, slot=slot: self._session.fit_another(slot))
                self._rows.addWidget(other)

    def _add_rows(self, slot: str, parts: list[Part], fitted: Part, had_focus: bool) -> None:
        for part in parts if fitted in parts else [fitted, *parts]:
            row = _row(short_words(part))
            row.setCheckable(True)
            row.setChecked(part == fitted)
            row.clicked.connect(lambda _checked=False, part=part: self._session.swap(slot, part))
            self._group.addButton(row)
            self._rows.addWidget(row)
            if had_focus and part == fitted:
                row.setFocus()

    def _offer_to_keep(self, parts: list[Part], fitted: Part) -> None:
        if fitted not in parts:
            one = _row(f"Put {fitted.name} on the shelf as it is now")
            one.clicked.connect(lambda: self._session.put_on_shelf(fitted))
            self._rows.addWidget(one)

    def ask_makeup(self) -> None:
        """Ask how this build is made."""
        from plinth.desk.plan.makeup_form import MakeupForm

        ask(MakeupForm(self.window(), self._session, self._session.remake))

    def change(self, slot: str) -> None:
        """Ask for what is stated of the part in ``slot``."""
        form = PartForm(self.window(), part_in(self._session.build, slot))
        if ask(form):
            self._session.restate(slot, form.part)

    @property
    def rows(self) -> list[QWidget]:
        """The rows shown."""
        return list(self._group.buttons())


def _row(words: str, tip: str = "") -> QPushButton:
    """A row that gives way where the column is narrow, so that it does not push the values beside it out of sight."""
    made = button(words, "row", tip=f"{words}: {tip}" if tip else words)
    made.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
    return made


def _fitting(session: BenchSession, kinds: tuple[type[Part], ...]) -> list[Part]:
    """The parts on the shelf that can go with the rest of this build: a full bridge wants a single rail."""
    single = session.build.supply.single_rail
    found = [part for kind in kinds for part in session.shelf(kind)]
    return [part for part in found if _goes_with(part, session.build, single=single)]


def _goes_with(part: Part, build: Build, *, single: bool) -> bool:
    match part:
        case ClassDModule():
            return (part.bridge == "full") == single
        case ClassABModule():
            return not single or build.wiring == "bridged"
        case ClassAModule():
            return not single and build.wiring == "single"
        case MainsSwitcher() | BenchPair():
            return (part.rails == "single") == single
        case Transformer():
            return (part.secondaries == "one") == single and build.mains is not None
        case _:
            return True


def _fixed_words(key: str, session: BenchSession) -> str:
    build = session.build
    match key:
        case "wall":
            if build.mains is None or build.supply.kind == "direct":
                return "Nothing comes from the wall: bench supplies hold the rails."
            return (
                f"{build.mains.name}: {build.mains.v_nominal_rms:g} V, ±{100 * build.mains.tolerance:.0f} %, "
                f"{build.mains.frequency_hz:g} Hz. Move the mains slider to see a low or high day."
            )
        case "entry":
            return f"{build.entry.name}, fuse {build.entry.fuse_kind} {build.entry.fuse_a_rms:g} A."
        case "rails":
            made = [part_in(build, slot).name for key in ("transformer", "reservoir") for slot in _slots(build, key)]
            extra = ""
            if build.supply.kind == "linear" and build.supply.input_supply is not None:
                count = len(build.channels) if build.one_supply_per_channel else 1
                extra = (
                    f" {'Each channel has' if count > 1 else 'The modules have'} a regulated input supply of its own."
                )
            return f"What {', '.join(made)} make. Choose the stations before to exchange a part.{extra}"
        case _:
            trip = build.protection.dc_threshold_v
            known = "DC threshold not stated" if trip is None else f"trips above {trip:g} V of DC"
            return f"{build.protection.name}: mutes for {build.protection.mute_s:g} s, {known}."


def _slots(build: Build, key: str) -> tuple[str, ...]:
    return station(build, key).slots
