import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from plinth.builds.build import Build
from plinth.builds.files import BuildFileError, build_schema, parse_build, parse_situation, read_build
from plinth.builds.history import History
from plinth.builds.instrument_texts import (
    accuracy_text,
    bandwidth_text,
    fixed_text,
    ranges_text,
    read_accuracy,
    read_bandwidth,
    read_fixed,
    read_ranges,
)
from plinth.builds.instruments import USUAL, BenchKit, Instrument, Range, Role, unknown_kit
from plinth.builds.stations import STATIONS, part_in, with_part
from plinth.demo import shelf
from plinth.demo.builds import BUILDS, STAGE_PAIR
from plinth.units.errors import QuantityError
from tests.sample_builds import linear

EXAMPLES = Path(__file__).parents[2] / "examples"


@pytest.mark.parametrize("build", BUILDS, ids=lambda b: b.name)
def test_examples_hold_the_demo_builds(build: Build) -> None:
    assert read_build(EXAMPLES / f"{build.name.lower().replace(' ', '-')}.json") == build


def test_builds_survive_json() -> None:
    for build in BUILDS:
        assert parse_build(build.model_dump_json(), "here") == build


def test_builds_are_frozen() -> None:
    with pytest.raises(ValueError, match="frozen"):
        STAGE_PAIR.name = "other"  # type: ignore[misc]


def changed(path: str, value: object) -> str:
    document = json.loads(STAGE_PAIR.model_dump_json())
    target = document
    *steps, last = path.split(".")
    for step in steps:
        target = target[step]
    target[last] = value
    return json.dumps(document)


@pytest.mark.parametrize(
    ("path", "value", "found", "expected"),
    [
        ("supply.reservoir.c_f", -0.01, "-0.01", "at least 1e-06"),
        ("supply.reservoir.c_f", "big", "'big'", "a number"),
        ("supply.reservoir.c_f", None, "None", "a number"),
        ("supply.transformer.va", 1e12, "1000000000000.0", "at most 20000"),
        ("supply.transformer.core", "air", "'air'", "'toroid' or 'ei'"),
        ("supply.transformer.hue", 3, "unknown field", "only the fields"),
        ("module", 4, "4", "expected"),
        ("channels", [], "[]", "at least 1 item"),
        ("channels", ["left", "left"], "left, left", "each name once"),
        ("mains", "230", "'230'", "JSON object"),
        ("schema_version", 9, "9", "expected 1"),
    ],
)
def test_a_wrong_value_gets_one_sentence(path: str, value: object, found: str, expected: str) -> None:
    with pytest.raises(BuildFileError) as caught:
        parse_build(changed(path, value), "x.json")
    assert len(caught.value.sentences) == 1
    sentence = caught.value.sentences[0]
    assert sentence.startswith(f"x.json: {path}")
    assert found in sentence
    assert expected in sentence


@pytest.mark.parametrize("number", ["NaN", "Infinity", "-Infinity", "1e999"])
def test_numbers_that_are_none_are_refused(number: str) -> None:
    text = changed("supply.reservoir.c_f", 12345.5).replace("12345.5", number)
    with pytest.raises(BuildFileError, match="finite number"):
        parse_build(text, "x.json")


@pytest.mark.parametrize("text", ["", "{", "[1, 2]", "3", "null", '{"name": }', "[" * 100_000])
def test_what_is_no_build_is_refused(text: str) -> None:
    with pytest.raises(BuildFileError, match=r"x\.json: (.*found.*expected|.*expected)"):
        parse_build(text, "x.json")


@given(st.text(max_size=200))
def test_no_text_whatever_ends_in_another_error(text: str) -> None:
    with pytest.raises(BuildFileError):
        parse_build(text, "x.json")


