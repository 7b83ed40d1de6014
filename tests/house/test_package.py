"""The Debian package in a clean system: installed, asked, started on a screen of its own, taken away without a trace.

Slow: it takes minutes, root, and Debian's packages over the network. ``make deb`` first, or it is built here.
"""

import json
import os
import shutil
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

from plinth.release import VERSION

ROOT = Path(__file__).parents[2]
MIRROR, SUITE = "http://deb.debian.org/debian", "bookworm"
HOME = "/home/builder"

pytestmark = [
    pytest.mark.slow,
    pytest.mark.skipif(os.getuid() != 0, reason="only root may make a clean system"),
    pytest.mark.skipif(shutil.which("debootstrap") is None, reason="debootstrap is not installed here"),
]


def in_clean(root: Path, line: str, **more: str) -> subprocess.CompletedProcess[str]:
    env = {
        "PATH": "/usr/sbin:/usr/bin:/sbin:/bin", "DEBIAN_FRONTEND": "noninteractive", "HOME": HOME, "LANG": "C.UTF-8",
        **more,
    }  # fmt: skip
    return subprocess.run(
        ["chroot", str(root), "sh", "-c", line], capture_output=True, text=True, check=False, env=env, timeout=900
    )


@pytest.fixture(scope="module")
def package() -> Path:
    made = ROOT / "dist"
    if not list(made.glob(f"plinth_{VERSION}_*.deb")):
        subprocess.run(["make", "deb"], check=True, cwd=ROOT, capture_output=True)
    return next(made.glob(f"plinth_{VERSION}_*.deb"))


@pytest.fixture(scope="module")
def clean(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Path]:
    root = tmp_path_factory.mktemp("clean") / "root"
    subprocess.run(["debootstrap", "--variant=minbase", SUITE, str(root), MIRROR], check=True, capture_output=True)
    shutil.copyfile("/etc/resolv.conf", root / "etc" / "resolv.conf")
    # How packages are reached from here, where that takes more than the usual.
    for settings in Path("/etc/apt/apt.conf.d").iterdir():
        shutil.copyfile(settings, root / "etc" / "apt" / "apt.conf.d" / settings.name)
    subprocess.run(["mount", "-t", "proc", "proc", str(root / "proc")], check=True)
    try:
        done = in_clean(
            root, f"apt-get update -q && apt-get install -y -q --no-install-recommends xvfb xauth && mkdir -p {HOME}"
        )
        assert done.returncode == 0, done.stdout[-2000:] + done.stderr[-2000:]
        yield root
    finally:
        subprocess.run(["umount", str(root / "proc")], check=False)


def files(root: Path) -> set[str]:
    """Every file that belongs to nobody's home, nor to what the package manager itself remembers."""
    outside = ("proc", "home", "tmp", "var/cache", "var/lib/apt", "var/lib/dpkg", "var/log", "run", "dev", "sys")
    found = set()
    for place, folders, names in os.walk(root):
        below = os.path.relpath(place, root)
        if below.startswith(outside):
            folders.clear()
            continue
        found |= {f"{below}/{name}" for name in names}
    return found


def test_it_is_installed_works_and_leaves_nothing_but_the_user_s_own(clean: Path, package: Path) -> None:
    shutil.copyfile(package, clean / "tmp" / "plinth.deb")
    # What it depends on stays where it is: only the package itself comes and goes.
    depends = in_clean(
        clean,
        "apt-get install -y -q --no-install-recommends "
        "$(dpkg-deb -f /tmp/plinth.deb Depends | tr ',' '\\n' | sed 's/.*| *//')",
    )
    before = files(clean)
    installed = in_clean(clean, "apt-get install -y -q --no-install-recommends /tmp/plinth.deb")
    assert installed.returncode == 0, depends.stderr[-1000:] + installed.stdout[-2000:] + installed.stderr[-2000:]
    assert in_clean(clean, "plinth --version").stdout.startswith(f"plinth {VERSION}, Python ")
    doctor = in_clean(clean, "plinth doctor", DISPLAY=":9")
    assert [row for row in doctor.stdout.splitlines() if row.startswith("look")] == [], doctor.stdout
    shutil.copyfile(ROOT / "examples" / "foyer.json", clean / "tmp" / "foyer.json")
    assert "clip_power_w" in json.loads(in_clean(clean, "plinth solve /tmp/foyer.json --json").stdout)["figures"]
    # Its own processes start from within the package as well.
    bench = in_clean(clean, "timeout --signal=TERM 30 plinth bench /tmp/foyer.json --json")
    assert {each["role"] for each in json.loads(bench.stdout)["instruments"]} >= {"mains", "generator", "meter"}
    # The window on a screen of its own, until its demo and what it remembers are on disk; then it is asked to end.
    started = in_clean(
        clean,
        "xvfb-run -a -s '-screen 0 1280x800x24' sh -c '"
        "plinth demo & window=$!; "
        f"for second in $(seq 120); do [ -e {HOME}/.config/plinth/window.json ] && break; sleep 0.5; done; sleep 5; "
        "kill -0 $window && echo stands; kill $window; wait $window; echo status $?'",
    )
    assert "stands" in started.stdout, started.stdout + started.stderr
    assert "status 0" in started.stdout, started.stdout + started.stderr
    assert list((clean / HOME[1:] / ".local/share/plinth").glob("*.plinth"))
    exported = in_clean(clean, f"plinth export {HOME}/.local/share/plinth/*.plinth /tmp/all.zip")
    assert (exported.returncode, exported.stderr) == (0, "")
    purged = in_clean(clean, "apt-get purge -y -q plinth")
    assert purged.returncode == 0, purged.stderr
    assert sorted(files(clean) - before) == []
    assert list((clean / HOME[1:] / ".local/share/plinth").glob("*.plinth")), "what is the user's own stays"


def test_lintian_finds_no_error(package: Path) -> None:
    program = shutil.which("lintian")
    if program is None:
        pytest.skip("lintian is not installed here")
    run = subprocess.run([program, "--fail-on", "error", str(package)], capture_output=True, text=True, check=False)
    assert run.returncode == 0, run.stdout
