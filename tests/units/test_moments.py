"""The time of day by twelve or twenty-four hours, against what the C library of the same place writes."""

import datetime as dt

import pytest

from plinth.units.moments import by_twelve, clock, day_and_clock


@pytest.mark.parametrize(
    ("said", "twelve"),
    [
        ({"LANG": "en_US.UTF-8"}, True), ({"LANG": "en_GB.UTF-8"}, False), ({"LANG": "de_DE@euro"}, False),
        ({"LANG": "en_US.UTF-8", "LC_TIME": "en_DK.UTF-8"}, False), ({"LANG": "de_DE", "LC_ALL": "en_AU"}, True),
        ({"LANG": "", "LC_TIME": "", "LC_ALL": ""}, False), ({}, False), ({"LANG": "C.UTF-8"}, False),
        ({"LANG": "fr_CA.UTF-8"}, False), ({"LANG": "en_CA.UTF-8"}, True), ({"LANG": "POSIX"}, False),
    ],
)  # fmt: skip
def test_the_place_says_how_hours_are_counted(said: dict[str, str], twelve: bool) -> None:
    assert by_twelve(said) is twelve


def test_every_minute_of_a_day_is_told_apart_and_as_strftime_has_it() -> None:
    day = [dt.datetime(2026, 12, 1) + dt.timedelta(minutes=k) for k in range(24 * 60)]
    for twelve in (True, False):
        assert len({clock(at, twelve=twelve) for at in day}) == len(day)
    for at in day:
        assert clock(at, twelve=False) == at.strftime("%H:%M")
        assert clock(at, twelve=True) == at.strftime("%I:%M %p").lstrip("0").lower()
    assert [clock(at, twelve=True) for at in (day[0], day[720], day[845])] == ["12:00 am", "12:00 pm", "2:05 pm"]
    assert day_and_clock(day[845], twelve=True) == "Tue 01 Dec, 2:05 pm"
    assert day_and_clock(day[845], twelve=False) == "Tue 01 Dec, 14:05"
