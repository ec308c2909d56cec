"""Sign-offs: for each stage what is still missing, or that it is done. Nothing is signed off beside
a finding that stops."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.layout_counts import count_where, unworked
from draxet.job.records import Job
from draxet.record import record
from draxet.ui.model.stage import Stage

__all__ = ["SignOff", "sign_offs"]


@record(frozen=True)
class SignOff:
    """`done`, and `words` for what is missing (empty where nothing was begun that could miss
    something)."""

    done: bool
    words: str = ""


def sign_offs(job: Job, findings: Sequence[Finding]) -> dict[Stage, SignOff]:
    """The route card's sign-offs for a job and its findings. A drawing that came in as contours
    needs no picture, no truing and no tracing."""
    stops = [finding for finding in findings if finding.gravity is Gravity.STOPS]
    signs = {
        Stage.GATHER: _gather(job, findings),
        Stage.TRUE_UP: _trueup(job),
        Stage.TRACE: SignOff(bool(job.contours), "no contours" if job.pictures else ""),
        Stage.MEND: _mend(job),
        Stage.MAKE: _make(job),
        Stage.PROVE: _prove(job, len(findings), len(stops)),
    }
    for finding in stops:
        stage = Stage[{"trueup": "TRUE_UP"}.get(finding.stage, finding.stage.upper())]
        if signs[stage].done:
            signs[stage] = SignOff(
                False, count_words(sum(each.stage == finding.stage for each in stops), "fault")
            )
    return signs


def _gather(job: Job, findings: Sequence[Finding]) -> SignOff:
    if any(finding.stage == "gather" for finding in findings):
        return SignOff(False, "beyond the reach")
    return SignOff(bool(job.pictures or job.contours), "no picture")


def _trueup(job: Job) -> SignOff:
    if not job.pictures:
        return SignOff(bool(job.contours))
    traced = {item.picture for item in job.contours}
    wanted = [picture for picture in job.pictures if picture.id in traced] or list(job.pictures)
    sized = job.purpose == "picture" or all(picture.is_sized for picture in wanted)
    return SignOff(sized, "size not known yet")


def _mend(job: Job) -> SignOff:
    opened = {item.id for item in job.opened}
    ends = 2 * count_where(job, lambda item: item.id in opened) if opened else 0
    return SignOff(bool(job.contours) and not ends, f"{ends} open ends" if ends else "")


def _make(job: Job) -> SignOff:
    if not job.is_worked:
        return SignOff(bool(job.contours))
    if any(placement.by_itself for placement in job.placements):
        job = job.layout
    left = unworked(job)
    return SignOff(
        bool(job.operations) and not left,
        (f"{left} without operation" if job.operations else "no operation") if job.contours else "",
    )


def _prove(job: Job, findings: int, stops: int) -> SignOff:
    sheets = job.sheets_that_leave
    left = [sheet for sheet in sheets if not job.is_handed_off(sheet)]
    if sheets and not left and not stops:
        return SignOff(True)
    if not job.contours:
        return SignOff(False)
    before = {each.sheet for each in job.handed_off}
    if left and all(sheet.id in before for sheet in left):
        words = "changed since"
    elif findings:
        words = f"{findings} to look at"
    elif sheets and len(left) < len(sheets):
        words = f"{len(left)} of {len(sheets)} sheets left"
    else:
        words = "not handed off"
    return SignOff(False, words)
