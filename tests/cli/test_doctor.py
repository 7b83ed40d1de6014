"""What a machine may lack, in a line each; versions for a report of a fault."""

import ctypes.util
import json
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

from plinth.cli import doctor
from plinth.cli.doctor import Finding, findings, run_doctor, versions
from plinth.release import VERSION


def about(found: tuple[Finding, ...], name: str) -> Finding:
    return next(each for each in found if each.about == name)


def test_a_sound_machine_has_nothing_to_mend(tmp_path: Path) -> None:
    found = findings({"QT_QPA_PLATFORM": "offscreen"}, devices=tmp_path)
    assert len(found) == 11
    assert [each.about for each in found if each.remedy] == []
    assert all(re.match(r"ok    [A-Za-z]+ +\S", each.line) for each in found)


def test_no_screen_is_said_with_what_works_without() -> None:
    screen = about(findings({}), "screen")
    assert "neither WAYLAND_DISPLAY nor DISPLAY" in screen.words
    assert "solve" in screen.remedy
    assert screen.line.startswith("look  screen")
    assert about(findings({"DISPLAY": ":7"}), "screen").words == "DISPLAY=:7"


def test_an_instrument_or_a_port_that_may_not_be_used_names_the_group(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("usbtmc0", "ttyUSB1", "sda"):
        (tmp_path / name).touch()
    monkeypatch.setattr(ctypes.util, "find_library", lambda _name: "libusb-1.0.so.0")
    found = findings({}, devices=tmp_path)
    assert about(found, "USB").words == "1 instruments"
    assert about(found, "serial").words == "1 ports"
    monkeypatch.setattr(os, "access", lambda *_args: False)
    found = findings({}, devices=tmp_path)
    assert f"{tmp_path / 'usbtmc0'} may not be used" in about(found, "USB").words
    assert "udev" in about(found, "USB").remedy
    monkeypatch.undo()
    monkeypatch.setattr(ctypes.util, "find_library", lambda _name: None)
    assert "libusb-1.0-0" in about(findings({}, devices=tmp_path), "USB").remedy
    monkeypatch.setattr(os, "access", lambda *_args: False)
    assert "dialout" in about(found, "serial").words
    assert about(found, "serial").remedy


def test_a_folder_that_cannot_be_written_is_named(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    in_the_way = tmp_path / "file"
    in_the_way.touch()
    monkeypatch.setenv("XDG_DATA_HOME", str(in_the_way))
    kept = about(findings({}), "workshops")
    assert str(in_the_way) in kept.words
    assert "a local one" in kept.remedy


def test_little_room_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(doctor, "ROOM_BYTES", 10**18)
    assert "1 GB" in about(findings({}), "room").remedy


def test_a_missing_library_is_named(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(doctor, "RESTS_ON", ("numpy", "nothing_of_that_name"))
    assert about(findings({}), "libraries").words == "found no nothing_of_that_name"
    assert "nothing_of_that_name missing" in versions()


def test_status_and_json_say_whether_something_wants_a_look(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("QT_QPA_PLATFORM", "offscreen")
    monkeypatch.setattr(doctor, "ROOM_BYTES", 10**18)
    assert run_doctor(as_json=True) == 1
    told = json.loads(capsys.readouterr().out)
    assert told["versions"].startswith(f"plinth {VERSION}, Python ")
    assert [each["about"] for each in told["findings"] if each["remedy"]] == ["room"]
    monkeypatch.setattr(doctor, "ROOM_BYTES", 0)
    assert run_doctor() == 0
    assert len(capsys.readouterr().out.splitlines()) == 12


def test_the_version_names_what_it_rests_on() -> None:
    run = subprocess.run([sys.executable, "-m", "plinth", "--version"], capture_output=True, text=True, check=True)
    assert run.stdout.strip() == versions()
    for name in ("PySide6_Essentials", "numpy", "SQLAlchemy"):
        assert re.search(rf"{name} \d+\.\d+", run.stdout)
