"""A workshop read from the command line: contents, report, comparison, search; and every refusal with one sentence."""

import contextlib
import dataclasses
import io
import itertools
import json
import re
import shutil
from pathlib import Path
from typing import Any

import pypdf
import pytest

from plinth.builds.build import Fitted
from plinth.cli.main import main
from plinth.predict.solve import solve
from plinth.workshop.store import open_workshop
from tests.demo_copy import demo_as_made

ROOT = Path(__file__).parents[2]


@pytest.fixture
def workshop(tmp_path: Path) -> Path:
    path = tmp_path / "theatre.plinth"
    shutil.copy(demo_as_made(), path)
    return path


def run(capsys: pytest.CaptureFixture[str], *words: str | Path) -> tuple[int, str, str]:
    status = main([str(word) for word in words])
    out, err = capsys.readouterr()
    return status, out, err


def document(capsys: pytest.CaptureFixture[str], *words: str | Path) -> dict[str, Any]:
    status, out, err = run(capsys, *words, "--json")
    assert (status, err) == (0, "")
    return dict(json.loads(out))


def test_the_list_counts_what_is_there(workshop: Path, capsys: pytest.CaptureFixture[str]) -> None:
    listed = document(capsys, "list", workshop)
    kept = open_workshop(workshop)
    try:
        builds = kept.builds()
        assert [row["name"] for row in listed["builds"]] == [stored.build.name for stored in builds]
        first = listed["builds"][0]
        lines = kept.diary(builds[0].id)
        assert first["lines"] == len(lines) > 0
        assert first["readings"] == sum(line.reading is not None for line in lines) > 0
        assert first["version"] == len(kept.versions(builds[0].id)) >= 1
        assert first["photos"] == len(kept.photos(builds[0].id))
        assert listed["parts"] == len(kept.items())
    finally:
        kept.close()
    status, out, _ = run(capsys, "list", workshop)
    assert status == 0
    assert "name Stage pair" in out


def test_a_report_as_data_is_that_of_the_engine(workshop: Path, capsys: pytest.CaptureFixture[str]) -> None:
    report = document(capsys, "report", workshop, "Stage pair")
    kept = open_workshop(workshop)
    try:
        stored = next(each for each in kept.builds() if each.build.name == "Stage pair")
        prediction = solve(stored.build, stored.situation)
        readings = [line.reading for line in kept.diary(stored.id) if line.reading is not None]
    finally:
        kept.close()
    assert report["figures"]["clip_power_w"]["value"] == pytest.approx(prediction["clip_power_w"].value)
    assert [row["value"] for row in report["readings"]] == [reading.value for reading in readings]
    assert report["readings"][0]["taken_at"] == readings[0].taken_at.isoformat()
    assert report["build"]["name"] == "Stage pair"
    assert {row["does_not_count"] for row in report["readings"]} == {""}
    assert {row["state"] for row in report["margins"].values()} <= {"clear", "close", "over", "unknown"}


