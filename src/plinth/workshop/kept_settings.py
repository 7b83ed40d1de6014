"""Settings in the file: the instruments, and what the window remembers."""

import json
from collections.abc import Callable
from typing import Any, TypeVar

import sqlalchemy as sa
from sqlalchemy.dialects.sqlite import insert as sqlite_insert

from plinth.builds.files import BuildFileError, read_document
from plinth.builds.instruments import BenchKit, unknown_kit
from plinth.workshop import seals
from plinth.workshop.file import WorkshopFile, seal_text
from plinth.workshop.schema import (
    SettingRow,
)

# Of which build each variant is one, by their numbers.
VARIANTS = "variants"
# The key of the school by which each build is brought up, by the build's number.
SCHOOL_OF = "schools"
# The equipment to bring each build up with, as it was typed, by the build's number.
EQUIPMENT = "at_hand"
# The volts at which each build is measured into clipping besides those it runs from, by the build's number.
OWN_SOURCES = "own_sources"
# What falls due when.
REMINDERS = "reminders"
# When each dummy load was driven, and with what.
LOADS_DRIVEN = "loads_driven"
# The instruments connected to this bench, and command maps of one's own.
INSTRUMENTS = "instruments"


SettingT = TypeVar("SettingT")


def by_name(setting: dict[str, Any]) -> dict[str, str]:
    """A setting that holds a text for each of some names. Raises TypeError for one that does not."""
    if not all(isinstance(value, str) for value in setting.values()):
        raise TypeError("found something else than texts")
    return dict(setting)


def by_build(setting: dict[str, Any]) -> dict[str, tuple[float, ...]]:
    """A setting that holds numbers for each of some builds. Raises TypeError or ValueError for one that does not."""
    return {str(number): tuple(float(value) for value in each) for number, each in setting.items()}


class KeptSettings(WorkshopFile):
    """Settings by key."""

    def bench(self) -> BenchKit:
        """The instruments of this workshop; unknown accuracies until somebody states them."""
        stored = self.setting("bench")
        if stored is not None:
            try:
                return read_document(BenchKit, json.dumps(stored), "The instruments")
            except BuildFileError as error:
                self.notice(f"{error.sentences[0]}. Their accuracy counts as unknown: state it again.")
        return unknown_kit()

    def setting(self, key: str) -> dict[str, Any] | None:
        """A setting, None where it was never set or cannot be read (then it is said in ``notices``)."""
        query = sa.select(sa.type_coerce(SettingRow.value, sa.String), SettingRow.seal).where(SettingRow.key == key)
        with self.reading_from() as session:
            row = session.execute(query).one_or_none()
        if row is None:
            return None
        text, seal = row
        try:
            document = json.loads(text) if seal == seals.text_seal((text,)) else None
        except (ValueError, RecursionError):
            document = None
        if not isinstance(document, dict):
            self.notice(f"The setting {key!r} is not as it was written. It counts as not set.")
            return None
        return document

    def setting_as(self, key: str, read: Callable[[dict[str, Any]], SettingT]) -> SettingT:
        """A setting as ``read`` makes it of what is kept; of nothing where it makes no sense (said in ``notices``)."""
        try:
            return read(self.setting(key) or {})
        except (ValueError, KeyError, TypeError, AttributeError, IndexError):
            self.notice(f"The setting {key!r} makes no sense to this Plinth. It counts as not set.")
            return read({})

    def set_setting(self, key: str, value: dict[str, Any]) -> None:
        """Keep a setting."""
        with self.writing("The setting") as session:
            # Put in its place without looking at what stands there: that may be damaged.
            session.execute(
                sqlite_insert(SettingRow)
                .values(key=key, value=value, seal="")
                .on_conflict_do_update(index_elements=["key"], set_={"value": value})
            )
            seal_text(session, "settings", key)
            session.commit()
