"""What the keys of the instruments do in a window: read, go on alone, the simulated bench, who is connected."""

from collections.abc import Callable
from typing import Protocol

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from plinth.desk.asking import ask
from plinth.desk.commands import Command
from plinth.desk.instruments.bar import InstrumentBar
from plinth.desk.session import BenchSession
from plinth.session.opening import Workshop
from plinth.session.practice import practice_beside


class InstrumentHost(Protocol):
    """The window, as far as these need it."""

    session: BenchSession
    instrument_actions: "InstrumentActions"

    def say(self, sentence: str) -> None: ...

    def change_workshop(self, opening: Callable[[], Workshop]) -> "InstrumentHost | None": ...

    def to_readings(self) -> None: ...

    def toggle_bench_view(self) -> None: ...

    def keep_record(self, frame: object) -> None: ...


class InstrumentActions:
    """``bar`` the bar of the instruments in that window."""

    def __init__(self, host: InstrumentHost, parent: QWidget, bar: InstrumentBar) -> None:
        self._host, self._parent, self._bar = host, parent, bar

    @property
    def _session(self) -> BenchSession:
        return self._host.session

    def commands(self) -> tuple[Command, ...]:
        """As the finder and the keys have them."""
        group = "Instruments"

        def connected() -> bool:
            return self._session.instruments.connected

        return (
            Command("read", "read what is asked for, by instruments", group, self._bar.read, "F5", connected),
            Command("read_on", "read on alone, by instruments; outputs off", group, self._bar.read_on, "F6", connected),
            Command("simulated", "try it on the simulated bench", group, self.try_simulated, "F7"),
            Command("live", "live: what the instruments read now", group, self.show_live, "F8", connected),
            Command("spectrum", "live spectrum of the output", group, self.show_spectrum, "Shift+F8", connected),
            Command(
                "bench_view", "bench view: one large figure, for a keypad", group, self._host.toggle_bench_view, "F11"
            ),
            Command("instruments", "instruments: who is connected where", group, self.ask_instruments, "F9"),
        )

    def ask_instruments(self) -> None:
        """Who is connected, where, and what can be asked of them."""
        from plinth.desk.instruments.dialog import InstrumentsDialog

        dialog = InstrumentsDialog(self._parent, self._session)
        ask(dialog)
        if dialog.practice is not None:
            self.try_simulated(*dialog.practice)

    def show_live(self) -> None:
        """What the instruments read now, beside whatever else goes on."""
        from plinth.desk.instruments.live_page import LivePage

        self.live = LivePage(self._parent, self._session, self._channel())
        self.live.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.live.spectrum_wanted.connect(self._bar.asked_for_spectrum)
        self.live.show()

    def show_spectrum(self) -> None:
        """The spectrum of the output, again and again."""
        from plinth.desk.instruments.spectrum_page import SpectrumPage

        self.spectrum = SpectrumPage(self._parent, self._session, self._channel())
        self.spectrum.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.spectrum.keep_wanted.connect(self._host.keep_record)
        self.spectrum.show()

    def _channel(self) -> str:
        """The channel whose instruments are meant: that of the leads, where they are of one."""
        build = self._session.build
        keys = {each.channel for each in self._session.instruments.bench.instruments if each.channel}
        return build.channel_of(next(iter(keys))) if len(keys) == 1 else build.channels[0]

    def try_simulated(self, fault: str | None = None, speed: float = 20.0) -> None:
        """The simulated bench of this build: here in a practice workshop, else in the one beside this workshop."""
        session = self._session
        if session.practice:
            session.instruments.try_simulated(self._say_started, fault=fault, speed=speed)
            return
        path, build, situation = session.workshop.path, session.build, session.situation
        made: list[int] = []

        def opening() -> Workshop:
            workshop, build_id = practice_beside(path, build, situation)
            made.append(build_id)
            return workshop

        begun = self._host.change_workshop(opening)
        if begun is None:
            return
        begun.session.switch(made[0])
        begun.say(
            f"This is {begun.session.workshop.path.name}, a workshop for practice: what is read in it is simulated, "
            "and counts in it alone."
        )
        begun.instrument_actions.try_simulated(fault, speed)

    def _say_started(self, why_not: str) -> None:
        if why_not:
            self._host.say(f"The simulated bench did not start. {why_not}")
        else:
            self._host.to_readings()
