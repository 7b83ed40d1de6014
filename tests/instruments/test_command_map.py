import math
import tomllib
from importlib import resources
from pathlib import Path

import pytest

from plinth.instruments.command_map import (
    AccuracyRow,
    CommandMap,
    MapError,
    filled,
    read_map,
    read_map_file,
    shipped_maps,
)
from plinth.instruments.kinds import GIVES, LIMITED, NEEDS, Action, InstrumentKind

FOLDER = resources.files("plinth.instruments") / "maps"
GENERATOR = (FOLDER / "generic-generator.toml").read_text(encoding="utf-8")
SUPPLY = (FOLDER / "generic-supply.toml").read_text(encoding="utf-8")
METER = (FOLDER / "generic-multimeter.toml").read_text(encoding="utf-8")


def test_every_kind_that_a_test_asks_for_has_a_map_of_its_own_and_one_of_the_simulated_bench() -> None:
    maps = shipped_maps()
    for kind in set(InstrumentKind) - {InstrumentKind.COUNTER, InstrumentKind.SWITCH}:
        own = [each for each in maps if kind in each.kinds]
        assert any(each.simulated for each in own), kind
        assert any(not each.simulated for each in own), kind


@pytest.mark.parametrize("own", shipped_maps(), ids=lambda own: str(own.name))
def test_a_shipped_map_can_do_what_its_kinds_must_and_is_made_safe(own: CommandMap) -> None:
    for kind in own.kinds:
        assert set(NEEDS[kind].must) <= set(own.commands)
        for action in LIMITED.get(kind, ()):
            command = own.commands[action]
            assert command.low is not None
            assert command.high is not None
            assert command.low < command.high
    assert bool(own.safe) == any(kind in GIVES for kind in own.kinds)


def test_only_maps_of_the_simulated_bench_know_an_identity_and_state_an_accuracy() -> None:
    for own in shipped_maps():
        assert bool(own.identity) == own.simulated
        assert own.simulated or not own.accuracy


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("name = ", "found no TOML"),
        (GENERATOR.replace('unit = "V"', 'unit = "mV"'), "found set_volts in mV, expected V"),
        (GENERATOR.replace("high = 10.0", ""), "set_volts without low and high"),
        (GENERATOR.replace("high = 10.0", "high = -1.0"), "set_volts from 0 to -1, expected the lower one first"),
        (GENERATOR.replace("safe = [", "safe = []\nunsafe = ["), "'unsafe', which no map has"),
        (GENERATOR.replace('safe = ["OUTPut:STATe OFF", "SOURce:VOLTage 0"]', ""), "no lines that make it safe"),
        (GENERATOR.replace("{value}", "{volts}"), "found {volts} in"),
        (GENERATOR.replace("commands.set_output", "commands.set_on"), "'set_on' at"),
        (GENERATOR.replace('"function generator"', '"lamp"'), "found 'lamp' at 'kinds.0'"),
        (GENERATOR.partition("[commands.set_output]")[0], "found no command set_output"),
        (GENERATOR.replace('send = "OUTPut:STATe {value}"', ""), "found no line under set_output"),
        (METER.replace("ask = ", "send = "), "found no question under read_"),
        (GENERATOR.replace("kinds", 'identity = "("\nkinds'), "found identity '(', expected a pattern"),
        (SUPPLY.replace("scale", "scale") + "\n[watchdog]\nseconds = 1.0\n", "found no 'watchdog.send'"),
        ("x" * 300_000, "expected a command map of at most"),
        ("", "found no 'name'"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_a_map_is_said(text: str, said: str) -> None:
    with pytest.raises(MapError) as problem:
        read_map(text, "own.toml")
    assert said in str(problem.value)
    assert str(problem.value).startswith("own.toml: ")


def test_a_file_that_is_none_is_said(tmp_path: Path) -> None:
    with pytest.raises(MapError, match="cannot be read"):
        read_map_file(tmp_path / "none.toml")
    (tmp_path / "picture.toml").write_bytes(b"\xff\xfe\x00\xd8")
    with pytest.raises(MapError, match="cannot be read"):
        read_map_file(tmp_path / "picture.toml")
    (tmp_path / "own.toml").write_text(GENERATOR, encoding="utf-8")
    assert read_map_file(tmp_path / "own.toml").name == tomllib.loads(GENERATOR)["name"]


def test_what_some_tests_want_and_it_has_not_is_listed() -> None:
    own = read_map(GENERATOR, "own.toml")
    assert own.lacks == (Action.SET_COUPLED,)
    assert not own.can(Action.SET_COUPLED)


def test_a_line_carries_value_channel_and_place() -> None:
    assert filled("SOURce:VOLTage {value}", 0.1234567891) == "SOURce:VOLTage 0.123456789"
    assert filled("SENSe:FUNCtion{channel} {place}", channel=2, place="PRAil") == "SENSe:FUNCtion2 PRAil"
    assert filled("VOLT {value}", 1.5e-7) == "VOLT 1.5E-07"


def test_its_bounds_become_a_standard_uncertainty() -> None:
    row = AccuracyRow(of_reading=0.01, of_range=0.002, fixed=0.003, ranges=(0.2, 2.0, 20.0))
    # 1 % of 1.5 V, 0.2 % of the 2 V range, 3 mV: rectangular.
    assert row.u(1.5) == pytest.approx((0.015 + 0.004 + 0.003) / math.sqrt(3.0))
    # 20 % above a range the next one is taken.
    assert row.u(2.3) == pytest.approx((0.023 + 0.004 + 0.003) / math.sqrt(3.0))
    assert row.u(-2.5) == pytest.approx((0.025 + 0.04 + 0.003) / math.sqrt(3.0))
    assert AccuracyRow(of_reading=0.01).u(5.0) == pytest.approx(0.05 / math.sqrt(3.0))


def test_the_map_in_the_docs_is_one() -> None:
    text = (Path(__file__).parents[2] / "docs" / "INSTRUMENTS.md").read_text(encoding="utf-8")
    own = read_map(text.partition("```toml\n")[2].partition("```")[0], "docs")
    assert own.fits("Fen,Model one,0001,1.0")
    assert own.commands[Action.READ_VOLTS_AC].scale == 1000.0
    assert own.link.ends_with == "\n"
    # Each kind stands there with what it must know.
    for kind, needs in NEEDS.items():
        row = next(line for line in text.splitlines() if line.startswith(f"| `{kind}` |"))
        assert all(f"`{action}`" in row for action in (*needs.must, *needs.may, *LIMITED.get(kind, ())))
