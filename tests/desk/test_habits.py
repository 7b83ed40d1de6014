"""What is usual where one is: mains and paper first offered there, whatever else is chosen later."""

import io
from collections.abc import Iterator
from pathlib import Path

import pytest
from pypdf import PdfReader
from PySide6.QtCore import QLocale

from plinth.desk.diary.paper_dialog import PaperDialog
from plinth.desk.first_start.found_dialog import FoundDialog
from plinth.desk.habits import LETTER_AT, MAINS_AT, territory, usual_mains, usual_paper
from plinth.desk.pdf import pdf_of
from plinth.desk.requirement_dialog import RequirementDialog
from plinth.desk.window import PlinthWindow
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.predict.solve import idle_rail_v, solve
from plinth.session.beginning import begin_in, first_build
from plinth.shelf.requirement import MAINS
from tests.sample_builds import linear


@pytest.fixture
def elsewhere() -> Iterator[None]:
    before = QLocale()
    yield
    QLocale.setDefault(before)


@pytest.mark.usefixtures("elsewhere")
@pytest.mark.parametrize(
    ("place", "volts", "paper"),
    [("en_US", 120.0, "letter"), ("de_DE", 230.0, "A4"), ("fr_CA", 120.0, "letter"), ("ja_JP", 100.0, "A4"),
     ("en_AU", 230.0, "A4"), ("zh_TW", 120.0, "A4"), ("en_PH", 230.0, "letter"), ("C", 230.0, "A4")],
)  # fmt: skip
def test_mains_and_paper_follow_the_place(window: PlinthWindow, place: str, volts: float, paper: str) -> None:
    QLocale.setDefault(QLocale(place))
    assert usual_mains()[0] == volts
    assert usual_paper() == paper
    offered = f"{volts:g} V, "
    session = window.session
    for dialog in (RequirementDialog(window, session), FoundDialog(window, session)):
        assert dialog.mains.currentText().startswith(offered)
        # All others are there to be chosen.
        assert dialog.mains.count() == len(MAINS)
    formats = PaperDialog(window, "A build").format_choice
    assert formats.itemText(0).startswith("HTML")
    assert ("letter" in formats.itemText(1)) == (paper == "letter")
    assert formats.count() == 3


def test_every_place_named_is_one_and_its_mains_are_offered() -> None:
    for code in (*MAINS_AT, *LETTER_AT):
        assert QLocale.codeToTerritory(code) is not QLocale.Country.AnyTerritory, code
    assert set(MAINS_AT.values()) <= set(MAINS)
    assert isinstance(territory(), str)


@pytest.mark.parametrize("paper", ["A4", "letter"])
def test_a_page_is_of_the_paper_that_is_usual(paper: str) -> None:
    size = PdfReader(io.BytesIO(pdf_of("<p>One line.</p>", paper=paper))).pages[0].mediabox  # type: ignore[arg-type]
    width, height = (595.0, 842.0) if paper == "A4" else (612.0, 792.0)
    assert float(size.width) == pytest.approx(width, abs=1.5)
    assert float(size.height) == pytest.approx(height, abs=1.5)


@pytest.mark.parametrize(("mains_v", "wall_v"), [(230.0, 230.0), (240.0, 230.0), (120.0, 120.0), (100.0, 120.0)])
def test_the_first_build_runs_from_the_wall_there(tmp_path: Path, mains_v: float, wall_v: float) -> None:
    build = first_build(mains_v)
    assert build.mains is not None
    assert build.mains.v_nominal_rms == wall_v
    assert linear(build).transformer.v_primary_rms == wall_v
    # The same rails; on half the volts twice the current, and so twice the fuse.
    assert idle_rail_v(build) == pytest.approx(idle_rail_v(first_build()), rel=0.02)
    assert build.entry.fuse_a_rms == pytest.approx(1.25 * 230.0 / wall_v, rel=0.1)
    assert not [margin.label for margin in judge(solve(build)) if margin.state is State.OVER]
    workshop = begin_in(tmp_path, mains_v)
    assert workshop.builds()[0].build == build
    workshop.close()
