"""What a record is about is told in words, and abbreviations as they are written."""

import re

import pytest

from plinth.builds.build import Build
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.guide.schools.every_school import SCHOOLS
from plinth.predict.solve import idle_rail_v
from plinth.report.subject_words import subject_words


@pytest.mark.parametrize("build", [STAGE_PAIR, REHEARSAL_ROOM], ids=lambda build: build.name)
def test_no_step_is_told_by_its_key(build: Build) -> None:
    told = []
    for school in SCHOOLS:
        if not school.why_not(build):
            channel = build.channels[0]
            for step in school.steps(build, channel, idle_rail_v(build), {}):
                told.append(subject_words(step.subject, build))
    assert "Left: DC trip" in told
    assert all(": " in words and "_" not in words for words in told)
    assert not [words for words in told if re.search(r"\b(dc|ac|thd)\b", words)]