def test_files_that_cannot_be_read_are_named(tmp_path: Path) -> None:
    with pytest.raises(BuildFileError, match="No such file"):
        read_build(tmp_path / "none.json")
    with pytest.raises(BuildFileError, match="found no readable file"):
        read_build(tmp_path)
    (tmp_path / "bytes.json").write_bytes(b"\xff\xfe\x00")
    with pytest.raises(BuildFileError, match="UTF-8"):
        read_build(tmp_path / "bytes.json")
    big = tmp_path / "big.json"
    big.write_bytes(b" " * 4_000_001)
    with pytest.raises(BuildFileError, match="4 MB"):
        read_build(big)


def test_two_bridges_need_two_secondaries() -> None:
    with pytest.raises(BuildFileError, match="two bridges on a centre tap"):
        parse_build(changed("supply.transformer.secondaries", "centre_tap"), "x.json")


def test_a_module_needs_a_quiescent_current() -> None:
    document = json.loads(STAGE_PAIR.model_dump_json(exclude_none=True))
    del document["module"]["bias"]
    with pytest.raises(BuildFileError, match="neither bias nor i_quiescent_stated_a"):
        parse_build(json.dumps(document), "x.json")


def test_situations_are_read_from_words() -> None:
    situation = parse_situation(["load_ohm=8", "channels_driven=one", "level=0.5"])
    assert (situation.load_ohm, situation.channels_driven, situation.level) == (8.0, "one", 0.5)
    assert situation.driven(STAGE_PAIR) == 1
    assert situation.mains_rms(STAGE_PAIR) == 230.0
    for words, says in (
        ("load_ohm", "key=value"),
        ("lod=8", "'lod'"),
        ("level=nan", "finite"),
        ("level=2", "at most 1"),
    ):
        with pytest.raises(BuildFileError, match=says):
            parse_situation([words])


def test_the_schema_names_every_station_of_a_build() -> None:
    schema = build_schema()
    assert set(Build.model_fields) == set(schema["properties"])
    assert "Transformer" in schema["$defs"]


def test_parts_are_exchanged_in_their_station_only() -> None:
    other = with_part(STAGE_PAIR, "supply.transformer", shelf.RING_330)
    assert part_in(other, "supply.transformer") == shelf.RING_330
    assert other.model_copy(update={"supply": STAGE_PAIR.supply}) == STAGE_PAIR
    tapped = with_part(STAGE_PAIR, "supply.transformer", shelf.STACK_120)
    assert linear(tapped).rectifier.bridges == "one"
    assert STATIONS[0].key == "wall"
    assert len(STATIONS) == 8


def test_the_shelf_offers_a_choice() -> None:
    kinds = [type(part).__name__ for part in shelf.SHELF]
    assert kinds.count("Transformer") >= 3
    assert kinds.count("Reservoir") >= 3
    assert kinds.count("ClassABModule") >= 3
    assert kinds.count("Load") >= 2


@given(st.lists(st.one_of(st.integers(0, 5), st.sampled_from(["undo", "redo"])), max_size=40))
def test_history_is_a_line_with_a_cursor(actions: list[int | str]) -> None:
    history, line, at = History(-1), [-1], 0
    for action in actions:
        if action == "undo":
            history.undo()
            at = max(0, at - 1)
        elif action == "redo":
            history.redo()
            at = min(len(line) - 1, at + 1)
        elif history.change(int(action), str(action)):
            line, at = [*line[: at + 1], int(action)], at + 1
        assert history.state == line[at]
        assert history.can_undo == (at > 0)
        assert history.can_redo == (at < len(line) - 1)


def test_history_tells_what_it_undid() -> None:
    history = History("a")
    history.change("b", "to b")
    assert history.undo() == "to b"
    assert history.redo() == "to b"
    assert history.redo() is None


def test_instrument_accuracy_is_rectangular_and_may_be_unknown() -> None:
    meter = Instrument(name="m", role=Role.METER, accuracy=0.01, floor=0.02)
    assert meter.u(10.0) == pytest.approx(0.12 / 3**0.5)
    assert Instrument(name="m", role=Role.METER).u(10.0) is None


