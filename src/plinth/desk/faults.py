"""A fault of Plinth itself: written to a file for whoever fixes it."""

import sys
import traceback

from plinth.desk import preferences


def write_fault(error: BaseException) -> str:
    """Write the whole of an error down; a sentence that says where."""
    text = "".join(traceback.format_exception(error))
    sys.stderr.write(text)
    path = preferences.folder() / "faults.txt"
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with path.open("a", encoding="utf-8") as file:
            file.write(text + "\n")
    except OSError:
        return "What it was is written on the terminal."
    return f"What it was is written in {path}."
