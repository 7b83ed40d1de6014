"""From one version of a build to the next: what was changed, and whether what each did can be told apart."""

import dataclasses
from collections.abc import Sequence

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.record.diary import DiaryEntry
from plinth.shelf.compare import stated_differences


@dataclasses.dataclass(frozen=True)
class Changes:
    """``changed`` what differs (thing, before, after); ``why`` the diary's words on it, oldest first."""

    changed: tuple[tuple[str, str, str], ...]
    why: tuple[str, ...]

    @property
    def sentence(self) -> str:
        """What was changed, and what follows for telling apart what each did."""
        if not self.changed:
            return "Nothing was changed between them: what differs is the reading."
        listed = "; ".join(f"{thing} {before} → {after}" for thing, before, after in self.changed[:_SHOWN])
        more = f", and {len(self.changed) - _SHOWN} more" if len(self.changed) > _SHOWN else ""
        things = {thing.partition(":")[0] for thing, _, _ in self.changed}
        told = (
            "One thing was changed: what differs is its doing."
            if len(things) == 1
            else f"{len(things)} things were changed at once: what each did cannot be told apart."
        )
        return f"{listed[:1].upper()}{listed[1:]}{more}. {told}"

    @property
    def reasons(self) -> str:
        """What the diary says of why, the last of it where it says much; empty where it says nothing."""
        if not self.why:
            return ""
        shown = "; ".join(words[:_LONGEST] for words in self.why[-_SHOWN:])
        earlier = f" ({len(self.why) - _SHOWN} before that)" if len(self.why) > _SHOWN else ""
        return f"The diary on it: {shown}{earlier}."


_SHOWN = 4
# Of one line so much is quoted.
_LONGEST = 160


def changes_between(
    first: tuple[Build, Situation], second: tuple[Build, Situation], diary: Sequence[DiaryEntry] = ()
) -> Changes:
    """What differs between two versions; ``diary`` the lines between them, of which those that changed are told."""
    changed = stated_differences(first[0], second[0])
    words = tuple(entry.words for entry in diary if entry.kind == "changed" and entry.words)
    return Changes(changed, words)
