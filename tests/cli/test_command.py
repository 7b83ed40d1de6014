"""The command as a whole process: output, exit status, sentences."""

import contextlib
import io
import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from plinth import __version__
from plinth.builds.situation import Situation
from plinth.cli.main import main
from plinth.demo.builds import STAGE_PAIR
from plinth.predict.solve import solve
from plinth.workshop.store import create_workshop, open_workshop
from tests.turns import in_turn

ROOT = Path(__file__).parents[2]
STAGE = ROOT / "examples" / "stage-pair.json"


def run_alone(*words: str) -> subprocess.CompletedProcess[str]:
    """In a process of its own."""
    return subprocess.run(
        [sys.executable, "-m", "plinth", *words], capture_output=True, text=True, timeout=300, check=False, cwd=ROOT
    )


def run(*words: str) -> subprocess.CompletedProcess[str]:
    """Through the same entry, in this process: a start takes a second, and most of what is asked here none."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            status = main(list(words))
        except SystemExit as end:
            status = end.code if isinstance(end.code, int) else 0
    return subprocess.CompletedProcess(words, status, out.getvalue(), err.getvalue())


def test_solve_prints_a_table_and_json_of_the_same_figures() -> None:
    table = run_alone("solve", str(STAGE))
    assert table.returncode == 0
    assert "clip power per channel" in table.stdout
    assert "Margins" in table.stdout
    document = json.loads(run("solve", str(STAGE), "--json", "--situation", "load_ohm=8", "channels_driven=one").stdout)
    expected = solve(STAGE_PAIR, Situation(load_ohm=8.0, channels_driven="one"))
    for name, figure in expected.figures.items():
        row = document["figures"][name]
        assert row["value"] == pytest.approx(figure.value)
        assert row["u"] == pytest.approx(figure.u)
        assert row["unit"] == figure.unit
    assert document["margins"]["dc_detector"]["state"] == "unknown"
    assert document["margins"]["dc_detector"]["value"] is None


def test_version_help_and_schema() -> None:
    assert run_alone("--version").stdout.startswith(f"plinth {__version__}, Python ")
    assert "solve" in run("--help").stdout
    assert json.loads(run("schema").stdout)["title"] == "Build"


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (None, "No such file"),
        ("{", "broken JSON"),
        ("[]", "expected one JSON object"),
        ('{"name": "x"}', "found nothing, expected a value"),
    ],
)
def test_bad_files_give_status_two_and_sentences_only(tmp_path: Path, content: str | None, says: str) -> None:
    path = tmp_path / "b.json"
    if content is not None:
        path.write_text(content, encoding="utf-8")
    result = run_alone("solve", str(path)) if content == "{" else run("solve", str(path))
    assert result.returncode == 2
    assert result.stdout == ""
    assert says in result.stderr
    assert str(path) in result.stderr
    assert "Traceback" not in result.stderr


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["--situation", "load_ohm=-8"], "at least 0.5"),
        (["--situation", "load_ohm=nan"], "finite number"),
        (["--situation", "louder"], "key=value"),
        (["--colour"], "unrecognized arguments"),
    ],
)
def test_bad_words_give_status_two(words: list[str], says: str) -> None:
    result = run("solve", str(STAGE), *words)
    assert result.returncode == 2
    assert says in result.stderr
    assert result.stderr.count("\n") == 1


def test_a_build_that_cannot_run_says_why(tmp_path: Path) -> None:
    document = json.loads(STAGE.read_text(encoding="utf-8"))
    document["supply"]["transformer"]["v_secondary_rms"] = 1.5
    path = tmp_path / "weak.json"
    path.write_text(json.dumps(document), encoding="utf-8")
    result = run("solve", str(path))
    assert result.returncode == 2
    assert "cannot run" in result.stderr
    assert "below" in result.stderr
    assert "Traceback" not in result.stderr


def test_a_reader_that_leaves_early_is_no_error() -> None:
    result = subprocess.run(
        f"{sys.executable} -m plinth schema | head -1",
        shell=True,
        capture_output=True,
        text=True,
        timeout=300,
        check=False,
    )
    assert result.stdout.startswith("{")
    assert result.stderr == ""


def test_without_a_screen_the_window_says_so(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    assert main(["demo"]) == 2
    assert "found no screen" in capsys.readouterr().err


def test_an_unknown_command_is_one_line(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as caught:
        main(["dance"])
    assert caught.value.code == 2
    assert capsys.readouterr().err.count("\n") == 1


@pytest.mark.parametrize("target", ["mine.plinth", "linked.csv", "stage.json"])
def test_waveforms_never_replace_a_workshop_nor_the_build_file(tmp_path: Path, target: str) -> None:
    build, workshop = tmp_path / "stage.json", tmp_path / "mine.plinth"
    build.write_bytes(STAGE.read_bytes())
    create_workshop(workshop).close()
    (tmp_path / "linked.csv").symlink_to(workshop)
    before = (tmp_path / target).read_bytes()
    result = run("solve", str(build), "--waveforms", str(tmp_path / target))
    assert result.returncode == 2
    assert result.stdout == ""
    assert "expected another name" in result.stderr
    assert (tmp_path / target).read_bytes() == before


def test_waveforms_are_written_for_one_period(tmp_path: Path) -> None:
    path = tmp_path / "w.csv"
    assert run("solve", str(STAGE), "--waveforms", str(path)).returncode == 0
    head, *rows = path.read_text(encoding="utf-8").splitlines()
    names = head.split(",")
    assert names[0] == "t_s"
    columns = dict(zip(names, zip(*([float(x) for x in row.split(",")] for row in rows), strict=True), strict=True))
    prediction = solve(STAGE_PAIR, Situation())
    assert columns["t_s"][-1] == pytest.approx(0.01)
    assert max(columns["output_v"]) == pytest.approx(prediction["clip_v_peak"].value, rel=2e-3)
    # The figure may lie between two samples.
    assert min(columns["rail_plus_v"]) == pytest.approx(prediction["rail_plus_min_v"].value, abs=2e-3)
    assert max(columns["rail_minus_v"]) == pytest.approx(-prediction["rail_minus_min_v"].value, abs=2e-3)
    bad = run("solve", str(STAGE), "--waveforms", str(tmp_path / "none" / "w.csv"))
    assert bad.returncode == 2
    assert "expected another name or folder" in bad.stderr


def test_random_samples_bear_out_the_uncertainty() -> None:
    found = json.loads(run("solve", str(STAGE), "--json", "--samples", "1000").stdout)
    sampled, figure = found["clip_power_sampled"], found["figures"]["clip_power_w"]
    assert sampled["cannot_run"] == 0
    # What nobody states of the mains cannot be drawn, is told so, and is in the figure's own spread.
    u = sampled["u_propagated_w"]
    assert sampled["u_w"] == pytest.approx(u, rel=0.1)
    assert sampled["low_w"] == pytest.approx(figure["value"] - 2 * u, abs=0.25 * u)
    assert figure["u"] > 1.2 * u
    assert (
        sampled["sentence"].count("without flat top of the mains, leakage of the transformer, wires of the house.") == 1
    )
    assert (
        f"propagated: {figure['value'] - 2 * u:.3g} to {figure['value'] + 2 * u:.3g} W, without" in sampled["sentence"]
    )
    refused = run("solve", str(STAGE), "--samples", "7")
    assert refused.returncode == 2
    assert "found 7, expected 100 to 100000" in refused.stderr


def test_power_at_a_stated_distortion_lies_above_onset() -> None:
    found = json.loads(run("solve", str(STAGE), "--json", "--thd").stdout)["clip_power_thd"]
    assert found["onset_w"] < found["thd_1_w"] < found["thd_10_w"]
    assert "at 10 %" in run("solve", str(STAGE), "--thd").stdout
    refused = run("solve", str(STAGE), "--thd", "--situation", "load_phase_deg=30")
    assert refused.returncode == 2
    assert "leave --thd out" in refused.stderr


def test_rails_are_told_for_each_step_of_a_variable_transformer() -> None:
    found = json.loads(run("solve", str(STAGE), "--json", "--mains-steps").stdout)
    steps = found["mains_steps"]
    assert [round(one["mains_v_rms"]) for one in steps] == [23, 58, 115, 172, 230]
    assert steps[-1]["rail_v"] == pytest.approx(found["figures"]["rail_idle_v"]["value"], rel=2e-3)
    text = run("solve", str(STAGE), "--mains-steps").stdout
    assert text.count("Spreads without a flat top of the mains and the wires of the house, which nobody states.") == 1
    flat = run("solve", str(STAGE), "--mains-steps", "--situation", "third_harmonic=0.03").stdout
    assert flat.count("Spreads without the wires of the house, which nobody states.") == 1
    assert "modules below their lowest rail" in text
    assert "modules at work" in text
    refused = run("solve", str(STAGE.parent / "market-box.json"), "--mains-steps")
    assert refused.returncode == 2
    assert "leave --mains-steps out" in refused.stderr


def started(*words: str, home: Path) -> subprocess.Popen[str]:
    """A command that opens a window, begun without a screen."""
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "HOME": str(home), "XDG_DATA_HOME": str(home / "data"),
           "XDG_CONFIG_HOME": str(home / "config")}  # fmt: skip
    return subprocess.Popen(
        [sys.executable, "-m", "plinth", *words], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, env=env
    )


def stays_open_until(done: Callable[[], bool], *words: str, home: Path) -> None:
    """The window of a command is ended once it has done what it should, however long this machine takes."""
    with started(*words, home=home) as window:
        try:
            for _ in range(3000):
                if done():
                    assert window.poll() is None, window.communicate()
                    return
                assert window.poll() is None, window.communicate()
                time.sleep(0.1)
            pytest.fail("never done")
        finally:
            window.kill()


def test_a_new_workshop_is_begun_and_never_over_another_file(tmp_path: Path) -> None:
    path = tmp_path / "mine.plinth"
    remembering = tmp_path / "config" / "plinth" / "window.json"
    stays_open_until(lambda: path.exists() and remembering.exists(), "new", str(path), home=tmp_path)
    before = path.read_bytes()[:100]
    with started("new", str(path), home=tmp_path) as refused:
        _, said = refused.communicate(timeout=300)
    assert refused.returncode == 2
    assert "choose another name" in said
    assert path.read_bytes()[:100] == before
    assert json.loads(remembering.read_text(encoding="utf-8"))["workshop"] == str(path)


def test_the_demo_opens_a_fresh_copy_each_time(tmp_path: Path) -> None:
    copies = tmp_path / "data" / "plinth"
    for count in (1, 2):
        stays_open_until(
            lambda n=count: len(list(copies.glob("puppet-theatre*.plinth"))) == n, "demo", home=tmp_path  # type: ignore[misc]
        )  # fmt: skip


def helpers_of(pid: int) -> list[int]:
    """The helping processes of a window."""
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            words = (folder / "cmdline").read_bytes()
            parent = int((folder / "stat").read_text().rsplit(")", 1)[1].split()[1])
        except (OSError, ValueError):
            continue
        if parent == pid and b"spawn_main" in words:
            found.append(int(folder.name))
    return found


def lives(pid: int) -> bool:
    """Whether a process runs; one that nobody has counted out yet does not."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False


