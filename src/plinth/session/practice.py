"""The practice workshop beside a real one: the same build, where what is simulated counts, and nothing real does."""

from pathlib import Path

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.workshop.store import Workshop, create_workshop, open_workshop

MOST_TRIED = 50


def practice_beside(path: Path, build: Build, situation: Situation) -> tuple[Workshop, int]:
    """The practice workshop beside ``path`` with ``build`` in it, as it is now, and that build's id there.

    It is opened where there is one, else begun. Raises a WorkshopError where it can be neither, an OSError.
    """
    for number in range(1, MOST_TRIED):
        beside = path.with_name(f"{path.stem} practice{'' if number == 1 else f' {number}'}.plinth")
        if not beside.exists():
            return _begun(beside, build, situation)
        workshop = open_workshop(beside)
        if (workshop.setting("workshop") or {}).get("practice"):
            return workshop, _with(workshop, build, situation)
        # Somebody's own, that is only called so.
        workshop.close()
    raise FileExistsError(f"found {MOST_TRIED} workshops called {path.stem} practice, expected room for one")


def _begun(path: Path, build: Build, situation: Situation) -> tuple[Workshop, int]:
    made: list[int] = []

    def fill(workshop: Workshop) -> None:
        from plinth.shelf.usual_series import usual_series

        workshop.add_items(list(usual_series()))
        workshop.set_setting("workshop", {"practice": True})
        made.append(workshop.add_build(build, situation, f"{build.name}: taken over for practice.").id)

    return create_workshop(path, fill), made[0]


def _with(workshop: Workshop, build: Build, situation: Situation) -> int:
    """The id of that build there; taken over once more where it has changed since."""
    try:
        kept = workshop.builds()
        for stored in kept:
            if stored.build == build.model_copy(update={"name": stored.build.name}):
                return stored.id
        names = {stored.build.name for stored in kept}
        name, number = build.name, 1
        while name in names:
            number += 1
            name = f"{build.name}, {number}"
        own = build.model_copy(update={"name": name})
        return workshop.add_build(own, situation, f"{name}: taken over for practice.").id
    except BaseException:
        workshop.close()
        raise
