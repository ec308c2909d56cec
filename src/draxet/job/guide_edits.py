"""Edits of guides and of notes of what was measured: functions from a job to a job."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from draxet.job.entries import set_on
from draxet.job.records import Job
from draxet.job.references import removed
from draxet.job.sheet_records import Guide, MeasureNote

__all__ = ["add_guide", "add_note", "half_turn", "move_guide", "remove_guides", "remove_note"]


def add_note(job: Job, kind: str, places: Sequence[tuple[float, float]], words: str) -> Job:
    """A measurement kept on the drawing."""
    note = MeasureNote(f"note-{job.next_id}", kind, tuple(places), words)
    return replace(job, notes=(*job.notes, note), next_id=job.next_id + 1)


def remove_note(job: Job, note_id: str) -> Job:
    return replace(job, notes=tuple(note for note in job.notes if note.id != note_id))


def add_guide(job: Job, x: float, y: float, angle: float) -> Job:
    """A guide through a place, at so many degrees."""
    guide = Guide(f"guide-{job.next_id}", x, y, angle)
    return replace(job, guides=(*job.guides, guide), next_id=job.next_id + 1)


def remove_guides(job: Job, ids: Iterable[str] | None = None) -> Job:
    """Guides, or all of them, are gone."""
    gone = frozenset(guide.id for guide in job.guides) if ids is None else frozenset(ids)
    return removed(job, "guides", gone)


def move_guide(job: Job, guide_id: str, x: float, y: float) -> Job:
    """A guide through another place, at the angle that it has."""
    return set_on(job, "guides", (guide_id,), x=x, y=y)


def half_turn(degrees: float) -> float:
    """An angle of a line, from -90 to 90 degrees."""
    return (degrees + 90.0) % 180.0 - 90.0
