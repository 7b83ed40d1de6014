"""Power into each dummy load at clip: predicted band, listing's claim, reading."""

from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from plinth.bench.clip_cell import clip_subject, conditions_of
from plinth.desk.labels import column, label
from plinth.desk.ruler import LimitRuler, RulerContent, scale_for
from plinth.desk.session import BenchSession
from plinth.judge.claims import bias_claim, claim_for, power_claim, sensitivity_claim
from plinth.judge.state import State
from plinth.physics.stages.levels import peak_from_rms, rms_for_power
from plinth.predict.figure import Figure, Origin
from plinth.units.shown import shown, shown_with_spread


class LoadPowers(QWidget):
    """A row for each dummy load of the build."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(2)
        self._grid.setColumnStretch(1, 1)
        self.claim = label("", "claim", wrap=True)
        self.title = label("", "title")
        box = column(self.title, spacing=4)
        box.addLayout(self._grid)
        box.addWidget(self.claim)
        self.setLayout(box)
        self.rows: list[tuple[QLabel, LimitRuler, QLabel]] = []
        session.predicted.connect(self.refresh)
        session.loads_predicted.connect(self.refresh)
        session.records_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the powers of the last full prediction."""
        session = self._session
        self.title.setText(f"Power into each load, at clip, {shown(session.situation.frequency_hz, 'Hz', 2)}")
        loads = [load for load in session.build.loads if load.identity in session.predictions.load_powers]
        while len(self.rows) < len(loads):
            row = label(""), LimitRuler(), label("", "pred")
            for column_index, widget in enumerate(row):
                self._grid.addWidget(widget, len(self.rows), column_index)
            self.rows.append(row)
        maximum = max(
            [f.high for f in session.predictions.load_powers.values()]
            + [c.power_w for c in session.build.module.claims]
            + [1]
        )
        sentences = []
        for index, (name, ruler, value) in enumerate(self.rows):
            for widget in (name, ruler, value):
                widget.setVisible(index < len(loads))
            if index >= len(loads):
                continue
            load = loads[index]
            figure = session.predictions.load_powers[load.identity]
            claim = claim_for(session.build.module, load.r_ohm)
            subject = clip_subject(session.build, session.build.channels[0], session.situation.channels_driven, load)
            now = (
                None if session.predictions.prediction is None else conditions_of(session.predictions.prediction, load)
            )
            read = None if now is None else session.records.reading(subject, now)
            if read is not None and read.bound.one_sided:
                read = None
            sentence = shown_with_spread(figure.value, figure.spread, "W")
            if claim is not None:
                verdict = power_claim(
                    claim, figure, _peak(figure, load.r_ohm), session.predictions.claimed_powers.get(load.identity)
                )
                sentence = verdict.sentence
                if verdict.state is State.OVER:
                    sentences.append(verdict.sentence)
            name.setText(f"{load.r_ohm:g} Ω")
            value.setText(shown_with_spread(figure.value, figure.spread, "W"))
            ruler.setAccessibleName(f"Power into {load.r_ohm:g} ohm")
            ruler.show_content(
                RulerContent(
                    scale=scale_for(0.0, maximum),
                    state=State.CLEAR,
                    sentence=sentence,
                    band=(figure.low, figure.high),
                    estimated=bool(figure.estimated),
                    claim=claim.power_w if claim else None,
                    reading=read.value if read else None,
                    reading_spread=2.0 * (read.u or 0.0) if read else 0.0,
                )
            )
        prediction = session.predictions.prediction
        drive = None if prediction is None else sensitivity_claim(session.build.module, prediction["drive_v_rms"])
        sentences += [words for words in (drive, bias_claim(session.build.module)) if words]
        self.claim.setText("\n".join(sentences))
        self.claim.setVisible(bool(sentences))


def _peak(power: Figure, r_ohm: float) -> Figure:
    """The peak voltage behind a power, with its uncertainty (half the relative one of the power)."""
    v_peak = peak_from_rms(rms_for_power(power.value, r_ohm))
    origin = Origin("√(2 P R)", "sine in a resistor")
    return Figure("clip_v_peak", "clip onset, peak", v_peak, "V", 0.5 * v_peak * power.u / power.value, origin)
