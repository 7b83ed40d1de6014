"""The bench over real sockets: with PyVISA, in a process of its own, with clients that misbehave."""

import json
import re
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
import pyvisa
from pyvisa.resources import MessageBasedResource

from plinth.builds.files import read_build
from plinth.cli.main import main
from plinth.simulated_bench.bench import Bench
from plinth.simulated_bench.servers import BenchServers
from tests.simulated_bench.benches import STAGE

ROLES = {"mains", "generator", "digitiser", "meter", "second meter", "supply", "load", "thermometer"}
ROOT = Path(__file__).parents[2]


@pytest.fixture(scope="module")
def listing() -> Iterator[dict[str, str]]:
    with BenchServers(Bench(read_build(STAGE))) as servers:
        yield {row["role"]: row["address"] for row in servers.listing()}


def link_to(address: str) -> socket.socket:
    port = int(address.split("::")[2])
    link = socket.create_connection(("127.0.0.1", port), timeout=10.0)
    link.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    return link


def said(link: socket.socket, line: bytes) -> bytes:
    link.sendall(line)
    answer = b""
    while not answer.endswith(b"\n"):
        part = link.recv(65_536)
        if not part:
            break
        answer += part
    return answer.rstrip(b"\n")


def test_everything_listens_on_the_loopback_interface_alone(listing: dict[str, str]) -> None:
    assert set(listing) == ROLES
    assert all(re.fullmatch(r"TCPIP::127\.0\.0\.1::\d+::SOCKET", address) for address in listing.values())


def test_what_is_set_on_one_counts_for_what_is_asked_of_another(listing: dict[str, str]) -> None:
    generator, meter, mains = (link_to(listing[role]) for role in ("generator", "meter", "mains"))
    said(mains, b"*RST;OUTP ON;*OPC?\n")
    gain = read_build(STAGE).module.gain
    for volts in (0.1, 0.3, 0.05, 0.2) * 3:
        # Nobody waits for the generator: its line is there before the meter's.
        generator.sendall(f"SOUR:VOLT {volts};:OUTP ON\n".encode())
        assert float(said(meter, b"MEAS:VOLT:AC?\n")) == pytest.approx(volts * gain, rel=3e-3)
    said(mains, b"*RST;*OPC?\n")
    for link in (generator, meter, mains):
        link.close()


def test_lines_in_pieces_and_several_at_once(listing: dict[str, str]) -> None:
    with link_to(listing["generator"]) as link:
        link.sendall(b"*CLS\n*ID")
        assert b"function generator" in said(link, b"N?\r\n")
        assert said(link, b"SOUR:FREQ 440\nSOUR:FREQ?\n") == b"+4.4000000E+02"
        link.sendall(b"SOUR:FREQ 500;FREQ?\nSOUR:FREQ 600;FREQ?\n")
        answers = b""
        while answers.count(b"\n") < 2:
            answers += link.recv(4096)
        assert answers.split() == [b"+5.0000000E+02", b"+6.0000000E+02"]


def test_garbage_and_endless_lines_do_not_stop_it(listing: dict[str, str]) -> None:
    with link_to(listing["load"]) as link:
        said(link, b"*CLS;*OPC?\n")
        link.sendall(bytes(range(128, 256)) + b"\n")
        assert said(link, b"SYST:ERR?\n").startswith(b"-101")
        link.sendall(b"A" * 200_000 + b"\n")
        assert said(link, b"*IDN?\n").startswith(b"Plinth")
        assert said(link, b"SYST:ERR?\n").startswith(b"-363")
    with link_to(listing["load"]) as link:
        link.sendall(b"SOUR:RES 12")
    with link_to(listing["load"]) as link:
        assert said(link, b"SOUR:RES?\n") == b"+8.0000000E+00"


def test_a_client_that_goes_in_the_middle_of_a_block_harms_nobody(listing: dict[str, str]) -> None:
    with link_to(listing["digitiser"]) as link:
        link.sendall(b"SENS:SWE:POIN 400000;:INIT;:FETC1?\n")
        link.recv(10)
    with link_to(listing["digitiser"]) as link:
        assert said(link, b"*RST;*IDN?\n").startswith(b"Plinth")


def test_a_block_over_visa(listing: dict[str, str]) -> None:
    manager = pyvisa.ResourceManager("@py")
    digitiser = manager.open_resource(listing["digitiser"], read_termination="\n", write_termination="\n")
    assert isinstance(digitiser, MessageBasedResource)
    digitiser.write("*RST;:SENS:SWE:POIN 5000;:INIT")
    values = digitiser.query_binary_values("FETC2?", datatype="f", is_big_endian=True)
    assert len(values) == 5000
    digitiser.close()
    manager.close()


def test_the_script_of_the_docs_runs_on_a_bench_of_its_own(tmp_path: Path) -> None:
    text = (ROOT / "docs" / "INSTRUMENTS.md").read_text()
    script = re.search(r"```python\n(.*?)```", text, re.DOTALL)
    assert script is not None
    lines = [line for line in script.group(1).splitlines() if line.strip()]
    assert len(lines) <= 18
    file = tmp_path / "first.py"
    file.write_text(script.group(1))
    done = subprocess.run(
        [sys.executable, str(file)], capture_output=True, text=True, timeout=120, cwd=ROOT, check=False
    )
    assert done.returncode == 0, done.stderr
    assert float(done.stdout.split()[-1]) == pytest.approx(read_build(STAGE).module.gain, rel=3e-3)


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGINT])
def test_it_prints_one_line_and_ends_when_told(number: signal.Signals) -> None:
    process = subprocess.Popen(
        [sys.executable, "-m", "plinth", "bench", str(STAGE), "--json", "--speed", "20", "--fault", "offset"],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
    )  # fmt: skip
    assert process.stdout is not None
    answer = json.loads(process.stdout.readline())
    assert {row["role"] for row in answer["instruments"]} == ROLES
    assert answer["simulated"] is True
    with link_to(answer["instruments"][0]["address"]) as link:
        assert said(link, b"*IDN?\n").decode() == answer["instruments"][0]["idn"]
    process.send_signal(number)
    out, err = process.communicate(timeout=60)
    assert (process.returncode, out, err) == (0, "", "")


@pytest.mark.parametrize(
    ("words", "said_words"),
    [(["--fault", "gremlins"], "gremlins"), (["--speed", "0"], "--speed"), (["--speed", "nan"], "--speed")],
)
def test_what_cannot_be_served_is_refused(
    capsys: pytest.CaptureFixture[str], words: list[str], said_words: str
) -> None:
    assert main(["bench", str(STAGE), *words]) == 2
    assert said_words in capsys.readouterr().err
    assert main(["bench", str(ROOT / "none.json")]) == 2
    assert "none.json" in capsys.readouterr().err
