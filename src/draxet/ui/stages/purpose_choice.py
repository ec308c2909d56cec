"""What the job is for, asked in one place and changed in any."""

from __future__ import annotations

from draxet.job.records import Job
from draxet.job.sheet_edits import set_setup
from draxet.ui.controls.fields import Choice
from draxet.ui.model.session import Session

__all__ = ["PurposeChoice", "set_purpose"]

_FOR = (
    ("work", "to be made", "a machine or a hand works it: its programs leave, and all that could go wrong is looked at"),
    ("drawing", "a drawing", "a plan or outlines, to scale: all that is drawn leaves, and needs no operation"),
    ("picture", "a picture", "a logo or other art: all that is drawn leaves in its colours, at any size"),
)  # fmt: skip


class PurposeChoice(Choice):
    """What the job is for."""

    def __init__(self, session: Session) -> None:
        super().__init__([(key, words) for key, words, _ in _FOR], "What the job is for")
        for key, _, tip in _FOR:
            self.button(key).setToolTip(tip)
        self.chosen.connect(lambda key: set_purpose(session, key))

    def show_job(self, job: Job) -> None:
        """Show what a job is for; what is worked is for work, whether anybody said so or not."""
        self.set_value(job.purpose or ("work" if job.operations else ""))


def set_purpose(session: Session, key: str) -> None:
    """Say what the job is for."""
    session.edit("say what the job is for", set_setup(session.job, purpose=key))
