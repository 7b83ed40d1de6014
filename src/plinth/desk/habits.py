"""What is usual where one is: the mains first offered, the paper that printers there hold."""

from typing import Literal

from PySide6.QtCore import QLocale

# By the ISO code of the territory, where it is not 230 V and 50 Hz (IEC 60083 and IEC's World Plugs).
MAINS_AT: dict[str, tuple[float, float]] = {
    **dict.fromkeys(("US", "CA", "MX", "PR", "GU", "BM", "BS", "BZ", "CO", "CR", "CU"), (120.0, 60.0)),
    **dict.fromkeys(("DO", "EC", "GT", "HN", "HT", "NI", "PA", "SV", "TW", "VE"), (120.0, 60.0)),
    "JP": (100.0, 50.0),
}
# Where printers hold letter paper in place of A4 (ISO 216 is used elsewhere).
LETTER_AT = frozenset({"US", "CA", "MX", "PR", "CO", "CR", "CL", "DO", "GT", "NI", "PA", "PH", "SV", "VE"})


def territory() -> str:
    """The ISO code of where one is, as the system says; empty where it does not."""
    return QLocale.territoryToCode(QLocale().territory())


def usual_mains() -> tuple[float, float]:
    """Volts and hertz of the wall there."""
    # Whoever opens a workshop needs none of it.
    from plinth.shelf.requirement import MAINS

    return MAINS_AT.get(territory(), MAINS[0])


def usual_paper() -> Literal["A4", "letter"]:
    """The paper there."""
    return "letter" if territory() in LETTER_AT else "A4"
