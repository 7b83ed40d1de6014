"""Who is connected where: what there is, what answers at an address, a prompt, and the simulated bench."""

import secrets
from pathlib import Path

from PySide6.QtCore import QRegularExpression
from PySide6.QtGui import QRegularExpressionValidator
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPlainTextEdit,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label, rule
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.guide.faults import FAULTS
from plinth.instruments.messages import Identify, Line, ListAddresses
from plinth.record.probe import Point
from plinth.session.instruments.connected import USUAL_POINTS, Connected

SPEEDS = ("1", "20", "100")
MOST_LOGGED = 400
AT_RANDOM = "one at random, not told"
CAUTION = (
    "Before a lead goes on: everything off. What is told here to a generator, a supply or a load is done at once, and "
    "watched like any reading: it goes off when this window does."
)
_HEADS = ("Name", "Is a", "Its leads are at", "Address", "Now")


class InstrumentsDialog(Dialog):
    """``practice`` set where the simulated bench is to be started: the fault laid on it (or None) and its speed."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session = session
        self.practice: tuple[str | None, float] | None = None
        self.setWindowTitle("Instruments")
        look.size(self, 1040, 720)
        self.table = QTableWidget(0, len(_HEADS))
        self.table.setHorizontalHeaderLabels(list(_HEADS))
        self.table.verticalHeader().hide()
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setMinimumHeight(look.px(275))
        self.table.setAccessibleName("Instruments of this bench")
        self.said = label("", "problem", wrap=True)
        self.said.hide()
        self.connect_button, self.disconnect_button = button("Connect all"), button("Disconnect, everything off")
        self.forget_button = button("Forget", "flat")
        self.connect_button.clicked.connect(self.connect_all)
        self.disconnect_button.clicked.connect(self.disconnect_all)
        self.forget_button.clicked.connect(self.forget)
        keys = QHBoxLayout()
        for each in (self.connect_button, self.disconnect_button, self.forget_button):
            keys.addWidget(each)
        keys.addStretch()
        box = column(self.table, self.said, spacing=8, margins=(16, 14, 16, 14))
        box.setStretch(0, 1)
        box.addLayout(keys)
        box.addWidget(rule())
        halves = QHBoxLayout()
        halves.setSpacing(24)
        halves.addLayout(self._adding(), 1)
        halves.addLayout(self._trying(), 1)
        box.addLayout(halves)
        box.addWidget(label(CAUTION, "caution", wrap=True))
        self.setLayout(box)
        session.instruments_changed.connect(self.show_all)
        self.show_all()

    # Parts

    def _adding(self) -> QGridLayout:
        self.address = QComboBox()
        self.address.setEditable(True)
        self.address.setMinimumWidth(look.px(290))
        self.address.setAccessibleName("Address")
        editor = self.address.lineEdit()
        assert editor is not None, "an editable one has it"
        editor.setPlaceholderText("TCPIP::192.168.1.20::5025::SOCKET")
        editor.returnPressed.connect(self.identify)
        self.ask_button, self.list_button = button("Ask it  ⏎"), button("What is plugged in", "flat")
        self.ask_button.clicked.connect(self.identify)
        self.list_button.clicked.connect(self.list_addresses)
        self.identity = label("Nobody asked yet.", "soft", wrap=True)
        self.map, self.map_button = QComboBox(), button("Own map …", "flat")
        self.map.setAccessibleName("Command map")
        self.map.currentIndexChanged.connect(self._show_points)
        self.map_button.clicked.connect(self.ask_map)
        self.name, self.points, self.channel = QLineEdit(), QComboBox(), QComboBox()
        self.name.setPlaceholderText("meter")
        self.name.setAccessibleName("Name on this bench")
        self.name.setValidator(QRegularExpressionValidator(QRegularExpression(r"[^\n]{0,40}")))
        self.points.setAccessibleName("Where its leads are")
        self.channel.setAccessibleName("Of which channel")
        self.add_button = button("Add it", "main")
        self.add_button.clicked.connect(self.add)
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.addWidget(label("Add one", "title"), 0, 0, 1, 3)
        rows: tuple[tuple[str, QWidget, QWidget | None], ...] = (
            ("Address", self.address, self.ask_button), ("It says", self.identity, self.list_button),
            ("Command map", self.map, self.map_button), ("Name", self.name, None),
            ("Leads at", self.points, self.channel), ("", self.add_button, None),
        )  # fmt: skip
        for row, (words, field, beside) in enumerate(rows, 1):
            grid.addWidget(label(words, "soft"), row, 0)
            grid.addWidget(field, row, 1)
            if beside is not None:
                grid.addWidget(beside, row, 2)
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(len(rows) + 1, 1)
        return grid

    def _trying(self) -> QGridLayout:
        self.line, self.log = QLineEdit(), QPlainTextEdit()
        self.line.setPlaceholderText("*IDN?")
        self.line.setAccessibleName("A line to the instrument chosen above")
        self.line.returnPressed.connect(self.send)
        self.log.setReadOnly(True)
        self.log.setMaximumBlockCount(MOST_LOGGED)
        self.log.setAccessibleName("What was sent and what came")
        self.log.setFixedHeight(look.px(84))
        self.fault, self.speed = QComboBox(), QComboBox()
        self.fault.setAccessibleName("Fault laid on the simulated bench")
        self.speed.setAccessibleName("How many times as fast its time runs")
        self.fault.addItem("healthy", "")
        self.fault.addItem(AT_RANDOM, AT_RANDOM)
        for fault in FAULTS:
            self.fault.addItem(fault.words, fault.key)
        for speed in SPEEDS:
            self.speed.addItem(f"{speed} times as fast" if speed != "1" else "in real time", speed)
        self.speed.setCurrentIndex(1)
        for choice in (self.fault, self.map, self.points, self.channel):
            # As wide as there is room, not as its longest entry.
            choice.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            choice.setMinimumContentsLength(10)
        self.practice_button = button("Try it on the simulated bench  F7")
        self.practice_button.clicked.connect(self.try_simulated)
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.addWidget(label("Try the one chosen above", "title"), 0, 0, 1, 2)
        grid.addWidget(self.line, 1, 0, 1, 2)
        grid.addWidget(self.log, 2, 0, 1, 2)
        grid.addWidget(label("Without any instrument", "title"), 3, 0, 1, 2)
        grid.addWidget(self.fault, 4, 0)
        grid.addWidget(self.speed, 4, 1)
        grid.addWidget(self.practice_button, 5, 0, 1, 2)
        grid.setRowStretch(6, 1)
        return grid

    # Shown

    def show_all(self) -> None:
        """What there is, and which of it is connected."""
        instruments = self._session.instruments
        connected = {each.name for each in instruments.bench.instruments}
        shown = instruments.bench.instruments if instruments.bench.simulated else instruments.kept.instruments
        build = self._session.build
        self.table.setRowCount(len(shown))
        for row, each in enumerate(shown):
            leads = ", ".join(point.words.removeprefix("the ") for point in each.points)
            whose = f", {build.channel_of(each.channel)}" if each.channel else ""
            state = "connected" if each.name in connected else "not connected"
            cells = (each.name, " and ".join(kind.words for kind in each.own.kinds), f"{leads}{whose}", each.address,
                     f"{state}, simulated" if each.simulated else state)  # fmt: skip
            for place, words in enumerate(cells):
                item = QTableWidgetItem(words)
                item.setToolTip(each.identity)
                self.table.setItem(row, place, item)
        self.table.resizeColumnsToContents()
        self.table.horizontalHeader().setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        if shown and not self.table.selectedItems():
            self.table.selectRow(0)
        self.connect_button.setEnabled(bool(instruments.kept.instruments) and not connected)
        self.disconnect_button.setEnabled(bool(connected))
        self.forget_button.setEnabled(bool(shown) and not instruments.bench.simulated)
        self._show_maps()
        self.channel.clear()
        for key in build.channel_keys or build.channels:
            self.channel.addItem(build.channel_of(key), key)

    def _show_maps(self) -> None:
        chosen = self.map.currentText()
        self.map.blockSignals(True)
        self.map.clear()
        for own in self._session.instruments.kept.maps:
            self.map.addItem(own.name, own.name)
        self.map.setCurrentIndex(max(self.map.findText(chosen), 0))
        self.map.blockSignals(False)
        self._show_points()

    def _show_points(self) -> None:
        self.points.clear()
        own = next((each for each in self._session.instruments.kept.maps if each.name == self.map.currentData()), None)
        if own is None:
            return
        usual = [point for kind in own.kinds for point in USUAL_POINTS.get(kind, ())]
        for point in sorted(Point, key=lambda point: point not in usual):
            self.points.addItem(point.words, str(point))

    def say(self, words: str) -> None:
        """Say what is wrong; nothing of an empty sentence."""
        self.said.setText(words)
        self.said.setVisible(bool(words))

    @property
    def _chosen(self) -> str:
        row = self.table.currentRow()
        item = self.table.item(row, 0) if row >= 0 else None
        return "" if item is None else item.text()

    # Done

    def connect_all(self) -> None:
        """Talk with all that are kept."""
        self.say("")
        self.connect_button.setEnabled(False)
        self._session.instruments.connect(self._session.instruments.kept.instruments, self._connected)

    def _connected(self, why_not: str) -> None:
        self.say(why_not)
        self.show_all()

    def disconnect_all(self) -> None:
        """Everything off, and let go of all of it."""
        self._session.instruments.disconnect()
        self.show_all()

    def forget(self) -> None:
        """Forget the one chosen."""
        if self._chosen:
            self._session.instruments.disconnect()
            self.say(self._session.instruments.kept.forget(self._chosen))
            self.show_all()

    def identify(self) -> None:
        """Ask what is at the address."""
        address = self.address.currentText().strip()
        if not address:
            self.say("Found no address, expected one as TCPIP::192.168.1.20::5025::SOCKET: its own screen shows it.")
            return
        self.say("")
        self.identity.setText("Asking …")
        self.ask_button.setEnabled(False)
        self._session.instruments.ask_once(Identify(address), self._identified, self._not_identified)

    def _identified(self, identity: object) -> None:
        self.ask_button.setEnabled(True)
        self.identity.setText(str(identity))
        fitting = self._session.instruments.kept.fitting(str(identity))
        if fitting is not None:
            self.map.setCurrentIndex(self.map.findText(fitting.name))

    def _not_identified(self, words: str) -> None:
        self.ask_button.setEnabled(True)
        self.identity.setText("Nobody asked yet.")
        self.say(words)

    def list_addresses(self) -> None:
        """What the backend finds by itself."""
        self.list_button.setEnabled(False)
        self._session.instruments.ask_once(ListAddresses(), self._listed, self._not_listed)

    def _listed(self, addresses: object) -> None:
        self.list_button.setEnabled(True)
        assert isinstance(addresses, tuple), "that is what was asked for"
        typed = self.address.currentText()
        self.address.clear()
        self.address.addItems(list(addresses))
        self.address.setEditText(typed or next(iter(addresses), ""))
        count = len(addresses)
        self.say("" if count else "Nothing answers by itself on USB, serial or this network: type its address.")

    def _not_listed(self, words: str) -> None:
        self.list_button.setEnabled(True)
        self.say(words)

    def ask_map(self) -> None:
        """Ask for a map of one's own."""
        name, _ = QFileDialog.getOpenFileName(self, "A command map of your own", "", "Command map (*.toml)")
        if name:
            self.take_map(Path(name))

    def take_map(self, path: Path) -> None:
        """Take a map in, or say what is wrong with it."""
        before = {each.name for each in self._session.instruments.kept.maps}
        self.say(self._session.instruments.kept.take_map(path))
        self._show_maps()
        new = [each for each in self._session.instruments.kept.maps if each.name not in before]
        if new:
            self.map.setCurrentIndex(self.map.findText(new[0].name))
            lacks = ", ".join(action.words for action in new[0].lacks)
            if lacks:
                self.say(f"{new[0].name} is taken in. It knows nothing {lacks}: what wants that is typed.")

    def add(self) -> None:
        """Keep it as an instrument of this bench."""
        own = next((each for each in self._session.instruments.kept.maps if each.name == self.map.currentData()), None)
        address = self.address.currentText().strip()
        if own is None or not address:
            self.say("Found no address, expected one: ask it first what it is.")
            return
        point = Point(self.points.currentData())
        identity = self.identity.text() if "," in self.identity.text() else f"not asked, {secrets.token_hex(3)}"
        made = Connected(
            self.name.text().strip(), address, own, identity, (point,),
            str(self.channel.currentData()) if point.of_channel else "",
        )  # fmt: skip
        why = self._session.instruments.kept.keep(made)
        self.say(why)
        if not why:
            self._session.instruments.disconnect()
            self.show_all()

    def send(self) -> None:
        """Send the line to the one chosen, and show what comes."""
        line, name = self.line.text().strip(), self._chosen
        if not line:
            return
        if name not in {each.name for each in self._session.instruments.bench.instruments}:
            self.say("Found nothing connected to send that to, expected one: Connect all first.")
            return
        self.say("")
        self.log.appendPlainText(f"{name}  ›  {line}")
        self.line.clear()
        self._session.instruments.ask_once(
            Line(name, line), lambda answer: self.log.appendPlainText(str(answer) or "(asks nothing)"),
            lambda words: self.log.appendPlainText(words),
        )  # fmt: skip

    def try_simulated(self) -> None:
        """Start the simulated bench once this is closed."""
        key = str(self.fault.currentData())
        fault = secrets.choice(FAULTS).key if key == AT_RANDOM else key or None
        self.practice = fault, float(self.speed.currentData())
        self.accept()