@pytest.mark.skipif(len(os.sched_getaffinity(0)) < 2, reason="one processor alone has no helpers")
def test_those_who_help_a_window_end_with_it_however_it_ends(tmp_path: Path) -> None:
    with started("demo", home=tmp_path) as window:
        helping: list[int] = []
        try:
            while not (helping := helpers_of(window.pid)):
                assert window.poll() is None, window.communicate()
                time.sleep(0.2)
        finally:
            # Nothing of the window is left to tell them.
            window.kill()
    while any(lives(one) for one in helping):
        time.sleep(0.2)


def run_plinth(*words: str, out: str = "/dev/null") -> tuple[int, str]:
    with open(out, "w", encoding="utf-8") as target:
        run = subprocess.run(
            [sys.executable, "-m", "plinth", *words], stdout=target, stderr=subprocess.PIPE, text=True, timeout=300,
            check=False, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
        )  # fmt: skip
    return run.returncode, run.stderr


def test_a_full_disk_is_a_sentence_whatever_is_asked(tmp_path: Path) -> None:
    path = tmp_path / "b.json"
    path.write_text(STAGE_PAIR.model_dump_json(), encoding="utf-8")
    for words in (("solve", str(path)), ("solve", str(path), "--json"), ("schema",)):
        status, said = run_plinth(*words, out="/dev/full")
        assert status == 2
        assert "could not be written" in said
        assert "Traceback" not in said
    status, said = run_plinth("solve", str(path), "--waveforms", "/dev/full")
    assert (status, "Traceback" in said) == (2, False)
    assert "pipe or a device" in said


