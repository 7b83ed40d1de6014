"""A search over the diaries of all builds: its index grows a part at a time, so that nobody waits for it."""

from plinth.report.diary_index import DiaryHit, DiaryIndex
from plinth.session.core import Core
from plinth.session.records import Records
from plinth.workshop.errors import WorkshopError

# So many lines are read and taken in within some hundredths of a second.
LINES_AT_A_TIME = 400


class DiarySearch:
    """``grow`` until it says that nothing is left; then ``find``. What is kept meanwhile is taken in by the next."""

    def __init__(self, core: Core, records: Records) -> None:
        self._core, self._records = core, records
        self._index: DiaryIndex | None = None
        self._taken: dict[int, tuple[int, object]] = {}

    def grow(self) -> bool:
        """Take in some lines more; whether there may be others. Raises WorkshopError where they cannot be read."""
        index = self._index = self._index or DiaryIndex()
        for stored in self._core.stored_builds:
            names = (stored.build.name, stored.build.channels, stored.build.loads)
            first, known = self._taken.get(stored.id, (0, names))
            if known != names:
                index.forget(stored.id)
                first = 0
            if first and stored.id == self._core.current and first == self._records.diary_size[0]:
                continue
            lines = self._core.workshop.diary_by_version(stored.id, first, LINES_AT_A_TIME)
            index.add(stored.id, stored.build, first, lines)
            self._taken[stored.id] = (first + len(lines), names)
            if len(lines) == LINES_AT_A_TIME:
                return True
        return False

    def find(self, text: str, most: int = 200) -> tuple[DiaryHit, ...]:
        """The lines that hold every word of a text, of those taken in so far, the newest first."""
        return () if self._index is None else self._index.find(text, most)

    def name_of(self, build_id: int) -> str:
        """What the build of a hit is called."""
        return next((stored.build.name for stored in self._core.stored_builds if stored.id == build_id), "")


__all__ = ["DiaryHit", "DiarySearch", "WorkshopError"]
