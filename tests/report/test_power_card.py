"""The card for the bench: every step with its window on paper, what is known filled in, boxes for the rest."""

import datetime as dt
from html.parser import HTMLParser

import pytest

from plinth.builds.build import Build
from plinth.demo import shelf
from plinth.demo.builds import FOYER, REHEARSAL_ROOM, STAGE_PAIR
from plinth.guide.judging import reading_for_step
from plinth.guide.progress import StepStand
from plinth.guide.school import School
from plinth.guide.schools.every_school import SCHOOLS
from plinth.predict.solve import idle_rail_v
from plinth.record.book import RecordBook
from plinth.record.reading import Confirmation, Override, Record
from plinth.report.power_card import card_html, card_lines

AT = dt.datetime(2026, 10, 12, 9, 0, tzinfo=dt.UTC)


def stands(school: School, build: Build, *kept: Record) -> tuple[StepStand, ...]:
    return school.stands(build, build.channels[0], idle_rail_v(build), RecordBook(kept))


class Words(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.words: list[str] = []

    def handle_data(self, data: str) -> None:
        self.words.append(data)


@pytest.mark.parametrize("school", SCHOOLS, ids=lambda school: school.key)
@pytest.mark.parametrize("build", [STAGE_PAIR, REHEARSAL_ROOM, FOYER], ids=lambda build: build.name)
def test_every_step_stands_on_it_in_order_with_its_window(school: School, build: Build) -> None:
    found = stands(school, build)
    page = Words()
    page.feed(card_html(build, build.channels[0], school, found, AT))
    text = " ".join(" ".join(page.words).split())
    at, said = 0, [""]
    for line, one in zip(card_lines(found), found, strict=True):
        place = text.find(line.title, at)
        assert place >= at, line.title
        at = place
        if one.step.window is not None:
            assert one.step.window.words() in text
        assert line.ask in ("", one.step.ask)
        assert " ".join(line.ask.split()) in text
        # What is asked again in the very same words is said the first time only, with other numbers each time.
        assert line.ask or one.step.ask in said or one.step.due_after
        said.append(line.ask)
        hints = [hint for hint in one.step.hints if hint.side]
        assert bool(line.outside) == bool(one.step.window is not None and hints), line.title
        assert all(" ".join(part.split()) in text for part in line.outside.split("> "))
    assert text.count("__________") == len(found), "nothing is read yet"
    if school.rails:
        assert "Mains kills." in text
    assert "Local electrical codes" in text


def test_what_is_known_is_filled_in() -> None:
    school = SCHOOLS[0]
    first, second, third, *_ = (one.step for one in stands(school, STAGE_PAIR))
    kept: list[Record] = [
        reading_for_step(first, "OL", shelf.BENCH, AT),
        Override(second.subject, "read with <another> meter", AT, dict(second.conditions)),
        reading_for_step(third, "0R22", shelf.BENCH, AT),
    ]
    found = stands(school, STAGE_PAIR, *kept)
    lines = card_lines(found)
    assert lines[0].filled == "> 2.00 MΩ"
    assert lines[1].filled == "passed over: read with <another> meter"
    assert lines[2].filled == "220 mΩ, outside"
    assert lines[3].filled == ""
    page = card_html(STAGE_PAIR, "left", school, found, AT)
    assert "&lt;another&gt;" in page
    word = next(one.step for one in found if one.step.request is None)
    done = stands(school, STAGE_PAIR, Confirmation(word.subject, AT, dict(word.conditions)))
    assert [one.filled for one in card_lines(done)].count("done") <= 1


@pytest.mark.parametrize("school", SCHOOLS, ids=lambda school: school.key)
def test_every_sentence_of_a_caution_is_said_once_where_it_first_matters(school: School) -> None:
    found = stands(school, STAGE_PAIR)
    said: list[str] = []
    for line, one in zip(card_lines(found), found, strict=True):
        said += line.caution.split(". ") if line.caution else []
        for sentence in one.step.caution.rstrip(".").split(". "):
            assert not sentence or sentence in [each.rstrip(".") for each in said], one.step.key
    assert len(said) == len({each.rstrip(".") for each in said})
    assert any("Mains kills" in each for each in said)
