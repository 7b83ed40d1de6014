"""Whatever is lost, outputs go off: at the instruments' own terminals, by whichever process is left."""

import os
import signal
import subprocess
import sys
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest

from plinth.instruments.client import InstrumentProcess
from plinth.instruments.command_map import shipped_maps
from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.kinds import Action
from plinth.instruments.messages import AreOn, Connect, Forget, Line, Read, Tell
from tests.instruments.crooked_server import CrookedServer, crooked_server, until, well

GENERATOR = next(own for own in shipped_maps() if own.name == "Any SCPI generator")
METER = next(own for own in shipped_maps() if own.name == "Any SCPI multimeter")
# Short waits alone: what is tried here is what comes after them.
QUICK = {"link": METER.link.model_copy(update={"answers_within_s": 0.5})}
GENERATOR, METER = GENERATOR.model_copy(update=QUICK), METER.model_copy(update=QUICK)


class Bench:
    """A generator that is on and a meter, talked with; ``told`` what was said to have gone off."""

    def __init__(self, generator: CrookedServer, meter: CrookedServer) -> None:
        self.generator, self.meter = generator, meter
        self.told: list[str] = []
        self.process = InstrumentProcess(self.told.append)
        self._ended = threading.Event()
        self.here = threading.Event()
        self.here.set()
        threading.Thread(target=self._beat, daemon=True).start()
        self.process.ask(Connect("generator", generator.address, GENERATOR))
        self.process.ask(Connect("meter", meter.address, METER))

    def switch_on(self) -> None:
        """Low, then on; begun anew where a busy machine has had it switched off in between, by right."""
        for _ in range(10):
            try:
                self.process.ask(Tell("generator", Action.SET_VOLTS, 0.1))
                self.process.ask(Tell("generator", Action.SET_OUTPUT, 1.0))
            except InstrumentError as fault:
                if fault.kind is not ErrorKind.STALE:
                    raise
                continue
            if self.generator.output:
                return
        raise AssertionError("it never stayed on")

    def reads(self) -> bool:
        """Whether the meter gives its reading, in a process that was not busy with other things just now."""
        try:
            return self.process.ask(Read("meter", Action.READ_VOLTS_AC)) == 2.5
        except InstrumentError:
            return False

    def went_off(self) -> bool:
        """Whether it comes to be off."""
        return until(lambda: not self.generator.output)

    def fault(self, order: object = None) -> InstrumentError:
        """What asking says."""
        with pytest.raises(InstrumentError) as fault:
            self.process.ask(order or Read("meter", Action.READ_VOLTS_AC))  # type: ignore[arg-type]
        return fault.value

    def end(self) -> None:
        self._ended.set()
        self.process.end()

    def _beat(self) -> None:
        while not self._ended.wait(0.1):
            if self.here.is_set():
                self.process.alive()


@pytest.fixture
def bench() -> Iterator[Bench]:
    with crooked_server() as generator, crooked_server() as meter:
        own = Bench(generator, meter)
        try:
            own.switch_on()
            yield own
        finally:
            own.end()


def test_it_stays_on_while_all_is_well_and_goes_off_at_the_end(bench: Bench) -> None:
    def stays_on() -> bool:
        bench.switch_on()
        told = len(bench.told)
        threading.Event().wait(1.5)
        # A busy machine may have had it switched off, and then has said so.
        return bench.generator.output and len(bench.told) == told

    assert any(stays_on() for _ in range(10))
    assert bench.process.ask(Read("meter", Action.READ_VOLTS_AC)) == 2.5
    assert bench.process.ask(AreOn()) == ("generator",)
    bench.process.end()
    assert not bench.generator.output


def test_the_talker_is_killed(bench: Bench) -> None:
    os.kill(bench.process.talker.pid, signal.SIGKILL)
    assert bench.went_off()
    assert bench.fault().kind is ErrorKind.PROCESS_LOST
    assert until(lambda: any("the process that talks with the instruments is gone" in words for words in bench.told))
    assert not bench.process.is_there


def test_the_guard_is_killed(bench: Bench) -> None:
    os.kill(bench.process.guard.pid, signal.SIGKILL)
    assert bench.went_off()
    # Nothing runs without one.
    assert until(lambda: not bench.process.is_there)
    assert bench.fault().kind is ErrorKind.PROCESS_LOST


def test_the_talker_stands_still_as_a_laptop_that_sleeps(bench: Bench) -> None:
    os.kill(bench.process.talker.pid, signal.SIGSTOP)
    assert bench.went_off()
    said: list[InstrumentError] = []
    asked = threading.Thread(target=lambda: said.append(bench.fault(Tell("generator", Action.SET_OUTPUT, 1.0))))
    asked.start()
    threading.Event().wait(1.2)
    os.kill(bench.process.talker.pid, signal.SIGCONT)
    asked.join(30.0)
    # What it was asked for meanwhile is not done.
    assert [fault.kind for fault in said] == [ErrorKind.STALE]
    assert not bench.generator.output
    # Begun anew, it goes on.
    bench.switch_on()


def test_both_stand_still_and_wake(bench: Bench) -> None:
    for process in (bench.process.talker, bench.process.guard):
        os.kill(process.pid, signal.SIGSTOP)
    threading.Event().wait(1.5)
    for process in (bench.process.talker, bench.process.guard):
        os.kill(process.pid, signal.SIGCONT)
    assert bench.went_off()


