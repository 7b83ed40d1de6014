"""Planning: builds made, exchanged, changed, undone; every state kept as it is reached."""

import secrets
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

import pydantic

from plinth.builds.build import Build
from plinth.builds.fields import in_sentence, part_fields
from plinth.builds.files import BuildFileError, read_build
from plinth.builds.history import History
from plinth.builds.invalid import invalid
from plinth.builds.makeup import Makeup, makeup_of, remade
from plinth.builds.parts import Part
from plinth.builds.properties import value_at
from plinth.builds.rail_load import read_rail_loads
from plinth.builds.situation import Situation
from plinth.builds.small_part import SmallPart, read_small_part, with_small_part
from plinth.builds.stations import is_there, part_in, stations, with_part
from plinth.builds.stock import Stock
from plinth.demo.workshop import is_invented
from plinth.report.file_out import not_written_words, write_whole
from plinth.session.core import Core, PlanState
from plinth.session.predictions import Predictions
from plinth.session.records import Records
from plinth.shelf.additions import draws_of_input_stages, leaving_words, with_addition, without
from plinth.shelf.slots import WORDS, joined, joined_all
from plinth.shelf.usual_series import is_usual
from plinth.units.errors import QuantityError
from plinth.units.shown import shown
from plinth.units.typed import read_quantity
from plinth.workshop.kept_builds import StoredBuild


