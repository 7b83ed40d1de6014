"""What an installed Plinth has beside the program: true to its commands, valid where a validator is at hand."""

import gzip
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from PySide6.QtGui import QImage
from scripts.installed.commands import commands
from scripts.installed.completions import completions
from scripts.installed.man_pages import man_pages
from scripts.installed.tree import APP_ID, ROOT, SIZES

from plinth.cli.main import parser
from tests.demo_copy import demo_as_made


@pytest.fixture(scope="module")
def share(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return written(tmp_path_factory.mktemp("installed"))


def written(folder: Path) -> Path:
    """All of it, by a process of its own: its pictures need no window."""
    subprocess.run([sys.executable, "-m", "scripts.installed.tree", str(folder)], check=True, cwd=ROOT)
    return folder / "share"


def test_every_command_and_option_has_its_page_and_is_completed() -> None:
    pages, shells = man_pages(), completions()
    helped = {
        line.split()[0] for line in parser().format_help().splitlines() if line.startswith("    ") and line.strip()
    }
    names = [command.name for command in commands()[1:]]
    assert set(names) <= helped
    assert set(pages) == {"plinth.1"} | {f"plinth-{name}.1" for name in names}
    for command in commands()[1:]:
        page = pages[f"plinth-{command.name}.1"]
        assert command.words
        assert command.name in pages["plinth.1"]
        for option in command.options:
            for name in option.names:
                assert name.replace("-", "\\-") in page
                assert all(name.removeprefix("--").removeprefix("-") in text for text in shells.values()), name
    # A line of roff that begins with a dot is a request: none is made by a sentence.
    assert all(line[:3] in (".TH", ".SH", ".TP", ".B ", ".BR", ".I ", ".RI") for text in pages.values()
               for line in text.splitlines() if line.startswith("."))  # fmt: skip


def test_the_shell_completes_commands_options_choices_and_files(share: Path, tmp_path: Path) -> None:
    script = share / "bash-completion" / "completions" / "plinth"
    (tmp_path / "mine.plinth").touch()

    def completed(*words: str) -> list[str]:
        line = " ".join(f'"{word}"' for word in words)
        code = (
            f"source {script}; COMP_WORDS=(plinth {line}); COMP_CWORD={len(words)}; _plinth; "
            'printf "%s\\n" "${COMPREPLY[@]}"'
        )
        run = subprocess.run(["bash", "-c", code], capture_output=True, text=True, check=True, cwd=tmp_path)
        return run.stdout.split()

    assert completed("ex") == ["export"]
    assert completed("report", "--pa") == ["--paper"]
    assert completed("report", "--paper", "l") == ["letter"]
    assert completed("open", "mi") == ["mine.plinth"]
    assert completed("solve", "--waveforms", "mi") == ["mine.plinth"]


def test_a_workshop_is_known_by_its_first_bytes(share: Path) -> None:
    text = (share / "mime" / "packages" / "plinth.xml").read_text()
    head = demo_as_made().read_bytes()[:100]
    for place, value in ((0, b"SQLite format 3"), (68, b"PLNT")):
        assert f'offset="{place}" value="{value.decode()}"' in text
        assert head[place : place + len(value)] == value


def test_icons_are_there_in_every_size_and_show_something(share: Path) -> None:
    for size in SIZES:
        image = QImage(str(share / "icons" / "hicolor" / f"{size}x{size}" / "apps" / "plinth.png"))
        assert (image.width(), image.height()) == (size, size)
        colours = {image.pixelColor(x, y).name() for x in range(size) for y in range(size)}
        assert len(colours) > 8, size
    assert (share / "icons/hicolor/scalable/mimetypes/application-x-plinth.svg").exists()
    assert gzip.decompress((share / "man/man1/plinth.1.gz").read_bytes()).startswith(b".TH PLINTH 1")


def test_the_same_source_makes_the_same_files(share: Path, tmp_path: Path) -> None:
    again = written(tmp_path)
    files = {path.relative_to(share): path.read_bytes() for path in share.rglob("*") if path.is_file()}
    assert {path.relative_to(again): path.read_bytes() for path in again.rglob("*") if path.is_file()} == files


@pytest.mark.parametrize(
    "line",
    [
        ("desktop-file-validate", "applications/plinth.desktop"),
        ("appstreamcli", "validate", "--no-net", f"metainfo/{APP_ID}.metainfo.xml"),
        ("zsh", "-n", "zsh/vendor-completions/_plinth"),
        ("fish", "--no-execute", "fish/vendor_completions.d/plinth.fish"),
        ("man", "--warnings", "-l", "man/man1/plinth.1.gz"),
    ],
    ids=lambda line: line[0],
)
def test_validators_find_nothing(share: Path, line: tuple[str, ...]) -> None:
    program = shutil.which(line[0])
    if program is None:
        pytest.skip(f"{line[0]} is not installed here")
    run = subprocess.run([program, *line[1:]], capture_output=True, text=True, check=False, cwd=share)
    assert run.returncode == 0, run.stdout + run.stderr
    assert "error" not in run.stderr
    assert "warning" not in run.stderr
