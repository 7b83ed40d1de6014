"""The wiring in the running window: every build of the demo, wire by wire, written out."""

from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.desk.wiring.dialog import WiringDialog
from plinth.wiring.regions import REGIONS


def opened(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> WiringDialog:
    dialog = WiringDialog(window, session)
    qtbot.addWidget(dialog)
    dialog.show()
    return dialog


def test_every_build_is_drawn(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    for one in session.builds:
        session.switch(one.id)
        dialog = opened(window, session, qtbot)
        assert one.build.name in dialog.view.wiring.title
        assert dialog.words.text() == dialog.view.wiring.wires[0].words
        assert not dialog.grab().isNull()
        dialog.reject()


def test_arrows_and_clicks_go_from_wire_to_wire(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    dialog = opened(window, session, qtbot)
    view = dialog.view
    qtbot.keyClick(view, Qt.Key.Key_Right)
    assert view.current == 1
    assert dialog.words.text() == view.wiring.wires[1].words
    for _ in range(2):
        qtbot.keyClick(view, Qt.Key.Key_Left)
    assert view.current == len(view.wiring.wires) - 1
    fuse = next(k for k, one in enumerate(view.wiring.wires) if one.key == "live to switch")
    (x0, y0), (x1, y1) = view.wiring.wires[fuse].points[:2]
    scale = min(view.width() / view.wiring.width, view.height() / view.wiring.height)
    left = (view.width() - scale * view.wiring.width) / 2.0
    qtbot.mouseClick(
        view,
        Qt.MouseButton.LeftButton,
        pos=QPoint(round(left + scale * (x0 + x1) / 2.0), round(scale * (y0 + y1) / 2.0)),
    )
    assert view.current == fuse
    assert "brown" in dialog.flow.text()
    dialog.region.setCurrentText(REGIONS[1].name)
    assert view.current == fuse
    assert "black" in dialog.flow.text()


def test_it_is_written_or_says_why_not(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, tmp_path: Path
) -> None:
    dialog = opened(window, session, qtbot)
    for name, save, begins in (("w.svg", dialog.save_svg, b"<svg"), ("w.pdf", dialog.save_pdf, b"%PDF")):
        dialog.save_as(tmp_path / name, save)
        assert (tmp_path / name).read_bytes().startswith(begins)
        assert name in dialog.said.text()
        dialog.save_as(tmp_path / "no such folder" / name, save)
        assert "could not be written" in dialog.said.text()
