"""Whoever gives the readings: a script drives every kind of test by its requests alone, without a window."""

import math
from collections.abc import Iterator
from pathlib import Path

import pytest

from plinth.bench.every_sheet import SHEETS, SheetKind
from plinth.builds.instruments import Role
from plinth.guide.part_tests.part_test import MOST_PIECES
from plinth.judge.state import State
from plinth.record.giving import Giving
from plinth.record.origin import Giver, ReadingOrigin
from plinth.record.reading import Reading
from plinth.record.subject import Kind, read_subject
from plinth.session.listeners import Telling
from plinth.session.opening import begin_workshop
from plinth.session.procedure.clip_test import ClipListener, ClipProcedure
from plinth.session.procedure.piece_test import PieceListener, PieceProcedure
from plinth.session.procedure.response_test import ResponseListener, ResponseProcedure
from plinth.session.procedure.sheet_test import SheetListener, SheetProcedure
from plinth.session.procedure.taking import Procedure, Taken
from plinth.session.session import Session
from plinth.session.source import answer_all, answer_from
from tests.demo_copy import demo_copy
from tests.session.running import AtOnce
from tests.session.scripted_source import Script, expected, spoken
from tests.session.test_procedures import CHANNEL, FirstPower, nobody

MANY = 400


@pytest.fixture
def session(tmp_path: Path) -> Iterator[Session]:
    made = Session(demo_copy(tmp_path), AtOnce())
    yield made
    made.close()


def sheet_test(session: Session, kind: SheetKind) -> SheetProcedure:
    test = SheetProcedure(session, kind, SheetListener(nobody, nobody, nobody))
    test.channel.take(CHANNEL)
    test.make()
    return test


def clip_test(session: Session) -> ClipProcedure:
    test = ClipProcedure(session, ClipListener(nobody, nobody, nobody, nobody, lambda: False))
    test.show_channel(CHANNEL)
    return test


def kept_by(session: Session, origin: ReadingOrigin) -> list[Reading]:
    return [
        line.reading
        for line in session.records.diary_lines()
        if line.reading is not None and line.reading.origin == origin
    ]


def test_a_clipping_matrix_reads_itself(session: Session) -> None:
    test, source = clip_test(session), Script()
    missing = test.counts()[1] - test.counts()[0]
    assert answer_all(source, test, MANY) == missing
    assert test.counts()[0] == test.counts()[1]
    kept = kept_by(session, source.origin)
    assert len(kept) == missing
    assert all(reading.state is State.CLEAR for reading in kept)
    for request, reading in zip(source.requests, kept, strict=False):
        level, load, rest = request.setting("generator level"), request.setting("load"), request.setting("frequency")
        mains = request.setting("mains")
        assert mains is not None
        assert mains.value == request.conditions["mains_v"]
        assert level is not None
        assert load is not None
        assert rest is not None
        assert (request.unit, request.form, rest.value) == ("W", "power", 1000.0)
        # Where it begins and where it must stop lie either side of the level that clips: volts go by the gain.
        gain = session.build.module.gain * session.build.modules_per_channel
        clips_v_rms = math.sqrt(reading.value * load.value) / gain
        assert level.value < clips_v_rms
        assert level.high is not None
        assert clips_v_rms < level.high
        assert request.most is not None
        assert reading.value < request.most


def test_a_response_reads_itself(session: Session) -> None:
    test = ResponseProcedure(session, ResponseListener(nobody, nobody))
    test.channel.take(CHANNEL)
    test.look_up()
    for name in [f for f in test.frequencies if f not in test.volts()]:
        assert test.request is not None
        where = test.request.setting("frequency")
        assert where is not None
        assert where.value == test.f_hz
        # The first point is held against nothing: what it is, all others are relative to.
        text = "2.000 rms" if expected(test.request) is None else spoken(test.request, expected(test.request) or 0.0)
        assert test.take(text, Giving(ReadingOrigin(Giver.CAPTURE, "scope-1", "capture-12"))) is Taken.KEPT, name
    kept = kept_by(session, ReadingOrigin(Giver.CAPTURE, "scope-1", "capture-12"))
    assert len(kept) == len(test.frequencies) == test.counts()[0]
    assert {reading.state for reading in kept} == {State.CLEAR}