@pytest.mark.parametrize(
    "words", in_turn([("new", "/proc/none/x.plinth"), ("new", "a\tb/" + "x" * 300 + ".plinth")], 2, name=lambda w: w[0])
)
def test_a_workshop_that_cannot_be_begun_is_a_sentence(
    words: tuple[str, ...], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    status, said = run_plinth(*words)
    assert status == 2
    assert said.startswith("plinth: ")
    assert "Traceback" not in said
    assert not (tmp_path / "a\tb").exists(), "no folder made for it stays behind"


def test_a_pipe_in_place_of_a_build_is_refused_at_once(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe.json")
    status, said = run_plinth("solve", str(tmp_path / "pipe.json"))
    assert status == 2
    assert "pipe or a device" in said


def catches(pid: int, number: signal.Signals) -> bool:
    """Whether a process has a handler of its own for a signal."""
    words = Path(f"/proc/{pid}/status").read_text(encoding="utf-8")
    caught = next(line for line in words.splitlines() if line.startswith("SigCgt:"))
    return bool(int(caught.split()[1], 16) >> (number - 1) & 1)


@pytest.mark.parametrize("number", in_turn([signal.SIGINT, signal.SIGTERM], 2, name=lambda number: number.name))
def test_a_signal_ends_the_window_in_order(tmp_path: Path, number: signal.Signals) -> None:
    path = tmp_path / "mine.plinth"
    with started("new", str(path), home=tmp_path) as window:
        try:
            # Python itself catches only the first of them: the second tells that the window listens.
            for _ in range(3000):
                assert window.poll() is None, window.communicate()
                if catches(window.pid, signal.SIGTERM):
                    break
                time.sleep(0.1)
            os.kill(window.pid, number)
            _, said = window.communicate(timeout=300)
        finally:
            window.kill()
    assert window.returncode == 0
    assert "Traceback" not in said
    workshop = open_workshop(path)
    assert len(workshop.builds()) == 1
    workshop.close()
