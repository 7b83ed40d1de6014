import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinth.builds.build import Build
from plinth.builds.files import BuildFileError, build_schema, parse_build, parse_situation, read_build
from plinth.builds.history import History
from plinth.builds.instruments import Instrument, Role
from plinth.builds.stations import STATIONS, part_in, with_part
from plinth.demo import shelf
from plinth.demo.builds import BUILDS, STAGE_PAIR
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
