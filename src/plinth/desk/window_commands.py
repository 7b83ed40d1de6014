"""Every command of the window: its title, its keys, what it does on which page."""

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

from plinth.builds.stations import STATIONS
from plinth.desk.commands import Command
from plinth.desk.explain_figure import explain_figure
from plinth.desk.measure.every_test import TESTS
from plinth.desk.stage_keys import DIARY, MEASURE, PLAN, POWER_UP
from plinth.desk.system_look import as_the_system
from plinth.report.file_out import proposed_name

if TYPE_CHECKING:
    from plinth.desk.window import PlinthWindow


class WindowCommands:
    """What the keys and the finder of ``window`` do."""

    def __init__(self, window: "PlinthWindow") -> None:
        self._window = window

    def every(self) -> tuple[Command, ...]:
        """All of them, in the order of the finder."""
        window, session = self._window, self._window.session
        stages = [
            Command(
                f"stage.{stage.key}",
                f"go to {stage.name}",
                "Stage",
                partial(window.show_stage, stage.key),
                f"Ctrl+{place}",
            )
            for place, stage in enumerate(window.in_order, 1)
        ]
        stations = [
            Command(
                f"station.{s.key}", f"{s.title}, go to it", "Station",
                partial(session.choose_station, s.key), f"Alt+Shift+{i + 1}",
            )
            for i, s in enumerate(STATIONS)
        ]  # fmt: skip
        tests = [
            # The tenth is 0; there are no more digits.
            Command(
                f"test.{i}",
                test.command,
                "Measure",
                partial(self._test, i),
                f"Ctrl+Shift+{(i + 1) % 10}" if i < 10 else "",
            )
            for i, test in enumerate(TESTS)
        ]
        return (
            *stages,
            *stations,
            Command("load", "dummy load on or off, its clock", "Measure", self._load_clock, "Ctrl+J"),
            Command("capture", "figures of a capture: a scope's file, a recording", "Measure",
                    lambda: window.measure.show_capture(), "Ctrl+Alt+F"),
            Command("fit", "put what fits all clipping readings into the plan", "Measure", self._fit_to_plan,
                    "Ctrl+Shift+T"),
            Command("diary_line", "the last line of the diary about what is asked", "Diary", self._to_diary_line,
                    "Ctrl+Shift+Y"),
            Command("undo", "undo", "Plan", session.plan.undo, "Ctrl+Z", lambda: session.plan.can_undo),
            Command("redo", "redo", "Plan", session.plan.redo, "Ctrl+Shift+Z", lambda: session.plan.can_redo),
            Command("reset", "put every slider back", "Plan", session.plan.reset_what_if, "Ctrl+Backspace"),
            Command("channels", "drive one or all channels", "Plan", self._toggle_channels, "Ctrl+Shift+C"),
            Command("origin", "where a figure comes from", "Plan", self._explain, "Ctrl+I",
                    lambda: session.predictions.prediction is not None),
            Command("shelf", "along the shelf for this station", "Plan", self._to_shelf, "Ctrl+Shift+S"),
            Command("change", "change a part of this station", "Plan", self._change_part, "Ctrl+T",
                    lambda: bool(window.plan.parts.change_buttons)),
            Command("makeup", "how this build is made: name, channels, wiring, supply", "Plan",
                    window.plan.parts.ask_makeup, "Ctrl+Shift+M"),
            Command("small_parts", "small parts of this build: op-amps, resistors, boards, kits", "Plan",
                    lambda: window.plan.show_small_parts(), "Ctrl+Alt+P"),
            Command("view", "plots: next view over time", "Plan", self._next_view, "Ctrl+Shift+V"),
            Command("map", "map of clip power", "Plan", lambda: window.plan.show_map(), "Ctrl+M",
                    lambda: session.predictions.prediction is not None),
            Command("curve", "any figure over anything that can be varied", "Plan", lambda: window.plan.show_curve(),
                    "Ctrl+R", lambda: session.predictions.prediction is not None),
            Command("bill", "bill: what it costs, what it waits for", "Plan", lambda: window.plan.show_bill(),
                    "Ctrl+Shift+G"),
            Command("fix", "what clears the tightest limit", "Plan", lambda: window.plan.show_fixes(), "Ctrl+Shift+F",
                    lambda: any(margin.fix for margin in session.predictions.margins)),
            Command("find_me", "find me: what of the shelf meets a requirement", "Plan",
                    lambda: window.plan.show_find(), "Ctrl+F", lambda: session.predictions.prediction is not None),
            Command("wiring", "show me the wiring", "Plan", lambda: window.plan.show_wiring(), "Ctrl+W",
                    lambda: session.predictions.prediction is not None),
            Command("variants", "variants of this build beside each other", "Plan", lambda: window.plan.show_variants(),
                    "Ctrl+Shift+D"),
            Command("claims", "what the listings claim, judged", "Plan", lambda: window.plan.show_claims(),
                    "Ctrl+Shift+J", lambda: session.predictions.prediction is not None),
            Command("sliders", "to the sliders", "Plan", self._to_sliders, "Ctrl+Shift+L"),
            Command("due", "to the step that is due", "Power up", self._to_due, "Ctrl+G"),
            Command("reminder", "to what falls due first, of all builds", "Power up", self._to_next_due, "Ctrl+Shift+R",
                    lambda: bool(session.reminders.all())),
            Command("stop", "stop, power off", "Power up", session.power.switch_off, "",
                    lambda: session.power.live is not None),
            Command("pass", "pass this step over, with a reason", "Power up", self._pass_over, "Ctrl+Shift+P"),
            *tests,
            *window.instrument_actions.commands(),
            Command("card", "card for the bench: all steps on paper", "Power up", self._ask_card, "Ctrl+Shift+K"),
            Command("note", "write a note", "Diary", self._write_note, "Ctrl+Shift+N"),
            Command("report", "report as HTML or PDF", "Diary", lambda: window.diary.ask_report(), "Ctrl+P",
                    lambda: session.predictions.prediction is not None),
            Command("csv", "readings as CSV", "Diary", lambda: window.diary.ask_csv(), "Ctrl+E"),
            Command("builds", "switch to another build", "Builds", window.head.builds.showMenu, "Ctrl+B"),
            Command("next_build", "next build", "Builds", self._next_build, "Ctrl+Tab"),
            Command("new", "new build, from a requirement", "Builds", window.first.ask_new, "Ctrl+N"),
            Command("taken_in", "take in an amplifier that somebody else built", "Builds", window.first.take_in,
                    "Ctrl+Shift+A"),
            Command("copy", "copy this build", "Builds", lambda: window.name_build(copy=True), "Ctrl+D"),
            Command("take_in", "take in a build file", "Builds", self._ask_take_in, "Ctrl+O"),
            Command("write_out", "write this build to a file", "Builds", self._ask_write_out, "Ctrl+Shift+O"),
            Command("bench", "instruments and their accuracy", "Workshop", window.ask_bench, "Ctrl+Shift+I"),
            Command("open", "open another workshop", "Workshop", window.ask_open, "Ctrl+Shift+W"),
            Command("begin", "begin a new workshop", "Workshop", window.ask_begin, "Ctrl+Shift+B"),
            Command("practice", "begin a workshop for practice", "Workshop",
                    lambda: window.ask_begin(practice=True), "Ctrl+Alt+B"),
            Command("save_copy", "save a copy of this workshop as", "Workshop", window.copying.ask_copy, "Ctrl+Alt+S"),
            Command("copies", "copies of this workshop, one a day", "Workshop", window.copying.ask_copies,
                    "Ctrl+Alt+C"),
            Command("archive", "archive of this workshop: open files for anybody", "Workshop",
                    lambda: window.copying.ask_archive(only_current=False), "Ctrl+Alt+O"),
            Command("archive_build", "archive of this build, for its next owner", "Builds",
                    lambda: window.copying.ask_archive(only_current=True), "Ctrl+Alt+E"),
            Command("archive_in", "from an archive: into this workshop, or one of its own", "Workshop",
                    window.copying.ask_archive_in, "Ctrl+Alt+I"),
            Command("path", "power path whole or slim", "Look", window.toggle_path, "Ctrl+H",
                    lambda: window.stage != PLAN),
            Command("dark", "light or dark", "Look", window.toggle_dark, "Ctrl+L"),
            Command("system_look", "light or dark as the desktop has it", "Look", as_the_system),
            Command("larger", "larger text", "Look", lambda: window.step_text(1), "Ctrl++"),
            Command("smaller", "smaller text", "Look", lambda: window.step_text(-1), "Ctrl+-"),
            Command("find", "find a command", "Look", window.open_finder, "Ctrl+K"),
            Command("tour", "show me around: five stops", "Look", window.first.show_around, "Shift+F1"),
            Command("guide", "the guide, at this place", "Look", window.open_guide, "F1"),
            Command("quit", "close the window", "Workshop", window.close, "Ctrl+Q"),
        )  # fmt: skip

    def _explain(self) -> None:
        """Where the figure in front comes from, whichever page it is on."""
        prediction, name = self._window.page(self._window.stage).explained()
        explain_figure(self._window, self._window.session, prediction, name)

    def _fit_to_plan(self) -> None:
        self._window.show_stage(MEASURE)
        self._window.measure.show_named("Clipping power")
        self._window.measure.clip.put_fit_in_plan()

    def _to_next_due(self) -> None:
        reminders = self._window.session.reminders.all()
        if reminders:
            self._window.go_to_due(reminders[0])

    def _toggle_channels(self) -> None:
        other = "one" if self._window.session.situation.channels_driven == "all" else "all"
        self._window.session.plan.what_if(live=False, channels_driven=other)

    def _to_shelf(self) -> None:
        self._window.show_stage(PLAN)
        self._window.plan.show_shelf()

    def _change_part(self) -> None:
        self._window.show_stage(PLAN)
        self._window.plan.parts.change(next(iter(self._window.plan.parts.change_buttons)))

    def _next_view(self) -> None:
        self._window.show_stage(PLAN)
        self._window.plan.next_view()

    def _to_sliders(self) -> None:
        self._window.show_stage(PLAN)
        next(iter(self._window.plan.what_if.rows.values())).slider.setFocus()

    def _to_due(self) -> None:
        self._window.show_stage(POWER_UP)

    def _pass_over(self) -> None:
        if self._window.stage != POWER_UP:
            self._window.show_stage(POWER_UP)
        if self._window.power_up.question.in_words.pass_button.isVisibleTo(self._window.power_up):
            self._window.power_up.question.in_words.ask_reason()

    def _ask_card(self) -> None:
        if self._window.stage != POWER_UP:
            self._window.show_stage(POWER_UP)
        self._window.power_up.ask_card()

    def _load_clock(self) -> None:
        self._window.show_stage(MEASURE)
        self._window.measure.toggle_load()

    def _test(self, index: int) -> None:
        self._window.show_stage(MEASURE)
        self._window.measure.show_test(index)

    def _write_note(self) -> None:
        self._window.show_stage(DIARY)
        self._window.diary.note.setFocus()

    def _next_build(self) -> None:
        ids = [build.id for build in self._window.session.builds]
        self._window.session.switch(ids[(ids.index(self._window.session.stored.id) + 1) % len(ids)])

    def _to_diary_line(self) -> None:
        """To the last line of the diary about what is asked in front, or about the build where none is."""
        procedure = self._window.page(self._window.stage).under_way
        subject = "" if procedure is None else procedure.subject
        self._window.show_stage(DIARY)
        self._window.diary.go_to_last(subject)

    def _ask_take_in(self) -> None:
        """Ask for a build file and take it in as a new build."""
        name, _ = QFileDialog.getOpenFileName(
            self._window.pages.currentWidget(), "Take in a build", "", "Build file (*.json)"
        )
        if name:
            self._window.say(self._window.session.plan.take_in(Path(name)))

    def _ask_write_out(self) -> None:
        """Ask where to and write this build."""
        proposed = proposed_name(self._window.session.build.name, ".json")
        name, _ = QFileDialog.getSaveFileName(
            self._window.pages.currentWidget(), "Write this build", proposed, "Build file (*.json)"
        )
        if name:
            self._window.say(self._window.session.plan.write_out(Path(name)))
