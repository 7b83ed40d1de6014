"""The commands of ``plinth`` as its parser has them: what man pages and completions are made from."""

import argparse
import dataclasses

from plinth.cli.main import parser


@dataclasses.dataclass(frozen=True)
class Option:
    """``names`` as typed (none for a place of its own), ``takes`` what follows, one of ``choices`` where there are."""

    names: tuple[str, ...]
    takes: str
    words: str
    choices: tuple[str, ...] = ()
    is_file: bool = False


@dataclasses.dataclass(frozen=True)
class Command:
    """``name`` empty for the program itself."""

    name: str
    words: str
    options: tuple[Option, ...]


def commands() -> tuple[Command, ...]:
    """The program itself, then each command in the order of its help."""
    top = parser()
    made = [Command("", str(top.description), _options(top))]
    for action in top._actions:  # noqa: SLF001  # argparse tells of its arguments nowhere else
        if isinstance(action, argparse._SubParsersAction):  # noqa: SLF001
            words = {choice.dest: choice.help or "" for choice in action._choices_actions}  # noqa: SLF001
            made += [Command(name, words[name], _options(each)) for name, each in action.choices.items()]
    return tuple(made)


def _options(of: argparse.ArgumentParser) -> tuple[Option, ...]:
    made = []
    for action in of._actions:  # noqa: SLF001
        if isinstance(action, argparse._SubParsersAction):  # noqa: SLF001
            continue
        takes = "" if action.nargs == 0 else _takes(action)
        words = "show what it takes" if isinstance(action, argparse._HelpAction) else action.help or ""  # noqa: SLF001
        choices = tuple(str(choice) for choice in action.choices or ())
        is_file = getattr(action.type, "__name__", "") == "Path" or takes in ("FILE", "FILE.csv")
        made.append(Option(tuple(action.option_strings), takes, words.replace("%%", "%"), choices, is_file))
    return tuple(made)


def _takes(action: argparse.Action) -> str:
    name = action.metavar if isinstance(action.metavar, str) else action.dest.upper()
    return f"{name} ..." if action.nargs == "+" else name
