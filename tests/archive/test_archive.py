"""A workshop out and in again: equal in all that counts; damaged, foreign and hostile archives; the commands."""

import dataclasses
import io
import json
import shutil
import stat
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from plinth.archive.pack import packed
from plinth.archive.unpack import Archive, ArchiveError, read_archive, take_in
from plinth.builds.situation import Situation
from plinth.cli.main import main
from plinth.record.diary import DiaryEntry
from plinth.record.kept_capture import CaptureFacts, CaptureSource
from plinth.session.beginning import begin_workshop
from plinth.workshop.store import Workshop, create_workshop, open_workshop
from tests.demo_copy import demo_as_made
from tests.family import FAMILY


@pytest.fixture
def demo(tmp_path: Path) -> Path:
    path = tmp_path / "theatre.plinth"
    shutil.copy(demo_as_made(), path)
    with_extras = open_workshop(path)
    stored = with_extras.builds()[0]
    line = with_extras.diary(stored.id)[0]
    with_extras.add_photo(
        stored.id, line.subject or "build", line.at, name="board.png", content=b"P" * 3_000_000, scaled=b"small"
    )
    facts = CaptureFacts(
        "tone", CaptureSource.FILE, seconds=0.5, sample_rate_hz=48e3, channels=("ch1", "ch2"),
        stated={"probe": [10.0, 1.0]}, figures={"ch1": {"rms": 9.3}}, conditions={"load": "Dummy 8"},
    )  # fmt: skip
    with_extras.add_capture(stored.id, "test/left/gain", line.at, "tone.wav", b"W" * 1_500_000, facts, "at 20 W")
    with_extras.add_paper(with_extras.items()[0].number, "sheet.pdf", b"%PDF-1.4 paper", "read words", "page 2")
    with_extras.close()
    return path


def all_of(workshop: Workshop) -> dict[str, Any]:
    """Everything that counts, without the numbers of rows."""
    builds = {}
    for stored in workshop.builds():
        lines = workshop.numbered(stored.id)
        place = {number: index for index, (number, _) in enumerate(lines)}
        builds[stored.build.name] = {
            "build": stored.build,
            "situation": stored.situation,
            "diary": [dataclasses.replace(entry, version=0) for _, entry in lines],
            "versions": [(place[v.since], v.build) for v in workshop.versions(stored.id)],
            "photos": [
                (p.subject, p.at, p.name, p.words, p.marks, workshop.photo_picture(p.number, whole=True),
                 workshop.photo_picture(p.number, whole=False))
                for p in workshop.photos(stored.id)
            ],
            "captures": [
                (c.subject, c.at, c.name, c.words, c.facts, c.size, workshop.capture_content(c.number))
                for c in workshop.captures(stored.id)
            ],
        }  # fmt: skip
    items = {item.number: item for item in workshop.items()}
    return {
        "builds": builds,
        "parts": [(item.part, item.stock) for item in items.values()],
        "papers": sorted(
            (items[p.part].part.name, p.name, p.note, p.words, workshop.paper_content(p.number))
            for p in workshop.papers()
        ),
        "bench": workshop.setting("bench"),
    }


def with_archive(path: Path, given: bytes | Archive) -> Workshop:
    content = read_archive(given) if isinstance(given, bytes) else given

    def fill(workshop: Workshop) -> None:
        take_in(workshop, content)

    return create_workshop(path, fill)


def run(capsys: pytest.CaptureFixture[str], *words: str | Path) -> tuple[int, str, str]:
    status = main([str(word) for word in words])
    out, err = capsys.readouterr()
    return status, out, err


