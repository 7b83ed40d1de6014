"""The points of a frequency response: what was read, in dB, and what is predicted there."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem

from plinth.bench import frequency_response as response
from plinth.builds.build import Build
from plinth.desk.look import look
from plinth.session.procedure.response_test import ResponseProcedure
from plinth.units.frequency import hertz_as_set
from plinth.units.shown import shown

ROW = 24


class PointsTable(QTableWidget):
    """One row a frequency, rising."""

    def __init__(self) -> None:
        super().__init__(len(response.FREQUENCIES_HZ), 4)
        self.setAccessibleName("Points")
        self.setHorizontalHeaderLabels(["Hz", "Read", "dB", "Pred."])
        self.verticalHeader().hide()
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.setShowGrid(False)
        self.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)

    def fit(self) -> None:
        """Rows as high as the text wants them."""
        for row in range(self.rowCount()):
            self.setRowHeight(row, look.px(ROW))

    def show_points(self, test: ResponseProcedure, build: Build) -> None:
        """All points of the current run; the current one is marked."""
        volts, frequencies = test.volts(), test.frequencies
        db = {point.f_hz: point.db for point in test.measured().points}
        self.blockSignals(True)
        if self.rowCount() != len(frequencies):
            self.setRowCount(len(frequencies))
            self.fit()
        for row, f_hz in enumerate(frequencies):
            low, high = response.predicted_band_db(build, f_hz)
            cells = (
                hertz_as_set(f_hz).removesuffix("Hz"),
                shown(volts[f_hz], "V") if f_hz in volts else "–",
                response.decibel_words(db[f_hz]) if f_hz in db else "–",
                response.decibel_words(response.predicted_db(build, f_hz)),
            )
            for place, text in enumerate(cells):
                item = QTableWidgetItem(text)
                item.setToolTip(f"Predicted {response.decibel_words(low)} to {response.decibel_words(high)} dB")
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.setItem(row, place, item)
        self.setCurrentCell(frequencies.index(test.f_hz), 0)
        self.blockSignals(False)
