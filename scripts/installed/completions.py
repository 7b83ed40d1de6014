"""What a shell completes after ``plinth``: commands, options, choices and files; for bash, zsh and fish."""

from scripts.installed.commands import Command, Option, commands


def completions() -> dict[str, str]:
    """Each shell's file by its path below ``usr/share``."""
    every = commands()
    return {
        "bash-completion/completions/plinth": _bash(every),
        "zsh/vendor-completions/_plinth": _zsh(every),
        "fish/vendor_completions.d/plinth.fish": _fish(every),
    }


def _quoted(text: str) -> str:
    return "'" + text.replace("'", "'\\''") + "'"


def _names(options: tuple[Option, ...]) -> str:
    return " ".join(name for option in options for name in option.names)


def _bash(every: tuple[Command, ...]) -> str:
    top, *rest = every
    lines = [
        "# bash completion of plinth", "_plinth() {", '    local word=${COMP_WORDS[COMP_CWORD]}',
        '    local before=${COMP_WORDS[COMP_CWORD-1]} command=${COMP_WORDS[1]}', "    COMPREPLY=()",
        "    if [ \"$COMP_CWORD\" -eq 1 ]; then",
        f'        COMPREPLY=($(compgen -W "{" ".join(c.name for c in rest)} {_names(top.options)}" -- "$word"))',
        "        return", "    fi", '    case "$command $before" in',
    ]  # fmt: skip
    for command in rest:
        for option in command.options:
            for name in option.names:
                if option.choices:
                    words = f'$(compgen -W "{" ".join(option.choices)}" -- "$word")'
                    lines.append(f'    "{command.name} {name}") COMPREPLY=({words}); return ;;')
                elif option.is_file:
                    lines.append(f'    "{command.name} {name}") COMPREPLY=($(compgen -f -- "$word")); return ;;')
    lines += ["    esac", '    case "$command" in']
    for command in rest:
        files = any(option.is_file and not option.names for option in command.options)
        more = ' $(compgen -f -- "$word")' if files else ""
        lines.append(f'    {command.name}) COMPREPLY=($(compgen -W "{_names(command.options)}" -- "$word"){more}) ;;')
    return "\n".join([*lines, "    esac", "}", "complete -o filenames -F _plinth plinth", ""])


def _zsh(every: tuple[Command, ...]) -> str:
    top, *rest = every
    lines = [
        "#compdef plinth", "_plinth() {", "    local -a commands", "    commands=(",
        *(f"        {_quoted(f'{c.name}:{c.words}')}" for c in rest), "    )",
        "    if (( CURRENT == 2 )); then", "        _describe command commands",
        f"        _arguments {' '.join(_zsh_option(option) for option in top.options)}", "        return", "    fi",
        '    case "$words[2]" in',
    ]  # fmt: skip
    for command in rest:
        parts = " ".join(_zsh_option(option) for option in command.options)
        lines.append(f"    {command.name}) (( CURRENT-- )); shift words; _arguments {parts} ;;")
    return "\n".join([*lines, "    esac", "}", '_plinth "$@"', ""])


def _zsh_option(option: Option) -> str:
    words = option.words.replace("[", "(").replace("]", ")").replace(":", ";")
    action = f"({' '.join(option.choices)})" if option.choices else "_files" if option.is_file else " "
    takes = option.takes.replace(":", ";")
    if not option.names:
        return _quoted(f":{takes}:{action}")
    tail = f":{takes}:{action}" if option.takes else ""
    return " ".join(_quoted(f"{name}[{words}]{tail}") for name in option.names)


def _fish(every: tuple[Command, ...]) -> str:
    top, *rest = every
    lines = ["# fish completion of plinth", "complete -c plinth -f"]
    lines += [f"complete -c plinth -n __fish_use_subcommand -a {c.name} -d {_quoted(c.words)}" for c in rest]
    lines += [_fish_option(option, "__fish_use_subcommand") for option in top.options]
    for command in rest:
        where = f"'__fish_seen_subcommand_from {command.name}'"
        lines += [_fish_option(option, where) for option in command.options if option.names]
        if any(option.is_file and not option.names for option in command.options):
            lines.append(f"complete -c plinth -n {where} -F")
    return "\n".join([*lines, ""])


def _fish_option(option: Option, where: str) -> str:
    flags = " ".join(f"-l {name[2:]}" if name.startswith("--") else f"-s {name[1:]}" for name in option.names)
    after = f" -xa {_quoted(' '.join(option.choices))}" if option.choices else " -rF" if option.is_file else ""
    after = after or (" -x" if option.takes else "")
    return f"complete -c plinth -n {where} {flags}{after} -d {_quoted(option.words)}"