def test_out_and_in_again_is_equal_in_all_that_counts(
    demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out, again = tmp_path / "all.zip", tmp_path / "again.plinth"
    assert run(capsys, "export", demo, out) == (0, "", "")
    status, text, _ = run(capsys, "import", out, again, "--json")
    taken = json.loads(text)
    first, second = open_workshop(demo), open_workshop(again)
    try:
        before, after = all_of(first), all_of(second)
    finally:
        first.close()
        second.close()
    assert status == 0
    assert before["builds"].keys() == after["builds"].keys()
    for name in before["builds"]:
        assert before["builds"][name] == after["builds"][name], name
    assert before["parts"] == after["parts"]
    assert before["papers"] == after["papers"]
    assert before["bench"] == after["bench"]
    assert taken["photos"] == sum(len(build["photos"]) for build in before["builds"].values()) > 0
    assert taken["captures"] == sum(len(build["captures"]) for build in before["builds"].values()) > 0
    assert taken["papers"] == len(before["papers"]) > 0
    assert taken["lines"] == sum(len(build["diary"]) for build in before["builds"].values())
    assert taken["remarks"] == []


def test_random_builds_come_back_as_they_went(tmp_path: Path) -> None:
    dice = np.random.default_rng(3)
    family = list(FAMILY.values())
    chosen = [family[int(k)] for k in dice.choice(len(family), size=min(50, len(family)), replace=False)]
    path = tmp_path / "many.plinth"

    def fill(workshop: Workshop) -> None:
        for number, build in enumerate(chosen):
            workshop.add_build(build.model_copy(update={"name": f"Build {number}"}), Situation(), "made")

    workshop = create_workshop(path, fill)
    before, data = all_of(workshop), packed(workshop)
    workshop.close()
    again = with_archive(tmp_path / "again.plinth", data)
    assert all_of(again) == before
    again.close()


def test_one_build_goes_alone_and_is_kept_apart_from_its_namesake(
    demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "one.zip"
    assert run(capsys, "export", demo, out, "--build", "Stage pair")[0] == 0
    assert run(capsys, "export", demo, out)[0] == 2
    assert run(capsys, "export", demo, out, "--force", "--build", "Nobody")[0] == 2
    workshop = open_workshop(demo)
    before = all_of(workshop)
    workshop.close()
    status, text, _ = run(capsys, "import", out, demo, "--json")
    taken = json.loads(text)
    assert (status, taken["builds"], taken["parts"]) == (0, ["Stage pair (2)"], 0)
    assert "is there already" in taken["remarks"][0]
    workshop = open_workshop(demo)
    after = all_of(workshop)
    workshop.close()
    copied = after["builds"].pop("Stage pair (2)")
    assert after == before
    assert copied["diary"] == before["builds"]["Stage pair"]["diary"]


def test_the_invented_demo_stays_marked_and_among_itself(
    demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert run(capsys, "export", demo, tmp_path / "d.zip")[0] == 0
    assert run(capsys, "import", tmp_path / "d.zip", tmp_path / "new.plinth")[0] == 0
    made = open_workshop(tmp_path / "new.plinth")
    assert (made.setting("workshop") or {}).get("demo") is True
    made.close()
    begin_workshop(tmp_path / "own.plinth").close()
    status, _, err = run(capsys, "import", tmp_path / "d.zip", tmp_path / "own.plinth")
    assert (status, "invented" in err) == (2, True)


def test_what_cannot_be_read_is_named_in_the_archive(demo: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    workshop = open_workshop(demo)
    monkeypatch.setattr(workshop, "photo_picture", lambda *_args, **_named: None)
    monkeypatch.setattr(workshop, "paper_content", lambda _number: None)
    content = read_archive(packed(workshop))
    workshop.close()
    assert any("photo board.png" in words for words in content.damaged)
    assert any("paper sheet.pdf" in words for words in content.damaged)


def test_an_export_never_replaces_a_workshop(demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    other = tmp_path / "other.plinth"
    shutil.copy(demo, other)
    before = other.read_bytes()
    status, _, err = run(capsys, "export", demo, other, "--force")
    assert (status, err.count("\n")) == (2, 1)
    assert other.read_bytes() == before


def test_practice_and_measured_are_not_mixed(demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    begin_workshop(tmp_path / "practice.plinth", practice=True).close()
    assert run(capsys, "export", tmp_path / "practice.plinth", tmp_path / "p.zip")[0] == 0
    status, _, err = run(capsys, "import", tmp_path / "p.zip", demo)
    assert status == 2
    assert "kept apart" in err
    assert run(capsys, "import", tmp_path / "p.zip", tmp_path / "new.plinth")[0] == 0
    made = open_workshop(tmp_path / "new.plinth")
    assert (made.setting("workshop") or {}).get("practice") is True
    made.close()


def repacked(data: bytes, change: dict[str, bytes | None], extra: list[zipfile.ZipInfo] | None = None) -> bytes:
    held = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as source, zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as target:
        for info in source.infolist():
            content = change.get(info.filename, source.read(info.filename))
            if content is not None:
                target.writestr(info.filename, content)
        for name, content in change.items():
            if name not in source.namelist() and content is not None:
                target.writestr(name, content)
        for info in extra or []:
            target.writestr(info, b"/etc/passwd")
    return held.getvalue()


@pytest.fixture(scope="module")
def archive(tmp_path_factory: pytest.TempPathFactory) -> bytes:
    path = tmp_path_factory.mktemp("a") / "theatre.plinth"
    shutil.copy(demo_as_made(), path)
    workshop = open_workshop(path)
    data = packed(workshop)
    workshop.close()
    return data


def test_what_is_damaged_is_said_and_the_rest_is_taken_in(archive: bytes, tmp_path: Path) -> None:
    whole = read_archive(archive)
    broken = read_archive(repacked(archive, {"builds/1.json": b"{}", "builds/2.json": None}))
    assert len(broken.builds) == len(whole.builds) - 2
    assert "builds/1.json is not as it was written" in broken.damaged
    assert "builds/2.json is missing" in broken.damaged
    made = with_archive(tmp_path / "m.plinth", broken)
    assert len(made.builds()) == len(whole.builds) - 2
    made.close()


@pytest.mark.parametrize("name", ["../evil.json", "/etc/cron.d/x", "builds/../x.json", "notes.txt", "builds/1.exe"])
def test_names_that_no_archive_has_are_refused(archive: bytes, name: str) -> None:
    with pytest.raises(ArchiveError, match="expected the files of an archive"):
        read_archive(repacked(archive, {name: b"x"}))


def test_links_bombs_and_other_zips_are_refused(archive: bytes) -> None:
    link = zipfile.ZipInfo("photos/1-original.bin")
    link.external_attr = (stat.S_IFLNK | 0o777) << 16
    with pytest.raises(ArchiveError, match="link"):
        read_archive(repacked(archive, {}, [link]))
    with pytest.raises(ArchiveError, match="beyond reason"):
        read_archive(repacked(archive, {"papers/9.bin": b"\0" * 250_000_000}))
    with pytest.raises(ArchiveError, match="no archive"):
        read_archive(repacked(archive, {"archive.json": None}))
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as other:
        other.writestr("readme.md", "hello")
    with pytest.raises(ArchiveError):
        read_archive(held.getvalue())
    for data in (b"", b"PK", b"not a zip at all", archive[: len(archive) // 2]):
        with pytest.raises(ArchiveError, match="no zip"):
            read_archive(data)


def test_an_archive_of_a_later_version_is_refused(archive: bytes) -> None:
    with zipfile.ZipFile(io.BytesIO(archive)) as packed_file:
        head = json.loads(packed_file.read("archive.json"))
    head["version"] = 99
    with pytest.raises(ArchiveError, match="newer Plinth"):
        read_archive(repacked(archive, {"archive.json": json.dumps(head).encode()}))


@pytest.mark.parametrize("seed", range(6))
def test_flipped_bytes_end_in_a_sentence_or_in_what_is_whole(archive: bytes, seed: int) -> None:
    dice = np.random.default_rng(seed)
    for _ in range(8):
        data = bytearray(archive)
        for _ in range(int(dice.integers(1, 6))):
            data[int(dice.integers(len(data)))] ^= 1 << int(dice.integers(8))
        try:
            content = read_archive(bytes(data))
        except ArchiveError as error:
            assert "found" in str(error)  # noqa: PT017
            continue
        assert all(isinstance(line, DiaryEntry) for build in content.builds for line in build.diary)


def test_wrong_places_are_one_sentence(demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    text = tmp_path / "text.zip"
    text.write_text("nothing")
    for words in (
        ("export", tmp_path / "none.plinth", tmp_path / "x.zip"), ("import", text, tmp_path / "x.plinth"),
        ("import", tmp_path / "none.zip", tmp_path / "x.plinth"), ("export", demo, tmp_path / "no" / "where" / "x.zip"),
    ):  # fmt: skip
        status, out, err = run(capsys, *words)
        assert (status, out, err.count("\n")) == (2, "", 1)
    assert not (tmp_path / "x.plinth").exists()
