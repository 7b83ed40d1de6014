"""The guide that comes with Plinth: complete, its links lead somewhere, what code knows best is as code has it."""

import re

import pytest
from scripts import guide, guide_pictures

from plinth.bench.every_sheet import SHEETS
from plinth.builds.situation import Situation
from plinth.guide.faults import FAULTS
from plinth.judge.rules import judge
from plinth.manual.pages import topic_html, whole_html
from plinth.manual.sections import TOPICS, anchor_of, found, section_at, sections, sections_of, topic_text
from plinth.predict.catalogue import CATALOGUE
from plinth.predict.solve import solve
from tests.family import DEMO, FAMILY, FEW
from tests.turns import in_turn

LINK = re.compile(r"(?<!!)\[[^\]]*\]\(([^)]+)\)")
PICTURE = re.compile(r"!\[([^\]]+)\]\(([^)]+)\)\n\n\*([^*]+)\*")
NUMBER = re.compile(r"-?\d+(?:\.\d+)?")


def test_every_place_is_one_of_its_own_and_says_something() -> None:
    places = [section.place for section in sections()]
    assert len(set(places)) == len(places)
    assert {section.topic for section in sections()} == set(TOPICS)
    assert all(section.text or section.level == 1 for section in sections())
    assert all(section_at(section.place) == section for section in sections())


@pytest.mark.parametrize("topic", TOPICS)
def test_every_link_leads_to_a_place(topic: str) -> None:
    for link in LINK.findall(topic_text(topic)):
        target = link.replace(".md", "")
        section = section_at(target)
        assert section is not None, link
        assert section.place == target, link
    html = topic_html(topic)
    assert ".md" not in html.replace("docs/INSTRUMENTS.md", "")
    assert html.count("<h1>") == 1


def test_all_figures_faults_and_tests_have_their_place() -> None:
    for name in CATALOGUE:
        section = section_at(f"figures#{name}")
        assert section is not None
        assert section.anchor == name, name
    for fault in FAULTS:
        section = section_at(f"faults#{fault.key.replace(' ', '-')}")
        assert section is not None
        assert section.anchor == fault.key.replace(" ", "-"), fault.key
    titles = {section.title for section in sections() if section.topic == "measure"}
    assert {kind.name for kind in SHEETS} | {"Clipping power", "Response"} <= titles


@pytest.mark.parametrize("name", in_turn([*DEMO, *FEW], 3))
def test_every_limit_of_a_build_has_its_place(name: str) -> None:
    build = {**DEMO, **FAMILY}[name]
    for margin in judge(solve(build, Situation())):
        anchor = margin.key.replace(" ", "-")
        section = section_at(f"limits#{anchor}")
        assert section is not None
        assert section.anchor == anchor, margin.key


def test_what_code_knows_best_is_as_code_has_it() -> None:
    """Written anew by ``make guide``."""
    assert topic_text("figures") == guide.figures()
    assert topic_text("faults") == guide.faults()


def test_pictures_are_as_the_demo_and_the_code_that_draws_it_have_them() -> None:
    """Written anew by ``make guide``."""
    made = guide_pictures.pictures()
    shipped = {path.stem: path.read_text(encoding="utf-8") for path in guide_pictures.FOLDER.glob("*.svg")}
    assert set(made) == set(shipped)
    for name, svg in made.items():
        # Other processors round the last digit otherwise.
        assert NUMBER.sub("#", svg) == NUMBER.sub("#", shipped[name]), name
        numbers = [[float(number) for number in NUMBER.findall(text)] for text in (svg, shipped[name])]
        assert numbers[0] == pytest.approx(numbers[1], abs=0.21), name


def test_every_picture_has_its_place_and_its_words() -> None:
    placed = [match for topic in TOPICS for match in PICTURE.findall(topic_text(topic))]
    assert {path for _, path, _ in placed} == {f"pictures/{name}.svg" for name in guide_pictures.PICTURES}
    assert all(words == caption for words, _, caption in placed)
    assert sum(topic_text(topic).count("![") for topic in TOPICS) == len(placed)
    html = whole_html()
    # The page needs no other file.
    assert html.count("<svg") == len(placed)
    assert "<img" not in html


@pytest.mark.slow
def test_limits_are_those_of_all_builds() -> None:
    assert topic_text("limits") == guide.limits(guide.every_margin())


def test_words_find_their_sections_titles_first() -> None:
    assert found("") == sections()
    stored = found("stored charge")
    assert stored[0].place == "safety#stored-charge"
    assert all("stored" in f"{each.title} {each.text}".lower() for each in stored)
    assert found("RE-FORMING")[0].place == "power-up#re-forming"
    assert found("nothing of the kind is in it") == ()
    assert set(found("rail ripple")) <= set(found("rail"))


def test_headings_are_found_by_their_words_or_by_what_they_name() -> None:
    text = "# A topic\n\nSome.\n\n## Two words, more\n\nText.\n\n## Clip {#clip_v_peak}\n\nMore.\n"
    top, first, second = sections_of("x", text)
    assert (top.place, top.text) == ("x", "Some.")
    assert (first.place, first.title) == ("x#two-words-more", "Two words, more")
    assert (second.place, second.title, second.text) == ("x#clip_v_peak", "Clip", "More.")
    assert anchor_of("Stated, measured: ± 5 %") == "stated-measured-5-%"
    assert section_at("measure#no-such-heading") == section_at("measure")
    assert section_at("no such topic") is None


def test_the_whole_is_one_page_whose_links_stay_in_it() -> None:
    html = whole_html()
    names = set(re.findall(r'<a name="([^"]+)"', html))
    for target in re.findall(r'href="([^"]+)"', html):
        assert target.startswith("#"), target
        assert target[1:] in names, target
    assert html.count("<h1>") == len(TOPICS) + 1


def test_no_entry_of_the_catalogue_leaves_its_formula_to_another_one() -> None:
    for name, entry in CATALOGUE.items():
        assert entry.origin.formula, name
        assert entry.origin.source, name
        assert "above" not in f"{entry.origin.formula} {entry.origin.source}", name
    assert CATALOGUE["coil_high_v"].origin.formula == CATALOGUE["coil_v"].origin.formula
