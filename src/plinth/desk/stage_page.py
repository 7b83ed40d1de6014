"""What every stage's page is."""

from PySide6.QtWidgets import QWidget

from plinth.desk.spoken import Spoken, question_words, sentences
from plinth.predict.prediction import Prediction
from plinth.session.procedure.taking import Procedure


class StagePage(QWidget):
    """A page that is made when it is first asked for."""

    def come_up(self) -> None:
        """It is shown from now on: take what is new, and put the focus where one goes on."""

    @property
    def under_way(self) -> Procedure | None:
        """What is asked on it now, and what a value means; None where nothing is read on it."""
        return None

    def spoken(self) -> Spoken:
        """What is asked on it and said of what is typed, for whoever hears it."""
        procedure = self.under_way
        if procedure is None:
            return Spoken()
        text = self.typed.strip()
        said = procedure.said(text) if text else None
        answer = "" if said is None else sentences(said.words, said.against, *said.choices)
        return Spoken(question_words(procedure.request, procedure.blocked), answer)

    @property
    def typed(self) -> str:
        """What stands in the field in which a reading is typed; empty where there is none."""
        return ""

    def explained(self) -> tuple[Prediction | None, str]:
        """The figure in front, and the prediction that it is of; None for that of the plan."""
        return None, "clip_power_w"

    def guide_place(self) -> str:
        """Where in the guide F1 leads from what is in front here; empty: to the page's own place."""
        return ""

    def pieces(self) -> tuple[QWidget, ...]:
        """What is dressed piece by piece; large pages are of several, so that none of them takes long."""
        return (self,)
