"""Other processes that help: they change how long an answer takes, never which it is, whatever becomes of them."""

import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from plinth.builds.situation import Situation
from plinth.physics.numbers.cancellation import while_wanted
from plinth.physics.numbers.errors import GivenUpError
from plinth.predict.curve import Over, curve, figure_map, what_can_vary
from plinth.predict.quick_estimate import well_known
from plinth.predict.solve import solve
from plinth.processes import worker_pool
from plinth.shelf.consequence import Here, consequence
from tests.family import FAMILY, FEW
from tests.turns import in_turn


def squared(common: int, item: int) -> tuple[int, int]:
    return common + item * item, os.getpid()


def slow(_common: object, item: float) -> int:
    time.sleep(item)
    return os.getpid()


def picky(common: int, item: int) -> int:
    if item == common:
        raise ValueError(f"found {item}")
    return item


@pytest.fixture(scope="module")
def helped() -> Iterator[None]:
    worker_pool.start((__name__, "plinth.shelf.consequence", "plinth.predict.curve"), 1)
    until_ready()
    yield
    worker_pool.end()


def until_ready() -> None:
    while worker_pool.share(slow, None, (0.01, 0.01, 0.01, 0.01)).count(os.getpid()) == 4:
        assert not worker_pool.running()[0].lost
        time.sleep(0.05)


def test_without_helpers_all_is_done_here() -> None:
    assert worker_pool.running() == ()
    shares: list[float] = []
    found = worker_pool.share(squared, 3, range(4), shares.append)
    assert found == [(3 + k * k, os.getpid()) for k in range(4)]
    assert shares == [0.25, 0.5, 0.75, 1.0]
    assert worker_pool.share(squared, 3, ()) == []


def test_answers_come_in_their_order_whoever_gives_them(helped: None) -> None:
    found = worker_pool.share(squared, 3, range(400))
    assert [value for value, _ in found] == [3 + k * k for k in range(400)]
    assert len({who for _, who in worker_pool.share(slow_and_who, None, (0.02,) * 8)}) == 2
    # Another common thing, then the same again.
    assert [value for value, _ in worker_pool.share(squared, 5, range(9))] == [5 + k * k for k in range(9)]


def slow_and_who(common: object, item: float) -> tuple[int, int]:
    return 0, slow(common, item)


def test_what_falls_there_falls_here_too(helped: None) -> None:
    with pytest.raises(ValueError, match="found 30"):
        worker_pool.share(picky, 30, range(40))
    # And nothing of it is left over.
    assert worker_pool.share(picky, -1, range(40)) == list(range(40))


def test_one_that_nobody_waits_for_ends_and_leaves_nothing_behind(helped: None) -> None:
    asked = iter(range(1000))
    with pytest.raises(GivenUpError, match="no more"), while_wanted(lambda: "no more" if next(asked) > 2 else ""):
        worker_pool.share(slow, None, (0.02,) * 50)
    assert [value for value, _ in worker_pool.share(squared, 1, range(30))] == [1 + k * k for k in range(30)]


def test_two_askers_do_not_mix(helped: None) -> None:
    found: dict[int, list[tuple[int, int]]] = {}

    def ask(common: int) -> None:
        found[common] = worker_pool.share(squared, common, range(200))

    threads = [threading.Thread(target=ask, args=(common,)) for common in (1000, 5000)]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    for common, values in found.items():
        assert [value for value, _ in values] == [common + k * k for k in range(200)]


