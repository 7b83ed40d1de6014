import contextlib
import os
import struct
import termios
import threading
import time
import tty
from collections.abc import Iterator

import pytest
import pyvisa

from plinth.instruments.command_map import CommandMap, read_map, shipped_maps
from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.instrument import Instrument
from plinth.instruments.kinds import Action
from plinth.instruments.link import reachable, socket_place
from tests.instruments.crooked_server import Crooked, CrookedServer, crooked_server, well

VISA = pyvisa.ResourceManager("@py")
MAPS = {own.name: own for own in shipped_maps()}
GENERATOR, METER = MAPS["Any SCPI generator"], MAPS["Any SCPI multimeter"]
DIGITISER = MAPS["Any SCPI digitiser"]


def instrument(server: CrookedServer, own: CommandMap = METER, within_s: float = 0.2) -> Instrument:
    """It, with an answer waited for so long."""
    link = own.link.model_copy(update={"answers_within_s": within_s})
    return Instrument(VISA, "meter", server.address, own.model_copy(update={"link": link}))


def fault_of(own: Instrument, action: Action = Action.READ_VOLTS_AC) -> InstrumentError:
    """What reading it says."""
    with pytest.raises(InstrumentError) as fault:
        own.read(action)
    return fault.value


def test_a_reading_is_what_it_answers() -> None:
    with crooked_server() as server:
        own = instrument(server)
        assert own.identity() == "Fen,Model one,0001,1.0"
        assert own.read(Action.READ_VOLTS_AC) == 2.5
        assert own.read(Action.READ_VOLTS_DC) == 0.0125
        own.link.close()


def test_one_in_millivolts_is_read_and_told_by_its_scale() -> None:
    meter = METER.commands[Action.READ_VOLTS_AC].model_copy(update={"scale": 1000.0})
    volts = GENERATOR.commands[Action.SET_VOLTS].model_copy(update={"scale": 1000.0})
    with crooked_server() as server:
        server.readings["MEASure:VOLTage:AC?"] = "250"
        own = instrument(server, METER.model_copy(update={"commands": {**METER.commands, Action.READ_VOLTS_AC: meter}}))
        assert own.read(Action.READ_VOLTS_AC) == 0.25
        commands = {**GENERATOR.commands, Action.SET_VOLTS: volts}
        source = instrument(server, GENERATOR.model_copy(update={"commands": commands}))
        source.tell(Action.SET_VOLTS, 0.125)
        assert server.values["SOURce:VOLTage"] == "125"
        own.link.close()
        source.link.close()


def _twice(_line: str, answer: str) -> str:
    return f"{answer}\n{answer}\n"


