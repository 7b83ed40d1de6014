"""Lines of commands as SCPI-1999 and IEEE 488.2 have them: forms, parameters, status, errors by number."""

import pytest

from plinth.builds.files import read_build
from plinth.simulated_bench.bench import Bench
from plinth.simulated_bench.instruments.sources import Generator
from plinth.simulated_bench.scpi.errors import ErrorQueue, ScpiError
from plinth.simulated_bench.scpi.header import forms_of, matched
from plinth.simulated_bench.scpi.instrument import block
from plinth.simulated_bench.scpi.message import Command, commands_of
from plinth.simulated_bench.scpi.parameters import choice, number, switch
from tests.simulated_bench.benches import STAGE


@pytest.fixture
def generator() -> Generator:
    return Generator(Bench(read_build(STAGE)))


def test_a_pattern_has_its_long_and_its_short_forms() -> None:
    assert forms_of("OUTPut[:STATe]") == {"OUTPUT", "OUTP", "OUTPUT:STATE", "OUTPUT:STAT", "OUTP:STATE", "OUTP:STAT"}


@pytest.mark.parametrize(
    ("header", "fits"),
    [("SOUR:VOLT", True), ("SOURCE:VOLTAGE:LEVEL", True), ("SOUR1:VOLT", True), ("SOURC:VOLT", False),
     ("SOUR:VOLTA", False), ("VOLT", False), ("SOUR:VOLT:LEV:IMM:AMPL", True)],
)  # fmt: skip
def test_headers_in_between_are_none(header: str, fits: bool) -> None:
    assert (matched(header, "SOURce:VOLTage[:LEVel][:IMMediate][:AMPLitude]") is not None) == fits


def test_numbered_nodes_tell_their_number() -> None:
    assert matched("FETC2", "FETCh#[:VOLTage]") == (2,)
    assert matched("FETCH", "FETCh#[:VOLTage]") == (1,)
    assert matched("FETCHX", "FETCh#[:VOLTage]") is None


def test_a_line_goes_on_from_where_the_command_before_stands() -> None:
    line = "sour:freq 1000;volt 0.1;:OUTP ON;*OPC?;STAT?"
    assert commands_of(line) == [
        Command("SOUR:FREQ", False, ("1000",)),
        Command("SOUR:VOLT", False, ("0.1",)),
        Command("OUTP", False, ("ON",)),
        Command("*OPC", True, ()),
        Command("STAT", True, ()),
    ]


def test_what_is_no_command_ends_the_line() -> None:
    first, second = commands_of("OUTP ON;3volt;OUTP OFF")
    assert isinstance(first, Command)
    assert isinstance(second, ScpiError)
    assert second.code == -102
    (bad,) = commands_of("\x01\x02")
    assert isinstance(bad, ScpiError)
    assert bad.code == -101


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [("100", "V", 100.0), ("1e2", "V", 100.0), ("100MV", "V", 0.1), ("100 mv", "V", 0.1), ("2KHZ", "HZ", 2000.0),
     ("2MHZ", "HZ", 2e6), ("3MOHM", "OHM", 3e6), ("5US", "S", 5e-6), ("MIN", "V", 0.0), ("MAXIMUM", "V", 1e9),
     ("DEF", "V", 7.0)],
)  # fmt: skip
def test_numbers_with_their_units(text: str, unit: str, value: float) -> None:
    assert number(text, unit, 0.0, 1e9, 7.0) == pytest.approx(value)


@pytest.mark.parametrize(
    ("text", "code"),
    [("abc", -104), ("", -104), ("1V", -131), ("1KV", -131), ("-1HZ", -222), ("1e30", -222), ("nan", -104)],
)
def test_numbers_that_are_refused(text: str, code: int) -> None:
    with pytest.raises(ScpiError) as refused:
        number(text, "HZ", 0.0, 1e9, 7.0)
    assert refused.value.code == code


def test_switches_and_words() -> None:
    assert [switch(word) for word in ("ON", "off", "1", "0", "0.2", "3")] == [True, False, True, False, False, True]
    with pytest.raises(ScpiError, match="-104"):
        switch("maybe")
    assert choice("norm", ("NORMal", "SWAPped")) == "NORMal"
    with pytest.raises(ScpiError, match="-141"):
        choice("norma", ("NORMal", "SWAPped"))


def test_errors_queue_up_and_overflow_is_told() -> None:
    queue = ErrorQueue()
    for _ in range(40):
        queue.add(ScpiError(-113))
    entries = [queue.next() for _ in range(33)]
    assert entries[0].startswith("-113,")
    assert entries[31].startswith("-350,")
    assert entries[32] == '0,"No error"'


def test_a_block_says_its_length() -> None:
    assert block(b"abc") == b"#13abc"
    assert block(b"x" * 1234).startswith(b"#41234x")


def test_status_tells_what_went_wrong(generator: Generator) -> None:
    assert generator.handle("*ESR?") == b"128"
    assert generator.handle("FOO:BAR 3;OUTP ON") == b""
    assert generator.handle("OUTP?") == b"0"
    assert generator.handle("*STB?") == b"4"
    assert generator.handle("*ESE 32;*STB?;*SRE 32;*STB?") == b"36;116"
    assert generator.handle("SYST:ERR?") == b'-113,"Undefined header;FOO:BAR"'
    assert generator.handle("*ESR?") == b"32"
    generator.handle("SOUR:VOLT 99;FREQ 2000")
    # What cannot be carried out does not end the line.
    assert generator.handle("SOUR:FREQ?") == b"+2.0000000E+03"
    assert generator.handle("*ESR?") == b"16"
    assert generator.handle("SYST:ERR:COUN?") == b"1"
    assert generator.handle("*CLS;SYST:ERR?") == b'0,"No error"'


@pytest.mark.parametrize(
    ("line", "code"),
    [("SOUR:VOLT", -109), ("SOUR:VOLT 1,2", -108), ("*RST 3", -108), ("*FOO", -113), ("OUTP maybe", -104)],
)
def test_parameters_too_few_too_many_and_wrong(generator: Generator, line: str, code: int) -> None:
    generator.handle(line)
    assert generator.handle("SYST:ERR?").startswith(str(code).encode())


def test_bounds_can_be_asked_for(generator: Generator) -> None:
    assert generator.handle("SOUR:VOLT? MAX;VOLT? MIN") == b"+1.0000000E+01;+0.0000000E+00"


def test_reset_switches_off_and_common_commands_answer(generator: Generator) -> None:
    generator.handle("SOUR:VOLT 1;FREQ 50;:OUTP ON")
    assert generator.handle("*OPC?;OUTP?;*TST?;SYST:VERS?") == b"1;1;0;1999.0"
    generator.handle("*RST")
    assert generator.handle("OUTP?;SOUR:VOLT?;FREQ?") == b"0;+1.0000000E-01;+1.0000000E+03"
    assert generator.handle("*IDN?").count(b",") == 3
    generator.handle("*CLS;*OPC")
    assert generator.handle("*ESR?") == b"1"
