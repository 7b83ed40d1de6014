"""The shelf: parts that could stand in the chosen station; one press exchanges them."""

from PySide6.QtWidgets import QButtonGroup, QPushButton, QWidget

from plinth.builds.parts import ClassABModule, Load, Part, Reservoir, Transformer
from plinth.builds.stations import part_in, station
from plinth.desk.labels import button, clear, column, label
from plinth.desk.plan.part_form import PartForm
from plinth.desk.session import BenchSession
from plinth.units.shown import shown

KINDS: dict[str, type[Part]] = {
    "supply.transformer": Transformer,
    "supply.reservoir": Reservoir,
    "module": ClassABModule,
    "load": Load,
}


def part_words(part: Part) -> str:
    """What tells a part from its neighbours, in one short line."""
    match part:
        case Transformer():
            half = f"{part.v_secondary_rms:g}"
            wound = f"{half}-0-{half}" if part.secondaries == "centre_tap" else f"2 × {half} V"
            return f"{part.name}, {wound}, {part.va:g} VA"
        case Reservoir():
            return f"{part.name}, {shown(part.c_f, 'F', 2)}, {part.v_rated:g} V"
        case ClassABModule():
            return f"{part.name}, up to ±{part.v_rail_max:g} V, {part.i_limit_a:g} A"
        case Load():
            rated = "" if part.p_rated_w is None else f", {part.p_rated_w:g} W"
            return f"{part.name}, {part.r_ohm:g} Ω{rated}"
        case _:
            return part.name


class Shelf(QWidget):
    """Rows of parts for the station in hand, the one fitted pressed in; below, every part there can be changed."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self.title = label("", "title")
        self._rows = column(spacing=2)
        self._group = QButtonGroup(self)
        self.change_buttons: dict[str, QPushButton] = {}
        box = column(self.title, spacing=4)
        box.addLayout(self._rows)
        self.setLayout(box)
        session.station_chosen.connect(self.refresh)
        session.plan_changed.connect(self.refresh)
        self._shown: tuple[object, ...] = ()
        self.refresh()

    def refresh(self) -> None:
        """Show the parts for the station in hand."""
        session = self._session
        here = station(session.station)
        swapped = next((slot for slot in here.slots if slot in KINDS), None)
        parts = session.shelf(KINDS[swapped]) if swapped else []
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
            one = button(f"Change {part.name} …", "row", tip="Type what is stated of it")
            one.clicked.connect(lambda _checked=False, slot=slot: self.change(slot))
            self.change_buttons[slot] = one
            self._rows.addWidget(one)

    def _add_rows(self, slot: str, parts: list[Part], fitted: Part, had_focus: bool) -> None:
        for part in parts if fitted in parts else [fitted, *parts]:
            row = button(part_words(part), "row")
            row.setCheckable(True)
            row.setChecked(part == fitted)
            row.clicked.connect(lambda _checked=False, part=part: self._session.swap(slot, part))
            self._group.addButton(row)
            self._rows.addWidget(row)
            if had_focus and part == fitted:
                row.setFocus()

    def _offer_to_keep(self, parts: list[Part], fitted: Part) -> None:
        if fitted not in parts:
            one = button(f"Put {fitted.name} on the shelf as it is now", "row")
            one.clicked.connect(lambda: self._session.put_on_shelf(fitted))
            self._rows.addWidget(one)

    def change(self, slot: str) -> None:
        """Ask for what is stated of the part in ``slot``."""
        form = PartForm(self.window(), part_in(self._session.build, slot))
        if form.exec():
            self._session.restate(slot, form.part)

    @property
    def rows(self) -> list[QWidget]:
        """The rows shown."""
        return list(self._group.buttons())


def _fixed_words(key: str, session: BenchSession) -> str:
    build = session.build
    match key:
        case "wall":
            return (
                f"{build.mains.name}: {build.mains.v_nominal_rms:g} V, ±{100 * build.mains.tolerance:.0f} %, "
                f"{build.mains.frequency_hz:g} Hz. Move the mains slider to see a low or high day."
            )
        case "entry":
            return f"{build.entry.name}, fuse {build.entry.fuse_kind} {build.entry.fuse_a_rms:g} A."
        case "rails":
            bridge = build.supply.rectifier
            return (
                f"What {build.supply.transformer.name}, {bridge.name} and {build.supply.reservoir.name} make of the "
                "mains. Choose Transformer or Reservoir to exchange a part."
            )
        case _:
            trip = build.protection.dc_threshold_v
            known = "DC threshold not stated" if trip is None else f"trips above {trip:g} V of DC"
            return f"{build.protection.name}: mutes for {build.protection.mute_s:g} s, {known}."
