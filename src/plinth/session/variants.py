"""Variants of a build: kept beside it, compared with it and with its older versions, one adopted with its reason."""

import secrets
from collections.abc import Callable

from plinth.builds.build import Build
from plinth.builds.parts import PART_KINDS
from plinth.builds.situation import Situation
from plinth.builds.stations import part_in, stations
from plinth.session.core import Core, PlanState
from plinth.session.fixing import Going
from plinth.session.plan import Plan
from plinth.session.records import Records
from plinth.session.shelf import Shelf
from plinth.shelf.compare import Compared, compare
from plinth.workshop.kept_builds import StoredBuild
from plinth.workshop.kept_settings import VARIANTS

# Older versions that stand beside the build.
VERSIONS_SHOWN = 3
VariantSide = tuple[str, Build, Situation]


class Variants:
    """What else the current build could be, or was."""

    def __init__(self, core: Core, records: Records, plan: Plan, shelf: Shelf) -> None:
        self._core, self._records, self._plan, self._shelf = core, records, plan, shelf

    @property
    def _origins(self) -> dict[int, int]:
        """Of which build each variant is one."""
        stored = self._core.workshop.setting(VARIANTS) or {}
        ids = {build.id for build in self._core.stored_builds}
        origins = {int(text): of for text, of in stored.items() if text.isdigit() and isinstance(of, int)}
        return {number: of for number, of in origins.items() if number in ids and of in ids}

    def all(self) -> list[StoredBuild]:
        """The variants of the current build; where it is one itself, that which it is one of, and the others."""
        origins = self._origins
        of = origins.get(self._core.current, self._core.current)
        family = {of, *(number for number, its in origins.items() if its == of)} - {self._core.current}
        return [build for build in self._core.stored_builds if build.id in family]

    def keep_variant(self, name: str) -> str:
        """Keep the build as it is looked at now, with what is tried in it, as a variant; a sentence where it cannot."""
        name = name.strip()
        if not name:
            return "Found no name, expected one that you will know the variant by."
        if name.lower() in {build.build.name.lower() for build in self._core.stored_builds}:
            return f"Found {name!r}, which this workshop has already: add a word to it."
        build = self._core.build.model_copy(update={"name": name[:120]})
        for slot in (slot for station in stations(build) for slot in station.slots):
            if build.mark(slot) == f"{slot} tried":
                build = build.with_mark(slot, secrets.token_hex(4))
        words = f"{name}: a variant of {self._core.build.name}."
        made: list[StoredBuild] = []
        if not self._core.attempt(
            lambda: made.append(self._core.workshop.add_build(build, self._core.situation, words))
        ):
            return "It could not be kept: see the window."
        origins = {str(number): of for number, of in self._origins.items()}
        origins[str(made[0].id)] = self._origins.get(self._core.current, self._core.current)
        self._core.stored_builds = self._core.workshop.builds()
        if not self._core.attempt(lambda: self._core.workshop.set_setting(VARIANTS, dict(origins))):
            return "It was kept as a build, but not as a variant: see the window."
        self._core.tell.build_switched()
        return ""

    def sides(self) -> list[VariantSide]:
        """What can be compared: the current build, its variants, its last versions that differ from it."""
        kept = self._core.plan_kept
        compared: list[VariantSide] = [(kept.build.name, kept.build, kept.situation)]
        compared += [(variant.build.name, variant.build, variant.situation) for variant in self.all()]
        older = [
            version
            for version in self._records.versions()[:-1]
            if version.build is not None and version.build != kept.build
        ]
        compared += [
            (f"version {version.number}", version.build, kept.situation)
            for version in older[-VERSIONS_SHOWN:]
            if version.build
        ]
        return compared

    def comparing(self) -> Callable[[Going], Compared]:
        """The comparison of all of them, to be run off the thread."""
        sides, items = self.sides(), self._shelf.items(tuple(PART_KINDS.values()))
        return lambda task: compare(sides, items, task.progress)

    def adopt(self, side: VariantSide, reason: str) -> str:
        """Make the current build so, with the reason in its diary, as one step of undo; a sentence where it cannot."""
        name, build, _ = side
        reason = " ".join(reason.split())
        if not reason:
            return "Found no reason, expected a few words: they are what you will look for in a year."
        here = self._core.build
        adopted = build.model_copy(
            update={"name": here.name, "note": here.note, "loads": here.loads, "load": here.load, "fitted": here.fitted}
        )
        if set(build.channels) == set(here.channels):
            adopted = adopted.model_copy(update={"channels": here.channels, "channel_keys": here.channel_keys})
        if adopted == here:
            return f"{name} is as this build is already."
        for slot in (slot for station in stations(adopted) for slot in station.slots):
            if _other(here, adopted, slot):
                adopted = adopted.with_mark(slot, secrets.token_hex(4))
        words = f"{name} adopted: {reason[:400]}"
        self._plan.leave_trial()
        self._plan.change(PlanState(adopted, self._core.situation), words, words)
        return ""


def _other(before: Build, after: Build, slot: str) -> bool:
    """Whether another thing stands in a slot than before."""
    if slot not in {slot for place in stations(before) for slot in place.slots}:
        return True
    return part_in(before, slot).identity != part_in(after, slot).identity