@pytest.mark.parametrize("kind", SHEETS, ids=lambda kind: kind.key)
def test_a_sheet_reads_itself_as_far_as_something_is_expected(session: Session, kind: SheetKind) -> None:
    test, source = sheet_test(session, kind), Script()
    for place, subject in enumerate([one.subject for one in test.asked]):
        test.choose(place)
        request = test.request
        assert request is not None
        assert request.subject == subject
        before = len(test.readings.get(request.key, ()))
        taken = answer_from(source, test)
        if request.window is None or expected(request) == 0.0:
            continue
        assert taken is Taken.KEPT, (request.key, taken)
        assert len(test.readings[request.key]) == before + 1
        last = test.readings[request.key][-1]
        assert last.origin == source.origin
        assert last.state is not State.OVER, request.key
        assert last.conditions == dict(request.conditions)


def test_pieces_read_themselves_kind_by_kind(session: Session) -> None:
    test, source = PieceProcedure(session, PieceListener(nobody, nobody)), Script()
    tests = test.tests
    assert tests
    for row, kind in enumerate(tests):
        test.choose_test(row)
        wanted = max(kind.pieces - test.counts()[0], 0)
        assert answer_all(source, test, wanted) == wanted
        assert test.counts()[0] >= kind.pieces == test.counts()[1]
        assert sum(one.origin == source.origin for one in test.pieces.values()) == wanted
        assert all(reading.state is not State.OVER for reading in test.pieces.values())
    for row, kind in enumerate(tests):
        test.choose_test(row)
        # Once both kinds of a pair are measured, every set is there.
        assert (test.sets is not None) == (kind.matching is not None)
    test.choose_test(len(tests) - 1)
    assert test.take("") is Taken.NOTHING
    assert test.test == tests[0], "after the last kind comes the first"
    test.piece = MOST_PIECES + 1
    assert test.request is None
    assert test.take("7 mF") is Taken.HELD
    assert "a drawer" in test.said("7 mF").words


def test_a_piece_may_be_asked_about_and_answered(session: Session) -> None:
    test = PieceProcedure(session, PieceListener(nobody, nobody))
    row = next(place for place, one in enumerate(test.tests) if (one.unit, one.bare_prefix) == ("V", "m"))
    test.choose_test(row)
    bare = "0.58"
    said = test.said(bare)
    assert said.choices == ("0.58 mV", "0.58 V")
    before = test.counts()[0]
    assert test.take(bare) is Taken.ASKED
    assert test.counts()[0] == before
    assert test.answer(bare, 1) is Taken.KEPT
    assert next(reversed(test.pieces.values())).value == pytest.approx(0.58)
    assert test.answer(bare, 7) is Taken.NOT_UNDERSTOOD
    assert test.take("soon") is Taken.NOT_UNDERSTOOD


@pytest.mark.parametrize("school", ["limited_supply", "series_lamp"])
def test_a_school_reads_itself_and_only_words_are_left_to_a_hand(tmp_path: Path, school: str) -> None:
    power, source = FirstPower(tmp_path, "Foyer", school), Script(lacks=(Role.SCOPE,))
    test, by_hand, left_out = power.test, 0, 0
    for _ in range(MANY):
        if test.counts()[0] == test.counts()[1]:
            break
        power.make_ready()
        request = test.request
        taken = answer_from(source, test)
        if request is None:
            assert taken is Taken.HELD
            by_hand += 1
            assert test.take("") is Taken.KEPT
        elif request.role is Role.SCOPE:
            # Whoever has no scope leaves it out.
            assert taken is Taken.NOTHING
            assert request.optional
            left_out += 1
            assert test.take("") is Taken.KEPT
        else:
            assert taken is Taken.KEPT, (request.key, test.said(spoken(request, expected(request) or 0.0)))
            reading = power.session.records.reading(request.subject)
            assert reading is not None
            assert reading.origin == source.origin
    assert test.counts()[0] == test.counts()[1]
    assert by_hand > 0
    assert left_out > 0
    limits = [one.setting("current limit") for one in source.requests]
    assert any(one is not None for one in limits) == (school == "limited_supply")
    power.session.close()


