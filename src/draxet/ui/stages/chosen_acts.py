"""What is done to chosen contours as a whole: copied and pasted in place, made a part, put in
front, made helper contours."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QMimeData
from PyQt6.QtWidgets import QApplication

from draxet.job import part_edits
from draxet.job.contour_records import Placement
from draxet.job.copies import copied_out, made_own, take_in, worked_as_part, worked_by_itself
from draxet.job.findings import count_words
from draxet.job.helper_edits import free_helpers, make_helpers
from draxet.job.layout import members_of, parts_round
from draxet.job.layout_names import split_name
from draxet.ui.model.session import Session

__all__ = [
    "copy_chosen",
    "followers_in_hand",
    "free_links",
    "from_helpers",
    "make_part_of_chosen",
    "part_in_hand",
    "order",
    "paste",
    "to_helpers",
    "take_chosen_apart",
    "why_no_links",
    "work_by_itself",
]

_KIND = "application/x-draxet-job"


def copy_chosen(session: Session) -> None:
    """The chosen contours on the clipboard, as a job of their own."""
    import tempfile

    from draxet.job.file import save_job

    chosen = session.selection.items
    job = replace(copied_out(session.job, session.selection.ids), name="Copied")
    with tempfile.TemporaryDirectory() as folder:
        save_job(job, Path(folder) / "copied.draxet")
        data = (Path(folder) / "copied.draxet").read_bytes()
    copied = QMimeData()
    copied.setData(_KIND, data)
    if board := QApplication.clipboard():
        board.setMimeData(copied)
    session.messages.announced.emit(f"{count_words(len(chosen), 'contour')} copied")


def paste(session: Session) -> bool:
    """Contours from the clipboard in the very place where they were copied, chosen from now on;
    whether there were any."""
    import tempfile

    from draxet.job.file import JobFileError, read_job

    board = QApplication.clipboard()
    data = board.mimeData() if board else None
    if data is None or not data.hasFormat(_KIND):
        return False
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "pasted.draxet"
        path.write_bytes(bytes(data.data(_KIND).data()))
        try:
            copied = read_job(path)
        except JobFileError:
            session.messages.refused.emit(
                "What is on the clipboard is damaged; copy the contours again."
            )
            return True
    job, new = take_in(session.job, copied)
    session.edit("paste contours", job)
    session.selection.choose(new & session.layout.contour_by_id.keys())
    session.messages.announced.emit(f"{count_words(len(new), 'contour')} pasted in the same place")
    return True


def make_part_of_chosen(session: Session) -> None:
    """The chosen contours become one part."""
    job, part = part_edits.make_part(session.job, session.selection.ids)
    session.edit("make a part", job)
    session.selection.choose(part_edits.in_part(session.job, part))


def part_in_hand(session: Session) -> str:
    """The outermost part, of several contours, to which all of the chosen ones belong; empty where
    there is none."""
    if not (session.selection.ids and session.job.parts):
        return ""
    layout = session.layout
    tops = {part_edits.top_part(layout, item) for item in session.selection.items}
    found = next(iter(tops)) if len(tops) == 1 else ""
    return found if found and len(members_of(layout, found)) > 1 else ""


def take_chosen_apart(session: Session) -> None:
    """The part in hand is taken apart."""
    if found := part_in_hand(session):
        session.edit("take a part apart", part_edits.take_apart(session.job, found))


def followers_in_hand(session: Session) -> tuple[list[Placement], list[Placement]]:
    """The placements that lay any of the chosen contours, and those that follow what is chosen
    itself."""
    job = session.job
    if not job.placements:
        return [], []
    names = {split_name(name)[0] for name in session.selection.ids}
    laid = [each for each in job.placements if each.id in names]
    parts = {item.part for item in session.selection.items if item.part in job.part_by_id}
    within = {name for part in parts for name in parts_round(job, part)}
    return laid, [each for each in job.placements if each.part in within]


def why_no_links(session: Session) -> str:
    return (
        "" if any(followers_in_hand(session)) else "nothing chosen follows another, or is followed"
    )


def free_links(session: Session) -> None:
    """The chosen contours follow no other ones any more."""
    job, names = made_own(session.job, session.selection.ids)
    now = frozenset(names.get(name, name) for name in session.selection.ids)
    session.edit("make contours their own", job)
    session.selection.choose(now & session.layout.contour_by_id.keys())


def work_by_itself(session: Session, by_itself: bool) -> None:
    """Copies in hand are worked by themselves, or again as their part is."""
    job, work = session.job, worked_by_itself if by_itself else worked_as_part
    for placement in followers_in_hand(session)[0]:
        job = work(job, placement.id)
    session.edit("work a copy by itself" if by_itself else "work a copy as its part", job)


def order(session: Session, front: bool) -> None:
    """The chosen contours before all others, or behind them."""
    session.edit(
        "to the front" if front else "to the back",
        part_edits.order_contours(session.job, session.selection.ids, front=front),
    )


def to_helpers(session: Session) -> None:
    """The chosen contours become helper contours."""
    count = len(session.selection.ids)
    session.edit("make helper contours", make_helpers(session.job, session.selection.ids))
    session.messages.announced.emit(f"{count_words(count, 'helper contour')}: caught, never cut")


def from_helpers(session: Session) -> None:
    """All helper contours are contours like others again."""
    ids = {item.id for item in session.job.helpers}
    session.edit("free the helper contours", free_helpers(session.job))
    session.selection.choose(ids)
