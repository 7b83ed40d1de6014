"""Man pages of the program and of every command, made from its parser: ``plinth.1``, ``plinth-solve.1`` ..."""

from plinth import __version__
from scripts.installed.commands import Command, Option, commands

STATUS = "0 where all went well, 2 with one sentence on standard error where something given to it was wrong."
FILES = (
    ("~/.local/share/plinth", "demo workshops, and new ones that were given no other place"),
    ("~/.local/state/plinth/copies", "a copy of each workshop a day, thinned out by age"),
    ("~/.config/plinth/window.json", "look, size and last workshop of the window"),
)


def man_pages() -> dict[str, str]:
    """Each page's text by its file name."""
    every = commands()
    pages = {"plinth.1": _of_program(every)}
    for command in every[1:]:
        pages[f"plinth-{command.name}.1"] = _of_command(command)
    return pages


def _plain(text: str) -> str:
    """Text as roff takes it: no line begins as a request does, no sign is taken for another."""
    escaped = text.replace("\\", "\\e").replace("-", "\\-").replace("'", "\\(aq")
    return f"\\&{escaped}" if escaped.startswith((".", "'")) else escaped


def _head(name: str, words: str) -> list[str]:
    title = name.upper().replace("-", "\\-")
    return [f'.TH {title} 1 "" "Plinth {__version__}" "Plinth"', ".SH NAME", f"{_plain(name)} \\- {_plain(words)}"]


def _of_program(every: tuple[Command, ...]) -> str:
    top = every[0]
    lines = _head("plinth", top.words[:1].lower() + top.words[1:].rstrip("."))
    lines += [".SH SYNOPSIS", ".B plinth", ".RI [ COMMAND ]", ".SH DESCRIPTION", _plain(top.words)]
    lines += ["Without a command it opens the last workshop, or the demo where there is none yet.", ".SH COMMANDS"]
    for command in every[1:]:
        lines += [
            ".TP",
            f".B {_plain(command.name)}",
            f"{_plain(command.words)}; see",
            f".BR plinth\\-{command.name} (1)",
        ]
    lines += [".SH OPTIONS", *_listed(top.options), ".SH FILES"]
    for path, words in FILES:
        lines += [".TP", f".I {_plain(path)}", _plain(words)]
    return _joined([*lines, ".SH EXIT STATUS", STATUS])


def _of_command(command: Command) -> str:
    lines = _head(f"plinth-{command.name}", command.words)
    places = " ".join(option.takes for option in command.options if not option.names)
    lines += [".SH SYNOPSIS", f".B plinth {_plain(command.name)}", f"{_plain(places)} [OPTION ...]", ".SH OPTIONS"]
    return _joined([*lines, *_listed(command.options), ".SH EXIT STATUS", STATUS, ".SH SEE ALSO", ".BR plinth (1)"])


def _listed(options: tuple[Option, ...]) -> list[str]:
    lines: list[str] = []
    for option in options:
        head = ", ".join(f"\\fB{_plain(name)}\\fR" for name in option.names)
        takes = "|".join(option.choices) if option.choices else option.takes
        lines += [".TP", f"{head} \\fI{_plain(takes)}\\fR".strip() if takes else head, _plain(option.words) or "\\&"]
    return lines


def _joined(lines: list[str]) -> str:
    return "\n".join(lines) + "\n"
