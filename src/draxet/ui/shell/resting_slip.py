"""The slip that lies there while no tool is in hand and there is nothing else to show."""

from __future__ import annotations

from draxet.ui.model.session import Session
from draxet.ui.model.stage import Stage
from draxet.ui.stages.slip import Slip

__all__ = ["Resting"]


class Resting(Slip):
    """A stage while none of its tools is in hand."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, session.desk.stage.words, "")
        self.refresh()

    def refresh(self) -> None:
        job = self.session.job
        self.heading.setText(self.session.desk.stage.words)
        if self.session.document.is_empty:
            here = self.session.desk.stage is Stage.GATHER
            words = (
                "Choose, drop or paste the picture to work from."
                if here
                else "Nothing to work on yet: choose a picture in Gather first."
            )
        elif not job.contours and self.session.desk.stage > Stage.TRACE:
            words = "There are no contours yet: trace the picture first."
        else:
            words = "Take a tool from the route card."
        self.about.setText(words)
