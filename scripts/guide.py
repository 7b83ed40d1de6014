"""The parts of the guide that code knows best, written anew, and the whole of it as a page and a PDF.

``python -m scripts.guide`` writes figures, limits, faults, keys and pictures; with ``OUT`` page and PDF too.
"""

import os
import sys
import tempfile
from pathlib import Path

from plinth.builds.situation import Situation
from plinth.builds.stations import STATIONS
from plinth.guide.faults import FAULTS
from plinth.judge.margin import Margin
from plinth.judge.rules import judge
from plinth.predict.catalogue import CATALOGUE
from plinth.predict.solve import solve
from scripts.guide_pictures import write_pictures

ROOT = Path(__file__).parents[1]
TOPICS = ROOT / "src" / "plinth" / "manual" / "topics"


def figures() -> str:
    """Every figure that a prediction gives."""
    lines = [
        "# Figures", "",
        "Every figure that a prediction may give, with its name in `plinth solve --json`, what it is computed by",
        "and the source of that. Ctrl+I shows a figure of your build with its numbers put in.",
    ]  # fmt: skip
    for name, entry in CATALOGUE.items():
        unit = f", in {entry.unit}" if entry.unit else ""
        lines += ["", f"## {entry.label[:1].upper()}{entry.label[1:]} {{#{name}}}", "", f"`{name}`{unit}.", "",
                  f"Computed as: {entry.origin.formula}.", "", f"Source: {entry.origin.source}."]  # fmt: skip
    return "\n".join([*lines, ""])


def limits(margins: tuple[Margin, ...]) -> str:
    """Every limit that a build is judged by, by station."""
    lines = [
        "# Limits", "",
        "What a build is judged by, station by station. Over: past the limit. Close: within a tenth of it, or its",
        "spread reaches it. Unknown: something is not stated, which never counts as safe. What stands between",
        "quotation marks is of one sample build.",
    ]  # fmt: skip
    for station in STATIONS:
        of_station = [margin for margin in margins if margin.station == station.key]
        for margin in of_station:
            lines += [
                "",
                f"## {margin.label} {{#{margin.key.replace(' ', '-')}}}",
                "",
                f"Station: {station.title}.",
            ]
            if margin.limit_words:
                lines[-1] += f" Limit here: {margin.limit_words}."
            lines += ["", f"“{margin.sentence}”"]
            if margin.fix:
                lines += ["", f"To clear it: {margin.fix}"]
    return "\n".join([*lines, ""])


def every_margin() -> tuple[Margin, ...]:
    """One margin of each rule that any build of the family has, one that can be repaired where there is one."""
    from tests.family import DEMO, FAMILY

    by_key: dict[str, Margin] = {}
    for build in (*DEMO.values(), *FAMILY.values()):
        for changes in ({}, {"lamp_w": 60.0}, {"source_v_rms": 0.5}):
            if "lamp_w" in changes and build.supply.transformer is None:
                continue
            for margin in judge(solve(build, Situation.model_validate(changes))):
                known = by_key.get(margin.key)
                if known is None or (margin.fix and not known.fix):
                    by_key[margin.key] = margin
    return tuple(by_key.values())


def faults() -> str:
    """Every fault that readings may tell of."""
    lines = [
        "# Faults", "",
        "What may be behind a reading outside its window, with how to see each. Readings rank them; where one burns if",
        "left on, it says to switch off.",
    ]  # fmt: skip
    for fault in FAULTS:
        burns = " It burns if left on: switch off." if fault.burns else ""
        words, check = (f"{text[:1].upper()}{text[1:].rstrip('.')}." for text in (fault.words, fault.check))
        lines += ["", f"## {words.rstrip('.')} {{#{fault.key.replace(' ', '-')}}}", "", f"To see it: {check}{burns}"]
    return "\n".join([*lines, ""])


def keys() -> str:
    """Every command with its keys, as the window has them."""
    from PySide6.QtWidgets import QApplication

    from plinth.demo.workshop import make_demo
    from plinth.desk.look import load_fonts
    from plinth.desk.session import BenchSession
    from plinth.desk.window import PlinthWindow

    app = QApplication.instance() or QApplication([])
    load_fonts()
    with tempfile.TemporaryDirectory() as folder:
        session = BenchSession(make_demo(Path(folder)), threaded=False)
        window = PlinthWindow(session)
        text = keys_text([(command.group, command.title, command.keys) for command in window.commands])
        window.close_anyway = True
        window.close()
    del app
    return text


KEYS_OF_ONES_OWN = """\
## A key of your own

In the list that Ctrl+K opens, F2 asks for a key of your own for the action that is current: press it, Enter keeps it.
The keys below stay, so that what the window and this guide say of them holds. What a desktop, an input method, a screen
reader or a field of text takes for itself is refused, with whom it belongs to.

## Heard instead of seen {#heard}

With a screen reader running, what is asked is said as it comes: what to do, the window expected, and which key goes on.
So is what is made of a reading once you stop typing, that it is kept, and with which verdict. That power is on, what is
still charged, and “switch off now” interrupt whatever is being read. Plots tell each curve with its reach and its ends.
Enter presses the button that has the focus."""


def keys_text(commands: list[tuple[str, str, str]]) -> str:
    """The topic of commands given as (group, title, keys)."""
    lines = ["# Keys", "", "Every command; Ctrl+K finds any of them by its words.", "", KEYS_OF_ONES_OWN]
    for group in dict.fromkeys(group for group, _, _ in commands):
        lines += [
            "",
            f"## Keys: {group} {{#{group.lower().replace(' ', '-')}-keys}}",
            "",
            "| command | keys |",
            "|---|---|",
        ]
        lines += [f"| {title} | {chord or 'by Ctrl+K'} |" for each, title, chord in commands if each == group]
    return "\n".join([*lines, ""])


def write_topics() -> None:
    """Write what code knows best into the topics."""
    for name, text in (
        ("figures", figures()),
        ("limits", limits(every_margin())),
        ("faults", faults()),
        ("keys", keys()),
    ):
        (TOPICS / f"{name}.md").write_text(text, encoding="utf-8")


def write_paper(out: Path) -> None:
    """The whole guide as a page and as a PDF."""
    from PySide6.QtWidgets import QApplication

    from plinth.desk.look import load_fonts
    from plinth.desk.pdf import pdf_of
    from plinth.manual.pages import whole_html

    app = QApplication.instance() or QApplication([])
    load_fonts()
    out.mkdir(parents=True, exist_ok=True)
    html = whole_html()
    (out / "plinth-guide.html").write_text(html, encoding="utf-8")
    (out / "plinth-guide.pdf").write_bytes(pdf_of(html))
    del app


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    write_topics()
    write_pictures()
    if len(sys.argv) > 1:
        write_paper(Path(sys.argv[1]))