class Plan:
    """What may be changed of the current build, and going over to another. ``trying`` the part that is looked at."""

    def __init__(self, core: Core, records: Records, predictions: Predictions) -> None:
        self._core, self._records, self._predictions = core, records, predictions
        self.trying = ""

    def load(self) -> None:
        """Take in what is kept of the current build, and have it predicted."""
        stored = self._core.stored
        if stored.id not in self._core.histories:
            self._core.histories[stored.id] = History(PlanState(stored.build, stored.situation))
        self.trying = ""
        self._core.live = None
        self._predictions.forget()
        self._records.read_diary()
        self._predictions.solve(live=False)

    def switch(self, build_id: int) -> None:
        """Go to another build."""
        if build_id == self._core.current:
            return
        self._core.save_again()
        self._core.current = build_id
        self._core.attempt(lambda: self._core.workshop.set_setting("desk", {"build": build_id}))
        self.load()
        self._core.tell.build_switched()
        self._core.tell.plan_changed()
        self._core.tell.records_changed()

    def add_build(self, name: str, *, copy: bool) -> bool:
        """A new build of that name: a copy of this one with its situation, or the same parts and a fresh page."""
        build = self._core.build.model_copy(update={"name": name, "note": self._core.build.note if copy else ""})
        situation = self._core.situation if copy else Situation()
        words = (
            f"{name}: copied from {self._core.build.name}."
            if copy
            else f"{name}: begun with the parts of {self._core.build.name}."
        )
        return self._add(build, situation, words)

    def _add(self, build: Build, situation: Situation, words: str) -> bool:
        made: list[StoredBuild] = []
        if not self._core.attempt(lambda: made.append(self._core.workshop.add_build(build, situation, words))):
            return False
        self._core.stored_builds = self._core.workshop.builds()
        self.switch(made[0].id)
        return True

    def add_new(self, build: Build) -> bool:
        """A new build, begun from a requirement; its note says how."""
        named = self._with_free_name(build)
        return self._add(named, Situation(), f"{named.name}: {named.note[:1].lower()}{named.note[1:]}")

    def take_in(self, path: Path) -> str:
        """A new build from a build file; a sentence where that cannot be, else empty."""
        try:
            named = self._with_free_name(read_build(path))
        except BuildFileError as error:
            return str(error)
        words = f"{named.name}: taken in from {path.name}."
        return "" if self._add(named, Situation(), words) else "It could not be kept."

    def _with_free_name(self, build: Build) -> Build:
        names = {build.build.name for build in self._core.stored_builds}
        name, number = build.name, 1
        while name in names:
            number += 1
            name = f"{build.name}, {number}"
        return build.model_copy(update={"name": name})

    def write_out(self, path: Path) -> str:
        """This build as a build file; a sentence where that cannot be, else empty."""
        try:
            write_whole(path, self._core.build.model_dump_json(indent=2, exclude_none=True) + "\n")
        except OSError as error:
            return not_written_words(path, error)
        return ""

    def try_part(self, slot: str, part: Part) -> str:
        """Look at the build with another part in a station, without taking it; why it cannot join, empty where it can.

        Nothing is kept of it, no reading counts for it, and ``leave_trial`` puts all back as it was.
        """
        kept = self._core.plan_kept
        tried = joined(kept.build, slot, part)
        if isinstance(tried, str) or part == part_in(kept.build, slot):
            self.leave_trial()
            return tried if isinstance(tried, str) else ""
        self.trying = part.name
        self._core.live = PlanState(tried.with_mark(slot, "tried"), self._dropping_load(slot))
        self._core.tell.plan_changed()
        self._predictions.solve(live=True)
        return ""

    def try_parts(self, parts: Mapping[str, Part]) -> str:
        """The same with several parts at once, by slot."""
        tried = joined_all(self._core.plan_kept.build, parts)
        if isinstance(tried, str) or not parts:
            self.leave_trial()
            return tried if isinstance(tried, str) else ""
        self.trying = ", ".join(part.name for part in parts.values())
        for slot in parts:
            tried = tried.with_mark(slot, "tried")
        self._core.live = PlanState(tried, self._core.plan_kept.situation)
        self._core.tell.plan_changed()
        self._predictions.solve(live=True)
        return ""

    def swap_all(self, parts: Mapping[str, Part], reason: str = "") -> bool:
        """Put several parts in at once, as one step; whether they went together."""
        self.leave_trial()
        build = joined_all(self._core.build, parts)
        if isinstance(build, str):
            self._core.tell.refused(f"They were not put in: {build}.")
            return False
        said = [f"{part_in(self._core.build, slot).name} exchanged for {part.name}" for slot, part in parts.items()]
        for slot in parts:
            build = build.with_mark(slot, secrets.token_hex(4))
        words = f"{', '.join(said)}.{f' {reason}' if reason else ''}"
        self.change(PlanState(build, self._dropping_load("load" if "load" in parts else "")), words, words)
        return True

    def leave_trial(self) -> None:
        """The build as it is kept, after a part was only looked at."""
        if self.trying:
            self.trying, self._core.live = "", None
            self._core.tell.plan_changed()
            self._predictions.solve(live=False)

    def swap(self, slot: str, part: Part) -> None:
        """Put another part into a station."""
        self.trying, self._core.live = "", None
        before = part_in(self._core.build, slot)
        if part == before:
            return
        words = f"{before.name} exchanged for {part.name}."
        # Another thing stands there from now on, even where it is of the same make: readings of the old one do not
        # count for it.
        self._place(slot, part, words, secrets.token_hex(4))

    def fit_another(self, slot: str) -> None:
        """Another thing of the same make was fitted: nothing changes but that readings of the old one do not count."""
        part = part_in(self._core.build, slot)
        self._place(slot, part, f"Another {part.name} fitted in place of the one before.", secrets.token_hex(4))

    def put_in(self, slot: str, words: str) -> None:
        """Put a plain thing into a slot that is empty: every number of it is assumed until somebody says better."""
        self._with(slot, lambda: with_addition(self._core.build, slot), f"Put in: {words}, with assumed values.")

    def take_out(self, slot: str) -> None:
        """The build without what stands in a slot that may be empty."""
        words = f"Taken out: {leaving_words(self._core.build, slot)} ({WORDS[slot]})."
        self._with(slot, lambda: without(self._core.build, slot), words)

    def take_input_stages(self, text: str) -> str:
        """What the input stages draw from each regulated rail, as it is typed; a sentence where it cannot be."""
        try:
            i_a = read_quantity(text, "A")
            build = draws_of_input_stages(self._core.build, i_a)
        except QuantityError as error:
            return f"{str(error)[0].upper()}{str(error)[1:]}."
        except pydantic.ValidationError as error:
            return f"Not kept: {invalid(error)[0].words}."
        words = f"Input stages draw {shown(i_a, 'A')} from each regulated rail."
        self.change(PlanState(build, self._core.situation), words, words)
        return ""

    def take_small_part(self, place: int | None, text: str) -> str:
        """Keep a small part as it is typed, in a place of the list or behind it; a sentence where it cannot be."""
        before = self._core.build.small_parts
        try:
            part = read_small_part(text, None if place is None else before[place])
            parts = with_small_part(before, place, part)
        except QuantityError as error:
            return f"{str(error)[0].upper()}{str(error)[1:]}."
        self._keep_small_parts(parts, part.words if place is None else f"{before[place].name} → {part.words}")
        return ""

    def restock_small_part(self, place: int, stock: Stock) -> None:
        """Another price or drawer of a small part."""
        before = self._core.build.small_parts
        part = before[place].model_copy(update={"stock": stock})
        self._keep_small_parts(with_small_part(before, place, part), f"price and drawer of {part.name}")

    def choose_small_part(self, place: int, *, fitted: bool) -> None:
        """Take an option, or leave it."""
        before = self._core.build.small_parts
        part = before[place].model_copy(update={"fitted": fitted})
        self._keep_small_parts(
            with_small_part(before, place, part), f"{part.name} {'taken' if fitted else 'not taken'}"
        )

    def drop_small_part(self, place: int) -> None:
        """Take a small part off the list."""
        parts = self._core.build.small_parts
        self._keep_small_parts((*parts[:place], *parts[place + 1 :]), f"{parts[place].name} off the list")

    def _keep_small_parts(self, parts: tuple[SmallPart, ...], what: str) -> None:
        """Keep the list; where what is soldered into the modules changes with it, they are other ones from now on."""
        self.leave_trial()
        before = self._core.build
        if parts == before.small_parts:
            return
        build = before.model_copy(update={"small_parts": parts})
        if _exchanged(parts) != _exchanged(before.small_parts):
            build = build.with_mark("module", secrets.token_hex(4))
            what = f"{what}; what was read of the modules before does not count for them"
        words = f"Small parts: {what}."
        self.change(PlanState(build, self._core.situation), words, words)

    def _with(self, slot: str, make: Callable[[], Build], words: str) -> None:
        """Keep a build made another way in ``slot`` (empty: nothing else stands there), or say why it cannot be."""
        self.leave_trial()
        try:
            build = make()
        except pydantic.ValidationError as error:
            self._core.tell.refused(f"Nothing was changed: {invalid(error)[0].words}.")
            return
        build = build.with_mark(slot, secrets.token_hex(4)) if slot else build
        self.change(PlanState(build, self._core.situation), words, words)

    def remake(self, makeup: Makeup) -> str:
        """Make the build another way; a sentence where that does not go together or another build has the name."""
        before = self._core.build
        taken = {build.build.name.lower() for build in self._core.stored_builds if build.id != self._core.current}
        if makeup.name.lower() in taken:
            return f"Found {makeup.name!r}, which this workshop has already: add a word to it."
        try:
            build = remade(before, makeup)
        except pydantic.ValidationError as error:
            reason = invalid(error)[0].words
            return f"Not kept: {reason}."
        if build == before:
            return ""
        if build.module != before.module:
            build = build.with_mark("module", secrets.token_hex(4))
        if makeup_of(build).source != makeup_of(before).source:
            build = build.with_mark("supply.source", secrets.token_hex(4))
        said = []
        if build.name != before.name:
            said.append(f"{before.name} is called {build.name} from now on.")
        if build != before.model_copy(update={"name": build.name}):
            said.append(f"Made another way: {build.module.name} on {makeup.source.name}, {', '.join(build.channels)}.")
        words = " ".join(said)
        self.change(PlanState(build, self._core.situation), words, words)
        self._core.tell.build_switched()
        return ""

    @property
    def examples(self) -> tuple[int, int]:
        """How many parts of this build are still those that a workshop is begun with, and how many it has."""
        build = self._core.build
        slots = [slot for station in stations(build) for slot in station.slots if is_there(build, slot)]
        parts = [part_in(build, slot) for slot in slots]
        return sum(is_usual(part) or is_invented(part) for part in parts), len(parts)

    def restate(self, slot: str, part: Part) -> None:
        """Change what is stated of the part in a station."""
        before = part_in(self._core.build, slot)
        changed = [
            in_sentence(field.words)
            for field in part_fields(part)
            if value_at(part, field.path) != value_at(before, field.path)
        ]
        words = f"{part.name}: {', '.join(changed)} changed."
        self._place(slot, part, words)

    def _place(self, slot: str, part: Part, words: str, mark: str = "") -> None:
        if not mark and part == part_in(self._core.build, slot):
            return
        try:
            build = with_part(self._core.build, slot, part, changed=not mark)
            build = build.with_mark(slot, mark) if mark else build
        except pydantic.ValidationError as error:
            # Parts that are sound alone may not go together; the build says why.
            reason = invalid(error)[0].words
            self._core.tell.refused(f"{part.name} was not changed: {reason}.")
            return
        self.change(PlanState(build, self._dropping_load(slot)), words, words)

    def _dropping_load(self, slot: str) -> Situation:
        """Choosing another load puts the what-if load back, or the choice would not be seen."""
        return self._core.situation.model_copy(update={"load_ohm": None}) if slot == "load" else self._core.situation

    def what_if(self, *, live: bool, **changes: object) -> None:
        """Set fields of the situation; while ``live`` it is shown but not yet a step of undo."""
        self.trying = ""
        situation = Situation.model_validate({**self._core.situation.model_dump(), **changes})
        if live:
            self._core.live = PlanState(self._core.history.state.build, situation)
            self._core.tell.plan_changed()
            self._predictions.solve(live=True)
            return
        words = ", ".join(changes).replace("_", " ")
        self.change(PlanState(self._core.history.state.build, situation), f"what if: {words}", None)

    def reset_what_if(self) -> None:
        """The situation as the build has it."""
        self.change(PlanState(self._core.build, Situation()), "what if: all back", None)

    def change(self, state: PlanState, words: str, diary_words: str | None) -> None:
        """Keep a state under ``diary_words`` (None: no line of the diary) and have it predicted: one step of undo."""
        self.trying, self._core.live = "", None
        if self._core.history.change(state, words):
            self._save(diary_words)
        self._core.tell.plan_changed()
        self._predictions.solve(live=False)

    def take_rail_loads(self, text: str) -> str:
        """What the supply alone is tried into, as it is typed; a sentence where it is no such list, else empty."""
        try:
            loads = read_rail_loads(text)
        except QuantityError as error:
            return f"{str(error)[0].upper()}{str(error)[1:]}."
        state = self._core.plan_kept
        if loads != state.build.rail_loads:
            said = ", ".join(load.words for load in loads)
            words = f"Supply alone to be tried into {said}." if said else "Supply alone to be tried without a load."
            build = state.build.model_copy(update={"rail_loads": loads})
            self.change(PlanState(build, state.situation), words, words)
        return ""

    def undo(self) -> None:
        """One step back."""
        self._step(self._core.history.undo, "Undone")

    def redo(self) -> None:
        """One step forward."""
        self._step(self._core.history.redo, "Done again")

    def _step(self, step: Callable[[], str | None], how: str) -> None:
        kept, before = self._core.history.state.build, (self._core.build.name, self._core.build.channels)
        words = step()
        if words is None:
            return
        self._core.live = None
        # Sliders alone are no line of the diary.
        self._save(f"{how}: {words}" if self._core.history.state.build != kept else None)
        self._core.tell.plan_changed()
        self._predictions.solve(live=False)
        if (self._core.build.name, self._core.build.channels) != before:
            self._core.tell.build_switched()

    @property
    def can_undo(self) -> bool:
        """Whether there is a step back."""
        return self._core.history.can_undo

    @property
    def can_redo(self) -> bool:
        """Whether there is a step forward."""
        return self._core.history.can_redo

    def _save(self, diary_words: str | None) -> None:
        state = self._core.history.state
        stored = StoredBuild(self._core.current, state.build, state.situation)
        if not self._core.attempt(lambda: self._core.workshop.save_build(stored, diary_words)):
            # What is on the screen is kept by the next word that is: nobody has to make the change again.
            self._core.unsaved = (stored, diary_words or (self._core.unsaved[1] if self._core.unsaved else None))
            return
        self._core.unsaved = None
        self._core.stored_builds = [stored if build.id == stored.id else build for build in self._core.stored_builds]
        if diary_words:
            self._records.diary_size = (self._records.diary_size[0] + 1, self._records.diary_size[1])
            self._core.tell.records_changed()


def _exchanged(parts: Sequence[SmallPart]) -> set[tuple[str, str]]:
    """What stands in the modules in the place of something else."""
    return {(part.name, part.instead_of) for part in parts if part.fitted and part.instead_of}
