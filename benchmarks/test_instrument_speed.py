"""What talk with instruments costs on the simulated bench: a query beside one over a plain socket; the start."""

import socket
from collections.abc import Iterator

import pytest
from pytest_benchmark.fixture import BenchmarkFixture
from tests.session.instruments.practice import Practice, practice

from plinth.instruments.client import InstrumentProcess
from plinth.instruments.kinds import Action


@pytest.fixture(scope="module")
def own(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Practice]:
    with practice("stage-pair", tmp_path_factory.mktemp("bench")) as made:
        yield made


def _meter(own: Practice) -> tuple[str, int]:
    address = next(each.address for each in own.session.instruments.bench.instruments if each.name == "meter")
    _, host, port, _ = address.split("::")
    return host, int(port)


def test_plinth_query_over_the_process(benchmark: BenchmarkFixture, own: Practice) -> None:
    meter = next(each for each in own.session.instruments.bench.instruments if each.name == "meter")
    value = benchmark(lambda: own.session.instruments.read_now(meter, Action.READ_VOLTS_DC))
    assert abs(value) < 1.0


def test_baseline_query_over_the_process(benchmark: BenchmarkFixture, own: Practice) -> None:
    with socket.create_connection(_meter(own)) as line:
        line.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)

        def ask() -> float:
            line.sendall(b"MEASure:VOLTage:DC?\n")
            return float(line.recv(200))

        assert abs(benchmark(ask)) < 1.0


def test_alone_start_of_talker_and_guard(benchmark: BenchmarkFixture) -> None:
    made: list[InstrumentProcess] = []

    def start() -> None:
        made.append(InstrumentProcess())
        made[-1].make_safe()

    benchmark.pedantic(start, rounds=3)  # type: ignore[no-untyped-call]
    for process in made:
        process.end()
