"""What the ordinary run leaves for later is there to be run later."""

import pytest

from tests.conftest import NAMES_NO_TEST
from tests.ordinary_run import left_for_later


def test_whatever_is_left_for_later_is_a_test(request: pytest.FixtureRequest) -> None:
    config = request.config
    whole = config.args == config.getini("testpaths")
    collected = {item.nodeid.partition("::")[0] for item in request.session.items}
    unknown = [line for line in config.stash[NAMES_NO_TEST] if whole or line.partition("::")[0] in collected]
    assert unknown == []


def test_no_test_is_left_twice() -> None:
    left = left_for_later()
    assert len(set(left)) == len(left)
    functions = {line for line in left if "[" not in line}
    assert not [line for line in left if "[" in line and line.partition("[")[0] in functions]
