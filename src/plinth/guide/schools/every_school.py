"""The schools of first power that there are: a new one is a module beside this and a line here."""

from collections.abc import Sequence

from plinth.builds.build import Build
from plinth.guide.school import School
from plinth.guide.schools import limited_supply, reforming, series_lamp, variable_transformer
from plinth.predict.reforming import cans_are_old

SCHOOLS: tuple[School, ...] = (limited_supply.SCHOOL, series_lamp.SCHOOL, variable_transformer.SCHOOL, reforming.SCHOOL)


def school_at_first(build: Build, this_year: int, schools: Sequence[School] = SCHOOLS) -> School:
    """By which school a build is brought up where nobody chose one: old cans of one taken in are brought back first.

    The first of them suits every build.
    """
    old = build.taken_in is not None and cans_are_old(build, this_year)
    slowly = [school for school in schools if old and school.reforms and not school.why_not(build)]
    return slowly[0] if slowly else schools[0]
