"""``plinth bench``: a simulated bench until it is told to end."""

import json
import signal
import sys
import threading
from pathlib import Path

from plinth.builds.files import BuildFileError, read_build
from plinth.report.file_out import not_written_words, write_whole
from plinth.simulated_bench.bench import Bench
from plinth.simulated_bench.fault_effects import fault_keys
from plinth.simulated_bench.servers import BenchServers

BAD_INPUT = 2


def run_bench(
    path: Path,
    *,
    fault: str | None,
    speed: float,
    seed: int,
    as_json: bool,
    ends_with_input: bool = False,
    truth: Path | None = None,
) -> int:
    """Serve the build in ``path`` until SIGTERM or SIGINT; 0, or 2 with a sentence on stderr.

    ``ends_with_input``: also once nobody holds its standard input any more. ``truth``: where to write, at the end, what
    has become of the build (as JSON), for whoever holds answers to it.
    """
    try:
        build = read_build(path)
    except BuildFileError as error:
        return _refuse(str(error))
    if fault is not None and fault not in fault_keys():
        return _refuse(f"--fault: found {fault!r}, expected one of {', '.join(fault_keys())}")
    if not 0.1 <= speed <= 1000.0:
        return _refuse(f"--speed: found {speed:g}, expected 0.1 to 1000")
    ended = threading.Event()
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda *_: ended.set())
    if ends_with_input:

        def hear() -> None:
            sys.stdin.buffer.read()
            ended.set()

        threading.Thread(target=hear, daemon=True).start()
    bench = Bench(build, fault, speed, seed)
    with BenchServers(bench) as servers:
        listing = servers.listing()
        if as_json:
            sys.stdout.write(json.dumps({"simulated": True, "build": build.name, "instruments": listing}) + "\n")
        else:
            sys.stdout.write(f"A simulated bench with {build.name}; nothing of it is measured. Ctrl+C ends it.\n")
            sys.stdout.writelines(f"  {row['role']:<14}{row['address']}\n" for row in listing)
        sys.stdout.flush()
        ended.wait()
    if truth is not None:
        try:
            write_whole(truth, json.dumps(bench.truth()) + "\n")
        except OSError as error:
            return _refuse(not_written_words(truth, error))
    return 0


def _refuse(sentence: str) -> int:
    sys.stderr.write(sentence + "\n")
    return BAD_INPUT
