"""Choose anew what ``make test`` leaves to ``make test-slow``: ``python -m tests.ordinary_run``.

It takes twice as long as all the tests, once: each is asked what it calls (`tests/mutants/calls.py`). What stays:

- tests that together call every function of Plinth that any test calls; those of what computes and judges twice;
- every test that is quick, and of every other function its quickest case, where that does not take long;
- all that hold outputs off, the stop bar, causes that burn, cautions on paper, and what was said to be kept.
"""

import heapq
import sys
from collections import Counter, defaultdict

from tests.mutants.calls import Calls, calls_of_tests
from tests.ordinary_run import LIST

# Seconds with every call watched, a third more than without: quick ones stay, and a function's quickest case.
QUICK_S, CASE_S = 0.40, 2.0
CALLED_TWICE = ("physics", "predict", "record", "judge", "guide", "bench", "session")
ALWAYS = (
    "tests/instruments/test_safety.py", "tests/session/instruments/test_lost_moments.py",
    "tests/session/instruments/test_faults.py", "tests/guide/test_causes_at_random.py", "tests/desk/test_power.py",
    "tests/workshop/test_workshop.py", "tests/workshop/test_damage.py",
    "tests/report/test_report.py::test_what_can_hurt_stands_before_all_else",
)  # fmt: skip


def main() -> int:
    calls = calls_of_tests()
    cases: dict[str, list[str]] = defaultdict(list)
    for test in calls:
        cases[test.partition("[")[0]].append(test)
    stays = _cover(calls) | {test for test, (seconds, _) in calls.items() if seconds <= QUICK_S}
    stays |= {test for test in calls if test.startswith(ALWAYS)}
    for of_function in cases.values():
        quickest = min(of_function, key=lambda test: calls[test][0])
        if calls[quickest][0] <= CASE_S and stays.isdisjoint(of_function):
            stays.add(quickest)
    left = [
        line for function, of_function in cases.items()
        for line in ([function] if stays.isdisjoint(of_function) else set(of_function) - stays)
    ]  # fmt: skip
    LIST.write_text("".join(f"{line}\n" for line in sorted(left)), encoding="utf-8")
    taken_s, all_s = sum(calls[test][0] for test in stays), sum(seconds for seconds, _ in calls.values())
    sys.stdout.write(f"{len(stays)} of {len(calls)} tests stay, {taken_s:.0f} of {all_s:.0f} s\n")
    return 0


def _cover(calls: Calls) -> set[str]:
    """The cheapest tests that call everything as often as it is wanted: always the one that gives most for its time."""
    callers = Counter(name for _, names in calls.values() for name in names)
    wanted = {name: min(2 if name.startswith(CALLED_TWICE) else 1, count) for name, count in callers.items()}

    def worth(test: str) -> float:
        seconds, names = calls[test]
        return -sum(wanted[name] > 0 for name in names) / max(seconds, 0.03)

    waiting = [(worth(test), test) for test in calls]
    heapq.heapify(waiting)
    chosen: set[str] = set()
    while waiting:
        _, test = heapq.heappop(waiting)
        now = worth(test)
        if waiting and now > waiting[0][0]:
            # What it gave has been given by others since.
            heapq.heappush(waiting, (now, test))
        elif now < 0.0:
            chosen.add(test)
            wanted.update((name, wanted[name] - 1) for name in calls[test][1])
    return chosen


if __name__ == "__main__":
    raise SystemExit(main())
