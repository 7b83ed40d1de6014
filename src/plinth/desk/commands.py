"""Every action as data: title, keys, what it does, whether it can be done now. Shortcuts and finder read it."""

import dataclasses
from collections.abc import Callable


def _always() -> bool:
    return True


@dataclasses.dataclass(frozen=True)
class Command:
    """``keys`` in Qt's portable text, empty for none; ``group`` says where it belongs."""

    key: str
    title: str
    group: str
    run: Callable[[], object]
    keys: str = ""
    enabled: Callable[[], bool] = _always