# In one process with the window's tests there is one application, of the kind that they need.
@pytest.mark.usefixtures("qapp")
def test_each_paper_and_what_a_report_leaves_out(
    workshop: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    table, record, short = (tmp_path / name for name in ("table.html", "record.html", "short.html"))
    assert run(capsys, "report", workshop, "Stage pair", "--as", "power-table", "--html", table) == (0, "", "")
    assert "Read" not in table.read_text()[:200]
    assert "253 V mains" in table.read_text()
    assert run(capsys, "report", workshop, "Stage pair", "--as", "build-record", "--html", record) == (0, "", "")
    assert "Before you open it" in record.read_text()
    without = ("report", workshop, "Stage pair", "--without", "diary, power-up", "--html", short)
    assert run(capsys, *without) == (0, "", "")
    assert "<h2>Diary</h2>" not in short.read_text()
    assert "<h2>Power up</h2>" not in short.read_text()
    assert "<h2>Parts</h2>" in short.read_text()
    status, _, words = run(capsys, "report", workshop, "Stage pair", "--without", "poems", "--html", tmp_path / "x")
    assert status == 2
    assert "--without: found poems, expected some of in_short" in words
    assert not (tmp_path / "x").exists()


def test_a_report_as_page_and_as_pdf(workshop: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    page, paper = tmp_path / "r.html", tmp_path / "r.pdf"
    assert run(capsys, "report", workshop, "stage pair", "--html", page, "--pdf", paper) == (0, "", "")
    assert "Stage pair" in page.read_text()
    text = " ".join("".join(sheet.extract_text() for sheet in pypdf.PdfReader(paper).pages).split())
    # Plots are pictures on paper, not a heap of their numbers; the first page is A4.
    first = pypdf.PdfReader(paper).pages[0]
    assert sum(len(sheet.images) for sheet in pypdf.PdfReader(paper).pages) >= 2
    assert (round(float(first.mediabox.width)), round(float(first.mediabox.height))) == (595, 842)
    letter = tmp_path / "l.pdf"
    assert run(capsys, "report", workshop, "stage pair", "--pdf", letter, "--paper", "letter") == (0, "", "")
    box = pypdf.PdfReader(letter).pages[0].mediabox
    assert (round(float(box.width)), round(float(box.height))) == (612, 792)
    assert "Stage pair" in text
    # What exists is replaced only when it is said; a workshop never.
    status, _, err = run(capsys, "report", workshop, "Stage pair", "--html", page)
    assert (status, "--force" in err) == (2, True)
    assert run(capsys, "report", workshop, "Stage pair", "--html", page, "--force")[0] == 0
    before = workshop.read_bytes()
    status, _, err = run(capsys, "report", workshop, "Stage pair", "--html", workshop, "--force")
    assert (status, "workshop" in err) == (2, True)
    assert workshop.read_bytes() == before


def test_two_builds_beside_each_other(workshop: Path, capsys: pytest.CaptureFixture[str]) -> None:
    compared = document(capsys, "compare", workshop, "Stage pair", "Foyer")
    assert compared["builds"] == ["Stage pair", "Foyer"]
    assert compared["differs"]
    row = compared["figures"]["clip_power_w"]
    assert row["difference"] == pytest.approx(row["values"][1] - row["values"][0])
    assert row["spread"] == pytest.approx(2.0 * (row["u"][0] ** 2 + row["u"][1] ** 2) ** 0.5)
    assert row["word"] == ("a difference" if abs(row["difference"]) > row["spread"] else "not told apart")
    alike = document(capsys, "compare", workshop, "Stage pair", "Stage pair")
    assert alike["differs"] == []
    assert {each["word"] for each in alike["figures"].values()} == {"the same"}


def test_every_two_builds_of_the_demo_can_be_compared(workshop: Path, capsys: pytest.CaptureFixture[str]) -> None:
    # A board with a bias beside one that has none to set, a battery beside a transformer.
    names = [build["name"] for build in document(capsys, "list", workshop)["builds"]]
    for first, second in itertools.pairwise(names):
        assert document(capsys, "compare", workshop, first, second)["builds"] == [first, second]


def test_what_meets_a_requirement_meets_it(workshop: Path, capsys: pytest.CaptureFixture[str]) -> None:
    answer = document(capsys, "find", "30 W 8R", workshop, "--build", "Stage pair")
    assert answer["from"] == "Stage pair"
    assert "30 W into 8" in answer["understood"]
    assert answer["met"]
    for candidate in answer["met"]:
        assert candidate["watts"] >= 30.0 * 0.999
        assert set(candidate["parts"]) == {"supply.transformer", "module", "sink"}


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["list", "{none}"], "none.plinth"), (["report", "{file}", "Nobody"], "Stage pair"),
        (["compare", "{file}", "Stage pair", "Nobody"], "Nobody"), (["find", "gold", "{file}"], "gold"),
        (["list", "{text}"], "text.plinth"), (["find", "30 W 8R", "{file}", "--build", "Nobody"], "Nobody"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_one_sentence(
    workshop: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], words: list[str], said: str
) -> None:
    text = tmp_path / "text.plinth"
    text.write_text("nothing")
    places = {"file": str(workshop), "none": str(tmp_path / "none.plinth"), "text": str(text)}
    before = workshop.read_bytes()
    status, out, err = run(capsys, *(word.format(**places) for word in words))
    assert (status, out) == (2, "")
    assert said in err
    assert err.count("\n") == 1
    assert workshop.read_bytes() == before


def test_a_workshop_that_is_open_elsewhere_is_said_to_be(workshop: Path, capsys: pytest.CaptureFixture[str]) -> None:
    kept = open_workshop(workshop)
    try:
        status, _, err = run(capsys, "list", workshop)
    finally:
        kept.close()
    assert status == 2
    assert err.count("\n") == 1


def test_the_page_of_examples_runs(workshop: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    script = re.search(r"```python\n(.*?)```", (ROOT / "docs" / "COMMANDS.md").read_text(), re.DOTALL)
    assert script is not None
    monkeypatch.chdir(tmp_path)
    out = io.StringIO()
    with contextlib.redirect_stdout(out):
        exec(compile(script.group(1), "COMMANDS.md", "exec"), {})
    lines = out.getvalue().splitlines()
    assert float(lines[0].split()[0]) > 10.0
    assert lines[1] in ("a difference", "not told apart")
    assert lines[3] == "True"
    assert "nowhere.plinth" in lines[4]
    assert "Stage pair" in (tmp_path / "report.html").read_text()
    assert (tmp_path / "again.plinth").exists()


def test_a_reading_of_a_board_that_was_exchanged_says_that_it_does_not_count(
    workshop: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    kept = open_workshop(workshop)
    stored = next(each for each in kept.builds() if each.build.name == "Stage pair")
    slots = ("module", "supply.transformer", "supply.rectifier", "supply.reservoir", "loads.0", "loads.1")
    fitted = tuple(Fitted(slot=slot, mark="another") for slot in slots)
    kept.save_build(dataclasses.replace(stored, build=stored.build.model_copy(update={"fitted": fitted})), "exchanged")
    kept.close()
    report = document(capsys, "report", workshop, "Stage pair")
    assert any(row["does_not_count"] for row in report["readings"])