def test_a_source_that_cannot_read_says_nothing_and_one_in_doubt_leaves_it_asked(session: Session) -> None:
    test = clip_test(session)
    before = len(session.records.diary_lines())
    assert answer_from(Script(lacks=(Role.METER,)), test) is Taken.NOTHING
    # A tenth of what is expected: asked about, and the source does not know which it was.
    far = Script(factor=100.0)
    assert answer_from(far, test) is Taken.ASKED
    assert len(session.records.diary_lines()) == before
    assert test.cell is not None
    subject = test.cell.subject
    far.choice = 0
    assert answer_from(far, test) is Taken.KEPT
    assert session.records.reading(subject) is not None
    test.blocked = "first power of this channel comes first"
    assert answer_from(Script(), test) is Taken.HELD


def test_answering_ends_where_the_same_is_asked_again(session: Session) -> None:
    class Endless:
        """Keeps everything and asks the same again."""

        blocked, subject, given = "", "test/left/x:y", 0
        request = clip_test(session).request

        def said(self, _text: str) -> None:
            return

        def take(self, _text: str, _origin: ReadingOrigin) -> Taken:
            self.given += 1
            return Taken.KEPT

    endless = Endless()
    procedure: Procedure = endless  # type: ignore[assignment]
    assert answer_all(Script(), procedure, MANY) == 1
    assert endless.given == 1


def test_a_capture_is_named_just_where_a_value_was_drawn_from_one() -> None:
    assert ReadingOrigin(Giver.CAPTURE, capture="c1").capture == "c1"
    with pytest.raises(ValueError, match="expected a capture's name"):
        ReadingOrigin(Giver.CAPTURE)
    with pytest.raises(ValueError, match="expected a capture's name"):
        ReadingOrigin(Giver.TYPED, capture="c1")


def test_a_typed_reading_names_the_very_instrument_whatever_it_is_called_later(session: Session) -> None:
    test = sheet_test(session, next(kind for kind in SHEETS if kind.key == "gain"))
    assert test.take("0.2 rms") is not Taken.NOT_UNDERSTOOD
    meter = session.kit.of(Role.METER)
    assert meter.identity
    read = [line.reading for line in session.records.diary_lines() if line.reading is not None][-1]
    assert (read.origin.giver, read.origin.instrument_id) == (Giver.TYPED, meter.identity)
    renamed = tuple(
        one.model_copy(update={"name": "Old green"}) if one.role is Role.METER else one
        for one in session.kit.instruments
    )
    assert session.set_kit(session.kit.model_copy(update={"instruments": renamed}))
    assert test.take("0.2 rms") is not Taken.NOT_UNDERSTOOD
    again = [line.reading for line in session.records.diary_lines() if line.reading is not None][-1]
    assert again.instrument == "Old green" != read.instrument
    assert again.beside(read)


# A workshop is real or for practice


def test_simulated_readings_count_in_a_practice_workshop_and_nowhere_else(tmp_path: Path) -> None:
    simulated = ReadingOrigin(Giver.SIMULATED, "stand-in")
    for practice in (False, True):
        begin_workshop(tmp_path / f"{practice}.plinth", practice=practice).close()
        from plinth.session.opening import opened

        troubles: list[str] = []
        session = Session(opened(tmp_path / f"{practice}.plinth"), AtOnce(), Telling(trouble=troubles.append))
        assert session.practice is practice
        test = ClipProcedure(session, ClipListener(nobody, nobody, nobody, nobody, lambda: False))
        test.show_channel(session.build.channels[0])
        cell = test.cell
        assert cell is not None
        assert answer_from(Script(origin=simulated), test) is Taken.KEPT
        assert (test.kept(cell) is not None) is practice
        why = session.records.book.why_not(cell.subject, cell.conditions)
        assert why == ("" if practice else "it was simulated")
        if practice:
            second = test.cell
            assert second is not None
            assert test.take("2.0 rms") is not Taken.NOT_UNDERSTOOD
            typed = [line.reading for line in session.records.diary_lines() if line.reading is not None][-1]
            assert typed.simulated, "what is typed there was read off a stand-in"
            lines = len(session.records.diary_lines())
            assert answer_from(Script(), test) is Taken.NOT_KEPT
            assert "for practice, and the two never mix" in troubles[-1]
            assert len(session.records.diary_lines()) == lines
        kinds = {read_subject(line.subject).kind for line in session.records.diary_lines() if line.reading is not None}
        assert kinds == {Kind.CLIP}
        session.close()