def test_the_window_stands_still(bench: Bench) -> None:
    bench.here.clear()
    assert bench.went_off()
    # The true reason is told, not that the guard was told to.
    assert until(lambda: any("the window is silent" in words for words in bench.told))
    bench.here.set()
    # However long nobody asks: what is read next would not be of what was set, and is not given.
    threading.Event().wait(0.5)
    assert bench.fault().kind is ErrorKind.STALE
    # Whoever was told may go on; so may whoever switches everything off himself.
    assert until(lambda: bench.reads())


def test_a_link_hangs_or_is_cut_or_what_comes_is_no_number(bench: Bench) -> None:
    bench.meter.crooked = lambda _line, _answer: None
    assert bench.fault().kind is ErrorKind.TIME_OUT
    assert bench.went_off()
    bench.meter.crooked = lambda _line, answer: f"volts;{answer.rpartition(';')[2]}\n"
    bench.switch_on()
    assert bench.fault().kind is ErrorKind.NO_NUMBER
    assert bench.went_off()
    bench.meter.crooked = well
    bench.switch_on()
    bench.meter.close()
    assert bench.fault().kind in (ErrorKind.GONE, ErrorKind.REFUSED)
    assert bench.went_off()


def test_the_generators_own_line_hangs_and_the_guard_has_one_of_its_own(bench: Bench) -> None:
    # Only what is asked hangs: a line that switches off is heard.
    bench.generator.crooked = lambda _line, _answer: None
    fault = bench.fault(Tell("generator", Action.SET_VOLTS, 0.2))
    assert fault.kind is ErrorKind.TIME_OUT
    assert bench.went_off()
    assert "generator may still be on" in str(fault)
    bench.generator.crooked = well


def test_a_value_beyond_its_limits_leaves_all_as_it_is(bench: Bench) -> None:
    assert bench.fault(Tell("generator", Action.SET_VOLTS, 100.0)).kind is ErrorKind.BEYOND_LIMITS
    assert bench.fault(Tell("meter", Action.SET_VOLTS, 1.0)).kind is ErrorKind.NOT_KNOWN
    assert bench.generator.output


def test_what_is_typed_at_the_prompt_is_watched_as_well(bench: Bench) -> None:
    bench.process.make_safe()
    assert bench.process.ask(Line("meter", "*IDN?")) == "Fen,Model one,0001,1.0"
    assert bench.process.ask(Line("generator", "OUTPut:STATe ON")) == ""
    assert until(lambda: bench.generator.output)
    os.kill(bench.process.talker.pid, signal.SIGKILL)
    assert bench.went_off()


def test_one_that_is_let_go_of_goes_off_and_is_not_there_any_more(bench: Bench) -> None:
    assert bench.process.ask(Forget("generator")) == ()
    assert not bench.generator.output
    assert bench.fault(Tell("generator", Action.SET_OUTPUT, 1.0)).kind is ErrorKind.NOT_KNOWN


def test_one_that_was_left_on_is_switched_off_when_it_is_connected() -> None:
    with crooked_server() as generator, crooked_server() as meter:
        generator.output = True
        own = Bench(generator, meter)
        assert not generator.output
        own.end()


def test_off_does_not_wait_for_what_is_under_way(bench: Bench) -> None:
    bench.meter.crooked = lambda _line, _answer: None
    slow = METER.link.model_copy(update={"answers_within_s": 3.0})
    bench.meter.crooked = well
    bench.process.ask(Connect("meter", bench.meter.address, METER.model_copy(update={"link": slow})))
    bench.meter.crooked = lambda _line, _answer: None
    asked = threading.Thread(target=bench.fault, daemon=True)
    asked.start()
    assert until(lambda: any("MEASure:VOLTage:AC?" in line for line in bench.meter.heard))
    threading.Thread(target=bench.process.make_safe, daemon=True).start()
    assert bench.went_off()
    assert asked.is_alive()
    # Who asked for it is not alarmed by it.
    threading.Event().wait(0.5)
    assert not [words for words in bench.told if "asked for" in words]
    bench.meter.close()
    asked.join(20.0)


WINDOW = """
import sys, threading, time
from plinth.instruments.client import InstrumentProcess
from plinth.instruments.command_map import shipped_maps
from plinth.instruments.errors import InstrumentError
from plinth.instruments.kinds import Action
from plinth.instruments.messages import Connect, Tell
own = next(each for each in shipped_maps() if each.name == "Any SCPI generator")
process = InstrumentProcess()
for _ in range(20):
    try:
        process.alive()
        process.ask(Connect("generator", sys.argv[1], own))
        process.ask(Tell("generator", Action.SET_OUTPUT, 1.0))
        break
    except InstrumentError:
        # A machine that was busy with other things.
        continue
print("on", flush=True)
while True:
    process.alive()
    time.sleep(0.1)
"""


@pytest.mark.parametrize("how", [signal.SIGKILL, signal.SIGTERM, signal.SIGSTOP])
def test_the_window_itself_is_killed_ended_or_stopped(how: signal.Signals, tmp_path: Path) -> None:
    script = tmp_path / "window.py"
    script.write_text(WINDOW)
    with crooked_server() as generator:
        window = subprocess.Popen([sys.executable, str(script), generator.address], stdout=subprocess.PIPE)
        assert window.stdout is not None
        assert window.stdout.readline() == b"on\n"
        assert generator.output
        os.kill(window.pid, how)
        assert until(lambda: not generator.output)
        window.kill()
        window.wait()
        window.stdout.close()
