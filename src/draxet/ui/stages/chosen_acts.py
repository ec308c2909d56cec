"""What is done to chosen contours as a whole: copied and pasted in place, made a part, put in
front, made helper contours."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QMimeData
from PyQt6.QtWidgets import QApplication

from draxet.job import part_edits
from draxet.job.findings import count_words
from draxet.ui.shell.session import Session

__all__ = [
    "copy_chosen",
    "free_links",
    "from_helpers",
    "group",
    "part_in_hand",
    "order",
    "paste",
    "to_helpers",
    "ungroup_chosen",
    "why_no_links",
]

_KIND = "application/x-draxet-job"


def copy_chosen(session: Session) -> None:
    """The chosen contours on the clipboard, as a job of their own."""
    import tempfile

    from draxet.job.file import save_job

    chosen = session.chosen()
    job = replace(part_edits.copied_out(session.job, session.selection), name="Copied")
    with tempfile.TemporaryDirectory() as folder:
        save_job(job, Path(folder) / "copied.draxet")
        data = (Path(folder) / "copied.draxet").read_bytes()
    copied = QMimeData()
    copied.setData(_KIND, data)
    if board := QApplication.clipboard():
        board.setMimeData(copied)
    session.announced.emit(f"{count_words(len(chosen), 'contour')} copied")


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
            session.refused.emit("What is on the clipboard is damaged; copy the contours again.")
            return True
    job, new = part_edits.take_in(session.job, copied)
    session.edit("paste contours", job)
    session.select(new & session.job.contour_by_id.keys())
    session.announced.emit(f"{count_words(len(new), 'contour')} pasted in the same place")
    return True


def group(session: Session) -> None:
    """The chosen contours become one part."""
    job, group_id = part_edits.make_part(session.job, session.selection)
    session.edit("make a part", job)
    session.select(part_edits.in_part(session.job, group_id))


def part_in_hand(session: Session) -> str:
    """The outermost group of which all of the chosen contours are; empty where there is none."""
    tops = (
        {part_edits.top_part(session.job, item) for item in session.chosen()}
        if session.job.parts
        else set()
    )
    return next(iter(tops)) if len(tops) == 1 else ""


def ungroup_chosen(session: Session) -> None:
    """The part in hand is taken apart."""
    if found := part_in_hand(session):
        session.edit("take a part apart", part_edits.take_apart(session.job, found))


def why_no_links(session: Session) -> str:
    return (
        ""
        if any(item.link for item in session.chosen())
        else "none of the chosen contours follows another"
    )


def free_links(session: Session) -> None:
    """The chosen contours follow no other ones any more."""
    session.edit("make contours their own", part_edits.make_own(session.job, session.selection))


def order(session: Session, front: bool) -> None:
    """The chosen contours before all others, or behind them."""
    session.edit(
        "to the front" if front else "to the back",
        part_edits.order_contours(session.job, session.selection, front=front),
    )


def to_helpers(session: Session) -> None:
    """The chosen contours become helper contours."""
    count = len(session.selection)
    session.edit("make helper contours", part_edits.make_helpers(session.job, session.selection))
    session.announced.emit(f"{count_words(count, 'helper contour')}: caught, never cut")


def from_helpers(session: Session) -> None:
    """All helper contours are contours like others again."""
    ids = {item.id for item in session.job.helpers}
    session.edit("free the helper contours", part_edits.free_helpers(session.job))
    session.select(ids)
