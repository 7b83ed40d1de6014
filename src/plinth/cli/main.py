"""Arguments of ``plinth``; each command is imported only when it is asked for."""

import argparse
import gc
import os
import sys
from pathlib import Path
from typing import NoReturn

BAD_INPUT = 2
# Of `plinth.cli.schemas`, which loads what this must not wait for.
SCHEMA_NAMES = ("build", "situation", "archive", "archived-build", "archived-part", "command-map")


class _OneLineParser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        self.exit(BAD_INPUT, f"{self.prog}: {message}; see `{self.prog} --help`\n")


class _Versions(argparse.Action):
    """Print the versions of Plinth and of what it rests on: what a report of a fault should name."""

    def __call__(self, parser: argparse.ArgumentParser, *_given: object) -> NoReturn:
        from plinth.cli.doctor import versions

        sys.stdout.write(f"{versions()}\n")
        parser.exit(0)


def parser() -> argparse.ArgumentParser:
    """The parser of all commands."""
    top = _OneLineParser(
        prog="plinth",
        description="Plan, bring up, measure and record home-built audio amplifiers.",
        epilog="Without a command: open the last workshop, or the demo where there is none yet.",
    )
    top.add_argument("--version", action=_Versions, nargs=0, help="Plinth, and what it rests on")
    commands = top.add_subparsers(dest="command", metavar="COMMAND")
    commands.add_parser("demo", help="open the demo workshop in a fresh copy")
    opening = commands.add_parser("open", help="open a workshop file, the last one where none is named")
    opening.add_argument("workshop", type=Path, nargs="?", metavar="WORKSHOP")
    beginning = commands.add_parser("new", help="begin a workshop file and open it")
    beginning.add_argument("workshop", type=Path, metavar="WORKSHOP")
    beginning.add_argument("--practice", action="store_true", help="for practice: only what is simulated counts in it")
    solving = commands.add_parser("solve", help="print the predicted figures of a build file")
    solving.add_argument("build", type=Path, metavar="BUILD.json")
    solving.add_argument("--json", action="store_true", help="figures with unit and uncertainty as JSON")
    solving.add_argument(
        "--situation", nargs="+", action="extend", default=[], metavar="K=V",
        help="mains_v_rms, mains_hz, third_harmonic, battery_v, lamp_w, source_v_rms, load_ohm, load_phase_deg, "
        "channels_driven, antiphase, level, frequency_hz, phase_deg, crest_db, ambient_c, "
        "rail_load_a, rail_load_ohm",
    )  # fmt: skip
    solving.add_argument(
        "--waveforms", type=Path, metavar="FILE.csv", help="write one period of rails, currents and output as CSV"
    )
    solving.add_argument(
        "--samples", type=int, default=0, metavar="N",
        help="check the uncertainty of the clip power with N random samples of the inputs (100 to 100000)",
    )  # fmt: skip
    solving.add_argument(
        "--thd",
        action="store_true",
        help="also the clip power at 1 %% and 10 %% distortion (resistive load)",
    )
    solving.add_argument(
        "--mains-steps",
        action="store_true",
        help="also the rails to expect while a variable transformer is turned up",
    )
    examining = commands.add_parser(
        "doctor", help="what on this machine may keep Plinth from working, and how to mend it"
    )
    examining.add_argument("--json", action="store_true", help="as JSON")
    describing = commands.add_parser("schema", help="print the JSON Schema of build files, or of another file")
    describing.add_argument("name", nargs="?", choices=SCHEMA_NAMES, default="build", help="of which (build)")
    _add_workshop_commands(commands)
    _add_bench(commands.add_parser("bench", help="serve simulated instruments wired to a build (SCPI, loopback only)"))
    _add_analyse(commands.add_parser("analyse", help="print the figures of a capture (CSV, WAV, FLAC, AIFF, .npy)"))
    return top


def _add_workshop_commands(commands: "argparse._SubParsersAction[_OneLineParser]") -> None:
    """What is read of a workshop without a window."""
    listing = commands.add_parser("list", help="what is in a workshop: builds, readings, photos, parts")
    reporting = commands.add_parser("report", help="the report of a build")
    comparing = commands.add_parser("compare", help="two builds of a workshop beside each other")
    finding = commands.add_parser("find", help="what of the shelf meets a requirement, as '60 W 4R'")
    finding.add_argument("words", metavar="REQUIREMENT")
    exporting = commands.add_parser("export", help="a workshop, or one build of it, as an open archive")
    exporting.add_argument("workshop", type=Path, metavar="FILE")
    exporting.add_argument("out", type=Path, metavar="OUT.zip")
    exporting.add_argument("--build", metavar="BUILD", help="this build alone, with the whole shelf")
    exporting.add_argument("--force", action="store_true", help="replace OUT.zip if it exists (never a workshop)")
    importing = commands.add_parser("import", help="begin a workshop with an archive, or add it to one")
    importing.add_argument("archive", type=Path, metavar="ARCHIVE.zip")
    importing.add_argument("workshop", type=Path, metavar="FILE")
    importing.add_argument("--json", action="store_true", help="as JSON")
    for command in (listing, reporting, comparing, finding):
        command.add_argument("workshop", type=Path, metavar="FILE")
        command.add_argument("--json", action="store_true", help="as JSON")
    reporting.add_argument("build", metavar="BUILD")
    reporting.add_argument("--html", type=Path, metavar="OUT", help="write it as a page")
    reporting.add_argument("--pdf", type=Path, metavar="OUT", help="write it as a PDF")
    reporting.add_argument("--paper", choices=("A4", "letter"), default="A4", help="of the PDF; A4 if not said")
    reporting.add_argument(
        "--as", dest="paper_kind", choices=("report", "power-table", "build-record"), default="report",
        help="which paper: all of it, watts into every load on one page, or the record for the next owner",
    )  # fmt: skip
    reporting.add_argument(
        "--without", default="", metavar="A,B", help="sections that the report leaves out: diary, parts, margins ..."
    )
    reporting.add_argument("--force", action="store_true", help="replace OUT if it exists (never a workshop)")
    comparing.add_argument("first", metavar="A")
    comparing.add_argument("second", metavar="B")
    finding.add_argument("--build", metavar="BUILD", help="from which build on; the first where it is left out")