def test_the_fixed_part_of_an_accuracy_goes_by_the_range_that_holds_the_reading() -> None:
    meter = Instrument(
        name="m", role=Role.METER, accuracy=0.005, floor=0.001, digits=3.0,
        ranges=(Range(top=40.0, digit=0.01), Range(top=4.0, digit=0.001)),
    )  # fmt: skip
    for value, fixed in ((3.9, 0.001 + 0.003), (-4.0, 0.001 + 0.003), (4.1, 0.001 + 0.03), (60.0, 0.001 + 0.03)):
        assert meter.fixed(value) == pytest.approx(fixed)
        assert meter.u(value) == pytest.approx((0.005 * abs(value) + fixed) / 3**0.5)


def test_a_kit_is_a_list_of_any_length_and_reads_those_of_before() -> None:
    before = {str(role): {"name": role.words, "kind": str(role), "accuracy": 0.01} for role in USUAL}
    kit = BenchKit.model_validate(before)
    assert [one.role for one in kit.instruments] == list(USUAL)
    assert BenchKit.model_validate(kit.model_dump(mode="json")) == kit
    second = Instrument(name="Second meter", role=Role.METER, accuracy=0.002)
    clamp = Instrument(name="Clamp", role=Role.CLAMP_METER, accuracy=0.02)
    more = kit.model_copy(update={"instruments": (*kit.instruments, second, clamp)})
    assert more.of(Role.METER).accuracy == 0.01, "of two the first is read from"
    assert more.of(Role.CLAMP_METER) == clamp
    assert more.of(Role.GENERATOR) == Instrument(name="generator", role=Role.GENERATOR)
    assert [one.role for one in unknown_kit().listed] == list(USUAL)
    assert more.listed == more.instruments
    with pytest.raises(ValidationError):
        BenchKit.model_validate({**before, "wobble": {}})


@pytest.mark.parametrize(
    ("text", "unit", "meant"),
    [("2 mV", "V", (0.002, 0.0)), ("3 digits", "V", (0.0, 3.0)), ("2 mV + 3 dgts", "V", (0.002, 3.0)),
     ("", "V", (0.0, 0.0)), ("0.02", "ohm", (0.02, 0.0))],
)  # fmt: skip
def test_a_fixed_part_is_read_as_data_sheets_state_it(text: str, unit: str, meant: tuple[float, float]) -> None:
    assert read_fixed(text, unit) == pytest.approx(meant)


def test_an_instrument_s_texts_are_read_back_and_nonsense_is_refused() -> None:
    ranges = read_ranges("400 mV/0.1 mV; 4/0.001; 40 V/10 mV", "V")
    assert [one.top for one in ranges] == pytest.approx([0.4, 4.0, 40.0])
    assert [one.digit for one in ranges] == pytest.approx([1e-4, 1e-3, 1e-2])
    meter = Instrument(
        name="m", role=Role.METER, accuracy=0.005, digits=3, floor=0.002, bandwidth_hz=20e3, ranges=ranges
    )  # fmt: skip
    assert read_accuracy(accuracy_text(meter)) == 0.005
    assert read_fixed(fixed_text(meter), "V") == (0.002, 3.0)
    assert read_ranges(ranges_text(meter), "V") == ranges
    assert read_bandwidth(bandwidth_text(meter)) == 20e3
    assert (read_accuracy(" "), read_bandwidth("")) == (None, None)
    for read, text, why in (
        (read_accuracy, "120", "0 to 90"), (read_accuracy, "lots", "expected a number"),
        (lambda t: read_fixed(t, "V"), "-2 mV", "0 or more"), (lambda t: read_fixed(t, "V"), "2000 digits", "at most"),
        (lambda t: read_ranges(t, "V"), "4", "last digit"), (lambda t: read_ranges(t, "V"), "4/5", "below"),
        (lambda t: read_ranges(t, "V"), "4/0.1; 4/0.01", "once"), (read_bandwidth, "50 Hz", "at least 100"),
    ):  # fmt: skip
        with pytest.raises(QuantityError, match=why):
            read(text)