def _half(_line: str, answer: str) -> str:
    return answer[: len(answer) // 2]


def _word(_line: str, answer: str) -> str:
    return f"fine;{answer.rpartition(';')[2]}\n"


def _untagged(_line: str, answer: str) -> str:
    return f"{answer.partition(';')[0]}\n"


def _nothing(_line: str, _answer: str) -> None:
    return None


@pytest.mark.parametrize(
    ("crooked", "kind"),
    [
        (_half, ErrorKind.TIME_OUT), (_word, ErrorKind.NO_NUMBER), (_untagged, ErrorKind.WRONG_ANSWER),
        (_nothing, ErrorKind.TIME_OUT),
    ],
)  # fmt: skip
def test_half_an_answer_a_word_or_none_is_no_reading(crooked: Crooked, kind: ErrorKind) -> None:
    with crooked_server(crooked) as server:
        own = instrument(server)
        fault = fault_of(own)
        assert fault.kind is kind
        assert fault.who == "meter"
        # What comes next is asked over a new line, and right.
        server.crooked = well
        assert own.read(Action.READ_VOLTS_DC) == 0.0125
        own.link.close()


def test_the_second_of_two_answers_is_not_taken_for_the_next_question() -> None:
    with crooked_server(_twice) as server:
        own = instrument(server)
        assert own.read(Action.READ_VOLTS_AC) == 2.5
        server.crooked = well
        fault = fault_of(own, Action.READ_VOLTS_DC)
        assert fault.kind is ErrorKind.WRONG_ANSWER
        assert "2.5" in fault.words
        assert own.read(Action.READ_VOLTS_DC) == 0.0125
        own.link.close()


def test_an_answer_that_comes_after_its_time_is_not_taken_for_the_next_question() -> None:
    with crooked_server() as server:
        own = instrument(server, within_s=0.1)
        server.delay_s = 0.4
        assert fault_of(own).kind is ErrorKind.TIME_OUT
        server.delay_s = 0.0
        time.sleep(0.5)
        assert own.read(Action.READ_VOLTS_DC) == 0.0125
        own.link.close()


def test_always_the_answer_before_is_never_taken() -> None:
    last = ["", ""]

    def before(_line: str, answer: str) -> str:
        last.append(answer)
        return f"{last[-2]}\n" if last[-2] else "0;0\n"

    with crooked_server(before) as server:
        own = instrument(server)
        for action in (Action.READ_VOLTS_AC, Action.READ_VOLTS_DC, Action.READ_VOLTS_AC):
            assert fault_of(own, action).kind is ErrorKind.WRONG_ANSWER
        own.link.close()


def test_an_overload_is_infinite_and_no_number_at_all_is_said() -> None:
    with crooked_server() as server:
        own = instrument(server)
        server.readings["MEASure:VOLTage:AC?"] = "9.9E37"
        assert own.read(Action.READ_VOLTS_AC) == float("inf")
        server.readings["MEASure:VOLTage:AC?"] = "NAN"
        server.errors = ['-230,"Data corrupt or stale"']
        fault = fault_of(own)
        assert fault.kind is ErrorKind.NO_NUMBER
        assert "-230" in fault.words
        own.link.close()


def test_nothing_beyond_its_limits_is_sent() -> None:
    with crooked_server() as server:
        own = instrument(server, GENERATOR)
        high = GENERATOR.commands[Action.SET_VOLTS].high
        assert high == 10.0
        for value in (10.01, -0.01, float("nan"), float("inf")):
            with pytest.raises(InstrumentError) as fault:
                own.tell(Action.SET_VOLTS, value)
            assert fault.value.kind is ErrorKind.BEYOND_LIMITS
        assert server.heard == []
        # At the limit itself, computed with a rounding of its own.
        own.tell(Action.SET_VOLTS, 10.0 + 1e-12)
        assert server.values["SOURce:VOLTage"] == "10"
        own.link.close()


def test_an_error_of_its_own_is_quoted() -> None:
    with crooked_server() as server:
        own = instrument(server, GENERATOR)
        server.errors = ['-222,"Data out of range"']
        with pytest.raises(InstrumentError, match="-222") as fault:
            own.tell(Action.SET_VOLTS, 2.0)
        assert fault.value.kind is ErrorKind.ITS_ERROR
        own.link.close()


def test_what_another_program_has_changed_is_seen() -> None:
    with crooked_server() as server:
        own = instrument(server, GENERATOR)
        own.tell(Action.SET_VOLTS, 2.0)
        own.holds()
        # Within what it rounds to.
        server.values["SOURce:VOLTage"] = "2.003"
        own.holds()
        server.values["SOURce:VOLTage"] = "2.005"
        with pytest.raises(InstrumentError, match=r"found 2.005 V set, expected the 2 V") as fault:
            own.holds()
        assert fault.value.kind is ErrorKind.NOT_HELD
        own.link.close()


def test_it_is_made_safe_and_says_where_it_is_not() -> None:
    with crooked_server() as server:
        own = instrument(server, GENERATOR, 1.0)
        own.tell(Action.SET_OUTPUT, 1.0)
        assert server.output
        assert own.make_safe() == ""
        assert not server.output
        assert server.values["SOURce:VOLTage"] == "0"
        own.tell(Action.SET_OUTPUT, 1.0)
        server.stuck = True
        assert own.make_safe() == "meter was told to switch off, and says that it is still on: pull its plug."
        server.crooked = _nothing
        assert own.make_safe().startswith("meter may still be on: found no")
        own.link.close()


def test_nobody_at_an_address_another_machine_and_a_wrong_kind_are_told_apart() -> None:
    with crooked_server() as server:
        place = server.address
    own = Instrument(VISA, "meter", place, METER)
    fault = fault_of(own)
    assert fault.kind is ErrorKind.REFUSED
    with pytest.raises(InstrumentError, match="nothing that answers"):
        reachable(place)
    # A printer hears everything and says things of its own.
    with crooked_server(lambda _line, _answer: "@PJL INFO STATUS\n") as server:
        own = instrument(server)
        with pytest.raises(InstrumentError, match="as its identity") as printed:
            own.identity()
        assert printed.value.kind is ErrorKind.WRONG_KIND
        own.link.close()
    with crooked_server() as server:
        own = instrument(server, next(each for each in MAPS.values() if each.simulated))
        with pytest.raises(InstrumentError, match="expected one of Simulated") as other:
            own.identity()
        assert other.value.kind is ErrorKind.WRONG_KIND
        own.link.close()


def test_what_is_not_in_its_map_is_said() -> None:
    with crooked_server() as server:
        own = instrument(server)
        with pytest.raises(InstrumentError, match="found nothing to set volts in the map") as fault:
            own.tell(Action.SET_VOLTS, 1.0)
        assert fault.value.kind is ErrorKind.NOT_KNOWN
        own.link.close()


def test_a_record_is_a_block_of_numbers_and_nothing_else() -> None:
    question = DIGITISER.commands[Action.READ_RECORD].ask
    assert question is not None
    question = question.replace("{channel}", "2")
    samples = struct.pack(">4f", 0.5, -0.5, 1.25, -1.25)
    with crooked_server() as server:
        own = instrument(server, DIGITISER)
        server.blocks[question] = b"#216" + samples + b"\n"
        assert own.record(2) == samples
        for wrong, kind in (
            (b"#0" + samples + b"\n", ErrorKind.WRONG_ANSWER), (b"16,0.5\n", ErrorKind.WRONG_ANSWER),
            (b"#2xx" + samples + b"\n", ErrorKind.WRONG_ANSWER),
            (b"#215" + samples[:15] + b"\n", ErrorKind.WRONG_ANSWER),
            (b"#9999999999", ErrorKind.WRONG_ANSWER), (b"#216" + samples[:9], ErrorKind.TIME_OUT),
        ):  # fmt: skip
            server.blocks[question] = wrong
            with pytest.raises(InstrumentError) as fault:
                own.record(2)
            assert fault.value.kind is kind, wrong
        server.blocks[question] = b"#216" + samples + b"\n"
        assert own.record(2) == samples
        own.link.close()


def test_its_own_watchdog_is_set_before_anything_is_on() -> None:
    text = "\n".join(
        ["name = 'Fen'", "kinds = ['thermometer']", "[watchdog]", "send = 'SYSTem:WDOG {value}'", "seconds = 2.0",
         "feed = 'SYSTem:WDOG:FEED'", "[commands.read_degrees]", "ask = 'MEASure:TEMPerature?'", "unit = '°C'"]
    )  # fmt: skip
    with crooked_server() as server:
        own = instrument(server, read_map(text, "fen.toml"))
        own.feed()
        assert server.heard == []
        own.watch_itself()
        own.watch_itself()
        own.feed()
        own.link.ask("*OPC?")
        assert server.heard[:2] == ["SYSTem:WDOG 2", "SYSTem:WDOG:FEED"]
        own.link.close()


def test_only_a_raw_socket_has_a_host_and_a_port() -> None:
    assert socket_place("TCPIP::127.0.0.1::5025::SOCKET") == ("127.0.0.1", 5025)
    assert socket_place("TCPIP0::bench.local::5025::socket") == ("bench.local", 5025)
    for other in ("USB0::1::2::3::INSTR", "TCPIP::host::INSTR", "ASRL/dev/ttyUSB0::INSTR", "TCPIP::h::x::SOCKET", ""):
        assert socket_place(other) is None


@contextlib.contextmanager
def serial_port() -> Iterator[tuple[str, list[str]]]:
    """A serial port with a meter at its other end: the port's name, and what was sent to it."""
    other, own = os.openpty()
    for end in (other, own):
        tty.setraw(end)
    sent: list[str] = []

    def answer() -> None:
        held = b""
        with contextlib.suppress(OSError):
            while True:
                held += os.read(other, 256)
                *lines, held = held.split(b"\n")
                for line in lines:
                    sent.append(line.decode())
                    first, _, tag = sent[-1].partition(";*ESE ")
                    if first == "*IDN?":
                        os.write(other, b"Fen,Serial one,0002,1.0\n")
                    elif first.endswith("?"):
                        number = tag.partition(";")[0]
                        os.write(other, f"2.75;{number}\n".encode() if number else b"0\n")

    thread = threading.Thread(target=answer, daemon=True)
    thread.start()
    try:
        yield os.ttyname(own), sent
    finally:
        for end in (own, other):
            os.close(end)


def test_one_at_a_serial_port_is_read_at_its_own_rate() -> None:
    with serial_port() as (port, sent):
        manners = METER.link.model_copy(update={"baud": 115_200, "answers_within_s": 2.0})
        own = Instrument(VISA, "meter", f"ASRL{port}::INSTR", METER.model_copy(update={"link": manners}))
        assert own.identity() == "Fen,Serial one,0002,1.0"
        assert own.read(Action.READ_VOLTS_DC) == 2.75
        assert sent[0] == "*IDN?"
        speed = termios.tcgetattr(os.open(port, os.O_RDWR | os.O_NOCTTY))[5]
        assert speed == termios.B115200
        own.link.close()


def test_a_port_that_is_not_there_is_said() -> None:
    own = Instrument(VISA, "meter", "ASRL/dev/ttyNobody9::INSTR", METER)
    fault = fault_of(own)
    assert fault.kind is ErrorKind.REFUSED
    assert "ASRL/dev/ttyNobody9" in str(fault)