def _add_bench(serving: argparse.ArgumentParser) -> None:
    serving.add_argument("build", type=Path, metavar="BUILD.json")
    serving.add_argument("--json", action="store_true", help="one line of JSON once all instruments answer")
    serving.add_argument("--fault", metavar="KEY", help="lay a fault of the catalogue on it, as 'device shorted'")
    serving.add_argument("--speed", type=float, default=1.0, metavar="N", help="its time runs N times as fast")
    serving.add_argument("--seed", type=int, default=1, metavar="N", help="of its meters' errors and its noise")
    serving.add_argument("--ends-with-input", action="store_true", help="end once nobody holds its standard input")
    serving.add_argument("--truth", type=Path, metavar="FILE", help="write at its end what has become of the build")


def _add_analyse(analysing: argparse.ArgumentParser) -> None:
    analysing.add_argument("capture", type=Path, metavar="FILE", help="a capture, or a folder with one a level")
    analysing.add_argument("--json", action="store_true", help="figures with spread, unit and definition as JSON")
    analysing.add_argument("--as", dest="kind", metavar="KIND",
                           help="tone, intermodulation, levels, rail, edge, sweep, relay, impedance, mains, plain; "
                           "guessed where it is left out")  # fmt: skip
    for option, metavar, words in (
        ("--volts-per-full-scale", "V[,V]", "volts (or amperes) at full scale, for all channels or each"),
        ("--probe", "N[,N]", "what each value is multiplied by"),
        ("--rate", "HZ", "samples a second, where the file does not say"),
        ("--time-unit", "UNIT", "of a column of times: s, ms, us, ns"),
        ("--load", "OHM", "the load that the output drove"),
        ("--step-s", "S", "seconds of each level of a sweep of levels"),
        ("--sweep", "F1:F2:S", "an exponential sweep, from and to in Hz, and its seconds"),
        ("--at", "HZ[,HZ]", "frequencies wanted of a sweep"),
        ("--open", "FILE", "the same output without its load, for its impedance"),
        ("--band", "F1:F2", "one more band for the noise, in Hz"),
        ("--span", "T1:T2", "the part, in seconds from and to, that figures are drawn from"),
    ):
        analysing.add_argument(option, metavar=metavar, help=words)


def main(arguments: list[str] | None = None) -> int:
    """Run the command; exit status 0, or 2 with one sentence for bad input."""
    chosen = parser().parse_args(arguments)
    # Nothing here uses BLAS threads or pydantic plug-ins; starting and searching for them costs a tenth of a second.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
    # Half a second of loading makes no garbage worth collecting; looking for it takes a fifth of the time. The window
    # turns it on again once it stands.
    gc.disable()
    if chosen.command == "solve":
        from plinth.cli.solve import run_solve

        return run_solve(
            chosen.build,
            chosen.situation,
            as_json=chosen.json,
            waveforms=chosen.waveforms,
            samples=chosen.samples,
            thd=chosen.thd,
            steps=chosen.mains_steps,
        )
    if chosen.command in ("list", "report", "compare", "find", "export", "import"):
        from plinth.cli.workshop import run_workshop

        return run_workshop(chosen)
    if chosen.command == "bench":
        from plinth.cli.bench import run_bench

        return run_bench(
            chosen.build, fault=chosen.fault, speed=chosen.speed, seed=chosen.seed, as_json=chosen.json,
            ends_with_input=chosen.ends_with_input, truth=chosen.truth,
        )  # fmt: skip
    if chosen.command == "analyse":
        from plinth.cli.analyse import run_analyse

        words = {name: value for name, value in vars(chosen).items() if isinstance(value, str)}
        return run_analyse(chosen.capture, words, as_json=chosen.json)
    if chosen.command == "doctor":
        from plinth.cli.doctor import run_doctor

        return run_doctor(as_json=chosen.json)
    if chosen.command == "schema":
        from plinth.cli.solve import run_schema

        return run_schema(chosen.name)
    from plinth.desk.app import run_desk

    if chosen.command == "new":
        return run_desk(workshop=chosen.workshop, begin=True, practice=chosen.practice)
    if chosen.command == "demo":
        return run_desk(demo=True)
    return run_desk(workshop=chosen.workshop if chosen.command == "open" else None)


if __name__ == "__main__":
    sys.exit(main())
