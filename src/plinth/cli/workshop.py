"""``plinth list``, ``report``, ``compare`` and ``find``: a workshop read without a window."""

import argparse
import json
import os
import sys

from plinth.report.file_out import not_written_words, write_whole
from plinth.session.outside import (
    OutsideError,
    comparison,
    contents,
    in_lines,
    report_document,
    report_html,
    search,
)  # fmt: skip

BAD_INPUT = 2


def run_workshop(chosen: argparse.Namespace) -> int:
    """Carry out one of the commands; 0, or 2 with one sentence on stderr."""
    try:
        if chosen.command == "report" and (chosen.html is not None or chosen.pdf is not None):
            return _written(chosen)
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
        case "compare":
            return comparison(chosen.workshop, chosen.first, chosen.second)
        case _:
            return search(chosen.workshop, chosen.words, chosen.build)


def _written(chosen: argparse.Namespace) -> int:
    """The report as a page, as a PDF, or both."""
    for out in (chosen.html, chosen.pdf):
        if out is not None and out.exists() and not chosen.force:
            return _refuse(f"{out}: found a file there already, expected none: name another, or add --force")
    html = report_html(chosen.workshop, chosen.build)
    for out, content in ((chosen.html, html), (chosen.pdf, None)):
        if out is None:
            continue
        try:
            write_whole(out, _pdf(html) if content is None else content)
        except OSError as error:
            return _refuse(not_written_words(out, error))
    return 0


def _pdf(html: str) -> bytes:
    """Drawn by Qt without a display."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PySide6.QtGui import QGuiApplication

    from plinth.desk.look import load_fonts
    from plinth.desk.pdf import pdf_of

    application = QGuiApplication.instance() or QGuiApplication([])
    load_fonts()
    made = pdf_of(html)
    del application
    return made


def _refuse(sentence: str) -> int:
    sys.stderr.write(" ".join(sentence.splitlines()) + "\n")
    return BAD_INPUT
