"""A station of the power path."""

import dataclasses


@dataclasses.dataclass(frozen=True)
class Station:
    """``key`` in code and file, ``title`` on the screen, ``slots`` the parts that stand there."""

    key: str
    title: str
    slots: tuple[str, ...]
