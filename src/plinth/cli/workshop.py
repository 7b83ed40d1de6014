"""``plinth list``, ``report``, ``compare``, ``find``, ``export``, ``import``: a workshop without a window."""

import argparse
import json
import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Literal

from plinth.report.file_out import not_written_words, write_whole
from plinth.report.html import SECTIONS
from plinth.session.outside import (
    OutsideError,
    comparison,
    contents,
    exported,
    imported,
    in_lines,
    report_document,
    report_html,
    search,
)  # fmt: skip

BAD_INPUT = 2
_TAKEN = "{}: found a file there already, expected none: name another, or add --force"


def run_workshop(chosen: argparse.Namespace) -> int:
    """Carry out one of the commands; 0, or 2 with one sentence on stderr."""
    try:
        if chosen.command == "report" and (chosen.html is not None or chosen.pdf is not None):
            return _report_written(chosen)
        if chosen.command == "export":
            return _written(chosen.out, lambda: exported(chosen.workshop, chosen.build), force=chosen.force)
        document = _document(chosen)
    except OutsideError as error:
        return _refuse(str(error))
    sys.stdout.write((json.dumps(document, indent=2, ensure_ascii=False) if chosen.json else in_lines(document)) + "\n")
    return 0


def _document(chosen: argparse.Namespace) -> dict[str, object]:
    match chosen.command:
        case "list":
            return contents(chosen.workshop)
        case "report":
            return report_document(chosen.workshop, chosen.build)
        case "import":
            return imported(chosen.archive, chosen.workshop)
        case "compare":
            return comparison(chosen.workshop, chosen.first, chosen.second)
        case _:
            return search(chosen.workshop, chosen.words, chosen.build)


def _report_written(chosen: argparse.Namespace) -> int:
    """The report as a page, as a PDF, or both."""
    outs = [out for out in (chosen.html, chosen.pdf) if out is not None]
    for out in outs:
        if out.exists() and not chosen.force:
            return _refuse(_TAKEN.format(out))
    left_out = [section.strip().replace("-", "_") for section in chosen.without.split(",") if section.strip()]
    unknown = [section for section in left_out if section not in SECTIONS]
    if unknown:
        return _refuse(f"--without: found {', '.join(unknown)}, expected some of {', '.join(SECTIONS)}")
    html = report_html(
        chosen.workshop,
        chosen.build,
        paper=chosen.paper_kind.replace("-", "_"),
        leave_out=[section for section in SECTIONS if section in left_out],
    )
    makers: dict[Path, Callable[[], str | bytes]] = {}
    if chosen.html is not None:
        makers[chosen.html] = lambda: html
    if chosen.pdf is not None:
        makers[chosen.pdf] = lambda: _pdf(html, chosen.paper)
    return max(_written(out, make, force=True) for out, make in makers.items())


def _written(out: Path, make: Callable[[], str | bytes], *, force: bool) -> int:
    if out.exists() and not force:
        return _refuse(_TAKEN.format(out))
    content = make()
    try:
        write_whole(out, content)
    except OSError as error:
        return _refuse(not_written_words(out, error))
    return 0


def _pdf(html: str, paper: Literal["A4", "letter"]) -> bytes:
    """Drawn by Qt without a display."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PySide6.QtGui import QGuiApplication

    from plinth.desk.look import load_fonts
    from plinth.desk.pdf import pdf_of

    application = QGuiApplication.instance() or QGuiApplication([])
    load_fonts()
    made = pdf_of(html, paper=paper)
    del application
    return made


def _refuse(sentence: str) -> int:
    sys.stderr.write(" ".join(sentence.splitlines()) + "\n")
    return BAD_INPUT
