"""The schools of first power that there are: a new one is a module beside this and a line here."""

from plinth.guide.school import School
from plinth.guide.schools import limited_supply, reforming, series_lamp, variable_transformer

SCHOOLS: tuple[School, ...] = (limited_supply.SCHOOL, series_lamp.SCHOOL, variable_transformer.SCHOOL, reforming.SCHOOL)
