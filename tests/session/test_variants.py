"""Variants without a window: kept, compared, one adopted; older versions beside them; all of it after a reopening."""

import dataclasses
from collections.abc import Iterator
from pathlib import Path

import pytest

from plinth.builds.situation import Situation
from plinth.builds.stations import part_in
from plinth.demo import shelf
from plinth.demo.builds import MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR
from plinth.physics.numbers.errors import PhysicsError
from plinth.session.session import Session
from plinth.shelf.compare import compare
from plinth.workshop.kept_settings import VARIANTS
from plinth.workshop.store import open_workshop
from tests.demo_copy import demo_copy
from tests.session.running import AtOnce


@pytest.fixture
def session(tmp_path: Path) -> Iterator[Session]:
    made = Session(demo_copy(tmp_path), AtOnce())
    # The demo's own variant stands aside.
    made.workshop.set_setting(VARIANTS, {})
    yield made
    made.close()


@dataclasses.dataclass
class Told:
    """A job that is always to go on."""

    shares: list[float] = dataclasses.field(default_factory=list)

    def progress(self, share: float) -> bool:
        self.shares.append(share)
        return True


def test_a_variant_is_kept_compared_and_adopted(session: Session) -> None:
    here = session.build
    session.plan.try_part("supply.transformer", shelf.RING_330)
    assert session.variants.keep_variant("With more iron") == ""
    session.plan.leave_trial()
    assert session.build == here
    assert [one.build.name for one in session.variants.all()] == ["With more iron"]
    told = Told()
    found = session.variants.comparing()(told)
    assert told.shares[-1] == 1.0
    assert found.names[:2] == (here.name, "With more iron")
    differing = {row.words: row.values[:2] for row in found.differences}
    assert differing["transformer"] == ("Ring 225, 2 × 25 V, 225 VA", "Ring 330, 2 × 28 V, 330 VA")
    assert differing["transformer: rating"] == ("225 VA", "330 VA")
    assert "reservoir" not in differing
    # What differs stands first.
    flags = [row.differs for row in found.rows]
    assert flags == sorted(flags, reverse=True)
    lines = session.records.diary_size[0]
    side = session.variants.sides()[1]
    assert "reason" in session.variants.adopt(side, "  ")
    assert session.variants.adopt(side, "the fuse allows it") == ""
    assert part_in(session.build, "supply.transformer") == shelf.RING_330
    assert session.build.name == here.name
    assert session.records.diary_size[0] == lines + 1
    assert "With more iron adopted: the fuse allows it" in session.records.diary_lines()[-1].words
    # Another thing stands there now: readings of the one before do not count for it.
    assert session.build.mark("supply.transformer") != here.mark("supply.transformer")
    assert session.build.mark("module") == here.mark("module")
    assert "already" in session.variants.adopt(session.variants.sides()[1], "again")
    session.plan.undo()
    assert session.build == here


def test_a_variant_needs_a_name_of_its_own(session: Session) -> None:
    assert "no name" in session.variants.keep_variant(" ")
    assert "already" in session.variants.keep_variant(session.build.name.upper())
    assert session.variants.all() == []


def test_variants_of_variants_are_of_one_family_after_a_reopening(session: Session, tmp_path: Path) -> None:
    first = session.build.name
    assert session.variants.keep_variant("One") == ""
    session.switch(session.variants.all()[0].id)
    assert [one.build.name for one in session.variants.all()] == [first]
    assert session.variants.keep_variant("Two") == ""
    path = session.workshop.path
    session.close()
    again = Session(open_workshop(path), AtOnce())
    family = {one.build.name for one in again.variants.all()} | {again.build.name}
    assert family == {first, "One", "Two"}
    others = next(one for one in again.builds if one.build.name not in family)
    again.switch(others.id)
    assert again.variants.all() == []
    again.close()


def test_older_versions_stand_beside_it(session: Session) -> None:
    session.plan.swap("supply.transformer", shelf.RING_330)
    names = [name for name, _, _ in session.variants.sides()]
    assert any(name.startswith("version") for name in names[1:])
    older = next(side for side in session.variants.sides() if side[0].startswith("version"))
    assert session.variants.adopt(older, "back to what was measured") == ""
    assert part_in(session.build, "supply.transformer").name == "Ring 225"


def test_builds_of_any_two_kinds_are_compared() -> None:
    sides = [(one.name, one, Situation()) for one in (STAGE_PAIR, MARKET_BOX, REHEARSAL_ROOM)]
    found = compare(sides, [], lambda _: True)
    by_words = {row.words: row.values for row in found.rows}
    assert by_words["switcher"][0] == "–"
    assert by_words["transformer"][1] == "–"
    assert all(len(row.values) == 3 for row in found.rows)
    with pytest.raises(PhysicsError, match="stopped"):
        compare(sides, [], lambda _: False)