@pytest.mark.parametrize("name", in_turn(FEW, 4))
def test_a_row_and_a_map_are_the_same_with_help(name: str, helped: None) -> None:
    build = FAMILY[name]
    prediction = solve(build)
    here = Here(well_known(prediction), "sink")
    sinks = [build.sink.model_copy(update={"r_k_per_w": 0.2 + 0.1 * k}) for k in range(6)]
    rows = worker_pool.share(consequence, here, sinks)
    for row, alone_row in zip(rows, [consequence(here, sink) for sink in sinks], strict=True):
        assert (row.watts, row.room) == pytest.approx((alone_row.watts, alone_row.room), rel=1e-12, nan_ok=True)
        assert (row.why_not, row.rail) == (alone_row.why_not, alone_row.rail)
        assert row.margin is not None
        assert alone_row.margin is not None
        assert row.margin.key == alone_row.margin.key
    across, up = (one for one in what_can_vary(build, Situation()) if one.key in ("load_ohm", "ambient_c"))
    with_help = figure_map(prediction, "sink_c", across, up, (4, 3))
    along = curve(prediction, "clip_power_w", Over("load_ohm", "load", "ohm", 2.0, 16.0, of_situation=True), 7)
    taken = worker_pool.running()[0].taken
    with taken:
        # Taken by others: all is done here.
        alone = figure_map(prediction, "sink_c", across, up, (4, 3))
        along_alone = curve(prediction, "clip_power_w", along.over, 7)
    assert with_help.value == pytest.approx(alone.value, rel=1e-12, nan_ok=True)
    assert along.value == pytest.approx(along_alone.value, rel=1e-12, nan_ok=True)


def test_one_that_is_killed_is_done_without(helped: None) -> None:
    process = worker_pool.running()[0].process

    def kill() -> None:
        time.sleep(0.1)
        assert process.pid is not None
        os.kill(process.pid, signal.SIGKILL)

    killer = threading.Thread(target=kill)
    killer.start()
    assert len(worker_pool.share(slow, None, (0.02,) * 40)) == 40
    killer.join()
    process.join()
    assert [value for value, _ in worker_pool.share(squared, 3, range(9))] == [3 + k * k for k in range(9)]
    assert worker_pool.running()[0].lost


def test_a_killed_helper_is_replaced_and_a_stopped_one_ends() -> None:
    """Killed by the system for want of room, or stopped by somebody: neither outlives the window."""
    worker_pool.end()
    worker_pool.start((__name__,), 1)
    (first,) = worker_pool.running()
    assert first.process.pid is not None
    os.kill(first.process.pid, signal.SIGKILL)
    first.process.join()
    assert first.gone
    worker_pool.start((__name__,), 1)
    (second,) = worker_pool.running()
    assert second is not first
    assert not second.gone
    # What runs stays.
    worker_pool.start((__name__,), 1)
    assert worker_pool.running() == (second,)
    until_ready()
    assert second.process.pid is not None
    os.kill(second.process.pid, signal.SIGSTOP)
    worker_pool.end()
    assert worker_pool.running() == ()
    assert not second.process.is_alive()


def test_a_stopped_helper_goes_with_the_process_that_started_it() -> None:
    """A window that is killed cannot end it: the system does."""
    code = (
        "import os, signal, sys, time\n"
        "from plinth.processes import worker_pool\n"
        "if __name__ == '__main__':\n"
        "    worker_pool.start(('math',), 1)\n"
        "    one = worker_pool.running()[0]\n"
        "    while not one.ready:\n"
        "        one.collect()\n"
        "        time.sleep(0.02)\n"
        "    os.kill(one.process.pid, signal.SIGSTOP)\n"
        "    sys.stdout.write(str(one.process.pid))\n"
        "    sys.stdout.flush()\n"
        "    os.kill(os.getpid(), signal.SIGKILL)\n"
    )
    with tempfile.TemporaryDirectory() as folder:
        script = Path(folder) / "window.py"
        script.write_text(code)
        run = subprocess.run([sys.executable, str(script)], capture_output=True, text=True, timeout=120, check=False)
    assert run.returncode == -signal.SIGKILL
    helper = int(run.stdout)
    for _ in range(600):
        try:
            state = Path(f"/proc/{helper}/stat").read_text().rpartition(")")[2].split()[0]
        except OSError:
            return
        if state in ("Z", "X"):
            return
        time.sleep(0.05)
    os.kill(helper, signal.SIGKILL)
    pytest.fail("a stopped helper outlived the process that started it")
