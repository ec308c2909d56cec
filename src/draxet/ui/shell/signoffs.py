"""Sign-offs: for each stage what is still missing, or that it is done."""

from __future__ import annotations

from dataclasses import dataclass

from draxet.job.records import Job
from draxet.prove.checks import checks_of, open_ends
from draxet.ui.shell.session import Stage

__all__ = ["SignOff", "sign_offs"]


@dataclass(frozen=True)
class SignOff:
    """`done`, and `words` for what is missing (empty where nothing was begun that could miss something)."""

    done: bool
    words: str = ""


def sign_offs(job: Job) -> dict[Stage, SignOff]:
    """The route card's sign-offs for a job."""
    sized = bool(job.pictures) and all(picture.known_lengths for picture in job.pictures)
    ends = len(open_ends(job))
    left = sum(item.id not in job.operation_of for item in job.contours)
    checks = len(checks_of(job))
    made = bool(job.operations) and not left
    handed = job.handed_off is not None and job.handed_off.work == job.work_digest
    return {
        Stage.GATHER: SignOff(bool(job.pictures), "no picture"),
        Stage.TRUE_UP: SignOff(sized, "size not known yet" if job.pictures else ""),
        Stage.TRACE: SignOff(bool(job.contours), "no contours" if job.pictures else ""),
        Stage.MEND: SignOff(bool(job.contours) and not ends, f"{ends} open ends" if ends else ""),
        Stage.MAKE: SignOff(made, (f"{left} without a cut" if job.operations else "no operation") if job.contours else ""),
        Stage.PROVE: SignOff(handed, ("changed since" if job.handed_off else f"{checks} to look at" if checks else "not handed off") if job.contours else ""),
    }
