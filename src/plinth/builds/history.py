"""Undo and redo over frozen states."""

import dataclasses
from typing import Generic, TypeVar

StateT = TypeVar("StateT")


@dataclasses.dataclass(frozen=True)
class Change(Generic[StateT]):
    """A state and the words for what led to it."""

    state: StateT
    words: str


class History(Generic[StateT]):
    """Past, present, future of a frozen state. At most ``depth`` steps are kept."""

    def __init__(self, state: StateT, depth: int = 200) -> None:
        self._past: list[Change[StateT]] = []
        self._now = Change(state, "")
        self._future: list[Change[StateT]] = []
        self._depth = depth

    @property
    def state(self) -> StateT:
        """The present state."""
        return self._now.state

    def change(self, state: StateT, words: str) -> bool:
        """Make ``state`` the present one; False (and nothing done) where it is the present one already."""
        if state == self._now.state:
            return False
        self._past = [*self._past, self._now][-self._depth :]
        self._now, self._future = Change(state, words), []
        return True

    def undo(self) -> str | None:
        """Step back; the words of what was undone, None where there is nothing."""
        if not self._past:
            return None
        undone = self._now
        self._future.append(undone)
        self._now = self._past.pop()
        return undone.words

    def redo(self) -> str | None:
        """Step forward again; the words of what was redone, None where there is nothing."""
        if not self._future:
            return None
        self._past.append(self._now)
        self._now = self._future.pop()
        return self._now.words

    @property
    def can_undo(self) -> bool:
        """Whether there is a step back."""
        return bool(self._past)

    @property
    def can_redo(self) -> bool:
        """Whether there is a step forward."""
        return bool(self._future)
