"""The wiring of the current build: looked at wire by wire, written as SVG or PDF."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QBuffer, QMarginsF, QRectF, QSizeF, Qt
from PySide6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter
from PySide6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QScrollArea, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.wiring.view import WiringView
from plinth.report.file_out import not_written_words, proposed_name, write_whole
from plinth.wiring.drawing import Wire
from plinth.wiring.regions import REGIONS, region_for
from plinth.wiring.svg import svg_of
from plinth.wiring.wired import wiring_of


class WiringDialog(Dialog):
    """The wiring, its wires in a list, and the ways out."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle(f"Wiring: {session.build.name}")
        look.size(self, 1200, 740)
        self.view = WiringView()
        self.region = QComboBox()
        self.region.addItems([region.name for region in REGIONS])
        self.region.setAccessibleName("Colours of mains conductors as in")
        mains = session.build.mains
        self.region.setCurrentIndex(0 if mains is None else REGIONS.index(region_for(mains.v_nominal_rms)))
        self.words, self.flow = label("", "name", wrap=True), label("", wrap=True)
        self.warning = label("", "over", wrap=True)
        self.notes, self.said = label("", "small", wrap=True), label("", "small", wrap=True)
        self.svg_button, self.pdf_button = button("Save SVG …"), button("Save PDF …")
        close = button("Close  Esc")
        self.svg_button.clicked.connect(lambda: self._ask(".svg", "SVG drawing (*.svg)", self.save_svg))
        self.pdf_button.clicked.connect(lambda: self._ask(".pdf", "PDF page (*.pdf)", self.save_pdf))
        close.clicked.connect(self.reject)
        below = QScrollArea()
        below.setWidgetResizable(True)
        below.setWidget(self.notes)
        below.setFixedHeight(look.px(84))
        head = QHBoxLayout()
        head.addWidget(label("Predicted flow in every wire: arrows or a click", "soft"), 1)
        head.addWidget(label("colours as in", "soft"))
        head.addWidget(self.region)
        foot = QHBoxLayout()
        foot.addWidget(self.svg_button)
        foot.addWidget(self.pdf_button)
        foot.addWidget(self.said, 1)
        foot.addWidget(close)
        box = column(spacing=6, margins=(16, 12, 16, 12))
        box.addLayout(head)
        box.addWidget(self.view, 1)
        for widget in (self.words, self.flow, self.warning, below):
            box.addWidget(widget)
        box.addLayout(foot)
        self.setLayout(box)
        self.view.chosen.connect(self._tell)
        self.region.currentIndexChanged.connect(self.refresh)
        self.refresh()
        self.view.setFocus()

    def refresh(self, _index: int = 0) -> None:
        """Draw the current build."""
        prediction = self._session.predictions.prediction
        if prediction is None:
            self.words.setText(self._session.predictions.problem or "Nothing to draw: the build cannot run as it is.")
            return
        wiring = wiring_of(prediction.build, prediction, REGIONS[self.region.currentIndex()])
        self.notes.setText("\n".join(wiring.notes))
        self.view.show_wiring(wiring)

    def _tell(self, wire: Wire) -> None:
        colour = f" Conductor: {wire.colour}; look at your local code." if wire.colour else ""
        self.words.setText(wire.words)
        self.flow.setText(f"{wire.flow}{colour}")
        self.warning.setText(wire.warning)
        self.warning.setVisible(bool(wire.warning))

    def _ask(self, ending: str, kind: str, save: Callable[[Path], None]) -> None:
        proposed = proposed_name(f"{self._session.build.name} wiring", ending)
        name, _ = QFileDialog.getSaveFileName(self, "Wiring", proposed, kind)
        if name:
            self.save_as(Path(name), save)

    def save_as(self, path: Path, save: Callable[[Path], None]) -> None:
        """Write a file, and say how that went."""
        try:
            save(path)
        except OSError as error:
            self.said.setText(not_written_words(path, error))
        else:
            self.said.setText(f"Written: {path}.")

    def save_svg(self, path: Path) -> None:
        """Write the drawing as SVG. Raises OSError."""
        write_whole(path, svg_of(self.view.wiring))

    def save_pdf(self, path: Path) -> None:
        """Write the drawing with its notes as a PDF page. Raises OSError."""
        held = QBuffer()
        held.open(QBuffer.OpenModeFlag.WriteOnly)
        writer = QPdfWriter(held)
        writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
        writer.setPageOrientation(QPageLayout.Orientation.Landscape)
        writer.setPageMargins(QMarginsF(10, 10, 10, 10), QPageLayout.Unit.Millimeter)
        writer.setTitle(self.view.wiring.title)
        painter = QPainter(writer)
        dark = look.dark
        try:
            # Paper is light, whatever the screen is.
            look.dark = False
            self._paint_page(painter, QSizeF(writer.width(), writer.height()))
        finally:
            look.dark = dark
            painter.end()
        write_whole(path, bytes(held.data().data()))

    def _paint_page(self, painter: QPainter, size: QSizeF) -> None:
        wiring = self.view.wiring
        drawn = size.width() * wiring.height / wiring.width
        self.view.paint(painter, QRectF(0, 0, size.width(), min(drawn, 0.8 * size.height())))
        font = look.font(11)
        font.setPixelSize(int(size.width() / 105))
        painter.setFont(font)
        painter.setPen(look.token("ink"))
        top = min(drawn, 0.8 * size.height())
        text = "\n".join((wiring.title, *wiring.notes))
        room = QRectF(0, top, size.width(), size.height() - top)
        painter.drawText(room, Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop, text)
