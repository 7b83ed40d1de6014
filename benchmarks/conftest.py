"""Prints the ratio of every pair of benchmarks named ``X`` and ``X (baseline)`` at the end."""

from typing import Any


def pytest_terminal_summary(terminalreporter: Any, config: Any) -> None:
    session = getattr(config, "_benchmarksession", None)
    if session is None or not session.benchmarks:
        return
    medians = {bench.name: bench.stats.median for bench in session.benchmarks if bench.stats.data}
    terminalreporter.section("against the plain scipy baseline, in this run")
    for name, median in medians.items():
        slow = medians.get(name.replace("test_plinth_", "test_baseline_"))
        if name.startswith("test_plinth_") and slow:
            words = name.removeprefix("test_plinth_").replace("_", " ")
            terminalreporter.write_line(f"{words:<44}{1e3 * median:9.2f} ms   {slow / median:8.0f} times faster")
        elif name.startswith("test_alone_"):
            words = name.removeprefix("test_alone_").replace("_", " ")
            terminalreporter.write_line(f"{words:<44}{1e3 * median:9.2f} ms")
