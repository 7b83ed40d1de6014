"""A figure explained in its dialog, from whichever page; and to the test that would narrow it."""

from PySide6.QtWidgets import QWidget

from plinth.desk.asking import ask
from plinth.desk.origin import OriginDialog
from plinth.desk.session import BenchSession
from plinth.predict.prediction import Prediction


def explain_figure(parent: QWidget, session: BenchSession, prediction: Prediction | None, name: str) -> None:
    """Show where the figure of that name in a prediction (None: that of the plan) comes from; nothing without one."""
    of = prediction or session.predictions.prediction
    if of is None:
        return
    figures = dict(of.figures)
    chosen = name if name in figures else "clip_power_w"
    dialog = OriginDialog(parent, figures, chosen, session.explaining.explainer(of))
    ask(dialog)
    if dialog.test_wanted:
        session.test_wanted.emit(dialog.test_wanted)
